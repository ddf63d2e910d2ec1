"""What glows under an ultraviolet lamp, told from its surroundings and sorted by form.

A lamp of 365 nm fills the picture with a dim violet of its own; what fluoresces sends out blue, white, green or yellow.
The lamp's own light is therefore taken off first: as much red and green as usually goes with the blue. A light panel
beside a dark one, or the lamp's bright middle, is then no glow. The root of what is left makes a photograph's noise
even. Whole panels are set apart, then what stands over its own near ground. Pieces become lines (broken ones are one),
stamps, smears and lint by length, width, roundness and what lies beside.

Sources: 8-connected components; skeleton of Zhang & Suen (Commun. ACM 27(3), 1984); threshold with hysteresis (Canny,
IEEE PAMI 8(6), 1986). What glows, and that 395 nm lamps leak violet: common practice, no source.
"""

from dataclasses import dataclass, replace

import cv2
import numpy as np

from assay.errors import CannotMeasure
from assay.surface.glow_bits import disc
from assay.surface.glow_forms import Glow, GlowForm, sort_forms
from assay.surface.region import Region

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
TINT_MM, DARK = 0.8, 2e-3
BRIGHTER = 1.08
TINT_PANEL_MM = 15.0
"""A faint one is told from a smear by its width alone."""
TINT_OVER, TINT_SIGMAS = 0.25, 4.0
"""A panel glows whose log of green over blue lies so far above the ground's, and so many of its scatters."""
PANEL_MM = 10.0
"""A disc of this diameter lies inside it."""
PANEL_MM2 = 180.0
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


@dataclass(frozen=True, slots=True)
class Lit:
    """What a region under the lamp shows."""

    glows: tuple[Glow, ...]
    lint: int
    glowing: np.ndarray
    """(h, w) bool: all of it, lint left out."""
    doubts: tuple[str, ...]
    open_forms: frozenset[GlowForm] = frozenset()
    """Forms of which something may have been missed: what was left over looks a little like one."""


def glows_of(region: Region, mm_per_px: float | None) -> Lit:
    """Find and sort what glows.

    Raises CannotMeasure ``not_ultraviolet``, ``glow_burnt_out``, ``nothing_usable``.
    """
    inside = region.inside
    linear = region.linear
    if not inside.any():
        raise CannotMeasure("nothing_usable")
    scale = mm_per_px or UNSCALED_MM / max(inside.shape)
    root = _glow_light(linear, inside)
    dark = inside & (root <= np.percentile(root[inside], 45))
    red, green, blue = (float(np.median(linear[..., k][dark])) for k in range(3))
    if green > DAYLIGHT_GREEN * blue and green > DAYLIGHT_LIGHT and red > 0.5 * DAYLIGHT_GREEN * blue:
        raise CannotMeasure("not_ultraviolet")
    clipped = float((region.rgb[inside].min(1) >= 250).mean())
    if clipped > CLIPPED_SHARE:
        raise CannotMeasure("glow_burnt_out", percent=round(100 * clipped))
    doubts = ["purple_veil"] if blue > VEIL else []
    tinted = _panels(_tint(linear, inside, scale), inside, scale, by_tint=True)
    panels = _panels(root, inside, scale) | (tinted if _is_brighter(root, tinted, inside) else False)
    # A panel's rim belongs to neither side.
    rim = disc(1.2 / scale)
    rest = inside & ~cv2.dilate(panels.astype(np.uint8), rim).astype(bool)
    within = cv2.erode(panels.astype(np.uint8), rim).astype(bool) & inside
    over, standing = np.zeros_like(root), np.zeros_like(inside)
    for side in (rest, within):
        if side.any():
            above = root - _ground(root, side, BLOCK_MM / scale)
            over = np.where(side, above, over)
            standing |= _standing(above, side)
    found, lint, kept, open_forms = sort_forms(standing, over, root, scale)
    found += _whole(panels, scale)
    lit = tuple(replace(glow, brightness=_brightness(glow, root, inside)) for glow in found)
    if lint > LINT_STORM * max(1.0, inside.sum() * scale**2 / LINT_AREA_MM2):
        doubts.append("lint_storm")
    # What is drawn on a glowing panel may be no brighter than the panel.
    hidden = frozenset({GlowForm.LINE, GlowForm.STAMP}) if panels.any() else frozenset()
    return Lit(lit, lint, kept | panels, tuple(doubts), open_forms | hidden)


def _glow_light(linear: np.ndarray, inside: np.ndarray) -> np.ndarray:
    """(h, w) root of red and green less the lamp's own; ground is about the root of its own scatter."""
    soft = cv2.GaussianBlur(linear, (0, 0), 0.9)
    seen, blue = soft[..., :2] @ WEIGHTS, soft[..., 2]
    own = float(np.percentile((seen / np.maximum(blue, 4e-3))[inside], OWN_RATIO))
    left = seen - own * blue
    base = max(float(np.median(seen[inside])), 2e-3)
    return np.sqrt(np.maximum(left, 0) + base).astype(np.float32)


def _tint(linear: np.ndarray, inside: np.ndarray, scale: float) -> np.ndarray:
    """(h, w) log of green over blue, smoothed over a millimetre: what only reflects the lamp has the lamp's own ratio,
    however light it is."""
    soft = cv2.GaussianBlur(np.where(inside[..., None], linear, 0.0).astype(np.float32), (0, 0), TINT_MM / scale)
    return np.log((soft[..., 1] + DARK) / (soft[..., 2] + DARK)).astype(np.float32)


def _panels(root: np.ndarray, inside: np.ndarray, scale: float, *, by_tint: bool = False) -> np.ndarray:
    """Where a whole panel glows: by the root of its light, or by its tint."""
    base = float(np.percentile(root[inside], 20))
    if by_tint:
        low = root[inside & (root <= np.percentile(root[inside], 50))]
        scatter = 1.4826 * float(np.median(np.abs(low - np.median(low))))
        strong = inside & (root > base + max(TINT_OVER, TINT_SIGMAS * scatter))
    else:
        strong = inside & (root > max(PANEL_OVER * base, base + PANEL_LEAST))
    # A small copy: the disc may be many pixels wide.
    across = TINT_PANEL_MM if by_tint else PANEL_MM
    shrink = max(1.0, across / scale / 12)
    size = tuple(max(1, round(n / shrink)) for n in strong.shape[::-1])
    small = cv2.resize(strong.astype(np.uint8) * 255, size, interpolation=cv2.INTER_AREA) > 140
    opened = cv2.morphologyEx(small.astype(np.uint8), cv2.MORPH_OPEN, disc(across / 2 / scale / shrink))
    count, labels, stats, _ = cv2.connectedComponentsWithStats(opened)
    least = PANEL_MM2 / (scale * shrink) ** 2
    kept = np.isin(labels, [n for n in range(1, count) if stats[n, cv2.CC_STAT_AREA] >= least])
    # A lamp's hot spot fades out; a panel has an edge.
    whole = cv2.resize(kept.astype(np.uint8), strong.shape[::-1], interpolation=cv2.INTER_NEAREST) > 0
    return whole & strong if _has_edge(root, whole, inside, scale) else np.zeros_like(whole)


def _is_brighter(root: np.ndarray, whole: np.ndarray, inside: np.ndarray) -> bool:
    """Whether it sends out more light than the rest: where the lamp hardly reaches, tint is noise."""
    if not whole.any() or not (inside & ~whole).any():
        return False
    return float(np.median(root[whole])) > BRIGHTER * float(np.median(root[inside & ~whole]))


def _has_edge(root: np.ndarray, whole: np.ndarray, inside: np.ndarray, scale: float) -> bool:
    """Whether light steps at its rim, by at least half of what it stands over the rest."""
    if not whole.any() or not (inside & ~whole).any():
        return bool(whole.any())
    reach = disc(1.5 / scale)
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
            Glow(GlowForm.PANEL, places.astype(float), outlines, float(max(width, height)), float(mask.sum()), 0.0)
        )
    return found


def _brightness(glow: Glow, root: np.ndarray, inside: np.ndarray) -> float:
    """Its light over that of the region's dark part, linear."""
    at = np.clip(np.round(glow.path).astype(int), 0, np.array(root.shape[::-1]) - 1)
    base = float(np.percentile(root[inside], 20)) ** 2
    return float(np.median(root[at[:, 1], at[:, 0]]) ** 2 / max(base, 1e-4))
