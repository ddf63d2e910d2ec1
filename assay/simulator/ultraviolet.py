"""What a made-up thing sends out under an ultraviolet lamp: guide lines, a stamp, adhesive, a panel, lint."""

from dataclasses import dataclass

import cv2
import numpy as np

from assay.simulator import noise
from assay.simulator.printing import Type, inked
from assay.simulator.relief import SUBPIXEL_BITS, Relief, beside

BLUE_WHITE = np.array([0.10, 0.17, 0.30], np.float32)
YELLOWISH = np.array([0.13, 0.15, 0.07], np.float32)
"""Linear light that they send out."""


@dataclass(frozen=True, slots=True)
class UnderUv:
    """What glows, besides the lint that always does."""

    lines: bool = False
    """A pen's guide lines beside panel edges, worn in places."""
    stamp: str = ""
    """Figures of a factory stamp, in a ring."""
    smear_mm: tuple[float, float] = (0.0, 0.0)
    """From where to where along the sole's edge adhesive shows."""
    insert: bool = False
    """A part that glows as a whole."""
    lint: int = 6


def fluoresce(
    relief: Relief,
    under: UnderUv,
    rng: np.random.Generator,
    *,
    edges: tuple[np.ndarray, ...] = (),
    sole: np.ndarray | None = None,
    stamp_at: tuple[float, float] = (0.0, 0.0),
    insert: np.ndarray | None = None,
) -> None:
    """Give a finished relief its own light. ``edges``: (N, 2) mm, dense, along which lines were drawn; ``sole``: the
    edge that adhesive comes out of; ``insert``: the part that may glow."""
    if under.lines:
        pieces = [piece for edge in edges for piece in _guide(edge, rng)]
        relief.emits += _stroke(relief, pieces, 0.9)[..., None] * BLUE_WHITE
    if under.stamp:
        x, y = stamp_at
        canvas = np.zeros(relief.shape, np.uint8)
        centre = np.round(relief.px(np.array([[x, y]]))[0] * 2**SUBPIXEL_BITS).astype(int).tolist()
        radius = round(7.0 / relief.mm_per_px * 2**SUBPIXEL_BITS)
        thick = max(1, round(0.9 / relief.mm_per_px))
        cv2.circle(canvas, centre, radius, 255, thick, cv2.LINE_AA, SUBPIXEL_BITS)
        ink = canvas.astype(np.float32) / 255 + inked(relief, (x - 3.6, y - 2.0), under.stamp, Type(4.0, 560))
        relief.emits += 1.3 * np.clip(ink, 0, 1)[..., None] * BLUE_WHITE
    start, end = under.smear_mm
    if sole is not None and end > start:
        _smear(relief, sole, (start, end), rng)
    if under.insert and insert is not None:
        relief.emits += 0.8 * relief.mask(insert)[..., None] * BLUE_WHITE
    fibres = []
    for _ in range(rng.poisson(under.lint)):
        at = rng.uniform(0, 1, 2) * np.array(relief.shape[::-1]) * relief.mm_per_px
        turns = np.cumsum(rng.normal(0, 0.5, 24))
        fibres.append(at + np.cumsum(np.stack([np.cos(turns), np.sin(turns)], 1) * rng.uniform(0.05, 0.2), axis=0))
    if fibres:
        relief.emits += (0.8 * _stroke(relief, fibres, 0.2) * relief.solid)[..., None] * BLUE_WHITE


def _guide(edge: np.ndarray, rng: np.random.Generator) -> list[np.ndarray]:
    """A drawn line 2 mm beside an edge, rubbed off here and there: what is left of it."""
    path = beside(edge, 2.0) + rng.normal(0, 0.15, 2)
    worn = np.zeros(len(path), bool)
    for at in rng.uniform(0.1, 0.9, 2):
        worn[int(at * len(path)) : int(at * len(path)) + round(4 / 0.25)] = True
    runs = np.split(np.arange(len(path)), np.flatnonzero(np.diff(worn)) + 1)
    return [path[run] for run in runs if not worn[run[0]] and len(run) > 8]


def _smear(relief: Relief, sole: np.ndarray, span: tuple[float, float], rng: np.random.Generator) -> None:
    """Adhesive above the sole's edge, of uneven width, soft away from it."""
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(sole, axis=0).T))])
    part = sole[(along >= span[0]) & (along <= span[1])]
    knots = rng.uniform(0.6, 1.6, len(part) // 40 + 2)
    waves = np.interp(np.arange(len(part)), 40 * np.arange(len(knots)), knots)
    rim = part - np.stack([np.zeros(len(part)), 3.2 * waves], 1)
    band = relief.mask(np.vstack([part, rim[::-1]]))
    soft = cv2.GaussianBlur(band, (0, 0), 0.35 / relief.mm_per_px)
    soft *= 0.8 + 0.2 * noise.clouds(band.shape, 4 / relief.mm_per_px, rng)
    relief.emits += np.clip(soft, 0, 1.2)[..., None] * YELLOWISH


def _stroke(relief: Relief, paths: list[np.ndarray], width_mm: float) -> np.ndarray:
    canvas = np.zeros(relief.shape, np.uint8)
    lines = [np.round(relief.px(path) * 2**SUBPIXEL_BITS).astype(np.int32) for path in paths]
    thick = max(1, round(width_mm / relief.mm_per_px))
    cv2.polylines(canvas, lines, isClosed=False, color=255, thickness=thick, lineType=cv2.LINE_AA, shift=SUBPIXEL_BITS)
    return canvas.astype(np.float32) / 255
