"""Everything that could be measured on one photograph, with marks that its measures read."""

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from assay.contracts import MarkKind, Marks, Measurement, Picture, Point
from assay.draft.holes import holes, painted, round_spots
from assay.draft.patches import patches
from assay.draft.rows import rows
from assay.draft.scene import MM_PER_PX, Proposal, Scene
from assay.errors import CannotMeasure
from assay.measure.registry import MEASURES
from assay.stitches.refine import GOES_ON, SURE, refined_row

Measuring = Callable[[str, Marks], Measurement]
"""Reads a measure at marks on the photograph; raises CannotMeasure."""
SAME_ROW_MM = 1.8
LONGEST_STITCH_MM = 5.0
"""What repeats at longer steps is tread or print, no stitches. Common practice, no source."""
LOOSE_MM = 11.0
"""Outlines are followed inside a region so much wider than the shoe."""
SHAPES = {
    "side": (("outline", "p95_mm"), ("profile_side", "toe_ratio")),
    "top": (("outline", "p95_mm"), ("profile_top", "squareness_ratio")),
    "rear": (("outline", "p95_mm"), ("profile_rear", "hourglass_ratio")),
    "sole": (("outline", "p95_mm"),),
}
"""By what a kind of photograph shows: measures of the whole shape, and which of their numbers."""
GAP_MM = 1.6
"""So far beside a row the gap to the edge that runs along it is traced."""
GAP_LEAST_MM, GAP_MOST_MM = 0.8, 6.0
ENDS = 0.15
"""Share of a row's path left out at either end."""
RUNS_ALONG_MM = 0.4
"""An edge runs along a row where their distance scatters by no more."""
LIT = ("drawn_beyond", "")


@dataclass(frozen=True, slots=True)
class Read:
    """A proposal that its measure reads."""

    proposal: Proposal
    reading: Measurement


def propose(
    picture: Picture,
    outline: np.ndarray,
    measuring: Measuring,
    *,
    shows: str,
    ultraviolet: bool,
) -> list[Read]:
    """On a picture inside ``outline`` (N, 2) px. ``shows``: a key of ``SHAPES``, or something close.

    Nothing is proposed that its measure refuses there. Without a scale sizes are believed.
    """
    scene = Scene.of(picture.rgb, outline, picture.mm_per_px, picture.card)
    if ultraviolet:
        return list(_read(_lit(scene), measuring))
    spots = round_spots(scene)
    hidden = painted(scene, spots)
    found = list(_read(_shapes(scene, shows), measuring))
    found += _most_of_each(_read(holes(scene, spots), measuring))
    found += _rows(rows(scene, hidden), scene, measuring)
    found += _gaps([read for read in found if read.proposal.measure == "seam"], scene, measuring)
    return found + list(_read(patches(scene, hidden), measuring))


def _read(proposals: Iterator[Proposal], measuring: Measuring) -> Iterator[Read]:
    for proposal in proposals:
        try:
            reading = measuring(proposal.measure, Marks(proposal.kind, proposal.points))
        except CannotMeasure:
            continue
        if not proposal.quantity or proposal.quantity in {**reading.parts, **MEASURES[proposal.measure].numbers}:
            yield Read(proposal, reading)


def _counted(found: Iterator[Read]) -> list[Read]:
    return [read for read in found if read.reading.uncertainty < SURE]


def _most_of_each(found: Iterable[Read]) -> list[Read]:
    """Of those that are read round one group the one that holds most, however unsure: fewer is not all of it."""
    kept: list[Read] = []
    for read in sorted(found, key=lambda read: -float(read.reading.value)):
        region = np.asarray(read.proposal.points, np.float32)
        middles = (np.mean(other.proposal.points, axis=0) for other in kept)
        if all(cv2.pointPolygonTest(region, tuple(map(float, middle)), measureDist=False) < 0 for middle in middles):
            kept.append(read)
    return kept


def _shapes(scene: Scene, shows: str) -> Iterator[Proposal]:
    for measure, quantity in SHAPES.get(shows, ()):
        yield Proposal(measure, quantity, MarkKind.REGION, _loose(scene), "shape")


def _lit(scene: Scene) -> Iterator[Proposal]:
    for quantity in LIT:
        hull = cv2.convexHull(scene.outline.astype(np.float32))[:, 0]
        kept = cv2.approxPolyDP(hull, 3.0 * scene.scale, closed=True)[:, 0]
        points = tuple((float(x), float(y)) for x, y in np.round(kept, 1))
        yield Proposal("glow", quantity, MarkKind.REGION, points, "lit")


def _loose(scene: Scene) -> tuple[Point, ...]:
    """A few points round the outline, clear of it."""
    reach = round(LOOSE_MM / MM_PER_PX)
    points = (scene.outline - np.array(scene.origin)) / scene.scale + reach + 2
    canvas = np.zeros(np.ceil(points.max(0)[::-1]).astype(int) + reach + 3, np.uint8)
    cv2.fillPoly(canvas, [np.round(points).astype(np.int32)], 1)
    wider = cv2.dilate(canvas, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1)))
    contours, _ = cv2.findContours(wider, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    kept = cv2.approxPolyDP(max(contours, key=cv2.contourArea), 0.4 * LOOSE_MM / MM_PER_PX, closed=True)[:, 0]
    placed = np.array(scene.to_picture(kept - reach - 2.0))
    inside = np.clip(placed, 1.0, np.array(scene.size) - 2.0)
    return tuple((float(x), float(y)) for x, y in np.round(inside, 1))


def _rows(proposals: Iterator[Proposal], scene: Scene, measuring: Measuring) -> list[Read]:
    """Each with its path at the row's own ends; of those that share a row, the one that holds most of it. A sure count
    gives a check of the count and one of the spacing, an unsure one of the spacing alone."""
    read = []
    for proposal in proposals:
        try:
            path, reading = refined_row(
                lambda path: measuring("seam", Marks(MarkKind.PATH, tuple(path))), proposal.points
            )
        except CannotMeasure:
            continue
        if reading.parts.get("pitch_mm", 0.0) <= LONGEST_STITCH_MM:
            read.append(Read(replace(proposal, points=path), reading))
    kept: list[Read] = []
    for row in sorted(read, key=_whole, reverse=True):
        if not any(_share_a_row(row.proposal.points, other.proposal.points, scene) for other in kept):
            kept.append(row)
    spacing = (replace(row, proposal=replace(row.proposal, quantity="pitch_mm")) for row in kept)
    return _counted(iter(kept)) + [one for one in spacing if "pitch_mm" in one.reading.parts]


def _gaps(rows_read: Sequence[Read], scene: Scene, measuring: Measuring) -> list[Read]:
    """How far the edge lies that runs along each row, on the side where it does so more evenly."""
    kept, paths = [], {read.proposal.points: None for read in rows_read}
    mm = scene.scale / MM_PER_PX
    for path in paths:
        sides = (_beside(path, side * GAP_MM * mm) for side in (1.0, -1.0))
        beside = [Proposal("parallel", "mean_mm", MarkKind.PATH, side, "gap") for side in sides]
        along = [
            (scatter, read) for read in _read(iter(beside), measuring) if (scatter := _runs_along(read, mm)) is not None
        ]
        kept += [min(along, key=lambda one: one[0])[1]] if along else []
    return kept


def _runs_along(read: Read, px_per_mm: float) -> float | None:
    """By how much the two lines' distance scatters, mm; None where they do not run along each other."""
    unit = 1.0 if read.reading.unit == "mm" else 1.0 / px_per_mm
    name = "mm" if read.reading.unit == "mm" else "px"
    scatter, apart = read.reading.parts[f"scatter_{name}"] * unit, float(read.reading.value) * unit
    even = scatter <= RUNS_ALONG_MM and GAP_LEAST_MM <= apart <= GAP_MOST_MM
    return scatter if even else None


def _beside(path: Sequence[Point], off_px: float) -> tuple[Point, ...]:
    """The middle of a path, moved sideways: at a row's ends edges turn away."""
    dense = _dense(np.asarray(path, float), 1.0)
    points = dense[np.linspace(ENDS * (len(dense) - 1), (1 - ENDS) * (len(dense) - 1), 12).round().astype(int)]
    along = np.gradient(points, axis=0)
    along /= np.maximum(np.hypot(*along.T), 1e-9)[:, None]
    moved = points + off_px * np.c_[-along[:, 1], along[:, 0]]
    return tuple((float(x), float(y)) for x, y in np.round(moved, 1))


def _whole(read: Read) -> tuple[bool, float]:
    # Part of a row may be counted more surely than all of it: what goes on past its path is no whole one.
    return GOES_ON not in read.reading.doubts, float(read.reading.value)


def _share_a_row(one: Sequence[Point], other: Sequence[Point], scene: Scene) -> bool:
    """Whether half of the shorter path runs along the longer."""
    ours, theirs = (_dense(np.asarray(path, float), scene.scale) for path in (one, other))
    apart = np.hypot(*(ours[:, None] - theirs[None]).transpose(2, 0, 1)) < SAME_ROW_MM / MM_PER_PX * scene.scale
    return max(float(apart.any(1).mean()), float(apart.any(0).mean())) > 0.5


def _dense(path: np.ndarray, step: float) -> np.ndarray:
    """(M, 2) points every few pixels along a path."""
    run = np.concatenate([[0.0], np.hypot(*np.diff(path, axis=0).T).cumsum()])
    at = np.linspace(0.0, run[-1], max(2, int(run[-1] / (3 * step))))
    return np.stack([np.interp(at, run, path[:, k]) for k in (0, 1)], axis=1)
