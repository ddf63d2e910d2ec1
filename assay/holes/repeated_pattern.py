"""Small things in a region that look alike, whatever they look like: dents, holes with laces in them, odd light.

Rough places come from the slope of light in one direction at several sizes (a dent is light on one side and dark on the
other). Their mean patch is laid over the whole region (normalised cross-correlation: Lewis, "Fast template matching",
Vision Interface 1995), the best places make the next mean patch, and of all that settled the set is kept that is most
alike and most unlike everything else.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from scipy.ndimage import maximum_filter

# Sizes tried: the smallest radius, the step to the next, and the largest against the region's shorter side.
SMALLEST_PX = 2.5
STEP = 1.25
LARGEST_SHARE = 0.36
DIRECTIONS = 16
MOST_TRIED = 8
ROUNDS = 4
# A place belongs to the set from this share of its typical strength; light is evened over this many px.
ROUGHLY = 0.6
WELL = 0.5
EVEN_PX = 25.0
# A set is believed from this likeness of a place to the mean, more the fewer there are, and this distance to the best
# place left out.
LEAST_LIKENESS = 0.75
OF_FEW = 0.6
LEAST_GAP = 0.35
# How likeness, distance from the rest, and number weigh.
GAP_FROM = 0.3
# Share of a circle that must show for it to be taken as the rim.
ARC_FROM = 0.45


@dataclass(frozen=True, slots=True)
class RepeatedPattern:
    """A set of places that look alike, in pixels of the picture looked at."""

    places: np.ndarray
    """(N, 2) centres."""
    radius: float
    likeness: float
    """Median correlation of a place with the mean of all."""
    gap: float
    """How much weaker the best place left out is, as a share of the typical one."""

    @property
    def believed(self) -> bool:
        """Whether these are surely of one kind and surely all."""
        return self.likeness >= LEAST_LIKENESS + OF_FEW / len(self.places) and self.gap >= LEAST_GAP

    @property
    def score(self) -> float:
        """By which one set is better than another."""
        return self.likeness * (GAP_FROM + self.gap) * np.sqrt(len(self.places))


def find_repeated_pattern(grey: np.ndarray, inside: np.ndarray) -> RepeatedPattern | None:
    """The set that is most alike in a (H, W) float picture, its places where ``inside`` is set; None without any."""
    flat = (grey - cv2.GaussianBlur(grey, (0, 0), EVEN_PX)).astype(np.float32)
    sets = [_settled(flat, inside, *start) for start in _starts(grey, inside)]
    best = max((found for found in sets if found), key=lambda found: found.score, default=None)
    return _centred(flat, best) if best else None


def _starts(grey: np.ndarray, inside: np.ndarray) -> list[tuple[float, np.ndarray]]:
    """(size, rough places) by slopes of light, those that stand out most over the region first."""
    span, found = min(cv2.boundingRect(inside)[2:]), []
    sizes = SMALLEST_PX * STEP ** np.arange(12)
    for size in sizes[sizes <= max(SMALLEST_PX, LARGEST_SHARE * span)]:
        soft = cv2.GaussianBlur(grey, (0, 0), 0.62 * size)
        slopes = np.gradient(soft, axis=1), np.gradient(soft, axis=0)
        of_size = []
        for turn in np.arange(DIRECTIONS) * 2 * np.pi / DIRECTIONS:
            slope = np.cos(turn) * slopes[0] + np.sin(turn) * slopes[1]
            places, strength = _peaks(slope, inside, 1.2 * size)
            if len(places) > 1:
                typical = _typical(strength)
                scatter = 1.4826 * float(np.median(np.abs(slope[inside > 0]))) + 1e-9
                of_size.append((typical / scatter, size, places[strength > ROUGHLY * typical]))
        found += sorted(of_size, key=lambda start: -start[0])[:2]
    found.sort(key=lambda start: -start[0])
    return [start[1:] for start in found[:MOST_TRIED]]


def _settled(flat: np.ndarray, inside: np.ndarray, size: float, places: np.ndarray) -> RepeatedPattern | None:
    """What rough places settle to."""
    half = int(np.ceil(1.5 * size))
    padded = np.pad(flat, half, mode="reflect")
    for _ in range(ROUNDS):
        if len(places) < 2:
            return None
        mean = _mean_patch(padded, places, half)
        mean -= mean.mean()
        likeness = cv2.matchTemplate(padded, mean, cv2.TM_CCOEFF_NORMED)
        amount = cv2.matchTemplate(padded, mean, cv2.TM_CCORR) / max(float((mean**2).sum()), 1e-9)
        found, strength = _peaks(likeness * np.clip(amount, 0, 1.2), inside, 1.3 * size)
        if len(found) < 2:
            return None
        typical = _typical(strength)
        well = strength > WELL * typical
        places = found[well]
    out = float(strength[~well].max(initial=0.0))
    x, y = places.T
    gap = (float(strength[well].min()) - out) / typical
    return RepeatedPattern(places, size, float(np.median(likeness[y, x])), gap) if len(places) > 1 else None


def _peaks(score: np.ndarray, inside: np.ndarray, apart: float) -> tuple[np.ndarray, np.ndarray]:
    """Places (N, 2) whole pixels and scores of what is highest round about, highest first."""
    top = (score == maximum_filter(score, size=2 * int(apart) + 1)) & (inside > 0) & (score > 0)
    y, x = np.nonzero(top)
    order = np.argsort(-score[y, x])
    return np.stack([x, y], 1)[order], score[y, x][order]


def _typical(strength: np.ndarray) -> float:
    """The strength that half of all, the strong ones counting most, lie above."""
    weight = np.cumsum(strength**3)
    return float(strength[np.searchsorted(weight, 0.5 * weight[-1])])


def _mean_patch(padded: np.ndarray, places: np.ndarray, half: int) -> np.ndarray:
    patches = np.array([padded[y : y + 2 * half + 1, x : x + 2 * half + 1] for x, y in places])
    return (np.median(patches, 0) if len(patches) > 4 else patches.mean(0)).astype(np.float32)


def _centred(flat: np.ndarray, pattern: RepeatedPattern) -> RepeatedPattern:
    """The same with the thing's own centre and radius, read off the mean of all: a circle dark inside, if one shows."""
    apart = np.hypot(*(pattern.places[:, None] - pattern.places[None]).transpose(2, 0, 1)) + 1e9 * np.eye(
        len(pattern.places)
    )
    half = int(np.clip(0.55 * np.median(apart.min(1)), 1.5 * pattern.radius, 6 * pattern.radius + 6))
    mean = cv2.GaussianBlur(_mean_patch(np.pad(flat, half, mode="reflect"), pattern.places, half), (0, 0), 0.8)
    down, across = np.gradient(mean)
    steep = np.hypot(across, down) + 1e-9
    y, x = np.nonzero(steep > 0.25 * steep.max())
    weight, way = steep[y, x], np.stack([across[y, x], down[y, x]], 1) / steep[y, x][:, None]
    best = (0.0, np.zeros(2), pattern.radius)
    for radius in np.arange(SMALLEST_PX, 0.9 * half, 0.5):
        votes = np.zeros(mean.shape, np.float32)
        centre = np.round(np.stack([x, y], 1) - radius * way).astype(int)
        on = ((centre >= 0) & (centre < mean.shape[0])).all(1)
        np.add.at(votes, (centre[on, 1], centre[on, 0]), np.minimum(weight[on] / np.median(weight), 1.0))
        votes = cv2.GaussianBlur(votes, (0, 0), 1.0) * 2 * np.pi
        shown = float(votes.max()) / (2 * np.pi * radius)
        if shown * np.sqrt(radius) > best[0] * np.sqrt(best[2]):
            at = np.unravel_index(int(votes.argmax()), votes.shape)
            best = (shown, np.array(at[::-1], float) - half, float(radius))
    if best[0] >= ARC_FROM:
        shift, radius = best[1:]
    else:
        spots = np.stack([x, y], 1) - half
        shift = (spots * weight[:, None] ** 2).sum(0) / (weight**2).sum()
        radius = float(np.sqrt(((spots - shift) ** 2).sum(1) @ weight**2 / (weight**2).sum()))
    return RepeatedPattern(pattern.places + shift, radius, pattern.likeness, pattern.gap)
