"""The measures that exist, by name."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from assay.contour.trace import BAND_SIDE
from assay.contracts import MarkKind, Marks, Measurement, Picture, Point
from assay.imaging.region import MOST_PX
from assay.measure import (
    edge_distance,
    holes,
    layers,
    lettering,
    line_edge_intersection,
    outline,
    parallel,
    place,
    profile,
    row_end,
    seam,
)


@dataclass(frozen=True, slots=True)
class Measure:
    """How a measure is called, what it wants drawn, and which numbers it gives besides its value."""

    name: str
    marks: MarkKind
    measure: Callable[[Picture, Marks], Measurement]
    rebuild: Callable[[Picture, Marks, Sequence[Point]], Measurement]
    """The same reading from points that a person has put right."""
    parts: tuple[str, ...]
    """Numbers a checkpoint may judge instead of the value; an outline's are there once it is laid on others."""
    version: int
    """Of the method; counted up where readings change."""
    coarsest_mm_per_px: float
    """Size of a pixel beyond which the photograph raises a doubt; from the bench's hard pictures."""
    most_px: int = MOST_PX
    """Longest side of the straightened piece it works on, px."""

    @property
    def method(self) -> str:
        """Name and version as its readings are signed."""
        return f"{self.name}/{self.version}"


# What is read off a rim: version, coarsest pixel, longest side.
_RIM = (10, 0.4, BAND_SIDE)

MEASURES = {
    entry.name: entry
    for entry in (
        Measure("seam", MarkKind.PATH, seam.measure, seam.rebuild, seam.PARTS, 10, 0.22),
        Measure("holes", MarkKind.REGION, holes.measure, holes.rebuild, holes.PARTS, 5, 0.25),
        Measure(
            "line_edge_intersection",
            MarkKind.PATH,
            line_edge_intersection.measure,
            line_edge_intersection.rebuild,
            line_edge_intersection.PARTS,
            2,
            0.22,
        ),
        Measure("layers", MarkKind.PATH, layers.measure, layers.rebuild, layers.PARTS, 2, 0.12),
        Measure("lettering", MarkKind.REGION, lettering.measure, lettering.rebuild, lettering.PARTS, 6, 0.16),
        Measure("outline", MarkKind.REGION, outline.measure, outline.rebuild, outline.PARTS, *_RIM),
        Measure("parallel", MarkKind.PATH, parallel.measure, parallel.rebuild, parallel.PARTS, 3, 0.22),
        Measure("place", MarkKind.PATH, place.measure, place.rebuild, place.PARTS, 1, 0.25),
        Measure("profile_side", MarkKind.REGION, profile.measure_side, profile.rebuild, profile.SIDE_PARTS, *_RIM),
        Measure("profile_rear", MarkKind.REGION, profile.measure_rear, profile.rebuild, profile.REAR_PARTS, *_RIM),
        Measure("profile_top", MarkKind.REGION, profile.measure_top, profile.rebuild, profile.TOP_PARTS, *_RIM),
        Measure("row_end", MarkKind.PATH, row_end.measure, row_end.rebuild, row_end.PARTS, 5, 0.22),
        Measure(
            "edge_distance",
            MarkKind.PATH,
            edge_distance.measure,
            edge_distance.rebuild,
            ("span_mm", "lean_deg"),
            3,
            0.25,
        ),
    )
}
