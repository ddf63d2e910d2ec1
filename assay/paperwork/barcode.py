"""Barcodes and QR codes in a photograph, by zxing-cpp."""

from dataclasses import dataclass

import cv2
import numpy as np
import zxingcpp

from assay.errors import AssayError
from assay.paperwork import gtin

FORMATS = [
    zxingcpp.BarcodeFormat.EAN13,
    zxingcpp.BarcodeFormat.EAN8,
    zxingcpp.BarcodeFormat.UPCA,
    zxingcpp.BarcodeFormat.UPCE,
    zxingcpp.BarcodeFormat.ITF14,
    zxingcpp.BarcodeFormat.Code128,
    zxingcpp.BarcodeFormat.QRCode,
    zxingcpp.BarcodeFormat.DataMatrix,
]

# Side of the patch whose grain is judged (pixels at half size), how one-sided it must be, and how strong.
BLOCK_PX, COHERENT, LIVELY = 21, 0.55, 60.0
MOST_PLACES = 5
ENLARGED = 1.6


@dataclass(frozen=True, slots=True)
class Barcode:
    """One code that was read."""

    text: str
    kind: str
    corners: tuple[tuple[float, float], ...]
    """Four corners in picture pixels: top left of the code's own upright, then round."""
    gtin14: str
    """Empty where it is no trade item number."""
    upright: bool
    """Whether it stands the right way up in the picture."""


def find(rgb: np.ndarray) -> list[Barcode]:
    """Every code in an upright (H, W, 3) uint8 picture, each once, trade item numbers first.

    The whole picture is tried, then every place that looks like bars by itself: small symbols are missed otherwise.
    """
    grey = cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY)
    found: dict[str, Barcode] = {}
    for x, y, piece in [(0, 0, grey), *_barred(grey)]:
        if piece is not grey and any(
            _holds(one, x + piece.shape[1] / 2, y + piece.shape[0] / 2) for one in found.values()
        ):
            continue
        for code in zxingcpp.read_barcodes(piece, formats=FORMATS):
            spot = code.position
            round_it = (spot.top_left, spot.top_right, spot.bottom_right, spot.bottom_left)
            corners = tuple((float(p.x + x), float(p.y + y)) for p in round_it)
            read = Barcode(code.text, code.format.name, corners, _gtin(code.text), _upright(corners))
            if read.text not in (one.text for one in found.values()) and _stands(grey, read):
                found.setdefault(read.gtin14 or code.text, read)
    return sorted(found.values(), key=lambda one: not one.gtin14)


def _holds(read: Barcode, x: float, y: float) -> bool:
    """Whether a place lies on a symbol that was read."""
    return cv2.pointPolygonTest(np.array(read.corners, np.float32), (float(x), float(y)), measureDist=False) >= 0


def _stands(grey: np.ndarray, read: Barcode) -> bool:
    """Whether the symbol reads the same enlarged: a row of dots or of print that looks like bars once does not."""
    spots = np.array(read.corners)
    room = 0.35 * float(np.ptp(spots, axis=0).max())
    (x0, y0), (x1, y1) = np.maximum(0, spots.min(0) - room).astype(int), (spots.max(0) + room).astype(int)
    piece = cv2.resize(grey[y0:y1, x0:x1], None, fx=ENLARGED, fy=ENLARGED, interpolation=cv2.INTER_CUBIC)
    return any(code.text == read.text for code in zxingcpp.read_barcodes(piece, formats=FORMATS))


def _barred(grey: np.ndarray) -> list[tuple[int, int, np.ndarray]]:
    """Places where the grain runs one way only, largest first: corner and piece of the picture.

    Coherence of the structure tensor (Bigun & Granlund 1987), at half size.
    """
    small = cv2.resize(grey, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA).astype(np.float32)
    gx, gy = cv2.Sobel(small, cv2.CV_32F, 1, 0), cv2.Sobel(small, cv2.CV_32F, 0, 1)
    xx, yy, xy = (cv2.blur(product, (BLOCK_PX, BLOCK_PX)) for product in (gx * gx, gy * gy, gx * gy))
    along = np.sqrt((xx - yy) ** 2 + 4 * xy * xy)
    one_way = ((along > COHERENT * (xx + yy)) & (along > LIVELY**2)).astype(np.uint8)
    one_way = cv2.morphologyEx(one_way, cv2.MORPH_OPEN, np.ones((7, 7), np.uint8))
    _, _, stats, _ = cv2.connectedComponentsWithStats(one_way)
    boxes = sorted(stats[1:].tolist(), key=lambda box: -box[4])[:MOST_PLACES]
    pieces = []
    for x, y, width, height, _ in boxes:
        room = 2 * BLOCK_PX
        left, top = max(0, 2 * (x - room)), max(0, 2 * (y - room))
        pieces.append((left, top, grey[top : 2 * (y + height + room), left : 2 * (x + width + room)]))
    return pieces


def _gtin(text: str) -> str:
    try:
        number = gtin.gtin14(text)
    except AssayError:
        return ""
    # A plain figure of the right length in another kind of code is a trade number only with the right last digit.
    is_one, should = gtin.check_digit(text)
    return number if is_one == should else ""


def _upright(corners: tuple[tuple[float, float], ...]) -> bool:
    left, right = corners[0], corners[1]
    return right[0] - left[0] > abs(right[1] - left[1])
