"""Rows of stitches anywhere on a shoe: narrow lines along which something repeats every few millimetres.

Method: energy of complex Gabor filters (Daugman 1985) whose carrier runs along their length, in twelve directions and
at periods from 1.4 to 4.7 mm; less the energy beside the line, so that grain, weave and tread, which repeat over an
area, are no rows; followed from the strongest point both ways.
"""

from collections.abc import Iterator

import cv2
import numpy as np
from scipy import fft
from scipy.ndimage import gaussian_filter1d, map_coordinates

from assay.contracts import MarkKind
from assay.draft.scene import MM_PER_PX, Proposal, Scene

DIRECTIONS = 12
PERIODS_MM = (1.4, 1.9, 2.6, 3.5, 4.7)
ALONG = 1.1
"""Standard deviation of a filter along its line, in periods."""
ACROSS_MM = 0.45
ASIDE_MM = (2.2, 3.4)
"""Where, on both sides of the line, it is looked whether the pattern covers an area."""
SOFT = 1.2
"""Lightness, L*: energy of sensor noise and grain that is no row."""
ROW_FROM = 0.3
"""Share of a point's energy that its line must have alone, 0 to 1; set on drawn pictures."""
GOES_ON = 0.6
"""Following, a row ends where this share of ``ROW_FROM`` is not reached."""
STEP_MM = 0.75
FEWEST_PERIODS = 4.0
LEAST_MM = 9.0
NEAR_MM = 1.6
"""Rows nearer to each other than this are one."""
MOST = 24
MOST_STEPS = 600
LEAST_POINTS = 6
"""Of a line that is followed, steps."""
JOINED_MM = 5.0
"""Two lines that go on in each other are one across such a gap."""
ONE_WAY = 0.9
"""Cosine of the angle between them."""
SMOOTH_STEPS = 2.0


def rows(scene: Scene, holes: np.ndarray) -> Iterator[Proposal]:
    """Lines that may be rows, the strongest first. ``holes``: (h, w) bool, painted over before anything is sought."""
    energy, period = _energy(scene, holes)
    strongest = energy.max(0)
    found = []
    for line in _joined(_lines(energy)):
        at = np.round(line).astype(int)
        own = float(np.median(period[at[:, 1], at[:, 0]]))
        length = float(np.hypot(*np.diff(line, axis=0).T).sum()) * MM_PER_PX
        if length >= max(LEAST_MM, FEWEST_PERIODS * own):
            found.append((float(np.median(strongest[at[:, 1], at[:, 0]])), line))
    for _, line in sorted(found, key=lambda row: -row[0])[:MOST]:
        yield Proposal("seam", "", MarkKind.PATH, scene.to_picture(_simple(line)), "row")


def _lines(energy: np.ndarray) -> list[np.ndarray]:
    """(N, 2) each, finder pixels: lines followed from the strongest point that none has passed yet."""
    strongest = energy.max(0)
    taken, lines = np.zeros(strongest.shape, bool), []
    for _ in range(8 * MOST):
        best = np.where(taken, 0.0, strongest)
        peak = tuple(int(at) for at in np.unravel_index(int(best.argmax()), best.shape))
        if best[peak] < ROW_FROM:
            break
        line = _followed(energy, np.array([peak[1], peak[0]], float), int(energy[:, peak[0], peak[1]].argmax()), taken)
        _take(taken, line)
        if len(line) >= LEAST_POINTS:
            lines.append(_smooth(line))
    return lines


def _joined(lines: list[np.ndarray]) -> list[np.ndarray]:
    """Lines that go on in each other as one."""
    lines = list(lines)
    while True:
        pair = next(
            ((i, j, ours, theirs) for i in range(len(lines)) for j in range(i) for ours, theirs in _ways(lines, i, j)),
            None,
        )
        if pair is None:
            return lines
        i, j, ours, theirs = pair
        lines[j] = np.vstack([ours, theirs])
        del lines[i]


def _ways(lines: list[np.ndarray], i: int, j: int) -> Iterator[tuple[np.ndarray, np.ndarray]]:
    """The two lines, turned so that one goes on in the other, where they do."""
    for ours in (lines[i], lines[i][::-1]):
        for theirs in (lines[j], lines[j][::-1]):
            gap = theirs[0] - ours[-1]
            across = float(np.hypot(*gap))
            if across > JOINED_MM / MM_PER_PX:
                continue
            out, goes_in = ours[-1] - ours[-LEAST_POINTS], theirs[LEAST_POINTS - 1] - theirs[0]
            straight = (_cosine(out, goes_in), _cosine(out, gap + 0.3 * out), _cosine(goes_in, gap + 0.3 * goes_in))
            if min(straight) > ONE_WAY:
                yield ours, theirs


def _cosine(a: np.ndarray, b: np.ndarray) -> float:
    return float(a @ b / (np.hypot(*a) * np.hypot(*b) + 1e-9))


def _smooth(line: np.ndarray) -> np.ndarray:
    """Without the jitter of single steps; its ends stay."""
    return np.vstack([line[:1], gaussian_filter1d(line, SMOOTH_STEPS, axis=0, mode="nearest")[1:-1], line[-1:]])


def _energy(scene: Scene, holes: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(DIRECTIONS, h, w) float32, 0 to 1: how much a line of each direction stands out; and (h, w) its period, mm."""
    light = cv2.inpaint(scene.lab[..., 0], holes.astype(np.uint8), 3, cv2.INPAINT_TELEA)
    light -= cv2.GaussianBlur(light, (0, 0), 1.5 / MM_PER_PX)
    light[~scene.inside] = 0.0
    shape = [fft.next_fast_len(n) for n in light.shape]
    spectrum = fft.fft2(light, shape).astype(np.complex64)
    fy, fx = np.meshgrid(fft.fftfreq(shape[0]), fft.fftfreq(shape[1]), indexing="ij")
    found = np.zeros((DIRECTIONS, *light.shape), np.float32)
    period = np.zeros(light.shape, np.float32)
    best = np.zeros(light.shape, np.float32)
    for n in range(DIRECTIONS):
        turn = np.pi * n / DIRECTIONS
        along, across = fx * np.cos(turn) + fy * np.sin(turn), -fx * np.sin(turn) + fy * np.cos(turn)
        for mm in PERIODS_MM:
            px = mm / MM_PER_PX
            window = np.exp(
                -2 * np.pi**2 * ((along - 1 / px) ** 2 * (ALONG * px) ** 2 + across**2 * (ACROSS_MM / MM_PER_PX) ** 2)
            )
            height, width = light.shape
            size = np.abs(fft.ifft2(spectrum * window.astype(np.float32)))[:height, :width]
            share = _alone(size, turn)
            better = share > found[n]
            found[n][better] = share[better]
            strongest = share > best
            period[strongest], best[strongest] = mm, share[strongest]
    found[:, ~scene.inside] = 0.0
    return found, period


def _alone(size: np.ndarray, turn: float) -> np.ndarray:
    """Share of a line's energy that is not found beside it as well."""
    beside = np.zeros_like(size)
    normal = np.array([-np.sin(turn), np.cos(turn)]) / MM_PER_PX
    for mm in ASIDE_MM:
        for sign in (1, -1):
            dx, dy = sign * mm * normal
            moved = cv2.warpAffine(size, np.array([[1, 0, dx], [0, 1, dy]], np.float32), size.shape[::-1])
            beside += moved / (2 * len(ASIDE_MM))
    return np.clip(size - beside, 0.0, None) / (size + beside + SOFT)


def _followed(energy: np.ndarray, start: np.ndarray, direction: int, taken: np.ndarray) -> np.ndarray:
    """(N, 2) finder pixels: the line through ``start``, followed both ways."""
    ways = []
    for sign in (1.0, -1.0):
        way: list[np.ndarray] = []
        at, turn = start, np.pi * direction / DIRECTIONS + (np.pi if sign < 0 else 0.0)
        while len(way) < MOST_STEPS and (step := _step(energy, at, turn, taken)) is not None:
            at, turn = step
            way.append(at)
        ways.append(way)
    return np.array([*reversed(ways[1]), start, *ways[0]])


def _step(energy: np.ndarray, at: np.ndarray, turn: float, taken: np.ndarray) -> tuple[np.ndarray, float] | None:
    """The next point and the line's direction there; None: it ends."""
    normal = np.array([-np.sin(turn), np.cos(turn)])
    ahead = at + STEP_MM / MM_PER_PX * np.array([np.cos(turn), np.sin(turn)])
    aside = np.arange(-2, 3) * 0.5
    spots = ahead + aside[:, None] * normal
    nearby = [(round(turn / np.pi * DIRECTIONS) + k) % DIRECTIONS for k in (-1, 0, 1)]
    seen = np.array([map_coordinates(energy[n], spots[:, ::-1].T, order=1, cval=0.0) for n in nearby])
    row, column = np.unravel_index(int(seen.argmax()), seen.shape)
    there = np.round(spots[column]).astype(int)
    if seen[row, column] < GOES_ON * ROW_FROM or taken[there[1], there[0]]:
        return None
    moved = spots[column] - at
    # The line's own run tells its direction better than twelve filters.
    own = turn + _wrapped(np.arctan2(moved[1], moved[0]) - turn)
    filtered = np.pi * nearby[row] / DIRECTIONS
    filtered += np.pi * round((turn - filtered) / np.pi)
    return spots[column], turn + 0.5 * (filtered - turn) + 0.25 * (own - turn)


def _wrapped(angle: float) -> float:
    return float((angle + np.pi) % (2 * np.pi) - np.pi)


def _take(taken: np.ndarray, line: np.ndarray) -> None:
    width = max(1, round(2 * NEAR_MM / MM_PER_PX))
    drawn = taken.astype(np.uint8)
    cv2.polylines(drawn, [np.round(line).astype(np.int32)], isClosed=False, color=1, thickness=width)
    taken |= drawn > 0


def _simple(line: np.ndarray) -> np.ndarray:
    """As few points as follow it within a third of a millimetre."""
    kept = cv2.approxPolyDP(line.astype(np.float32), 0.3 / MM_PER_PX, closed=False)
    return kept[:, 0]
