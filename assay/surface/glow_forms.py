"""What glows, sorted by form: broken lines joined, then stamps, smears and lint by length, width and neighbours."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

import cv2
import numpy as np

from assay.surface.glow_bits import BRANCHED, Bit, bit_of, disc, has_ground_beside, is_thin

CREST_MM = 1.3
HALF = 0.5
DUST_MM2 = 0.5
FEWEST_PX = 6
MOST_BITS = 400
"""Of a storm of lint only the largest bits are looked at."""
LINE_MM = 18.0
"""A drawn line, its gaps counted, is at least so long …"""
DASH_MM = 2.0
GAP_MM = 11.0
TURN_DEG = 28.0
"""Dashes are one line across such a gap, where both point to each other within this."""
STRAIGHT = 0.8
"""Of a lone line: end to end over its length; lint curls."""
STAMP_MM = (3.5, 26.0)
STROKE_MM = 2.2
ROUND = 0.72
"""Area over that of the circle round it, from which a form is round."""
DOT_MM = (2.4, 11.0)
DOT_HOLE = 0.1
SURE_DOT_MM = 4.5
"""A smaller dot may be a fibre rolled up: counted, unsurely."""
FIGURE_MM = (2.0, 11.0)
FIGURES = 2
NEAR = 0.8
"""Figures of one stamp lie no further apart than so many times their height."""
SMEAR_MM2 = 14.0
UNEVEN_LINE = 0.27
"""A line whose width varies more may be a smear."""
MAYBE_DOT_MM, MAYBE_ROUND = 1.6, 0.55
MAYBE_FIGURE_MM, MAYBE_BRANCHED = 1.4, 1.15
"""What was left as lint may be a dot or a figure from here on."""


class GlowForm(StrEnum):
    """What a glowing thing is by its form."""

    LINE = "line"
    STAMP = "stamp"
    SMEAR = "smear"
    PANEL = "panel"


FORMS = tuple(GlowForm)


@dataclass(frozen=True, slots=True)
class Glow:
    """One thing that glows. Pixels of the piece."""

    form: GlowForm
    path: np.ndarray
    """(N, 2) x, y: along a line, else places all over it."""
    outlines: tuple[np.ndarray, ...]
    """Its rims, (N, 2) each."""
    length: float
    """Along a line, gaps left out; else the longer side."""
    area: float
    brightness: float
    """Light over its own ground's, linear."""
    sure: bool = True
    """False where two curls of lint could look like it."""


def sort_forms(
    standing: np.ndarray, over: np.ndarray, root: np.ndarray, scale: float
) -> tuple[list[Glow], int, np.ndarray, frozenset[GlowForm]]:
    """Sort what stands over its ground: glowing things, how many bits of lint, where the things lie, and of which forms
    something may have been missed. ``over``: light above the near ground; ``root``: light itself; (h, w) roots."""
    # Half as bright as the brightest near by: blur widens nothing then.
    near = cv2.dilate(np.where(standing, over, 0).astype(np.float32), disc(CREST_MM / scale))
    crisp = standing & (over > HALF * near)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(crisp.astype(np.uint8), connectivity=8)
    areas = stats[1:, cv2.CC_STAT_AREA]
    large = 1 + np.flatnonzero((areas * scale**2 >= DUST_MM2) & (areas >= FEWEST_PX))
    large = large[np.argsort(-stats[large, cv2.CC_STAT_AREA], kind="stable")][:MOST_BITS]
    bits = [bit_of(labels, stats[n], int(n), scale) for n in np.sort(large)]
    small = len(areas) - len(bits)
    found: list[Glow] = []
    used: set[int] = set()
    for group in (_rings_and_dots(bits, scale), _smears(bits, scale)):
        for form, members in group:
            if not used & {bit.label for bit in members}:
                dot = form is GlowForm.STAMP and members[0].hole < DOT_HOLE
                sure = not dot or members[0].across * scale >= SURE_DOT_MM
                found.append(replace(_glow(form, members, labels), sure=sure))
                used |= {bit.label for bit in members}
    left = [bit for bit in bits if bit.label not in used]
    lines = _lines([bit for bit in left if is_thin(bit, scale)], scale)
    long = [members for members in lines if _reach(members) * scale >= LINE_MM and _is_drawn(members, scale)]
    taken = {bit.label for members in long for bit in members}
    for members in _figures([bit for bit in left if bit.label not in taken], scale):
        found.append(replace(_glow(GlowForm.STAMP, members, labels), sure=len(members) > FIGURES))
        used |= {bit.label for bit in members}
    edges = 0
    for members in long:
        if has_ground_beside(members, root, scale):
            found.append(replace(_glow(GlowForm.LINE, members, labels), sure=_is_one_line(members, scale)))
        else:
            edges += 1
        used |= taken
    kept = np.isin(labels, list(used)) if used else np.zeros(labels.shape, bool)
    left = [bit for bit in bits if bit.label not in used]
    missed = {GlowForm.LINE} if edges or _may_be_lines(lines, used, scale) else set()
    frayed = [bit for bit in bits if bit.branched > BRANCHED and STAMP_MM[0] <= max(bit.box[2:]) * scale <= STAMP_MM[1]]
    pairs = (group for group in _beside_each_other(left, scale) if len(group) >= FIGURES)
    maybe = next(pairs, None) or any(_may_be_stamp(bit, scale) for bit in left)
    if maybe or any(_holds(found, bit) for bit in frayed):
        missed.add(GlowForm.STAMP)
    return found, small + len(bits) - len(used), kept, frozenset(missed)


def _holds(found: Sequence[Glow], bit: Bit) -> bool:
    """Whether a piece went into a smear."""
    x, y, width, height = bit.box
    corner = np.array([x, y])
    smears = (glow for glow in found if glow.form is GlowForm.SMEAR)
    return any(((smear.path >= corner) & (smear.path <= [x + width, y + height])).all(axis=1).any() for smear in smears)


def _may_be_stamp(bit: Bit, scale: float) -> bool:
    """Whether a bit that was left as lint may be a dot or a figure: neither a speck nor a drawn-out fibre."""
    across, long = bit.across * scale, max(bit.box[2:]) * scale
    dot = across >= MAYBE_DOT_MM and bit.roundness > MAYBE_ROUND
    figure = long >= FIGURE_MM[0] and min(bit.box[2:]) * scale >= MAYBE_FIGURE_MM and bit.branched > MAYBE_BRANCHED
    return dot or figure


def _may_be_lines(lines: Sequence[list[Bit]], used: set[int], scale: float) -> bool:
    """Whether dashes that were left as lint go on from each other for half a line's length."""
    left = (members for members in lines if not used & {bit.label for bit in members})
    return any(_reach(members) * scale >= LINE_MM / 2 for members in left)


def _is_one_line(members: Sequence[Bit], scale: float) -> bool:
    """Whether it is surely one drawn line: as wide all along, and not two lines end to end."""
    lengths = np.array([bit.length for bit in members])
    uneven = float(np.average([bit.uneven for bit in members], weights=lengths))
    return uneven < UNEVEN_LINE and int((lengths * scale >= LINE_MM).sum()) < 2


def _rings_and_dots(bits: Sequence[Bit], scale: float) -> list[tuple[GlowForm, list[Bit]]]:
    """Rings (round, mostly hole) and filled dots, with what lies inside a ring."""
    found = []
    for bit in bits:
        across = bit.across * scale
        if bit.roundness < ROUND:
            continue
        if bit.hole > 0.25 and STAMP_MM[0] <= across <= STAMP_MM[1]:
            x, y, width, height = bit.box
            within = [b for b in bits if b is not bit and _lies_in(b.box, (x, y, width, height))]
            found.append((GlowForm.STAMP, [bit, *within]))
        elif bit.hole < DOT_HOLE and DOT_MM[0] <= across <= DOT_MM[1]:
            found.append((GlowForm.STAMP, [bit]))
    return found


def _lies_in(inner: tuple[Any, ...], outer: tuple[Any, ...]) -> bool:
    return (
        inner[0] >= outer[0]
        and inner[1] >= outer[1]
        and inner[0] + inner[2] <= outer[0] + outer[2]
        and inner[1] + inner[3] <= outer[1] + outer[3]
    )


def _smears(bits: Sequence[Bit], scale: float) -> list[tuple[GlowForm, list[Bit]]]:
    """Wide, irregular pieces; those that nearly touch are one."""
    wide = [bit for bit in bits if bit.area * scale**2 >= SMEAR_MM2 and bit.hole < 0.3 and not is_thin(bit, scale)]
    return [(GlowForm.SMEAR, group) for group in _joined(wide, lambda a, b: _apart(a.box, b.box) * scale < 6.0)]


def _lines(bits: Sequence[Bit], scale: float) -> list[list[Bit]]:
    """Dashes that go on from each other, gathered."""
    dashes = [bit for bit in bits if bit.length * scale >= DASH_MM and bit.length > 1.6 * bit.width]

    def goes_on(a: Bit, b: Bit) -> bool:
        gaps = a.ends[:, None] - b.ends[None]
        apart = np.hypot(gaps[..., 0], gaps[..., 1])
        i, k = np.unravel_index(int(apart.argmin()), (2, 2))
        if apart[i, k] * scale > GAP_MM:
            return False
        across = -gaps[i, k] / max(apart[i, k], 1e-9)
        bound = np.cos(np.radians(TURN_DEG))
        along = float(a.ways[i] @ -b.ways[k])
        if apart[i, k] * scale < 1.5:
            return along > bound
        return bool(along > bound and a.ways[i] @ across > bound and -(b.ways[k] @ across) > bound)

    return _joined(dashes, goes_on)


def _reach(members: Sequence[Bit]) -> float:
    """Length of a line with its gaps, px: that of its bits, and the shortest ways between them."""
    ends = np.vstack([bit.ends for bit in members])
    return max(sum(bit.length for bit in members), float(np.hypot(*np.ptp(ends, axis=0))) if len(members) > 1 else 0.0)


def _is_drawn(members: Sequence[Bit], scale: float) -> bool:
    """Lint is one short curl; a pen's line is long, or made of several bits in a row."""
    if len(members) > 1:
        return True
    one = members[0]
    return one.straight > STRAIGHT or one.length * scale > 2 * LINE_MM


def _figures(bits: Sequence[Bit], scale: float) -> list[list[Bit]]:
    """Figures or letters beside each other: alike in height, close, thin; or run together to one branched form."""
    low = FIGURE_MM[0]

    def looks_written(bit: Bit) -> bool:
        return bit.branched > BRANCHED or bit.hole > 0.08

    thin = [bit for bit in bits if bit.width * scale <= STROKE_MM]
    groups = _beside_each_other(thin, scale)
    written = [group for group in groups if sum(map(looks_written, group)) + (len(group) > FIGURES) >= FIGURES]
    known = {bit.label for group in written for bit in group}
    alone = [
        [bit]
        for bit in thin
        if bit.label not in known
        and looks_written(bit)
        and bit.branched > BRANCHED
        and STAMP_MM[0] <= max(bit.box[2:]) * scale <= STAMP_MM[1]
        and min(bit.box[2:]) * scale >= low
    ]
    return written + alone


def _beside_each_other(bits: Sequence[Bit], scale: float) -> list[list[Bit]]:
    """Thin pieces of a figure's size, gathered where they stand beside each other and are alike in height."""
    low, high = FIGURE_MM
    thin = (bit for bit in bits if bit.width * scale <= STROKE_MM)
    small = [bit for bit in thin if low <= max(bit.box[2:]) * scale <= high]

    def beside(a: Bit, b: Bit) -> bool:
        tall, other = max(a.box[2:]), max(b.box[2:])
        return max(tall, other) < 1.7 * min(tall, other) and _apart(a.box, b.box) < NEAR * max(tall, other)

    return _joined(small, beside)


def _apart(one: tuple[Any, ...], other: tuple[Any, ...]) -> float:
    """Distance between two upright boxes, px."""
    dx = max(one[0] - other[0] - other[2], other[0] - one[0] - one[2], 0)
    dy = max(one[1] - other[1] - other[3], other[1] - one[1] - one[3], 0)
    return float(np.hypot(dx, dy))


def _joined(bits: Sequence[Bit], linked: Callable[[Bit, Bit], bool]) -> list[list[Bit]]:
    """Groups of bits that hang together by ``linked(a, b)``."""
    groups: list[list[Bit]] = []
    for bit in bits:
        near = [group for group in groups if any(linked(bit, other) for other in group)]
        groups = [group for group in groups if group not in near]
        groups.append([bit, *(other for group in near for other in group)])
    return groups


def _glow(form: GlowForm, members: Sequence[Bit], labels: np.ndarray) -> Glow:
    rims = []
    for bit in members:
        x, y, width, height = bit.box
        mask = (labels[y : y + height, x : x + width] == bit.label).astype(np.uint8)
        found, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        rims += [rim[:, 0] + np.array([x, y], float) for rim in found]
    path = np.vstack([bit.path for bit in members])
    boxes = np.array([bit.box for bit in members], float)
    side = (boxes[:, :2] + boxes[:, 2:]).max(0) - boxes[:, :2].min(0)
    length = sum(bit.length for bit in members) if form is GlowForm.LINE else float(side.max())
    return Glow(form, path, tuple(rims), length, sum(bit.area for bit in members), 0.0)
