"""How a flat surface lies in a photograph: pixels to millimetres and back, with what is not known about it.

A plane is a homography (Hartley & Zisserman, *Multiple View Geometry*, 2nd ed., ch. 2 and 8). Where only a length is
known it is a plain scale. A surface nearer to the camera than the plane looks larger: ``raised`` moves the plane, for
which the camera's focal length must be known or assumed.
"""

from dataclasses import dataclass, replace

import cv2
import numpy as np

from assay.errors import CannotMeasure

# Diagonal of the 35 mm frame, mm (36 × 24), against which "35 mm equivalent" focal lengths are given.
FRAME_DIAGONAL_MM = 43.267
# Main cameras of phones lie at 23 to 28 mm equivalent.
ASSUMED_FOCAL_35MM = 26.0
# Standard uncertainty of that assumption, relative: it may have been the phone's tele lens, three times as long, and
# what a height changes is then a third of what is believed.
ASSUMED_FOCAL_OFF = 0.66
# The same where the camera wrote its focal length, rounded to whole mm.
KNOWN_FOCAL_OFF = 0.04


@dataclass(frozen=True, slots=True)
class CameraModel:
    """The camera as far as it matters: where its axis meets the picture, and its focal length."""

    centre: tuple[float, float]
    """Pixels."""
    focal_px: float
    focal_off: float
    """Relative standard uncertainty of the focal length."""

    @property
    def camera(self) -> np.ndarray:
        """3 × 3 camera matrix."""
        return np.array([[self.focal_px, 0, self.centre[0]], [0, self.focal_px, self.centre[1]], [0, 0, 1.0]])


def camera_model_of(size: tuple[int, int], focal_35mm: float | None = None) -> CameraModel:
    """The camera of a picture of ``size`` (width, height); ``focal_35mm`` as cameras write it (EXIF tag 41989)."""
    focal, u_focal = (focal_35mm, KNOWN_FOCAL_OFF) if focal_35mm else (ASSUMED_FOCAL_35MM, ASSUMED_FOCAL_OFF)
    diagonal = float(np.hypot(*size))
    return CameraModel(((size[0] - 1) / 2, (size[1] - 1) / 2), focal / FRAME_DIAGONAL_MM * diagonal, u_focal)


@dataclass(frozen=True, slots=True, eq=False)
class Corners:
    """Four corners that a plane rests on, and how far each may be off."""

    mm: np.ndarray
    """(4, 2) on the surface."""
    px: np.ndarray
    """(4, 2) in the picture."""
    off_px: float
    """Standard uncertainty of a corner in x and in y, px."""


@dataclass(frozen=True, slots=True)
class Plane:
    """A surface in a photograph."""

    matrix: np.ndarray
    """3 × 3, millimetres on the surface to picture pixels."""
    relative_uncertainty: float
    """Relative standard uncertainty of lengths on it."""
    source: str
    """``card``, ``id1``, ``rectangle``, ``two_points`` or ``stand``."""
    corners: Corners | None = None
    """Of a plane that rests on four corners alone: away from them it is less sure."""

    def to_px(self, mm: np.ndarray) -> np.ndarray:
        """Points (N, 2) in mm to pixels."""
        return through(self.matrix, mm)

    def to_mm(self, px: np.ndarray) -> np.ndarray:
        """Points (N, 2) in pixels to mm. Raises CannotMeasure ``beyond_horizon`` where no such place exists."""
        back = np.linalg.inv(self.matrix)
        flat = np.c_[np.asarray(px, float).reshape(-1, 2), np.ones(len(np.asarray(px).reshape(-1, 2)))] @ back.T
        front = np.sign(flat[:, 2]) == np.sign(self.matrix[2, 2] * np.linalg.det(self.matrix) or 1.0)
        if not front.all() and not (~front).all():
            raise CannotMeasure("beyond_horizon")
        return flat[:, :2] / flat[:, 2:]

    def mm_per_px(self, at: tuple[float, float]) -> float:
        """Size of a pixel at a place of the picture, mm: the root of the area it covers."""
        x, y = at
        corners = self.to_mm(np.array([[x - 0.5, y - 0.5], [x + 0.5, y - 0.5], [x - 0.5, y + 0.5]]))
        one, other = corners[1] - corners[0], corners[2] - corners[0]
        return float(np.sqrt(abs(one[0] * other[1] - one[1] * other[0])))

    def relative_at(self, px: np.ndarray) -> float:
        """Relative standard uncertainty of lengths at places (N, 2) of the picture, the largest: each corner's error
        propagated to there (JCGM 100:2008, 5.1.2, by finite differences), the direction that it distorts most."""
        if self.corners is None:
            return self.relative_uncertainty
        places = np.asarray(px, float).reshape(-1, 2)
        base, squares = np.linalg.inv(_jacobians(fitted(self.corners.mm, self.corners.px), places)), 0.0
        for corner in range(4):
            for axis in range(2):
                moved = self.corners.px.copy()
                moved[corner, axis] += self.corners.off_px
                change = _jacobians(fitted(self.corners.mm, moved), places) @ base - np.eye(2)
                squares = squares + np.linalg.norm(change, ord=2, axis=(1, 2)) ** 2
        return float(np.hypot(self.relative_uncertainty, np.sqrt(np.max(squares))))

    def tilt_deg(self, camera: CameraModel) -> float:
        """Angle between the camera's axis and the surface's normal, degrees."""
        normal = _placed(self.matrix, camera)[:, 2]
        return float(np.degrees(np.arccos(np.clip(abs(normal[2]), 0, 1))))

    def distance_mm(self, camera: CameraModel) -> float:
        """How far the camera is from the surface, along its normal, mm."""
        placed = _placed(self.matrix, camera)
        return float(abs(placed[:, 2] @ placed[:, 3]))

    def raised(self, by_mm: float, camera: CameraModel, *, unknown_mm: float = 0.0) -> "Plane":
        """The parallel surface ``by_mm`` nearer to the camera; ``unknown_mm``: standard uncertainty of that height."""
        placed = _placed(self.matrix, camera)
        away = float(placed[:, 2] @ placed[:, 3])
        matrix = camera.camera @ np.c_[placed[:, :2], placed[:, 3] - by_mm * np.sign(away) * placed[:, 2]]
        distance = abs(away)
        widened = np.hypot(self.relative_uncertainty, unknown_mm / distance)
        widened = np.hypot(widened, abs(by_mm) / distance * camera.focal_off)
        return replace(self, matrix=matrix / matrix[2, 2], relative_uncertainty=float(widened))

    def height_for(self, factor: float, camera: CameraModel) -> float:
        """How much nearer to the camera a surface lies, mm, on which lengths read on this plane are ``factor`` times
        too long (similar triangles)."""
        return self.distance_mm(camera) * (1 - 1 / factor)


def too_long_by(alignment: np.ndarray, planes: tuple[Plane, Plane], about: np.ndarray) -> float:
    """How many times too long lengths on the second picture read, if a thing is as large on both.

    ``alignment``: 2 × 3, the first picture's pixels to the second's; ``planes``: of the first and the second picture;
    ``about`` (N, 2): places of the thing on the first picture, px, that surround it.

    >>> flat = scaled(0.5, 0.0, "stand")
    >>> square = np.array([[0, 0], [100, 0], [100, 100], [0, 100.0]])
    >>> round(too_long_by(np.array([[1.1, 0, 5], [0, 1.1, 9]]), (flat, flat), square), 3)
    1.1
    """
    there = about @ alignment[:, :2].T + alignment[:, 2]
    first, second = planes[0].to_mm(about), planes[1].to_mm(there)
    return float(np.linalg.norm(second - second.mean(0)) / np.linalg.norm(first - first.mean(0)))


def through(matrix: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Points (N, 2) through a 3 × 3 homography."""
    flat = np.asarray(points, float).reshape(-1, 2) @ matrix[:, :2].T + matrix[:, 2]
    return flat[:, :2] / flat[:, 2:]


def scaled(mm_per_px: float, relative: float, source: str) -> Plane:
    """A surface square to the camera of which only the scale is known."""
    return Plane(np.diag([1 / mm_per_px, 1 / mm_per_px, 1.0]), relative, source)


def fitted(mm: np.ndarray, px: np.ndarray) -> np.ndarray:
    """The homography that takes ``mm`` (N, 2) to ``px`` (N, 2), N ≥ 4, by least squares."""
    return cv2.findHomography(np.asarray(mm, float), np.asarray(px, float), 0)[0]


def _jacobians(matrix: np.ndarray, px: np.ndarray) -> np.ndarray:
    """(N, 2, 2) how mm change with pixels at places (N, 2), for a homography from mm to pixels."""
    back = np.linalg.inv(matrix)
    flat = np.c_[px, np.ones(len(px))] @ back.T
    at = flat[:, :2] / flat[:, 2:]
    return (back[None, :2, :2] - at[:, :, None] * back[None, 2:, :2]) / flat[:, 2, None, None]


def _placed(matrix: np.ndarray, camera: CameraModel) -> np.ndarray:
    """Rotation and shift of the surface before the camera, 3 × 4 (Hartley & Zisserman, example 8.1)."""
    bare = np.linalg.inv(camera.camera) @ matrix
    scale = (np.linalg.norm(bare[:, 0]) + np.linalg.norm(bare[:, 1])) / 2
    bare = bare / scale * (np.sign(bare[2, 2]) or 1.0)
    # The nearest true rotation to the two measured columns.
    left, _, right = np.linalg.svd(np.c_[bare[:, 0], bare[:, 1]], full_matrices=False)
    turned = left @ right
    return np.c_[turned, np.cross(turned[:, 0], turned[:, 1]), bare[:, 2]]
