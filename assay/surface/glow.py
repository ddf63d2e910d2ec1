"""What glows under an ultraviolet lamp, told from its surroundings and sorted by form.

A lamp of 365 nm fills the picture with a dim violet of its own; what fluoresces sends out blue, white, green or yellow.
The lamp's own light is therefore taken off first: as much red and green as usually goes with the blue. A light panel
beside a dark one, or the lamp's bright middle, is then no glow. The root of what is left makes a photograph's noise
even. Whole panels are set apart, then what stands over its own near ground. Pieces become lines (broken ones are one),
stamps, smears and lint by length, width, roundness and what lies beside.

Sources: 8-connected components; skeleton of Zhang & Suen (Commun. ACM 27(3), 1984); threshold with hysteresis (Canny,
IEEE PAMI 8(6), 1986). What glows, and that 395 nm lamps leak violet: common practice, no source.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import cv2
import numpy as np

from assay.errors import CannotMeasure
from assay.surface.piece import Piece

WEIGHTS = np.array([0.4, 0.6], np.float32)
"""Of linear red and green, where glow shows: the lamp's own violet is mostly blue."""
OWN_RATIO = 45
"""Percentile of red and green over blue that is taken as the lamp's own."""
BLOCK_MM = 14.0
"""Size of the blocks whose medians are the near ground."""
FAINT_SIGMAS, SURE_SIGMAS = 4.0, 7.0
LEAST_FAINT, LEAST_SURE = 0.035, 0.06
"""What stands over its ground by less, in roots of light, is no glow: the lamp's own light on grain and edges."""
PANEL_OVER = 1.3
"""A panel that glows as a whole is so many times as bright, by the root of its light, as the region's dark part."""
PANEL_LEAST = 0.05
PANEL_MM = 10.0
"""A disc of this diameter lies inside it."""
PANEL_MM2 = 180.0
CREST_MM = 1.3
HALF = 0.5
DUST_MM2 = 0.5
FEWEST_PX = 6
MOST_BITS = 400
"""Of a storm of lint only the largest bits are looked at."""
LINE_MM = 18.0
"""A drawn line, its gaps counted, is at least so long …"""
LINE_WIDE_MM = 3.0
"""… and at most so wide; from this width on only where it is as wide all along:"""
SURELY_LINE_MM, UNEVEN = 1.9, 0.2
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
BRANCHED = 1.35
"""A figure's thinned form over its longest way: strokes that branch, as no line's or fibre's do."""
NEAR = 0.8
"""Figures of one stamp lie no further apart than so many times their height."""
SMEAR_MM2 = 14.0
DAYLIGHT_GREEN = 0.55
"""Green over blue of the region's dark part, linear, from which no ultraviolet lamp was the only light."""
DAYLIGHT_LIGHT = 0.05
VEIL = 0.20
"""Linear blue of the dark part from which the lamp's own violet hides weak glow."""
CLIPPED_SHARE = 0.04
LINT_STORM = 40
"""So many bits of lint a 100 cm² and more."""
LINT_AREA_MM2 = 10_000.0
UNSCALED_MM = 150.0
"""Without a scale the region's longer side is taken as so long, to sort by form."""


class Form(StrEnum):
    """What a glowing thing is by its form."""

    LINE = "line"
    STAMP = "stamp"
    SMEAR = "smear"
    PANEL = "panel"


FORMS = tuple(Form)


@dataclass(frozen=True, slots=True)
class Glow:
    """One thing that glows. Pixels of the piece."""

    form: Form
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


@dataclass(frozen=True, slots=True)
class Lit:
    """What a region under the lamp shows."""

    glows: tuple[Glow, ...]
    lint: int
    glowing: np.ndarray
    """(h, w) bool: all of it, lint left out."""
    doubts: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _Bit:
    """One connected piece, before it is sorted."""

    label: int
    box: tuple[int, int, int, int]
    area: float
    length: float
    width: float
    ends: np.ndarray
    """(2, 2) its far ends."""
    ways: np.ndarray
    """(2, 2) unit, outwards at either end."""
    path: np.ndarray
    hole: float
    """Share of its filled area that is hole."""
    roundness: float
    across: float
    """Diameter of the circle that has its filled area."""
    straight: float
    branched: float
    """Length of all its thinned strokes over the longest way through them."""
    uneven: float
    """How its width varies, standard deviation over mean."""


def glows_of(piece: Piece, mm_per_px: float | None) -> Lit:
    """Find and sort what glows.

    Raises CannotMeasure ``not_ultraviolet``, ``glow_burnt_out``, ``nothing_usable``.
    """
    inside = piece.inside
    linear = piece.linear
    if not inside.any():
        raise CannotMeasure("nothing_usable")
    scale = mm_per_px or UNSCALED_MM / max(inside.shape)
    root = _glow_light(linear, inside)
    dark = inside & (root <= np.percentile(root[inside], 45))
    red, green, blue = (float(np.median(linear[..., k][dark])) for k in range(3))
    if green > DAYLIGHT_GREEN * blue and green > DAYLIGHT_LIGHT and red > 0.5 * DAYLIGHT_GREEN * blue:
        raise CannotMeasure("not_ultraviolet")
    clipped = float((piece.rgb[inside].min(1) >= 250).mean())
    if clipped > CLIPPED_SHARE:
        raise CannotMeasure("glow_burnt_out", percent=round(100 * clipped))
    doubts = ["purple_veil"] if blue > VEIL else []
    panels = _panels(root, inside, scale)
    rest = inside & ~cv2.dilate(panels.astype(np.uint8), _disc(1.2 / scale)).astype(bool)
    over = root - _ground(root, rest, BLOCK_MM / scale)
    standing = _standing(over, rest)
    found, lint, kept = _sorted(standing, over, scale)
    found += _whole(panels, scale)
    lit = tuple(replace(glow, brightness=_brightness(glow, root, inside)) for glow in found)
    if lint > LINT_STORM * max(1.0, inside.sum() * scale**2 / LINT_AREA_MM2):
        doubts.append("lint_storm")
    return Lit(lit, lint, kept | panels, tuple(doubts))


def _glow_light(linear: np.ndarray, inside: np.ndarray) -> np.ndarray:
    """(h, w) root of red and green less the lamp's own; ground is about the root of its own scatter."""
    soft = cv2.GaussianBlur(linear, (0, 0), 0.9)
    seen, blue = soft[..., :2] @ WEIGHTS, soft[..., 2]
    own = float(np.percentile((seen / np.maximum(blue, 4e-3))[inside], OWN_RATIO))
    left = seen - own * blue
    base = max(float(np.median(seen[inside])), 2e-3)
    return np.sqrt(np.maximum(left, 0) + base).astype(np.float32)


def _disc(radius: float) -> np.ndarray:
    reach = max(1, round(radius))
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))


def _panels(root: np.ndarray, inside: np.ndarray, scale: float) -> np.ndarray:
    """Where a whole panel glows."""
    base = float(np.percentile(root[inside], 20))
    strong = inside & (root > max(PANEL_OVER * base, base + PANEL_LEAST))
    # A small copy: the disc may be many pixels wide.
    shrink = max(1.0, PANEL_MM / scale / 12)
    size = tuple(max(1, round(n / shrink)) for n in strong.shape[::-1])
    small = cv2.resize(strong.astype(np.uint8) * 255, size, interpolation=cv2.INTER_AREA) > 140
    opened = cv2.morphologyEx(small.astype(np.uint8), cv2.MORPH_OPEN, _disc(PANEL_MM / 2 / scale / shrink))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(opened)
    least = PANEL_MM2 / (scale * shrink) ** 2
    kept = np.isin(labels, [n for n in range(1, count) if stats[n, cv2.CC_STAT_AREA] >= least])
    # A lamp's hot spot fades out; a panel has an edge.
    whole = cv2.resize(kept.astype(np.uint8), strong.shape[::-1], interpolation=cv2.INTER_NEAREST) > 0
    return whole & strong if _has_edge(root, whole, inside, scale) else np.zeros_like(whole)


def _has_edge(root: np.ndarray, whole: np.ndarray, inside: np.ndarray, scale: float) -> bool:
    """Whether light steps at its rim, by at least half of what it stands over the rest."""
    if not whole.any() or not (inside & ~whole).any():
        return bool(whole.any())
    reach = _disc(1.5 / scale)
    body = whole.astype(np.uint8)
    within = (whole & ~cv2.erode(body, reach).astype(bool)) & inside
    beyond = cv2.dilate(body, reach).astype(bool) & ~whole & inside
    if not within.any() or not beyond.any():
        return True
    step = float(np.median(root[within]) - np.median(root[beyond]))
    stands = float(np.median(root[whole]) - np.median(root[inside & ~whole]))
    return step > 0.45 * stands


def _ground(root: np.ndarray, rest: np.ndarray, block: float) -> np.ndarray:
    """The near ground: medians of overlapping blocks, blown up smoothly; blocks without ground take the whole's."""
    height, width = root.shape
    rows, columns = max(2, round(height / block)), max(2, round(width / block))
    whole = float(np.median(root[rest])) if rest.any() else 0.0
    grid = np.full((rows, columns), np.nan, np.float32)
    for i in range(rows):
        for k in range(columns):
            top, left = i * height // rows, k * width // columns
            tall, wide = height // rows + 1, width // columns + 1
            part = np.s_[max(0, top - tall // 3) : top + 4 * tall // 3, max(0, left - wide // 3) : left + 4 * wide // 3]
            here = root[part][rest[part]]
            if len(here) > 30:
                # Below the middle: a stamp may fill half of a block.
                grid[i, k] = np.percentile(here, 40)
    grid = np.where(np.isnan(grid), whole, grid)
    return cv2.resize(grid, (width, height), interpolation=cv2.INTER_LINEAR)


def _standing(over: np.ndarray, rest: np.ndarray) -> np.ndarray:
    """(h, w) bool: faint places that hang together with sure ones."""
    if not rest.any():
        return rest
    values = over[rest]
    low = values[values <= np.percentile(values, 60)]
    scatter = 1.4826 * float(np.median(np.abs(low - np.median(low)))) * 1.6 + 1e-4
    faint = rest & (over > max(FAINT_SIGMAS * scatter, LEAST_FAINT))
    sure = rest & (over > max(SURE_SIGMAS * scatter, LEAST_SURE))
    _, labels = cv2.connectedComponents(faint.astype(np.uint8), connectivity=8)
    kept = np.unique(labels[sure])
    return np.isin(labels, kept[kept > 0])


def _sorted(standing: np.ndarray, over: np.ndarray, scale: float) -> tuple[list[Glow], int, np.ndarray]:
    """Sort what stands over its ground: glowing things, how many bits of lint, and where the things lie."""
    # Half as bright as the brightest near by: blur widens nothing then.
    near = cv2.dilate(np.where(standing, over, 0).astype(np.float32), _disc(CREST_MM / scale))
    crisp = standing & (over > HALF * near)
    _, labels, stats, _ = cv2.connectedComponentsWithStats(crisp.astype(np.uint8), connectivity=8)
    areas = stats[1:, cv2.CC_STAT_AREA]
    large = 1 + np.flatnonzero((areas * scale**2 >= DUST_MM2) & (areas >= FEWEST_PX))
    large = large[np.argsort(-stats[large, cv2.CC_STAT_AREA], kind="stable")][:MOST_BITS]
    bits = [_bit(labels, stats[n], int(n), scale) for n in np.sort(large)]
    small = len(areas) - len(bits)
    found: list[Glow] = []
    used: set[int] = set()
    for group in (_rings_and_dots(bits, scale), _smears(bits, scale)):
        for form, members in group:
            if not used & {bit.label for bit in members}:
                dot = form is Form.STAMP and members[0].hole < DOT_HOLE
                sure = not dot or members[0].across * scale >= SURE_DOT_MM
                found.append(replace(_glow(form, members, labels), sure=sure))
                used |= {bit.label for bit in members}
    left = [bit for bit in bits if bit.label not in used]
    lines = _lines([bit for bit in left if _is_thin(bit, scale)], scale)
    long = [members for members in lines if _reach(members) * scale >= LINE_MM and _is_drawn(members, scale)]
    taken = {bit.label for members in long for bit in members}
    for members in _figures([bit for bit in left if bit.label not in taken], scale):
        found.append(replace(_glow(Form.STAMP, members, labels), sure=len(members) > FIGURES))
        used |= {bit.label for bit in members}
    for members in long:
        found.append(_glow(Form.LINE, members, labels))
        used |= taken
    kept = np.isin(labels, list(used)) if used else np.zeros(labels.shape, bool)
    return found, small + len(bits) - len(used), kept


def _bit(labels: np.ndarray, stats: np.ndarray, n: int, scale: float) -> _Bit:
    from skimage.morphology import skeletonize  # noqa: PLC0415  slow to import, wanted on few photographs

    x, y, width, height = (int(stats[k]) for k in range(4))
    mask = np.pad(labels[y : y + height, x : x + width] == n, 1)
    area = float(mask.sum())
    # Thick pieces are thinned on a smaller copy.
    shrink = max(1.0, min(width, height) / 220)
    thin = mask
    if shrink > 1:
        size = tuple(max(3, round(side / shrink)) for side in mask.shape[::-1])
        thin = cv2.resize(mask.astype(np.uint8), size, interpolation=cv2.INTER_AREA) > 0
    places = np.argwhere(skeletonize(thin))[:, ::-1] * (np.array(mask.shape[::-1]) / np.array(thin.shape[::-1]))
    path = _along(places) if len(places) > 1 else places
    if len(path) < 2:
        path = np.array([[0.0, 0.0], [width - 1, height - 1]]) + 1
    length = max(float(np.hypot(*np.diff(path, axis=0).T).sum()), 1.0)
    whole = max(float(len(places)) * 1.12 * shrink, length)
    wide = area / whole
    at = path + np.array([x - 1, y - 1])
    ways = _ways(at, mask, length, scale)
    thick = 2 * cv2.distanceTransform(mask.astype(np.uint8), cv2.DIST_L2, 5)
    inner = np.round(path[len(path) // 8 : max(len(path) - len(path) // 8, len(path) // 8 + 1)]).astype(int)
    widths = thick[inner[:, 1].clip(0, mask.shape[0] - 1), inner[:, 0].clip(0, mask.shape[1] - 1)]
    filled, outer = _filled(mask)
    (_, radius) = cv2.minEnclosingCircle(outer)
    return _Bit(
        n,
        (x, y, width, height),
        area,
        (length if whole < BRANCHED * length else whole) + wide,
        wide,
        at[[0, -1]],
        ways,
        at,
        1 - area / filled,
        filled / (np.pi * max(radius, 0.5) ** 2),
        2 * float(np.sqrt(filled / np.pi)),
        float(np.hypot(*(at[-1] - at[0]))) / max(whole, 1.0),
        whole / length,
        float(widths.std() / max(widths.mean(), 1e-9)),
    )


def _ways(at: np.ndarray, mask: np.ndarray, length: float, scale: float) -> np.ndarray:
    """(2, 2) unit vectors outwards at either end: of a dash its own axis, else the way's last millimetres."""
    if length * scale < 10.0:
        places = np.argwhere(mask)[:, ::-1].astype(float)
        _, axes = np.linalg.eigh(np.cov((places - places.mean(0)).T) if len(places) > 2 else np.eye(2))
        axis = axes[:, 1] * np.sign(axes[:, 1] @ (at[0] - at[-1]) or 1.0)
        return np.array([axis, -axis])
    back = max(1, min(len(at) - 1, round(4.0 / scale)))
    ways = np.array([at[0] - at[back], at[-1] - at[-1 - back]])
    return ways / np.maximum(np.hypot(*ways.T), 1e-9)[:, None]


def _is_thin(bit: _Bit, scale: float) -> bool:
    """Whether it may be a pen's stroke."""
    width = bit.width * scale
    return width <= SURELY_LINE_MM or (width <= LINE_WIDE_MM and bit.uneven < UNEVEN)


def _along(places: np.ndarray) -> np.ndarray:
    """The longest way through thinned places, end to end, by steps between neighbours (breadth first, twice)."""
    index = {tuple(np.round(p).astype(int)): n for n, p in enumerate(places)}
    cells = list(index)
    near = [(dx, dy) for dx in (-2, -1, 0, 1, 2) for dy in (-2, -1, 0, 1, 2) if (dx, dy) != (0, 0)]

    def walk(start: tuple) -> tuple[tuple, dict]:
        came: dict = {start: None}
        front = [start]
        last = start
        while front:
            following = []
            for cell in front:
                last = cell
                for dx, dy in near:
                    step = (cell[0] + dx, cell[1] + dy)
                    if step in index and step not in came:
                        came[step] = cell
                        following.append(step)
            front = following
        return last, came

    one, _ = walk(cells[0])
    other, came = walk(one)
    way = [other]
    while came[way[-1]] is not None:
        way.append(came[way[-1]])
    return np.array(way, float)


def _filled(mask: np.ndarray) -> tuple[float, np.ndarray]:
    """Area with its holes filled, and the outer rim."""
    rims, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    outer = max(rims, key=len)
    canvas = cv2.drawContours(np.zeros(mask.shape, np.uint8), [outer], -1, 1, cv2.FILLED)
    return float(max(canvas.sum(), 1)), outer


def _rings_and_dots(bits: Sequence[_Bit], scale: float) -> list[tuple[Form, list[_Bit]]]:
    """Rings (round, mostly hole) and filled dots, with what lies inside a ring."""
    found = []
    for bit in bits:
        across = bit.across * scale
        if bit.roundness < ROUND:
            continue
        if bit.hole > 0.25 and STAMP_MM[0] <= across <= STAMP_MM[1]:
            x, y, width, height = bit.box
            within = [b for b in bits if b is not bit and _lies_in(b.box, (x, y, width, height))]
            found.append((Form.STAMP, [bit, *within]))
        elif bit.hole < DOT_HOLE and DOT_MM[0] <= across <= DOT_MM[1]:
            found.append((Form.STAMP, [bit]))
    return found


def _lies_in(inner: tuple, outer: tuple) -> bool:
    return (
        inner[0] >= outer[0]
        and inner[1] >= outer[1]
        and inner[0] + inner[2] <= outer[0] + outer[2]
        and inner[1] + inner[3] <= outer[1] + outer[3]
    )


def _smears(bits: Sequence[_Bit], scale: float) -> list[tuple[Form, list[_Bit]]]:
    """Wide, irregular pieces; those that nearly touch are one."""
    wide = [bit for bit in bits if bit.area * scale**2 >= SMEAR_MM2 and bit.hole < 0.3 and not _is_thin(bit, scale)]
    return [(Form.SMEAR, group) for group in _joined(wide, lambda a, b: _apart(a.box, b.box) * scale < 6.0)]


def _lines(bits: Sequence[_Bit], scale: float) -> list[list[_Bit]]:
    """Dashes that go on from each other, gathered."""
    dashes = [bit for bit in bits if bit.length * scale >= DASH_MM and bit.length > 1.6 * bit.width]

    def goes_on(a: _Bit, b: _Bit) -> bool:
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


def _reach(members: Sequence[_Bit]) -> float:
    """Length of a line with its gaps, px: that of its bits, and the shortest ways between them."""
    ends = np.vstack([bit.ends for bit in members])
    return max(sum(bit.length for bit in members), float(np.hypot(*np.ptp(ends, axis=0))) if len(members) > 1 else 0.0)


def _is_drawn(members: Sequence[_Bit], scale: float) -> bool:
    """Lint is one short curl; a pen's line is long, or made of several bits in a row."""
    if len(members) > 1:
        return True
    one = members[0]
    return one.straight > STRAIGHT or one.length * scale > 2 * LINE_MM


def _figures(bits: Sequence[_Bit], scale: float) -> list[list[_Bit]]:
    """Figures or letters beside each other: alike in height, close, thin; or run together to one branched form."""
    low, high = FIGURE_MM

    def looks_written(bit: _Bit) -> bool:
        return bit.branched > BRANCHED or bit.hole > 0.08

    thin = [bit for bit in bits if bit.width * scale <= STROKE_MM]
    small = [bit for bit in thin if low <= max(bit.box[2:]) * scale <= high]

    def beside(a: _Bit, b: _Bit) -> bool:
        tall, other = max(a.box[2:]), max(b.box[2:])
        return max(tall, other) < 1.7 * min(tall, other) and _apart(a.box, b.box) < NEAR * max(tall, other)

    groups = _joined(small, beside)
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


def _apart(one: tuple, other: tuple) -> float:
    """Distance between two upright boxes, px."""
    dx = max(one[0] - other[0] - other[2], other[0] - one[0] - one[2], 0)
    dy = max(one[1] - other[1] - other[3], other[1] - one[1] - one[3], 0)
    return float(np.hypot(dx, dy))


def _joined(bits: Sequence[_Bit], linked) -> list[list[_Bit]]:  # noqa: ANN001
    """Groups of bits that hang together by ``linked(a, b)``."""
    groups: list[list[_Bit]] = []
    for bit in bits:
        near = [group for group in groups if any(linked(bit, other) for other in group)]
        groups = [group for group in groups if group not in near]
        groups.append([bit, *(other for group in near for other in group)])
    return groups


def _glow(form: Form, members: Sequence[_Bit], labels: np.ndarray) -> Glow:
    rims = []
    for bit in members:
        x, y, width, height = bit.box
        mask = (labels[y : y + height, x : x + width] == bit.label).astype(np.uint8)
        found, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        rims += [rim[:, 0] + np.array([x, y], float) for rim in found]
    path = np.vstack([bit.path for bit in members])
    boxes = np.array([bit.box for bit in members], float)
    side = (boxes[:, :2] + boxes[:, 2:]).max(0) - boxes[:, :2].min(0)
    length = sum(bit.length for bit in members) if form is Form.LINE else float(side.max())
    return Glow(form, path, tuple(rims), length, sum(bit.area for bit in members), 0.0)


def _whole(panels: np.ndarray, scale: float) -> list[Glow]:
    count, labels, stats, _ = cv2.connectedComponentsWithStats(panels.astype(np.uint8))
    found = []
    for n in range(1, count):
        if stats[n, cv2.CC_STAT_AREA] * scale**2 < PANEL_MM2:
            continue
        x, y, width, height = (int(stats[n, k]) for k in range(4))
        mask = labels[y : y + height, x : x + width] == n
        rims, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        places = np.argwhere(mask)[:: max(1, int(mask.sum()) // 60), ::-1] + [x, y]
        outlines = tuple(rim[:, 0] + np.array([x, y], float) for rim in rims if len(rim) > 8)
        found.append(
            Glow(Form.PANEL, places.astype(float), outlines, float(max(width, height)), float(mask.sum()), 0.0)
        )
    return found


def _brightness(glow: Glow, root: np.ndarray, inside: np.ndarray) -> float:
    """Its light over that of the region's dark part, linear."""
    at = np.clip(np.round(glow.path).astype(int), 0, np.array(root.shape[::-1]) - 1)
    base = float(np.percentile(root[inside], 20)) ** 2
    return float(np.median(root[at[:, 1], at[:, 0]]) ** 2 / max(base, 1e-4))
