"""Printed things: the size tag inside the shoe and the end of the box with its label. All lengths in mm."""

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw, ImageFont

from assay.simulator.camera import Camera
from assay.simulator.materials import LEATHER, TEXTILE, Material, Rgb
from assay.simulator.relief import Relief, Thread
from assay.simulator.scene import Scene, Shot, take
from assay.simulator.shading import Lamp

FONT = Path(__file__).resolve().parents[2] / "wahrheit" / "static" / "fonts" / "atkinson-hyperlegible-mono.woff2"
TAG_FRAME, BOX_FRAME = (84.0, 63.0), (300.0, 150.0)
BOARD = Material("rubber", (168, 150, 122), grain_mm=0.5, depth_mm=0.01, gloss=0.04, shininess=9, mottle=0.04)
PAPER = Material("rubber", (240, 239, 233), grain_mm=0.3, depth_mm=0.003, gloss=0.05, shininess=12, mottle=0.01)


@dataclass(frozen=True, slots=True)
class Print:
    """What stands on tag and label."""

    style_code: str = "VQ-44127-B"
    size_us: str = "9.5"
    colourway: str = "BRACKISH"
    serial: str = "204417"
    letter_mm: float = 2.9
    seed: int = 1
    board: Rgb = (96, 112, 116)


def size_tag(tag: Print, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The tag inside the tongue."""
    rng = np.random.default_rng([tag.seed, 5])
    relief = Relief(TAG_FRAME, camera.mm_per_px, rng)
    relief.skin(np.ones(relief.shape, np.float32), TEXTILE.coloured((188, 184, 174)))
    band = LEATHER.coloured((214, 210, 197))
    relief.panel(np.array([[0, -2], [84, -2], [84, 7], [0, 8]]), band, 1.6)
    cloth = Material("weave", (236, 236, 232), grain_mm=0.28, depth_mm=0.012, gloss=0.07, shininess=16)
    box = np.array([[16, 12], [68, 12], [68, 52], [16, 52]]) + rng.normal(0, 0.4, 2)
    relief.panel(box, cloth, 0.5, edge_mm=0.4)
    x, y = box[0]
    _write(relief, (x + 4, y + 4), f"US {tag.size_us}  EU 43", tag.letter_mm)
    _write(relief, (x + 4, y + 11), tag.style_code, tag.letter_mm * 1.25)
    _write(relief, (x + 4, y + 19.5), "MADE 02/24 TO 04/24", tag.letter_mm * 0.62)
    _write(relief, (x + 4, y + 25.5), f"QL-{tag.serial}", tag.letter_mm)
    _bars(relief, (x + 4, y + 32), tag.serial, 5.0)
    for line in (box[[0, 1]] + [0, 1.2], box[[3, 2]] - [0, 1.2]):
        relief.sew(np.linspace(line[0] + [1, 0], line[1] - [1, 0], 60), 22, Thread((212, 210, 204), width_mm=0.5))
    return take(relief, {"tag": box}, scene or Scene(TAG_FRAME), camera, lamp or Lamp(), rng)


def box_end(label: Print, camera: Camera, lamp: Lamp | None = None, scene: Scene | None = None) -> Shot:
    """The short side of the box with its label."""
    rng = np.random.default_rng([label.seed, 6])
    relief = Relief(BOX_FRAME, camera.mm_per_px, rng)
    board = BOARD.coloured(label.board)
    relief.panel(np.array([[22, 44], [278, 44], [278, 142], [22, 142]]), board, 4.0, edge_mm=0.8)
    relief.panel(np.array([[18, 8], [282, 8], [282, 48], [18, 48]]), board, 6.5, edge_mm=0.8)
    sheet = np.array([[150, 62], [262, 62], [262, 124], [150, 124]]) + rng.normal(0, 0.6, 2)
    relief.panel(sheet, PAPER, 0.15, edge_mm=0.2)
    x, y = sheet[0]
    _write(relief, (x + 5, y + 5), "QUAYSIDE LOW", 5.0)
    _write(relief, (x + 5, y + 13), label.colourway, 3.8)
    _write(relief, (x + 5, y + 21), label.style_code, 6.0)
    _write(relief, (x + 5, y + 31), f"US {label.size_us}   EU 43   CM 27.5", 4.2)
    _bars(relief, (x + 5, y + 40), "400638" + label.serial, 14.0)
    flag = np.array([[40, 74], [104, 90], [94, 76], [108, 64], [74, 60], [37, 55]]) + np.array([2, 18])
    relief.panel(flag, BOARD.coloured((226, 222, 210)), 0.1, edge_mm=0.3)
    return take(relief, {"label": sheet}, scene or Scene(BOX_FRAME), camera, lamp or Lamp(), rng)


def _write(relief: Relief, at_mm: tuple[float, float], words: str, letter_mm: float) -> None:
    """Print words in black, capitals ``letter_mm`` high."""
    step = relief.mm_per_px
    font = ImageFont.truetype(str(FONT), letter_mm / 0.67 / step)
    font.set_variation_by_axes([560])
    canvas = Image.new("L", relief.shape[::-1], 0)
    ImageDraw.Draw(canvas).text((at_mm[0] / step, at_mm[1] / step), words, fill=255, font=font)
    ink = np.asarray(canvas, np.float32)[..., None] / 255
    relief.albedo = relief.albedo * (1 - 0.93 * ink)


def _bars(relief: Relief, at_mm: tuple[float, float], digits: str, height_mm: float) -> None:
    """Stripes that look like a bar code; they code nothing."""
    x = at_mm[0]
    for digit in digits * 2:
        for width in (0.5, 0.3 + 0.12 * (int(digit) % 4), 0.4 + 0.1 * (int(digit) % 3)):
            stripe = np.array([[0, 0], [width, 0], [width, height_mm], [0, height_mm]]) + np.array([x, at_mm[1]])
            mask = relief.mask(stripe)
            relief.albedo *= 1 - 0.93 * mask[..., None]
            x += width + 0.55
