"""A height field in mm with colour and sheen, onto which panels, stitches and holes are laid."""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from scipy.interpolate import CubicSpline

from assay.simulator import noise
from assay.simulator.materials import Material, Rgb, linear

SUBPIXEL_BITS = 4


def curve(points: np.ndarray, step_mm: float = 0.25) -> np.ndarray:
    """Smooth line through control points, evenly stepped. (N, 2) mm to (M, 2) mm."""
    points = np.asarray(points, dtype=float)
    chord = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    spline = CubicSpline(chord, points) if len(points) > 2 else None
    fine = np.linspace(0, chord[-1], max(8, int(chord[-1] / step_mm * 2)))
    dense = spline(fine) if spline else np.stack([np.interp(fine, chord, points[:, k]) for k in (0, 1)], 1)
    length = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(dense, axis=0).T))])
    even = np.linspace(0, length[-1], max(8, int(length[-1] / step_mm)))
    return np.stack([np.interp(even, length, dense[:, k]) for k in (0, 1)], 1)


def normals(line: np.ndarray) -> np.ndarray:
    """Unit normals of a stepped line, to the left of its direction as seen on screen."""
    along = np.gradient(line, axis=0)
    along /= np.hypot(*along.T)[:, None] + 1e-12
    return np.stack([along[:, 1], -along[:, 0]], 1)


def beside(line: np.ndarray, distance_mm: float) -> np.ndarray:
    """The line moved sideways."""
    return line + normals(line) * distance_mm


@dataclass(frozen=True, slots=True)
class Thread:
    """A sewing thread and how it lies."""

    colour: Rgb
    width_mm: float = 0.7
    proud_mm: float = 0.32
    """How far it stands over the panel."""
    duty: float = 0.78
    """Visible share of the pitch."""
    across: bool = False
    """True: bar stitches, lying across the row."""
    bar_mm: float = 4.0
    """Length of a bar stitch."""
    jitter: float = 0.04
    """Scatter of places, as a share of the pitch."""


def _window(mask: np.ndarray) -> tuple[slice, slice]:
    """Bounding box of a mask with a pixel of air."""
    x, y, width, height = cv2.boundingRect((mask > 0).astype(np.uint8))
    return slice(max(0, y - 1), y + height + 1), slice(max(0, x - 1), x + width + 1)


class Relief:
    """A patch of surface seen from above: height, colour, sheen."""

    def __init__(self, size_mm: tuple[float, float], mm_per_px: float, rng: np.random.Generator) -> None:
        """Start flat, grey and dull. ``size_mm``: width, height."""
        self.mm_per_px = mm_per_px
        self.rng = rng
        self.shape = (round(size_mm[1] / mm_per_px), round(size_mm[0] / mm_per_px))
        self.height = np.zeros(self.shape, np.float32)
        self.albedo = np.full((*self.shape, 3), 0.2, np.float32)
        self.gloss = np.zeros(self.shape, np.float32)
        self.shininess = np.full(self.shape, 8, np.float32)
        self.solid = np.zeros(self.shape, np.float32)
        self.emits = np.zeros((*self.shape, 3), np.float32)
        """Linear light of its own under an ultraviolet lamp."""

    def px(self, points_mm: np.ndarray) -> np.ndarray:
        """Millimetres to pixels."""
        return np.asarray(points_mm, dtype=float) / self.mm_per_px

    def mask(self, polygon_mm: np.ndarray) -> np.ndarray:
        """Coverage 0 to 1 of a polygon, anti-aliased."""
        canvas = np.zeros(self.shape, np.uint8)
        corners = np.round(self.px(polygon_mm) * 2**SUBPIXEL_BITS).astype(np.int32)
        cv2.fillPoly(canvas, [corners], 255, cv2.LINE_AA, SUBPIXEL_BITS)
        return canvas.astype(np.float32) / 255

    def depth_inside(self, mask: np.ndarray) -> np.ndarray:
        """Distance to the rim in mm, inside a mask."""
        inside = (mask > 0.5).astype(np.uint8)
        return cv2.distanceTransform(inside, cv2.DIST_L2, 5) * self.mm_per_px

    def panel(
        self,
        polygon_mm: np.ndarray,
        material: Material,
        thickness_mm: float,
        *,
        edge_mm: float = 0.9,
        within: np.ndarray | None = None,
    ) -> np.ndarray:
        """Lay a panel on top, cut to the mask ``within`` where one is given; returns its mask."""
        mask = self.mask(polygon_mm)
        if within is not None:
            mask *= within
        window = _window(mask)
        self.skin(mask, material)
        rise = np.clip(self.depth_inside(mask[window]) / edge_mm, 0, 1)
        self.height[window] += thickness_mm * rise * rise * (3 - 2 * rise)
        return mask

    def skin(self, mask: np.ndarray, material: Material) -> None:
        """Give the masked area a material's grain, colour and sheen."""
        window = _window(mask)
        mask = mask[window]
        grain = noise.spread_tile(material.tile(self.mm_per_px, int(self.rng.integers(3))), mask.shape, self.rng)
        strength = 0.75 + 0.35 * noise.clouds(mask.shape, 18 / self.mm_per_px, self.rng)
        self.height[window] += mask * grain * strength * material.depth_mm
        tone = 1 + material.mottle * noise.clouds(mask.shape, 9 / self.mm_per_px, self.rng)
        tone += (0.35 * material.mottle + 0.02) * grain
        self.albedo[window] += mask[..., None] * (linear(material.colour) * tone[..., None] - self.albedo[window])
        self.gloss[window] += mask * (material.gloss - self.gloss[window])
        self.shininess[window] += mask * (material.shininess - self.shininess[window])
        self.solid[window] = np.maximum(self.solid[window], mask)

    def swell(self, mask: np.ndarray, radius_mm: float, height_mm: float) -> None:
        """Round an area up from its rim, like something stuffed."""
        reach = np.clip(self.depth_inside(mask) / radius_mm, 0, 1)
        dome = np.sqrt(np.clip(1 - (1 - reach) ** 2, 0, 1)) * height_mm
        self.height += cv2.GaussianBlur(dome.astype(np.float32), (0, 0), 2.4 / self.mm_per_px) * mask

    def groove(self, line_mm: np.ndarray, width_mm: float, depth_mm: float) -> None:
        """Press a soft groove along a line."""
        canvas = np.zeros(self.shape, np.uint8)
        points = np.round(self.px(line_mm) * 2**SUBPIXEL_BITS).astype(np.int32)
        cv2.polylines(
            canvas,
            [points],
            isClosed=False,
            color=255,
            thickness=max(1, round(width_mm / self.mm_per_px)),
            lineType=cv2.LINE_AA,
            shift=SUBPIXEL_BITS,
        )
        soft = cv2.GaussianBlur(canvas, (0, 0), max(0.6, width_mm / 3 / self.mm_per_px)).astype(np.float32) / 255
        self.height -= depth_mm * soft

    def sew(self, line_mm: np.ndarray, stitches: int, thread: Thread) -> np.ndarray:
        """Sew a row along a line; returns the (N, 2) centres of its stitches in mm."""
        length = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(line_mm, axis=0).T))])
        pitch = length[-1] / stitches
        places = (np.arange(stitches) + 0.5) * pitch + self.rng.normal(0, thread.jitter * pitch, stitches)
        places = places.clip(0.3 * pitch, length[-1] - 0.3 * pitch)
        centres = np.stack([np.interp(places, length, line_mm[:, k]) for k in (0, 1)], 1)
        side = normals(line_mm)
        sides = np.stack([np.interp(places, length, side[:, k]) for k in (0, 1)], 1)
        if not thread.across:
            self.groove(line_mm, 1.3 * thread.width_mm, 0.22)
        for centre, normal in zip(centres, sides, strict=True):
            along = np.array([-normal[1], normal[0]])
            half = thread.bar_mm / 2 if thread.across else thread.duty * pitch / 2
            direction = normal + 0.12 * along if thread.across else along + self.rng.normal(0, 0.05) * normal
            self._stitch(centre, direction / np.hypot(*direction), half, thread)
        return centres

    def _stitch(self, centre_mm: np.ndarray, direction: np.ndarray, half_mm: float, thread: Thread) -> None:
        reach = half_mm + 2 * thread.width_mm
        window, u, v = self._local(centre_mm, direction, reach)
        if u is None:
            return
        radius = thread.width_mm / 2
        past = np.maximum(np.abs(u) - (half_mm - radius), 0)
        away = np.hypot(past, v)
        cover = np.clip((radius - away) / self.mm_per_px + 0.5, 0, 1)
        arch = 1 - 0.55 * (np.abs(u) / half_mm).clip(0, 1) ** 3
        body = np.sqrt(np.clip(1 - (away / radius) ** 2, 0, 1)) * thread.proud_mm * arch
        twist = np.cos(2 * np.pi * (u + 0.9 * v) / (0.85 * thread.width_mm))
        pits = sum(np.exp(-(((u - s * half_mm) ** 2 + v**2) / (0.42 * thread.width_mm) ** 2)) for s in (-1, 1))
        self.height[window] += (body + 0.035 * twist * (body > 0) - 0.30 * pits * (1 - cover)).astype(np.float32)
        tone = linear(thread.colour) * (1 + 0.04 * self.rng.standard_normal()) * (1 + 0.10 * twist[..., None])
        self.albedo[window] *= (1 - 0.45 * pits * (1 - cover))[..., None]
        self.albedo[window] += cover[..., None] * (tone - self.albedo[window])
        self.gloss[window] += cover * (0.10 - self.gloss[window])

    def punch(
        self, centre_mm: np.ndarray, diameter_mm: float, *, depth_mm: float = 1.6, inside: Rgb = (38, 34, 31)
    ) -> None:
        """Punch a round hole with a slightly drawn-in rim."""
        radius = diameter_mm / 2
        window, u, v = self._local(np.asarray(centre_mm, float), np.array([1.0, 0.0]), radius + 1.5)
        if u is None:
            return
        wobble = 1 + 0.02 * np.cos(3 * np.arctan2(v, u) + self.rng.uniform(0, 6))
        away = np.hypot(u, v) * wobble
        cover = np.clip((radius - away) / self.mm_per_px + 0.5, 0, 1)
        drawn_in = np.exp(-(((away - radius) / 0.45).clip(0, None) ** 2))
        self.height[window] -= (depth_mm * cover + 0.18 * drawn_in * (1 - cover)).astype(np.float32)
        self.albedo[window] += cover[..., None] * (linear(inside) - self.albedo[window])
        self.gloss[window] *= 1 - cover

    def _local(self, centre_mm: np.ndarray, direction: np.ndarray, reach_mm: float) -> tuple[Any, ...]:
        """Window around a place, with coordinates along (u) and across (v) a direction, in mm."""
        x, y = centre_mm / self.mm_per_px
        reach = reach_mm / self.mm_per_px
        x0, x1 = max(0, int(x - reach)), min(self.shape[1], int(x + reach) + 2)
        y0, y1 = max(0, int(y - reach)), min(self.shape[0], int(y + reach) + 2)
        if x0 >= x1 or y0 >= y1:
            return None, None, None
        dx = (np.arange(x0, x1)[None, :] - x) * self.mm_per_px
        dy = (np.arange(y0, y1)[:, None] - y) * self.mm_per_px
        window = (slice(y0, y1), slice(x0, x1))
        return window, dx * direction[0] + dy * direction[1], dy * direction[0] - dx * direction[1]
