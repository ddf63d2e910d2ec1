"""Ink on a surface: words, bar codes, stamps. All lengths in mm."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import zxingcpp
from PIL import Image, ImageDraw, ImageFont

from assay.simulator.relief import Relief

FONT = Path(__file__).resolve().parents[2] / "wahrheit" / "static" / "fonts" / "atkinson-hyperlegible-mono.woff2"
# Height of a capital over the size of the type, of this face.
CAPITAL = 0.668
INK = 0.93
TRUTH_PX_PER_MM = 120


@dataclass(frozen=True, slots=True)
class Type:
    """How letters are set."""

    letter_mm: float
    """Height of a capital."""
    weight: int = 560
    """Of the variable face, 200 to 800."""
    tracking_mm: float = 0.0
    """Added between letters."""


@dataclass(frozen=True, slots=True)
class Lettering:
    """True measures of a line of print, mm."""

    height_mm: float
    stroke_mm: float
    gap_mm: float
    """Mean white between neighbouring letters."""
    pitch_mm: float
    """Mean distance of neighbouring letters' middles."""


def write(relief: Relief, at_mm: tuple[float, float], words: str, kind: Type, strength: float = INK) -> np.ndarray:
    """Print words with their top left corner at ``at_mm``; returns the (4, 2) corners of the line, mm."""
    step = relief.mm_per_px
    canvas = inked(relief, at_mm, words, kind)
    relief.albedo *= (1 - strength * canvas[..., None]).astype(np.float32)
    rows, columns = np.nonzero(canvas > 0.3)
    left, right, top, bottom = (n * step for n in (columns.min(), columns.max() + 1, rows.min(), rows.max() + 1))
    return np.array([[left, top], [right, top], [right, bottom], [left, bottom]])


def inked(relief: Relief, at_mm: tuple[float, float], words: str, kind: Type) -> np.ndarray:
    """Cover (h, w), 0 to 1, of words with their top left corner at ``at_mm``."""
    return _set(words, kind, 1 / relief.mm_per_px, relief.shape[::-1], at_mm)[0]


def lettering(words: str, kind: Type) -> Lettering:
    """True measures of a line, taken off the letters' outlines drawn large, without camera, paper or noise."""
    size = (round((len(words) + 2) * (kind.letter_mm * 1.2 + kind.tracking_mm) * TRUTH_PX_PER_MM), 0)
    size = (size[0], round(3 * kind.letter_mm * TRUTH_PX_PER_MM))
    canvas, boxes = _set(words, kind, TRUTH_PX_PER_MM, size, (kind.letter_mm, kind.letter_mm))
    ink = (canvas > 0.5).astype(np.uint8)
    depth = cv2.distanceTransform(ink, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    left, right = np.array([(box[0], box[2]) for box in boxes]).T / TRUTH_PX_PER_MM
    heights = [(box[3] - box[1]) / TRUTH_PX_PER_MM for box in boxes]
    return Lettering(
        height_mm=float(np.median([h for h in heights if h > 0.7 * max(heights)])),
        stroke_mm=float(4 * (depth[ink > 0] - 0.5).mean() / TRUTH_PX_PER_MM),
        gap_mm=float((left[1:] - right[:-1]).mean()),
        pitch_mm=float(np.diff((left + right) / 2).mean()),
    )


def _set(
    words: str, kind: Type, px_per_mm: float, size: tuple[Any, ...], at_mm: tuple[Any, ...]
) -> tuple[np.ndarray, list[Any]]:
    """Coverage 0 to 1, and the boxes of the letters' ink in pixels; blanks have none."""
    oversample = 4 if px_per_mm < TRUTH_PX_PER_MM else 1
    scale = px_per_mm * oversample
    font = ImageFont.truetype(str(FONT), kind.letter_mm / CAPITAL * scale)
    font.set_variation_by_axes([kind.weight])
    reach = (len(words) + 1) * (kind.letter_mm * 1.1 + max(0, kind.tracking_mm))
    x0, y0 = (int(n * px_per_mm) for n in at_mm)
    width = min(size[0] - x0, int(reach * px_per_mm) + 2)
    height = min(size[1] - y0, int(1.9 * kind.letter_mm * px_per_mm) + 2)
    line = Image.new("L", (width * oversample, height * oversample), 0)
    draw, boxes = ImageDraw.Draw(line), []
    x, y = (at_mm[0] * px_per_mm - x0) * oversample, (at_mm[1] * px_per_mm - y0) * oversample
    for sign in words:
        draw.text((x, y), sign, fill=255, font=font)
        if sign.strip():
            boxes.append(_ink_box(sign, font, x, y) / oversample)
        x += font.getlength(sign) + kind.tracking_mm * scale
    small = np.asarray(line, np.float32).reshape(height, oversample, width, oversample).mean((1, 3)) / 255
    canvas = np.zeros(size[::-1], np.float32)
    canvas[y0 : y0 + height, x0 : x0 + width] = small
    return canvas, boxes


def _ink_box(sign: str, font: ImageFont.FreeTypeFont, x: float, y: float) -> np.ndarray:
    """Left, top, right and bottom of one sign's ink; the font's own box is as wide as its step."""
    mask, (dx, dy) = font.getmask2(sign, mode="L", anchor="la")
    left, top, right, bottom = mask.getbbox()
    return np.array([x + dx + left, y + dy + top, x + dx + right, y + dy + bottom])


def bars(relief: Relief, at_mm: tuple[float, float], digits: str, module_mm: float, height_mm: float) -> np.ndarray:
    """A true EAN-13 symbol from 12 or 13 digits; returns its (4, 2) corners, mm. A wrong check digit is refused."""
    code = zxingcpp.create_barcode(digits, zxingcpp.BarcodeFormat.EAN13)
    modules = np.array(zxingcpp.write_barcode_to_image(code, scale=1, add_quiet_zones=False))[0] == 0
    x, y = at_mm
    for n in np.flatnonzero(modules):
        stripe = np.array([[n, 0], [n + 1, 0], [n + 1, 1], [n, 1]]) * [module_mm, height_mm] + [x, y]
        relief.albedo *= 1 - INK * relief.mask(stripe)[..., None]
    wide = len(modules) * module_mm
    return np.array([[x, y], [x + wide, y], [x + wide, y + height_mm], [x, y + height_mm]])
