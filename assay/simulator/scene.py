"""A thing before the camera: on the stand or on the table, with or without the bench card beside it."""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np

from assay.imaging import card as layout
from assay.simulator.camera import Camera, Pose, expose, pose, to_jpeg
from assay.simulator.materials import linear
from assay.simulator.relief import Relief
from assay.simulator.shading import Lamp, shade
from assay.simulator.stand import on_stand, on_table

CARD_PX_PER_MM = 8


@dataclass(frozen=True, slots=True)
class CardPlace:
    """Where a bench card lies, and what ails it."""

    middle_mm: tuple[float, float]
    turn_deg: float = 0.0
    below_mm: float = 0.0
    """How much further from the camera than the thing itself."""
    printed: float = 1.0
    """True size over nominal: 0.96 is a print that was fitted to the page."""
    shadow: float = 0.0
    """Share of the card, from its left, that lies in shadow."""


@dataclass(frozen=True, slots=True)
class Scene:
    """What is before the camera besides the thing."""

    frame_mm: tuple[float, float]
    at_mm: tuple[float, float] = (0.0, 0.0)
    """Where the thing's own canvas begins."""
    ground_mm: float | None = None
    """The stand's ground below the picture's top; None: a table seen from above."""
    cards: tuple[CardPlace, ...] = ()
    swatches: tuple[tuple[float, float, tuple[int, int, int]], ...] = ()
    """Painted squares of 16 mm: middle x, y and sRGB colour. For tests of light."""


@dataclass(frozen=True, slots=True)
class Shot:
    """A photograph and what is known of it."""

    jpeg: bytes
    mm_per_px: float
    truth: dict[str, Any]
    """Per feature: count, centres (px), and for rows pitch_mm; ``plane``: mm of the thing's canvas to pixels."""


def take(
    relief: Relief, features: dict[str, np.ndarray], scene: Scene, camera: Camera, lamp: Lamp, rng: np.random.Generator
) -> Shot:
    """Light the scene and take its picture. ``features``: centres in mm on the thing's canvas."""
    step = camera.mm_per_px
    shape = (round(scene.frame_mm[1] / step), round(scene.frame_mm[0] / step))
    light, solid = _padded(shade(relief, lamp), relief.solid, shape, scene.at_mm, step)
    whole = (
        on_table(light, solid, step, rng, lamp)
        if scene.ground_mm is None
        else on_stand(light, solid, step, scene.ground_mm, rng, lamp)
    )
    placed = pose(camera, shape)
    distance = camera.focal_35mm / 43.267 * float(np.hypot(*shape)) * step
    truth = {}
    for place in scene.cards:
        onto = _card_onto(place, shape, step, distance)
        whole = _lay_card(whole, onto, place, lamp)
        truth["card"] = {"corners": placed.through(_corners(onto)).tolist()}
    for x, y, colour in scene.swatches:
        _paint(whole, (x / step, y / step), 8 / step, colour, lamp)
    rgb = expose(whole, camera, rng)
    truth |= _truth(features, placed, np.asarray(scene.at_mm), step)
    return Shot(to_jpeg(rgb, camera.jpeg_quality), step, truth)


def _padded(
    light: np.ndarray, solid: np.ndarray, shape: tuple[Any, ...], at_mm: tuple[Any, ...], step: float
) -> tuple[np.ndarray, np.ndarray]:
    if light.shape[:2] == shape:
        return light, solid
    x, y = (round(mm / step) for mm in at_mm)
    whole_light, whole_solid = np.zeros((*shape, 3), np.float32), np.zeros(shape, np.float32)
    height, width = min(light.shape[0], shape[0] - y), min(light.shape[1], shape[1] - x)
    whole_light[y : y + height, x : x + width] = light[:height, :width]
    whole_solid[y : y + height, x : x + width] = solid[:height, :width]
    return whole_light, whole_solid


def card_raster(px_per_mm: float = CARD_PX_PER_MM) -> np.ndarray:
    """The card as it should look, (H, W, 3) sRGB uint8."""
    sheet = np.full(
        (round(layout.HEIGHT_MM * px_per_mm), round(layout.WIDTH_MM * px_per_mm), 3), layout.PAPER, np.uint8
    )

    def fill(x: float, y: float, width: float, height: float, colour: tuple[Any, ...]) -> None:
        rows = slice(round(y * px_per_mm), round((y + height) * px_per_mm))
        sheet[rows, round(x * px_per_mm) : round((x + width) * px_per_mm)] = colour

    for number, (x, y) in layout.MARKERS.items():
        cell = layout.MARKER_MM / 6
        for row, column in np.argwhere(layout.marker_cells(number)):
            fill(x + column * cell, y + row * cell, cell, cell, (26, 26, 27))
    for (x, y), colour in (*layout.GREY_PATCHES, *layout.COLOUR_PATCHES):
        fill(x, y, layout.PATCH_MM, layout.PATCH_MM, colour)
    (x, y), _ = layout.BAR_FROM, layout.BAR_TO
    fill(x, y - 0.6, layout.BAR_MM, 1.2, (26, 26, 27))
    for mm in range(0, 131, 1):
        fill(40 + mm - 0.1, 140 - (6 if mm % 10 == 0 else 3), 0.25, 6 if mm % 10 == 0 else 3, (26, 26, 27))
    return sheet


def _card_onto(place: CardPlace, shape: tuple[Any, ...], step: float, distance_mm: float) -> np.ndarray:
    """3 × 3, raster pixels of the card to pixels of the scene; further away means smaller, about the middle."""
    turn = np.radians(place.turn_deg)
    size = place.printed / CARD_PX_PER_MM / step
    rotation = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]]) * size
    middle = np.array([layout.WIDTH_MM, layout.HEIGHT_MM]) * CARD_PX_PER_MM / 2
    onto = np.eye(3)
    onto[:2, :2], onto[:2, 2] = rotation, np.asarray(place.middle_mm) / step - rotation @ middle
    far = distance_mm / (distance_mm + place.below_mm)
    centre = np.array(shape[::-1]) / 2
    return np.array([[far, 0, centre[0] * (1 - far)], [0, far, centre[1] * (1 - far)], [0, 0, 1]]) @ onto


def _corners(onto: np.ndarray) -> np.ndarray:
    sheet = np.array([[0, 0], [1, 0], [1, 1], [0, 1]]) * [layout.WIDTH_MM, layout.HEIGHT_MM] * CARD_PX_PER_MM
    return sheet @ onto[:2, :2].T + onto[:2, 2] - 0.5


def _lay_card(whole: np.ndarray, onto: np.ndarray, place: CardPlace, lamp: Lamp) -> np.ndarray:
    albedo = linear(card_raster()).astype(np.float32)
    if place.shadow:
        edge = place.shadow * albedo.shape[1]
        ramp = np.clip((np.arange(albedo.shape[1]) - edge) / 90 + 0.5, 0, 1)
        albedo *= (0.45 + 0.55 * ramp)[None, :, None].astype(np.float32)
    lit = albedo * (lamp.key * lamp.direction()[2] + lamp.ambient) * 0.82 * np.asarray(lamp.tint, np.float32)
    # Pixel centres: the raster's and the scene's both lie half a pixel in.
    half = np.array([[1, 0, -0.5], [0, 1, -0.5], [0, 0, 1.0]])
    matrix = half @ onto @ np.linalg.inv(half)
    size = whole.shape[1::-1]
    # Shrunk with care: the raster is finer than the scene.
    soft = cv2.GaussianBlur(lit, (0, 0), 0.45 / max(0.1, float(np.hypot(*onto[:2, 0]))))
    laid = cv2.warpPerspective(soft, matrix, size, flags=cv2.INTER_LINEAR)
    cover = cv2.warpPerspective(np.ones(lit.shape[:2], np.float32), matrix, size, flags=cv2.INTER_LINEAR)
    shadow = cv2.GaussianBlur(cover, (0, 0), 7) * (1 - cover)
    whole = whole * (1 - 0.35 * shadow)[..., None]
    return (whole * (1 - cover)[..., None] + laid * (cover > 0)[..., None]).astype(np.float32)


def _paint(whole: np.ndarray, at: tuple[Any, ...], half: float, colour: tuple[Any, ...], lamp: Lamp) -> None:
    rows = slice(round(at[1] - half), round(at[1] + half))
    strength = (lamp.key * lamp.direction()[2] + lamp.ambient) * 0.82 * np.asarray(lamp.tint, np.float32)
    whole[rows, round(at[0] - half) : round(at[0] + half)] = linear(colour) * strength


def _truth(features: dict[str, np.ndarray], placed: Pose, at_mm: np.ndarray, step: float) -> dict[str, Any]:
    onto = np.array([[1 / step, 0, at_mm[0] / step - 0.5], [0, 1 / step, at_mm[1] / step - 0.5], [0, 0, 1]])
    truth = {"plane": (placed.matrix @ onto).tolist()}
    for name, found in features.items():
        centres = np.asarray(found)
        truth[name] = {"count": len(centres), "centres": placed.through((centres + at_mm) / step - 0.5).tolist()}
        if name in ("quarter_row", "heel_bar"):
            truth[name]["pitch_mm"] = float(np.hypot(*np.diff(centres, axis=0).T).sum() / (len(centres) - 1))
    return truth
