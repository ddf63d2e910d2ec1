"""Materials of a shoe, and closed marks that lie in one of them.

Method: k-means over smoothed CIELAB, lightness at half weight because a shoe is round; its centres joined to materials
by average linkage; a material's connected parts are panels, or, where one other material goes all round them, marks.
"""

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cached_property

import cv2
import numpy as np
from scipy.cluster.hierarchy import fcluster, linkage

from assay.contracts import MarkKind, Marks
from assay.draft.scene import MM_PER_PX, RIM_MM, Proposal, Scene
from assay.errors import CannotMeasure

MATERIALS = 7
LIGHTNESS_WEIGHT = 0.5
APART = 11.0
"""Two materials differ by so much in weighted CIELAB. Set on drawn pictures."""
SMOOTH_MM = 0.8
SEAM_MM = 0.5
SEAM_FROM, SEAM_OVER = 0.8, 3.0
"""Steepness of a seam, L* a finder pixel, and over the picture's median."""
MARK_MM2 = (30.0, 3000.0)
PANEL_MM2 = 150.0
ROUND_MM = 1.2, 3.0
"""From here to there round a mark it is looked what lies round it."""
ALL_ROUND = 0.85
PATCH_MM = 3.0
"""Smallest radius of a patch of colour."""
GRAIN_MM = 6.5
"""The same of a patch of texture: ten millimetres a side, as its measure asks."""
FINE_MM_PER_PX = 0.11
"""Coarser pictures show no grain."""
WITHIN = 0.8
"""Of the largest circle in a panel a patch takes so much: clear of seams."""
EDGE_MM = 22.0
EDGE_AWAY_MM = 75.0
MOST_PANELS = 5
MOST_MARKS = 3
LETTERS_MM = 5.0
"""Parts of one mark stand no further from each other."""
MOST_GROUND = 0.5
"""What fills more of a close picture is the thing itself."""


@dataclass(frozen=True)
class Part:
    """One connected part of a material."""

    mask: np.ndarray
    """(h, w) bool."""
    material: int
    seams: np.ndarray
    """(h, w) bool: edges, its own and those within it."""

    @cached_property
    def circle(self) -> tuple[np.ndarray, float]:
        """Middle (2,) and radius of the largest circle in it that no seam crosses, finder pixels."""
        plain = self.mask & ~self.seams
        inner = cv2.distanceTransform(np.pad(plain, 1).astype(np.uint8), cv2.DIST_L2, 5)[1:-1, 1:-1]
        y, x = np.unravel_index(int(inner.argmax()), inner.shape)
        return np.array([x, y], float), float(inner[y, x])

    @property
    def mm2(self) -> float:
        """Its area."""
        return float(self.mask.sum()) * MM_PER_PX**2


def patches(scene: Scene, holes: np.ndarray) -> Iterator[Proposal]:
    """Marks with an edge they are held against, then colour and texture of one panel of each material."""
    parts, labels = parts_of(scene, holes)
    marks = _words([part for part in parts if _is_mark(part, labels, scene)])
    for part in marks[:MOST_MARKS]:
        yield from _mark(part, scene)
    panels: dict[int, Part] = {}
    for part in sorted(parts, key=lambda part: -part.circle[1]):
        if not _is_ground(part) and part.mm2 > PANEL_MM2 and part.circle[1] * MM_PER_PX > PATCH_MM:
            panels.setdefault(part.material, part)
    for part in list(panels.values())[:MOST_PANELS]:
        yield from _panel(part, scene)


def parts_of(scene: Scene, holes: np.ndarray) -> tuple[list[Part], np.ndarray]:
    """Every connected part, the largest first; and (h, w) int32, the material of each pixel, -1 outside."""
    rgb = cv2.inpaint(scene.rgb, holes.astype(np.uint8), 3, cv2.INPAINT_TELEA)
    lab = cv2.cvtColor(cv2.medianBlur(rgb, 5).astype(np.float32) / 255.0, cv2.COLOR_RGB2LAB)
    lab = cv2.GaussianBlur(lab, (0, 0), SMOOTH_MM / MM_PER_PX / 2)
    weighted = lab * np.array([LIGHTNESS_WEIGHT, 1.0, 1.0], np.float32)
    pixels = weighted[scene.inside]
    if len(pixels) < MATERIALS:
        return [], np.full(scene.inside.shape, -1, np.int32)
    cv2.setRNGSeed(7)
    stop = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 30, 0.3)
    some = pixels[:: max(1, len(pixels) // 20000)]
    _, _, centres = cv2.kmeans(some, min(MATERIALS, len(some)), None, stop, 3, cv2.KMEANS_PP_CENTERS)
    merged = _merged(centres)
    nearest = np.linalg.norm(pixels[:, None] - centres[None], axis=2).argmin(1)
    labels = np.full(scene.inside.shape, -1, np.int32)
    labels[scene.inside] = merged[nearest]
    parts, seams = [], _seams(scene)
    for material in np.unique(merged):
        own = cv2.morphologyEx((labels == material).astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8))
        many, numbered, stats, _ = cv2.connectedComponentsWithStats(own, connectivity=4)
        for n in range(1, many):
            if stats[n, cv2.CC_STAT_AREA] * MM_PER_PX**2 >= MARK_MM2[0]:
                mask = numbered == n
                parts.append(Part(mask, int(material), seams))
    return sorted(parts, key=lambda part: -part.mm2), labels


def _seams(scene: Scene) -> np.ndarray:
    """(h, w) bool: where lightness changes faster than over a rounded panel or in its grain."""
    light = cv2.GaussianBlur(scene.lab[..., 0], (0, 0), SEAM_MM / MM_PER_PX)
    steep = np.hypot(cv2.Sobel(light, cv2.CV_32F, 1, 0), cv2.Sobel(light, cv2.CV_32F, 0, 1)) / 8.0
    usual = float(np.median(steep[scene.inside])) if scene.inside.any() else 0.0
    return steep > max(SEAM_FROM, SEAM_OVER * usual)


def _merged(centres: np.ndarray) -> np.ndarray:
    """(K,) the number of the material that each centre belongs to, by average linkage."""
    if len(centres) < 2:
        return np.zeros(len(centres), int)
    return fcluster(linkage(centres, "average"), APART, "distance") - 1


def _is_ground(part: Part) -> bool:
    """Of a picture without an outline: what it lies on, seen on at least three sides of the frame."""
    mask = part.mask
    # The rim of a scene is left out of every part.
    rows, columns = np.nonzero(mask.any(1))[0], np.nonzero(mask.any(0))[0]
    reach = 2 * round(RIM_MM / MM_PER_PX) + 2
    sides = (
        rows[0] < reach,
        columns[0] < reach,
        rows[-1] >= mask.shape[0] - reach,
        columns[-1] >= mask.shape[1] - reach,
    )
    return sum(sides) >= 3 and mask.mean() < MOST_GROUND


def _is_mark(part: Part, labels: np.ndarray, scene: Scene) -> bool:
    """One other material goes all round it."""
    if not MARK_MM2[0] <= part.mm2 <= MARK_MM2[1]:
        return False
    filled = _filled(part.mask)
    near, far = (cv2.dilate(filled, _disc(mm)) for mm in ROUND_MM)
    ring = (far > 0) & (near == 0)
    if not scene.inside[ring].all():
        return False
    around = labels[ring]
    own = np.bincount(around[around >= 0], minlength=MATERIALS)
    return own.max() >= ALL_ROUND * ring.sum() and int(own.argmax()) != part.material


def _words(marks: list[Part]) -> list[Part]:
    """Marks of one material that stand close together, such as letters, as one; the largest first."""
    joined: list[Part] = []
    for material in {part.material for part in marks}:
        own = [part for part in marks if part.material == material]
        near = cv2.dilate(np.any([part.mask for part in own], axis=0).astype(np.uint8), _disc(LETTERS_MM / 2))
        _, numbered = cv2.connectedComponents(near)
        for n in range(1, int(numbered.max()) + 1):
            some = [part for part in own if (numbered[part.mask] == n).any()]
            joined.append(replace(some[0], mask=np.any([part.mask for part in some], axis=0)))
    return sorted(joined, key=lambda part: -part.mm2)


def _filled(mask: np.ndarray) -> np.ndarray:
    contours, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return cv2.drawContours(np.zeros(mask.shape, np.uint8), contours, -1, 1, -1)


def _disc(mm: float) -> np.ndarray:
    reach = max(1, round(mm / MM_PER_PX))
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))


def _mark(part: Part, scene: Scene) -> Iterator[Proposal]:
    """Its tilt, place and size against the nearest long edge that is not its own."""
    outer = cv2.dilate(_filled(part.mask), _disc(ROUND_MM[1] - 0.5))
    contours, _ = cv2.findContours(outer, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    region = cv2.approxPolyDP(cv2.convexHull(contours[0]), 0.5 / MM_PER_PX, closed=True)[:, 0]
    edge = _edge(part, outer > 0, scene)
    if edge is None:
        return
    points = _uncrossed(scene, edge, region)
    for quantity in ("turned_deg", "across_mm", "width_mm") if points else ():
        yield Proposal("mark", quantity, MarkKind.REGION, points, "mark")


def _uncrossed(scene: Scene, edge: np.ndarray, region: np.ndarray) -> tuple[tuple[float, float], ...]:
    """Edge and region as one closed line that does not cross itself, in picture pixels; empty where there is none."""
    for start in range(len(region)):
        for turned in (np.roll(region, -start, axis=0), np.roll(region, -start, axis=0)[::-1]):
            points = scene.to_picture(np.vstack([edge, turned]))
            with suppress(CannotMeasure):
                Marks(MarkKind.REGION, points).checked(scene.size)
                return points
    return ()


def _edge(part: Part, own: np.ndarray, scene: Scene) -> np.ndarray | None:
    """(2, 2) the longest straight edge near it, clear of the mark itself."""
    light = np.clip(scene.lab[..., 0] * 2.55, 0, 255).astype(np.uint8)
    lines = cv2.createLineSegmentDetector().detect(light)[0]
    if lines is None:
        return None
    middle, best, longest = part.circle[0], None, EDGE_MM / MM_PER_PX
    for x0, y0, x1, y1 in lines.reshape(-1, 4):
        ends = np.array([[x0, y0], [x1, y1]], float)
        length = float(np.hypot(*(ends[1] - ends[0])))
        along = (ends[1] - ends[0]) / length
        away = abs(float(along[0] * (middle - ends[0])[1] - along[1] * (middle - ends[0])[0]))
        spots = np.round(np.linspace(ends[0], ends[1], 24)).astype(int)
        rows, columns = spots[:, 1].clip(0, own.shape[0] - 1), spots[:, 0].clip(0, own.shape[1] - 1)
        if length < longest or away > EDGE_AWAY_MM / MM_PER_PX or own[rows, columns].any():
            continue
        if not scene.inside[rows, columns].mean() > 0.9:
            continue
        trim = 0.08 * length * along
        best, longest = np.array([ends[0] + trim, ends[1] - trim]), length
    return best


def _panel(part: Part, scene: Scene) -> Iterator[Proposal]:
    middle, radius = part.circle
    points = scene.to_picture(_octagon(middle, WITHIN * radius))
    yield Proposal("colour", "apart_dE00", MarkKind.REGION, points, "panel")
    # Grain shows on close pictures only.
    if WITHIN * radius * MM_PER_PX > GRAIN_MM and MM_PER_PX / scene.scale < FINE_MM_PER_PX:
        yield Proposal("texture", "distance", MarkKind.REGION, points, "panel")


def _octagon(middle: np.ndarray, radius: float) -> np.ndarray:
    turns = np.pi / 8 + np.arange(8) * np.pi / 4
    return middle + radius * np.stack([np.cos(turns), np.sin(turns)], axis=1)
