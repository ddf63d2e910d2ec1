"""What light fell on the scene: from the bench card's patches to true colour, with what remains unsure.

What: a tone curve a channel from the grey steps (white balance and the camera's curve at once) and a 3 × 3 matrix from
the colour patches, fitted in linear light; its residual by leaving each patch out in turn, in CIEDE2000.
Method: linear light per IEC 61966-2-1; Lab for D65 and 2°; differences per Sharma, Wu & Dalal, Color Res. Appl. 30(1),
2005, as scikit-image has them. The matrix keeps neutrals neutral (rows sum to 1; Finlayson & Drew, CIC 5, 1997).
Valid for surfaces in the card's light. Without a card, two spots are compared through a neutral part named in both
pictures, or directly where they lie in one picture.
Refuses: ``card_burnt_out``, ``card_too_dark``, ``neutral_not_usable``.
"""

from dataclasses import dataclass

import cv2
import numpy as np
from skimage.color import deltaE_ciede2000

from assay.contracts import Light
from assay.errors import CannotMeasure
from assay.imaging.card import COLOUR_PATCHES, GREY_PATCHES, PAPER, PAPER_SPOTS, PATCH_MM, WIDTH_MM
from assay.imaging.colour import TO_XYZ, linear_to_lab, linear_to_srgb, srgb_to_linear
from assay.imaging.plane import Plane, through

# Resolution at which the card is looked at.
PX_PER_MM = 2
CLIPPED = 251
UNDEREXPOSED = 6
# A neutral part darker than this, 0 to 255, has too few levels to be a measure for others; one whose light is so many
# times as strong in one channel as in another is no neutral in any lamp's light.
NEUTRAL_FROM = 30
LIGHT_TINT = 11.0
# Standard uncertainty of a colour seen relative to a neutral part, dE00; from the bench.
NEUTRAL_DE = 2.5
# The same of what no exposure explains; and of the exposure, as the natural logarithm of the light: drawn panels beside
# a grey strip, practice materials.
NEUTRAL_HUE_DE = 1.2
NEUTRAL_EXPOSURE = 0.25
# How far round a place a neutral part is followed, in radii of the spot; softened by so much, px; and by how many
# levels of 255 it may differ.
PART_RADII = 20
PART_SOFT_PX = 2.0
PART_LEVELS = 14
# The same three beside a tile of known reflectance: in all, by hue (practice materials), and by how much more light may
# fall on the tile than on the shoe (a tile that lies 25 mm nearer to the camera has 5.6 % more).
TILE_DE = 0.95
TILE_HUE_DE = 0.3
TILE_EXPOSURE = 0.04
HUE_DE = {Light.SAME_FRAME: NEUTRAL_HUE_DE, Light.TILE: TILE_HUE_DE}
EXPOSURE = {Light.SAME_FRAME: NEUTRAL_EXPOSURE, Light.TILE: TILE_EXPOSURE}
# Ridge towards no correction, against noise in twelve patches.
RIDGE = 0.002
# Where on the card the light is taken as the measure, and how far (log) its falloff is gone on with beyond the card.
MIDDLE_MM = (WIDTH_MM / 2, 48.0)
MOST_LOG_FALLOFF = 0.4
# Places a side at which the light's fall is worked out for a piece of a picture.
FALLOFF_GRID = 16
# Pull of the lens's darkening towards none, against noise in the paper's lightness.
FALLOFF_HOLD = 0.003
# Share by which the light may differ over the card before it is a doubt.
UNEVEN = 0.25
# Standard uncertainty, dE00, that a light differing over the scene leaves, per share of unevenness; from the bench.
UNEVEN_DE = 4.0


@dataclass(frozen=True, slots=True)
class Falloff:
    """How the log of the light changes over the picture: a slope from the lamp, and the lens's darker corners."""

    size: tuple[int, int]
    """Width and height of the picture, px."""
    terms: tuple[float, float, float]
    """Along x and y and with the square of the distance from the picture's middle, each in half diagonals."""
    middle_px: tuple[float, float]
    """Where the gain is 1."""

    def log_gain(self, at_px: np.ndarray) -> np.ndarray:
        """Log of the light at places (N, 2) against the light at ``middle_px``."""
        here, there = (_over_picture(p, self.size) for p in (at_px, np.array(self.middle_px)))
        return (here - there) @ np.array(self.terms)


def _over_picture(at_px: np.ndarray, size: tuple[int, int]) -> np.ndarray:
    at = (np.asarray(at_px, float).reshape(-1, 2) - (np.array(size) - 1) / 2) / (np.hypot(*size) / 2)
    return np.c_[at, (at**2).sum(1)]


@dataclass(frozen=True, slots=True)
class Correction:
    """From a picture's sRGB to true colour."""

    curves: np.ndarray
    """(3, 256) linear light for each 8-bit value of each channel."""
    matrix: np.ndarray
    """(3, 3) applied to linear light."""
    residual_de00: float
    """Median difference of patches that were left out of the fit."""
    uneven: float
    """Share by which the light differs over the card."""
    doubts: tuple[str, ...] = ()
    falloff: "Falloff | None" = None
    light: Light = Light.CARD

    def lab(self, rgb: np.ndarray, at_px: np.ndarray | None = None) -> np.ndarray:
        """True colour of values (…, 3), 0 to 255, as Lab (D65).

        ``at_px`` (…, 2): where they lie in the picture: the light's fall over the card is gone on with.
        """
        flat = np.asarray(rgb, float).reshape(-1, 3)
        linear = np.stack([np.interp(flat[:, c], np.arange(256), self.curves[c]) for c in range(3)], 1)
        if at_px is not None and self.falloff is not None:
            linear = (
                linear / np.exp(np.clip(self.falloff.log_gain(at_px), -MOST_LOG_FALLOFF, MOST_LOG_FALLOFF))[:, None]
            )
        return linear_to_lab(linear @ self.matrix.T).reshape(np.shape(rgb))

    def corrected(self, rgb: np.ndarray, onto: np.ndarray) -> np.ndarray:
        """A piece of the picture (H, W, 3) uint8 as it would look in even daylight; ``onto``: 3 × 3, its pixels to the
        picture's, for the light's fall."""
        height, width = rgb.shape[:2]
        linear = np.stack([self.curves[c][rgb[..., c]] for c in range(3)], -1).astype(np.float32)
        if self.falloff is not None:
            # The fall is gentle: known on a coarse grid, it is known everywhere.
            x, y = np.meshgrid(np.linspace(0, width - 1, FALLOFF_GRID), np.linspace(0, height - 1, FALLOFF_GRID))
            gain = self.falloff.log_gain(through(onto, np.stack([x, y], -1).reshape(-1, 2)))
            gain = np.exp(-np.clip(gain, -MOST_LOG_FALLOFF, MOST_LOG_FALLOFF)).reshape(FALLOFF_GRID, FALLOFF_GRID)
            linear *= cv2.resize(gain.astype(np.float32), (width, height), interpolation=cv2.INTER_LINEAR)[..., None]
        return np.round(linear_to_srgb(linear @ self.matrix.T.astype(np.float32))).astype(np.uint8)

    @property
    def uncertainty_de00(self) -> float:
        """Standard uncertainty of a colour in this light."""
        return float(np.hypot(self.residual_de00, UNEVEN_DE * self.uneven))

    @property
    def hue_uncertainty_de00(self) -> float:
        """The same of what no exposure explains."""
        return HUE_DE.get(self.light, self.uncertainty_de00)

    @property
    def exposure_uncertainty(self) -> float:
        """Of how long was exposed, as the natural logarithm of the light: a card's greys tell it, a neutral part does
        not, a tile as far as it lies in the same light."""
        return EXPOSURE.get(self.light, 0.0)


@dataclass(frozen=True, slots=True)
class Patches:
    """What the card shows in a picture: measured against nominal, 0 to 255."""

    seen: np.ndarray
    """(18, 3) medians, freed of uneven light: grey steps, then colours."""
    paper: np.ndarray
    """(3,) the bare paper."""
    uneven: float
    falloff: Falloff


def correction_from_card(rgb: np.ndarray, plane: Plane, printed: float = 1.0) -> Correction:
    """Fit the correction. ``rgb`` (H, W, 3) uint8; ``plane``: the card's; ``printed``: true over nominal size."""
    patches = read_patches(rgb, plane, printed)
    nominal = np.array([colour for _, colour in (*GREY_PATCHES, *COLOUR_PATCHES)], float)
    greys = len(GREY_PATCHES)
    curves = _curves(np.vstack([patches.seen[:greys], patches.paper]), np.r_[nominal[:greys, 0], PAPER])
    usable = (patches.seen.max(1) < CLIPPED) & (patches.seen.max(1) > UNDEREXPOSED)
    seen = np.stack([np.interp(patches.seen[:, c], np.arange(256), curves[c]) for c in range(3)], 1)[usable]
    wanted = srgb_to_linear(nominal)[usable]
    matrix, left_out = _matrix(seen, wanted)
    residual = deltaE_ciede2000(linear_to_lab(left_out), linear_to_lab(wanted))
    doubts = ("uneven_light",) if patches.uneven > UNEVEN else ()
    return Correction(
        curves, matrix, round(float(np.median(residual)), 3), round(patches.uneven, 3), doubts, patches.falloff
    )


NEUTRAL_RADIUS_PX, NEUTRAL_RADIUS_SHARE = 4, 0.003
"""A neutral part is at least so large round its place: pixels, and share of the picture's longer side."""


def correction_from_neutral(rgb: np.ndarray, at: tuple[float, float], reflectance: float | None = None) -> Correction:
    """A correction by a part that is known to be neutral: colours become true against it. Lightness stays as the camera
    exposed it, unless the part's ``reflectance``, 0 to 1, is known. The part is taken as far as it looks the same.

    Raises CannotMeasure ``neutral_not_usable`` or ``marks_off_picture``.
    """
    x, y = (round(n) for n in at)
    height, width = rgb.shape[:2]
    if not (0 <= x < width and 0 <= y < height):
        raise CannotMeasure("marks_off_picture", width=width, height=height)
    reach = round(max(NEUTRAL_RADIUS_PX, NEUTRAL_RADIUS_SHARE * max(width, height)))
    seen = _part_around(rgb, (x, y), reach)
    light = srgb_to_linear(seen.reshape(-1, 3)).mean(0)
    brightest = linear_to_srgb(light).max()
    if brightest >= CLIPPED or brightest < NEUTRAL_FROM or light.max() > LIGHT_TINT * max(light.min(), 1e-5):
        raise CannotMeasure("neutral_not_usable")
    known = reflectance is not None
    gain = (reflectance if known else float(light @ TO_XYZ[1])) / light
    curves = srgb_to_linear(np.arange(256))[None] * gain[:, None]
    how = Light.TILE if known else Light.SAME_FRAME
    return Correction(curves, np.eye(3), TILE_DE if known else NEUTRAL_DE, 0.0, light=how)


def _part_around(rgb: np.ndarray, at: tuple[int, int], reach: int) -> np.ndarray:
    """(N, 3) pixels round a place that look the same as it, grain evened out; at least those within ``reach`` px."""
    x, y = at
    most = PART_RADII * reach
    left, top = max(0, x - most), max(0, y - most)
    piece = np.ascontiguousarray(rgb[top : y + most + 1, left : x + most + 1])
    near = np.s_[max(0, y - top - reach) : y - top + reach + 1, max(0, x - left - reach) : x - left + reach + 1]
    soft = cv2.GaussianBlur(piece, (0, 0), PART_SOFT_PX)
    flags = 4 | cv2.FLOODFILL_FIXED_RANGE | cv2.FLOODFILL_MASK_ONLY | (255 << 8)
    mask = np.zeros((piece.shape[0] + 2, piece.shape[1] + 2), np.uint8)
    cv2.floodFill(soft, mask, (x - left, y - top), 0, (PART_LEVELS,) * 3, (PART_LEVELS,) * 3, flags)
    inner = cv2.erode(mask[1:-1, 1:-1], np.ones((5, 5), np.uint8), borderType=cv2.BORDER_CONSTANT, borderValue=0) > 0
    whole = piece[inner]
    return whole if len(whole) > piece[near].size / 3 else piece[near]


def read_patches(rgb: np.ndarray, plane: Plane, printed: float = 1.0) -> Patches:
    """Medians of every patch, held against the paper around it. Raises CannotMeasure."""
    paper = _medians(rgb, plane, np.array(PAPER_SPOTS), 1.3, printed)
    lightest = np.median(paper.max(1))
    if lightest >= CLIPPED:
        raise CannotMeasure("card_burnt_out")
    if lightest < 4 * UNDEREXPOSED:
        raise CannotMeasure("card_too_dark")
    falloff = _falloff(
        plane.to_px(np.array(PAPER_SPOTS) * printed), paper, rgb.shape[1::-1], plane.to_px(np.array([MIDDLE_MM]))[0]
    )
    middles = np.array([(x + PATCH_MM / 2, y + PATCH_MM / 2) for (x, y), _ in (*GREY_PATCHES, *COLOUR_PATCHES)])
    gain = np.exp(falloff.log_gain(plane.to_px(middles * printed)))[:, None]
    over_paper = np.exp(falloff.log_gain(plane.to_px(np.array(PAPER_SPOTS) * printed)))
    seen = _medians(rgb, plane, middles, PATCH_MM * 0.32, printed)
    evened = linear_to_srgb(srgb_to_linear(seen) / gain)
    # Burnt-out patches stay so: dividing must not make them look usable.
    evened = np.where(seen >= CLIPPED, 255, evened)
    even_paper = linear_to_srgb(np.median(srgb_to_linear(paper) / over_paper[:, None], axis=0))
    return Patches(evened, even_paper, float(over_paper.max() / over_paper.min() - 1), falloff)


def _medians(rgb: np.ndarray, plane: Plane, middles_mm: np.ndarray, half_mm: float, printed: float) -> np.ndarray:
    """(N, 3) medians of squares round places on the card, looked at every PX_PER_MM-th of a mm."""
    half = max(1, round(half_mm * PX_PER_MM))
    around = np.arange(-half, half + 1)
    x, y = np.round(np.array(middles_mm) * PX_PER_MM).T
    squares = np.broadcast_arrays(x[:, None, None] + around, y[:, None, None] + around[:, None])
    at = plane.to_px(np.stack(squares, -1).reshape(-1, 2) * printed / PX_PER_MM).reshape(len(x), -1, 2)
    spots = cv2.remap(rgb, at.astype(np.float32), None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return np.median(spots, axis=1)


def _falloff(spots_px: np.ndarray, paper: np.ndarray, size: tuple[int, int], middle_px: np.ndarray) -> Falloff:
    """Robust against a spot in shadow or under a finger; held towards no bend where the card tells little of it."""
    rows = np.c_[np.ones(len(spots_px)), _over_picture(spots_px, size)]
    light = np.log(srgb_to_linear(paper).mean(1) + 1e-5)
    weight, hold = np.ones(len(light)), np.diag([0, 0, 0, FALLOFF_HOLD])
    for _ in range(6):
        heavy = rows * weight[:, None] ** 2
        found = np.linalg.solve(heavy.T @ rows + hold, heavy.T @ light)
        residual = np.abs(light - rows @ found)
        weight = 1 / np.maximum(1.0, residual / (2.5 * np.quantile(residual, 0.5) + 1e-4))
    across, down, outwards = (float(term) for term in found[1:])
    return Falloff(size, (across, down, outwards), (float(middle_px[0]), float(middle_px[1])))


def _curves(seen: np.ndarray, nominal: np.ndarray) -> np.ndarray:
    """Linear light for every 8-bit value of a channel, through the grey steps and the paper, straight from one to the
    next in logarithms (smoother ways between them left colours no truer); clipped steps left out."""
    wanted, every = srgb_to_linear(nominal), np.log(srgb_to_linear(np.maximum(np.arange(256), 0.5)))
    curves = []
    for channel in range(3):
        levels = seen[:, channel]
        order = [n for n in np.argsort(levels) if UNDEREXPOSED < levels[n] < CLIPPED]
        if len(order) < 4:
            raise CannotMeasure("card_burnt_out" if np.median(levels) > 128 else "card_too_dark")
        x = srgb_to_linear(levels[order])
        keep = np.r_[True, np.diff(x) > 1e-4]
        x, y = np.log(x[keep]), np.log(np.maximum.accumulate(wanted[order])[keep] + np.arange(keep.sum()) * 1e-9)
        # Beyond the steps the curve goes on as a plain gain.
        curves.append(np.exp(np.interp(every, x, y) + (every - np.clip(every, x[0], x[-1]))))
    return np.array(curves)


def _matrix(seen: np.ndarray, wanted: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Least squares with rows that sum to 1, each patch weighted by how the eye sees its error (about L*'s slope).

    Also what each patch becomes by the fit to all the others: a residual over one minus its leverage (Allen,
    Technometrics 16(1), 1974).
    """
    weight = 1 / (wanted.mean(1) + 0.03) ** (2 / 3)
    rows, left_out = np.zeros((3, 3)), np.zeros_like(seen)
    for channel in range(3):
        # Row = unit vector + a combination of the two directions that leave neutrals alone.
        others = [k for k in range(3) if k != channel]
        spread = (seen[:, others] - seen[:, [channel]]) * weight[:, None]
        left = (wanted[:, channel] - seen[:, channel]) * weight
        back = np.linalg.inv(spread.T @ spread + RIDGE * np.eye(2)) @ spread.T
        share = back @ left
        leverage = np.einsum("nk,kn->n", spread, back)
        missed = (left - spread @ share) / (1 - leverage)
        left_out[:, channel] = wanted[:, channel] - missed / weight
        rows[channel, channel], rows[channel, others] = 1 - share.sum(), share
    return rows, left_out
