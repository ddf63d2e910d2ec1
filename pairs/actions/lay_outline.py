"""Lay a contour that was just read on the contours of verified pairs: how far it departs, and where."""

from dataclasses import replace
from types import MappingProxyType

import numpy as np

from assay.compare.contour import ContourDeviation, register_on_each
from assay.contracts import Measurement, Stroke, StrokeKind
from assay.paperwork.size_rule import carried
from assay.paperwork.sizes import Group
from library.models import Checkpoint, Foot, View, rule_of
from pairs.known import size_of
from pairs.models import Photo
from pairs.pictures import plane
from pairs.queries import latest_readings, retail_pairs

# Departures from here on are drawn, each as a bar of the ribbon every so many mm of the contour.
DRAWN_FROM_MM = 0.4
BAR_EVERY = 6
# Zones from the toe's tip to the heel, and where they end: shares of the length, the sole's of the height.
ZONES = ("sole", "toe", "vamp", "collar", "heel")
SOLE = 0.2
TOE = 0.22
VAMP = 0.5
COLLAR = 0.8
# Standard uncertainty of a departure: two contours, each to a third of a pixel or so, mm.
TWO_RIMS_MM = 0.12


def laid_on_retail(found: Measurement, checkpoint: Checkpoint, photo: Photo) -> Measurement:
    """The reading with what its contour departs by, the median over the verified pairs that can be laid under it."""
    surface = plane(photo)
    if surface is None:
        return found
    ours = surface.to_mm(np.array(found.overlay[0].points))
    laid = register_on_each(ours, _rims(checkpoint, photo))
    if not laid:
        return found
    sizes = [abs(one.largest) for one in laid]
    typical = laid[int(np.argsort(sizes)[len(sizes) // 2])]
    off = float(np.hypot(TWO_RIMS_MM, float(np.median(sizes)) * surface.relative_uncertainty))
    parts = {
        **found.parts,
        "departure_mm": float(np.median(sizes)),
        "departure_mm_uncertainty": off,
        "p95_mm": float(np.median([one.p95 for one in laid])),
        "p95_mm_uncertainty": off,
        "outward_mm": typical.largest,
    }
    if photo.view == View.SIDE_OUT:
        parts |= zones(typical, photo.foot)
    return replace(found, parts=MappingProxyType(parts), overlay=(*found.overlay, *_ribbon(typical, surface)))


def zones(laid: ContourDeviation, foot: str) -> dict[str, float]:
    """Largest and mean departure, signed, and 95th percentile of every zone of a shoe seen from its outer side."""
    low, high = laid.along.min(0), laid.along.max(0)
    across, down = ((laid.along - low) / (high - low)).T
    ahead = across if foot == Foot.LEFT else 1 - across
    where = np.select([down > 1 - SOLE, ahead < TOE, ahead < VAMP, ahead < COLLAR], ZONES[:4], ZONES[4])
    parts = {}
    for zone in ZONES:
        off = laid.distance[where == zone]
        if len(off):
            parts[f"{zone}_most_mm"] = float(off[np.abs(off).argmax()])
            parts[f"{zone}_p95_mm"] = float(np.percentile(np.abs(off), 95))
            parts[f"{zone}_mean_mm"] = float(off.mean())
    return parts


def _rims(checkpoint: Checkpoint, photo: Photo) -> list[np.ndarray]:
    """Rims of the verified pairs in mm, where the checkpoint's size rule leaves lengths as they are."""
    release = photo.pair.release
    rule, group, size = rule_of(checkpoint, release.shoe_model.maker), Group(release.group), size_of(photo.pair.size_us)
    known = [p for p in retail_pairs(photo.pair) if carried(1.0, rule, size_of(p.size_us), size, group) == 1.0]
    readings = latest_readings(known, checkpoints=[checkpoint])
    contours = []
    for pair in known:
        reading = readings.get((pair.pk, checkpoint.pk))
        surface = plane(reading.photo) if reading and reading.photo and reading.value is not None else None
        if surface is not None and reading.overlay:
            contours.append(surface.to_mm(np.array(reading.overlay[0]["points"])))
    return contours


def _ribbon(laid: ContourDeviation, surface) -> list[Stroke]:
    """From the reference's contour to ours, wherever they part, and a ring at the worst place."""
    worst = int(np.abs(laid.distance).argmax())
    parted = [n for n in range(0, len(laid.distance), BAR_EVERY) if abs(laid.distance[n]) >= DRAWN_FROM_MM]
    bars = [Stroke(StrokeKind.LINE, _on_photo(laid, n, surface)) for n in parted]
    centre = _on_photo(laid, worst, surface)[0]
    label = f"{laid.largest:+.1f}"
    radius = 6 / max(surface.mm_per_px(centre), 1e-6)
    return [*bars, Stroke(StrokeKind.RING, (centre,), label=label, radius_px=radius)]


def _on_photo(laid: ContourDeviation, n: int, surface) -> tuple:
    """The reference's place n and ours beside it, in our picture's pixels."""
    following, before = laid.along[(n + 2) % len(laid.along)], laid.along[n - 2]
    way = following - before
    normal = np.array([way[1], -way[0]]) / (np.hypot(*way) + 1e-9)
    both = np.array([laid.along[n], laid.along[n] + normal * laid.distance[n]])
    # From the reference's place back to where our shoe stands.
    here = surface.to_px((both - laid.shift) @ laid.turn)
    return tuple((float(x), float(y)) for x, y in here)
