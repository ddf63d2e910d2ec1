"""Small pictures and files that several tests look at."""

import io

import cv2
import numpy as np
import zxingcpp
from PIL import Image

from assay.contracts import MarkKind, Marks, Picture
from assay.measure.layers import measure

FINE = 8
GROUND, LEATHER, FOAM, LINING, INSIDE = (150, 150, 152), (236, 232, 222), (222, 196, 110), (70, 92, 120), (28, 27, 26)
WIDTHS = (8.5, 14.25, 6.0)


def edge(widths=WIDTHS, colours=(LEATHER, FOAM, LINING), start=40.3, noise=3.0):
    """Bands beside each other at fractions of a pixel, blurred by 1 px, with noise; 0.1 mm a pixel."""
    borders = np.concatenate([[start], start + np.cumsum(widths)])
    row = np.zeros((1, 160 * FINE, 3))
    x = (np.arange(160 * FINE) + 0.5) / FINE - 0.5
    for low, high, colour in zip([-1, *borders], [*borders, 999], (GROUND, *colours, INSIDE), strict=True):
        row[0, (x >= low) & (x < high)] = colour
    image = cv2.resize(np.repeat(row, 90 * FINE, axis=0), (160, 90), interpolation=cv2.INTER_AREA)
    image = cv2.GaussianBlur(image, (0, 0), 1.0) + np.random.default_rng(2).normal(0, noise, image.shape)
    return np.clip(np.round(image), 0, 255).astype(np.uint8)


def read_layers(image, ends=((22, 45), (118, 45)), mm_per_px=0.1):
    return measure(Picture(image, mm_per_px), Marks(MarkKind.PATH, ends))


def jpeg(rgb) -> bytes:
    target = io.BytesIO()
    Image.fromarray(rgb).save(target, "JPEG", quality=95)
    return target.getvalue()


def file_of(array, kind="JPEG", **more) -> bytes:
    target = io.BytesIO()
    Image.fromarray(array).save(target, kind, **more)
    return target.getvalue()


def noise(height=240, width=320):
    return np.random.default_rng(1).integers(0, 255, (height, width, 3), dtype=np.uint8)


def barcode_picture(kind, text, scale=4):
    code = zxingcpp.create_barcode(text, getattr(zxingcpp.BarcodeFormat, kind))
    symbol = np.pad(np.array(zxingcpp.write_barcode_to_image(code, scale=scale)), 40, constant_values=255)
    return np.repeat(symbol[..., None], 3, axis=2)


def vents(rows=(5, 4, 5), pitch=10.0):
    return np.array([(x * pitch + 5 * (n % 2), n * pitch) for n, row in enumerate(rows) for x in range(row)], float)


PANEL_MM = 0.12
CREAM, BLUE, DARK, SOLE = (222, 216, 200), (60, 84, 110), (40, 38, 36), (180, 172, 150)
PANEL_STITCHES, PANEL_HOLES = 18, 6


def panel(*, plain: bool = False, stitches: int = PANEL_STITCHES, noise: int = 4) -> np.ndarray:
    """(H, W, 3) uint8: a cream panel of 100 by 70 mm over a sole, with or without what can be measured on it."""
    fine = 3
    px = lambda mm: round(mm / PANEL_MM * fine)  # noqa: E731
    rgb = np.full((px(70), px(100), 3), CREAM, np.float32)
    if not plain:
        rgb[px(58) :] = SOLE
        for n in range(stitches):
            x, y = 12 + 2.6 * n, 12 + 0.004 * (2.6 * n - 22) ** 2
            cv2.line(rgb, (px(x - 0.8), px(y)), (px(x + 0.8), px(y)), DARK, px(0.45))
        for n in range(PANEL_HOLES):
            cv2.circle(rgb, (px(64 + 5.2 * n), px(24 + 2.6 * n)), px(1.4), DARK, -1)
        flag = np.array([[14, 32], [48, 28], [44, 36], [50, 44], [12, 47]]) / PANEL_MM * fine
        cv2.fillPoly(rgb, [flag.round().astype(np.int32)], BLUE)
    size = (rgb.shape[1] // fine, rgb.shape[0] // fine)
    small = cv2.GaussianBlur(cv2.resize(rgb, size, interpolation=cv2.INTER_AREA), (0, 0), 0.8)
    grain = cv2.GaussianBlur(np.random.default_rng(3).normal(0, 9, small.shape[:2]), (0, 0), 1.6)
    return np.clip(small + grain[..., None] + np.random.default_rng(noise).normal(0, 2, small.shape), 0, 255).astype(
        np.uint8
    )


def lying(**drawn) -> np.ndarray:
    """A panel on a dark table."""
    return np.pad(panel(**drawn), ((90, 90), (90, 90), (0, 0)), constant_values=40)
