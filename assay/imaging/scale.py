"""Scale without the bench card: a bank card, two points of known distance, four corners of a known rectangle.

Sources: ISO/IEC 7810 ID-1, 85.60 × 53.98 mm (an unused card lies within 85.47–85.72 × 53.92–54.03); uncertainty by the
law of propagation, JCGM 100:2008, 5.1.2. A card's corners are round: its straight edges are used.
Refuses: ``points_too_near``, ``length_not_usable``, ``corners_not_a_rectangle``, ``no_id1_card``.
"""

import cv2
import numpy as np

from assay.errors import CannotMeasure
from assay.imaging.plane import Corners, Plane, camera_model_of, fitted, scaled
from assay.imaging.pyramid import Pyramid, level_of

ID1_MM = (85.60, 53.98)
# How well a person puts a point on an edge, px; and how well a length or a card is known, relative.
CLICK_PX = 1.5
LENGTH_KNOWN = 0.003
ID1_KNOWN = 0.0012
FEWEST_PX = 60
# A clicked rectangle whose longest side is a smaller share of the picture's than this tells no perspective: its sides
# give a plain scale.
LEAST_SHARE = 0.25
# An unknown leaning of the camera shortens what two points measure: cos 8°.
LEANING = 0.01
SOUGHT_SIDE = 900
ID1_RATIO = ID1_MM[0] / ID1_MM[1]
RATIO_OFF = 0.045
EDGE_SAMPLES = 60
EDGE_REACH_PX = 9


def from_two_points(px: np.ndarray, mm: float) -> Plane:
    """A plain scale from two points (2, 2) that lie ``mm`` apart."""
    if not (np.isfinite(mm) and 1 <= mm <= 2000):
        raise CannotMeasure("length_not_usable", mm=mm)
    length = float(np.hypot(*np.diff(np.asarray(px, float), axis=0)[0]))
    if length < FEWEST_PX:
        raise CannotMeasure("points_too_near", px=round(length))
    relative = float(np.sqrt(2 * (CLICK_PX / length) ** 2 + LENGTH_KNOWN**2 + LEANING**2))
    return scaled(mm / length, relative, "two_points")


def from_rectangle(
    px: np.ndarray,
    size_mm: tuple[float, float],
    source: str = "rectangle",
    off_px: float = CLICK_PX,
    picture_px: tuple[int, int] | None = None,
) -> Plane:
    """The surface on which four corners (4, 2), clockwise from the top left one, are a rectangle of ``size_mm``.

    One that is small in a picture of ``picture_px`` gives a plain scale: a click's error would tilt the surface.
    """
    width, height = size_mm
    if not all(np.isfinite(side) and 5 <= side <= 2000 for side in size_mm):
        raise CannotMeasure("length_not_usable", mm=min(size_mm))
    px = np.asarray(px, np.float32)
    if not cv2.isContourConvex(px.reshape(-1, 1, 2)) or cv2.contourArea(px) < FEWEST_PX**2 / 2:
        raise CannotMeasure("corners_not_a_rectangle")
    known = ID1_KNOWN if source == "id1" else LENGTH_KNOWN
    longest = float(np.hypot(*(px - np.roll(px, 1, axis=0)).T).max())
    if picture_px and longest < LEAST_SHARE * max(picture_px):
        around = float(np.hypot(*(px - np.roll(px, 1, axis=0)).T).sum())
        # Each corner's error moves two sides: that of the way round is 2·√2 of one coordinate's.
        relative = float(np.sqrt(8 * (off_px / around) ** 2 + known**2 + LEANING**2))
        return scaled(2 * (width + height) / around, relative, source)
    corners = np.array([[0, 0], [width, 0], [width, height], [0, height]], float)
    return Plane(fitted(corners, px), known, source, Corners(corners, np.asarray(px, float), off_px))


def find_id1(pyramid: Pyramid) -> tuple[Plane, np.ndarray]:
    """A bank card lying in the picture, and its corners (4, 2) in pixels. Raises CannotMeasure ``no_id1_card``."""
    small, scale = level_of(pyramid, SOUGHT_SIDE)
    grey = cv2.GaussianBlur(cv2.cvtColor(small, cv2.COLOR_RGB2GRAY), (0, 0), 1.0)
    grey_whole = cv2.cvtColor(pyramid.rgb, cv2.COLOR_RGB2GRAY)
    best: tuple[float, np.ndarray] | None = None
    for edges in (cv2.Canny(grey, 20, 60), cv2.Canny(grey, 50, 140)):
        curves, _ = cv2.findContours(cv2.dilate(edges, np.ones((3, 3))), cv2.RETR_LIST, cv2.CHAIN_APPROX_SIMPLE)
        for curve in curves:
            corners = _four_corners(curve)
            if corners is None:
                continue
            corners = (corners + 0.5) / scale - 0.5
            # The first look starts from a polygon that cuts the round corners; the next ones from true edges.
            for _ in range(3):
                corners = _by_edges(grey_whole, corners) if corners is not None else None
            if corners is None:
                continue
            ratio = _ratio(corners, pyramid.size)
            misfit = abs(ratio / ID1_RATIO - 1)
            if misfit < RATIO_OFF and (best is None or misfit < best[0]):
                best = (misfit, corners)
    if best is None:
        raise CannotMeasure("no_id1_card")
    return from_rectangle(best[1], ID1_MM, "id1", off_px=0.4), best[1]


def _four_corners(curve: np.ndarray) -> np.ndarray | None:
    """Where the four long straight sides of a closed contour would meet, long side first; None where it has no four."""
    hull = cv2.convexHull(curve)
    area = cv2.contourArea(hull)
    if area < 2500:
        return None
    for coarse in (0.02, 0.035, 0.05):
        shape = cv2.approxPolyDP(hull, coarse * cv2.arcLength(hull, closed=True), closed=True)[:, 0].astype(float)
        if len(shape) == 4 and cv2.contourArea(shape.astype(np.float32)) > 0.93 * area:
            break
    else:
        return None
    if cv2.contourArea(shape.astype(np.float32), oriented=True) < 0:
        shape = shape[::-1]
    sides = np.hypot(*(np.roll(shape, -1, axis=0) - shape).T)
    return np.roll(shape, -1, axis=0) if sides[0] + sides[2] < sides[1] + sides[3] else shape


def _by_edges(grey: np.ndarray, corners: np.ndarray) -> np.ndarray | None:
    """Corners as crossings of lines fitted to the steepest change along each side's straight part, at full size."""
    lines = []
    middle = corners.mean(0)
    for here, there in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        along = (there - here) / (np.hypot(*(there - here)) + 1e-9)
        normal = np.array([along[1], -along[0]])
        normal *= np.sign(normal @ ((here + there) / 2 - middle)) or 1.0
        spots = here + np.linspace(0.14, 0.86, EDGE_SAMPLES)[:, None] * (there - here)
        across = np.arange(-EDGE_REACH_PX, EDGE_REACH_PX + 0.5, 0.5)
        grid = spots[:, None] + across[None, :, None] * normal
        profile = cv2.remap(grey, grid.astype(np.float32), None, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        step = np.abs(np.gradient(cv2.GaussianBlur(profile.astype(np.float32), (5, 1), 0), axis=1))
        clear = step.max(1) > 0.4 * np.median(step.max(1))
        found = spots + across[step.argmax(1)][:, None] * normal
        if clear.sum() < EDGE_SAMPLES // 2:
            return None
        vx, vy, x, y = cv2.fitLine(found[clear].astype(np.float32), cv2.DIST_HUBER, 0, 0.01, 0.01).ravel()
        lines.append(np.cross([x, y, 1.0], [x + vx, y + vy, 1.0]))
    # Side n runs from corner n to the next: corner n is where it meets the side before.
    meets = [np.cross(lines[n - 1], lines[n]) for n in range(4)]
    if any(abs(m[2]) < 1e-9 for m in meets):
        return None
    return np.array([m[:2] / m[2] for m in meets])


def _ratio(corners: np.ndarray, size: tuple[int, int]) -> float:
    """Length over width of the rectangle that these corners show, for a camera like a phone's (Zhang & He, 2007)."""
    if not cv2.isContourConvex(corners.astype(np.float32).reshape(-1, 1, 2)):
        return 0.0
    unit = fitted(np.array([[0, 0], [1, 0], [1, 1], [0, 1]]), corners)
    bare = np.linalg.inv(camera_model_of(size).camera) @ unit
    return float(np.linalg.norm(bare[:, 0]) / np.linalg.norm(bare[:, 1]))
