"""The measures that exist, by name. A new one is a file in this folder and a line here."""

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
from assay.measure.entry import Measure

MEASURES: dict[str, Measure] = {
    entry.name: entry
    for entry in (
        seam.MEASURE,
        holes.MEASURE,
        line_edge_intersection.MEASURE,
        layers.MEASURE,
        lettering.MEASURE,
        outline.MEASURE,
        parallel.MEASURE,
        place.MEASURE,
        *profile.MEASURES,
        row_end.MEASURE,
        edge_distance.MEASURE,
    )
}
