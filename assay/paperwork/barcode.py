"""Barcodes and QR codes in a photograph, by zxing-cpp."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
import zxingcpp

from assay.errors import AssayError
from assay.imaging.pyramid import Pyramid, grey_piece
from assay.paperwork import gtin

LINEAR = [
    zxingcpp.BarcodeFormat.EAN13,
    zxingcpp.BarcodeFormat.EAN8,
    zxingcpp.BarcodeFormat.UPCA,
    zxingcpp.BarcodeFormat.UPCE,
    zxingcpp.BarcodeFormat.ITF14,
    zxingcpp.BarcodeFormat.Code128,
]
MATRIX = [zxingcpp.BarcodeFormat.QRCode, zxingcpp.BarcodeFormat.DataMatrix]

# Bars are sought at half size, in cells of so many pixels; side of the patch whose grain is judged (cells), how
# one-sided the grain must be, and how strong.
CELL_PX = 4
BLOCK_CELLS = 5
COHERENT = 0.55
LIVELY = 60.0
# Bars stand at least so many cells high and wide, where the grain of a lone edge or line is a block wide.
LEAST_CELLS = 7
# Bars of which the grain is so one-sided along the picture's rows stand upright: they need not be read sideways too.
UPRIGHT = 0.5
MOST_PLACES = 5
ROOM_PX = 84
ENLARGED = 1.6
LARGE_PX = 900
SHRUNK = 0.7
# Symbols that are no bars, light ones on dark, and ones so blurred that they read better made smaller are sought last,
# where there are no others: it takes three times as long.
QUICKLY: dict[str, Any] = {"formats": LINEAR, "try_invert": False, "try_downscale": False}
PATIENTLY: dict[str, Any] = {"formats": LINEAR + MATRIX, "try_invert": True, "try_downscale": True}


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


def find(pyramid: Pyramid) -> list[Barcode]:
    """Every code in a picture, each once, trade item numbers first.

    At full size every place is tried by itself that looks like bars: small symbols are missed otherwise. Where that
    finds nothing, the picture is read at half size, then whole, for any kind of symbol.
    """
    half = cv2.cvtColor(pyramid.half, cv2.COLOR_RGB2GRAY)
    found: dict[str, Barcode] = {}
    for (x, y, right, low), upright in _barred(half):
        if not any(_holds(barcode, (x + right) / 2, (y + low) / 2) for barcode in found.values()):
            _read(pyramid, *_whole_size(pyramid, x, y, right, low), found, try_rotate=not upright)
    if not found:
        _read(pyramid, half, 2.0, (0, 0), found)
    if not found:
        _read(pyramid, *_whole_size(pyramid, 0, 0, *pyramid.size), found, **PATIENTLY)
    return sorted(found.values(), key=lambda barcode: not barcode.gtin14)


def _whole_size(pyramid: Pyramid, *box: float) -> tuple[np.ndarray, float, tuple[int, int]]:
    piece, corner = pyramid.grey(*box)
    return piece, 1.0, corner


def _read(
    pyramid: Pyramid,
    piece: np.ndarray,
    grown: float,
    corner: tuple[Any, ...],
    found: dict[str, Barcode],
    **how: Any,  # noqa: ANN401 - options of the reader, of several types
) -> None:
    """Add what a piece of the picture says; ``grown``: picture against piece in size, ``corner``: the piece's place;
    ``how``: to look for it otherwise than quickly."""
    for code in zxingcpp.read_barcodes(piece, **(QUICKLY | how)):
        spot = code.position
        round_it = (spot.top_left, spot.top_right, spot.bottom_right, spot.bottom_left)
        corners = tuple((float(grown * p.x + corner[0]), float(grown * p.y + corner[1])) for p in round_it)
        read = Barcode(code.text, code.format.name, corners, _gtin(code.text), _upright(corners))
        if read.text not in (barcode.text for barcode in found.values()) and _stands(pyramid, read, code.format):
            found.setdefault(read.gtin14 or code.text, read)


def _holds(read: Barcode, x: float, y: float) -> bool:
    """Whether a place lies on a symbol that was read."""
    return cv2.pointPolygonTest(np.array(read.corners, np.float32), (float(x), float(y)), measureDist=False) >= 0


def _stands(pyramid: Pyramid, read: Barcode, kind: zxingcpp.BarcodeFormat) -> bool:
    """Whether the symbol reads the same at another size: dots or print that look like bars once do not."""
    spots = np.array(read.corners)
    room = 0.35 * float(np.ptp(spots, axis=0).max())
    (left, top), (right, low) = spots[:2]
    how: dict[str, Any] = {"formats": [kind], "try_rotate": bool(abs(low - top) > abs(right - left))}
    pieces = _otherwise(pyramid, (*(spots.min(0) - room), *(spots.max(0) + room)))
    return any(code.text == read.text for piece in pieces for code in zxingcpp.read_barcodes(piece, **how))


def _otherwise(pyramid: Pyramid, box: tuple[float, ...]) -> Iterator[np.ndarray]:
    """A place of the picture (left, top, right, low) in grey at other sizes, which costs least first."""
    if max(box[2] - box[0], box[3] - box[1]) <= LARGE_PX:
        yield cv2.resize(pyramid.grey(*box)[0], None, fx=ENLARGED, fy=ENLARGED, interpolation=cv2.INTER_CUBIC)
        return
    yield grey_piece(pyramid.half, *(at / 2 for at in box))[0]
    yield cv2.resize(pyramid.grey(*box)[0], None, fx=SHRUNK, fy=SHRUNK, interpolation=cv2.INTER_AREA)


def _barred(half: np.ndarray) -> list[tuple[tuple[int, int, int, int], bool]]:
    """Places where the grain runs one way only, largest first: left, top, right, low in pixels of the full picture, and
    whether bars stand upright there.

    Coherence of the structure tensor (Bigun & Granlund 1987) of the picture at half size.
    """
    # Every other place of every other row tells a cell's grain.
    gx, gy = (slope[::2, ::2].astype(np.float32) for slope in cv2.spatialGradient(half))
    size = (half.shape[1] // CELL_PX, half.shape[0] // CELL_PX)
    products = (a * b for a, b in ((gx, gx), (gy, gy), (gx, gy)))
    cells = (cv2.resize(product, size, interpolation=cv2.INTER_AREA) for product in products)
    xx, yy, xy = (cv2.blur(cell, (BLOCK_CELLS, BLOCK_CELLS)) for cell in cells)
    along = np.sqrt((xx - yy) ** 2 + 4 * xy * xy)
    one_way = ((along > COHERENT * (xx + yy)) & (along > LIVELY**2)).astype(np.uint8)
    one_way = cv2.morphologyEx(one_way, cv2.MORPH_OPEN, np.ones((LEAST_CELLS, LEAST_CELLS), np.uint8))
    _, _, stats, _ = cv2.connectedComponentsWithStats(one_way)
    largest = np.argsort(-stats[1:, cv2.CC_STAT_AREA])[:MOST_PLACES] + 1
    places, cell = [], 2 * CELL_PX
    for x, y, width, height, _ in stats[largest].tolist():
        there, on = (slice(y, y + height), slice(x, x + width)), one_way[y : y + height, x : x + width] > 0
        sideways, down = xx[there][on].sum(), yy[there][on].sum()
        upright = bool(sideways - down > UPRIGHT * (sideways + down))
        left, top = cell * x - ROOM_PX, cell * y - ROOM_PX
        places.append(((left, top, left + cell * width + 2 * ROOM_PX, top + cell * height + 2 * ROOM_PX), upright))
    return places


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
