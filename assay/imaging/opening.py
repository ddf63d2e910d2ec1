"""Take in a file and decode it: checked, upright, without anything personal that rides along.

Reads JPEG, PNG, WebP, TIFF and HEIC. A plain upright JPEG is kept as it is, its metadata cut out without decoding;
anything else becomes an upright JPEG. Of the metadata only the capture time and the focal length are kept. Orientation:
EXIF tag 274, values 1 to 8; capture time: 36867; focal length in 35 mm terms: 41989 (CIPA DC-008). JPEG's markers:
ITU-T T.81, annex B.
Refuses: ``empty_file``, ``file_too_large``, ``not_a_photo``, ``truncated``, ``too_many_pixels``, ``too_few_pixels``,
``heic_unsupported``, ``asks_too_much``.
"""

import hashlib
import io
import re
import struct
import subprocess
import sys
import threading
import warnings
from dataclasses import dataclass
from datetime import datetime
from mmap import mmap
from pathlib import Path
from typing import Any

import numpy as np
import simplejpeg
from PIL import Image

from assay.errors import CannotOpen
from assay.imaging.pyramid import Pyramid

try:
    import pillow_heif
except ImportError:  # a machine for which there is no such package: HEIC is then refused by name
    pillow_heif = None  # type: ignore[assignment]

MOST_BYTES = 40_000_000
# A 100-megapixel phone photograph passes, a decompression bomb does not.
MOST_PIXELS = 110_000_000
# Of other formats all is held several times over while they are turned into JPEG.
MOST_PIXELS_TO_CONVERT = 64_000_000
# Larger ones are turned into JPEG in a process of their own, with bounded memory.
MOST_PIXELS_HERE = 16_000_000
CONVERTED_WITHIN_S = 60
# One at a time: the machine's memory is bounded by one picture, not by as many as are sent at once.
CONVERTING = threading.Lock()
ROOT = Path(__file__).resolve().parents[2]
# How that process ends.
BROKEN, TOO_LARGE = 1, 2
FEWEST_PIXELS_A_SIDE = 200
FORMATS: tuple[str, ...] = ("JPEG", "PNG", "WEBP", "TIFF")
if pillow_heif:
    pillow_heif.register_heif_opener()
    FORMATS = (*FORMATS, "HEIF")
HEIC_BRANDS = (b"heic", b"heix", b"hevc", b"mif1", b"msf1", b"heim", b"heis")
ORIENTATION_TAG = 274
CAPTURE_TIME_TAG = 36867
FOCAL_35MM_TAG = 41989
EXIF_PART = 0x8769
STORED_QUALITY = 93
# The largest tile is 300 pixels wide: sharp on a plain screen, and on one of twice as many a little soft.
PREVIEW_SIDE = 480
PREVIEW_QUALITY = 80
# JPEG markers.
EOI = 0xD9
SOS = 0xDA
COMMENT = 0xFE
END_OF_SCAN = re.compile(rb"\xff[^\x00\xd0-\xd7\xff]")
# Screens are at least this much longer than wide, and their pictures come without a camera's metadata.
SCREEN_LONG = 1.7
LONGEST_SIDE = 32_000
"""JPEG's own limit is 65 535; what is longer than this is no photograph."""
TURNS = {
    2: Image.Transpose.FLIP_LEFT_RIGHT,
    3: Image.Transpose.ROTATE_180,
    4: Image.Transpose.FLIP_TOP_BOTTOM,
    5: Image.Transpose.TRANSPOSE,
    6: Image.Transpose.ROTATE_270,
    7: Image.Transpose.TRANSVERSE,
    8: Image.Transpose.ROTATE_90,
}
"""By EXIF orientation: what turns it upright."""


@dataclass(frozen=True, slots=True)
class Received:
    """A file ready to be stored."""

    stored: bytes
    """JPEG, upright, without personal metadata."""
    sha256: str
    """Of the bytes as they came: tells the same file sent twice."""
    size: tuple[int, int]
    """Width and height, upright."""
    taken_at: datetime | None
    """Capture time by the camera's own clock, without zone."""
    focal_35mm: float | None
    doubts: tuple[str, ...]
    """``screenshot``."""


def receive(data: bytes) -> Received:
    """Check the bytes of an image file and make them fit to be stored. Raises CannotOpen."""
    check_bytes(len(data))
    image = _header(data)
    turn, part = _exif(image)
    plain = image.format == "JPEG" and image.mode in ("RGB", "L") and turn == 1 and not image.info.get("progressive")
    width, height = image.size
    if turn >= 5:
        width, height = height, width
    long = max(width, height) / min(width, height)
    doubts = ("screenshot",) if image.format == "PNG" and not part and long > SCREEN_LONG else ()
    if plain:
        stored = without_metadata(data)
    else:
        apart = image.format != "JPEG" and width * height > MOST_PIXELS_HERE
        stored = converted(data, turn) if apart else upright(image, turn)
    digest = hashlib.sha256(data).hexdigest()
    return Received(stored, digest, (width, height), _capture_time(part), _focal(part), doubts)


def check_bytes(size: int) -> None:
    """Turn away a file by its size in bytes alone. Raises CannotOpen."""
    if not size:
        raise CannotOpen("empty_file")
    if size > MOST_BYTES:
        raise CannotOpen("file_too_large", megabytes=round(size / 1e6), most=round(MOST_BYTES / 1e6))


def decode(stored: bytes | mmap) -> np.ndarray:
    """Pixels of a file that ``receive`` made, (H, W, 3) uint8. Raises CannotOpen ``truncated``."""
    try:
        # Colour is repeated where it was halved, not blended: cheaper, and nothing is measured worse.
        return simplejpeg.decode_jpeg(stored, colorspace="RGB", fastupsample=True)
    except ValueError as error:
        raise CannotOpen("truncated") from error


def preview(pyramid: Pyramid) -> bytes:
    """A JPEG of the smallest level that has PREVIEW_SIDE pixels a side, for tiles and lists: who judges looks at the
    photograph itself."""
    return simplejpeg.encode_jpeg(pyramid.at_least(PREVIEW_SIDE)[0], PREVIEW_QUALITY, colorsubsampling="420")


def smaller(stored: bytes, side: int) -> bytes:
    """A stored JPEG whose longer side is at most so many px, as JPEG. Raises CannotOpen."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        try:
            with Image.open(io.BytesIO(stored)) as image:
                image.draft("RGB", (side, side))
                image.thumbnail((side, side))
                target = io.BytesIO()
                image.convert("RGB").save(target, "JPEG", quality=STORED_QUALITY)
        except (OSError, ValueError) as error:
            raise CannotOpen("truncated") from error
    return target.getvalue()


def without_metadata(data: bytes) -> bytes:
    """A JPEG without comments, EXIF and whatever follows its end; its pixels untouched. Raises CannotOpen.

    Segments as ITU-T T.81 B.1.1 has them; such as stand between two scans are looked at, too.
    """
    kept, at = [data[:2]], 2
    while at + 2 <= len(data) and data[at] == 0xFF:
        marker = data[at + 1]
        if marker == EOI:
            return b"".join((*kept, data[at : at + 2]))
        end = at + 2 + int.from_bytes(data[at + 2 : at + 4], "big")
        if marker == SOS:
            # In the coded pixels a byte FF is always followed by 00 or a restart.
            ends = END_OF_SCAN.search(data, end)
            if ends is None:
                raise CannotOpen("truncated")
            end = ends.start()
        application = 0xE0 <= marker <= 0xEF
        if (application and _tells_coding(data[at:end])) or not (application or marker == COMMENT):
            kept.append(data[at:end])
        at = end
    raise CannotOpen("truncated")


def _tells_coding(segment: bytes) -> bool:
    """Whether it is an APP14 that says how colours are coded, and no more. Any other APPn may hold anything: a colour
    profile, too, holds texts, and nothing here goes by it."""
    return segment[:9] == b"\xff\xee\x00\x0eAdobe" and len(segment) == 16


def _header(data: bytes) -> Image.Image:
    """The file opened but not decoded, its size within limits."""
    if not pillow_heif and data[4:8] == b"ftyp" and data[8:12] in HEIC_BRANDS:
        raise CannotOpen("heic_unsupported")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image = Image.open(io.BytesIO(data), formats=FORMATS)
    except Exception as error:
        reason = "too_many_pixels" if isinstance(error, Image.DecompressionBombError) else "not_a_photo"
        raise CannotOpen(reason, most=MOST_PIXELS // 1_000_000) from error
    width, height = image.size
    most = MOST_PIXELS if image.format == "JPEG" else MOST_PIXELS_TO_CONVERT
    if width * height > most:
        raise CannotOpen("too_many_pixels", megapixels=round(width * height / 1e6), most=most // 1_000_000)
    if max(width, height) > LONGEST_SIDE:
        raise CannotOpen("not_a_photo", most=MOST_PIXELS // 1_000_000)
    if min(width, height) < FEWEST_PIXELS_A_SIDE:
        raise CannotOpen("too_few_pixels", width=width, height=height, fewest=FEWEST_PIXELS_A_SIDE)
    return image


def _exif(image: Image.Image) -> tuple[int, dict[int, Any]]:
    """How the picture is to be turned, 1 to 8 as CIPA DC-008 has it, and the camera's part; what cannot be read there
    turns nothing and says nothing."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            exif = image.getexif()
            turn, part = exif.get(ORIENTATION_TAG, 1), dict(exif.get_ifd(EXIF_PART))
    except Exception:  # noqa: BLE001 - whatever a forged header makes the reader stumble over
        return 1, {}
    return (int(turn), part) if turn in TURNS else (1, part)


def converted(data: bytes, turn: int) -> bytes:
    """An upright JPEG of a large picture, made in a process of its own. ``turn``: EXIF orientation, 1 to 8.

    Raises CannotOpen ``truncated``, ``asks_too_much``.
    """
    given = [sys.executable, "-m", "assay.imaging.convert", str(turn)]
    try:
        with CONVERTING:
            done = subprocess.run(  # noqa: S603
                given, input=data, check=False, capture_output=True, timeout=CONVERTED_WITHIN_S, cwd=ROOT
            )
    except subprocess.TimeoutExpired as error:
        raise CannotOpen("asks_too_much") from error
    if done.returncode:
        raise CannotOpen("truncated" if done.returncode == BROKEN else "asks_too_much")
    return done.stdout


def upright(image: Image.Image, turn: int) -> bytes:
    """An opened picture as an upright JPEG. Raises CannotOpen ``truncated``, MemoryError."""
    try:
        pixels = image.convert("RGB")
        image.close()
        if turn in TURNS:
            pixels = pixels.transpose(TURNS[turn])
        return simplejpeg.encode_jpeg(np.ascontiguousarray(pixels), STORED_QUALITY, colorsubsampling="420")
    except (OSError, SyntaxError, ValueError, EOFError, struct.error, RuntimeError) as error:
        raise CannotOpen("truncated") from error


def _capture_time(part: dict[int, Any]) -> datetime | None:
    try:
        written = str(part.get(CAPTURE_TIME_TAG, "")).strip("\0 ")
        return datetime.strptime(written, "%Y:%m:%d %H:%M:%S")  # noqa: DTZ007 - cameras know no zone
    except ValueError:
        return None


def _focal(part: dict[int, Any]) -> float | None:
    try:
        focal = float(part.get(FOCAL_35MM_TAG, 0))
    except (TypeError, ValueError):
        return None
    return focal if 8 <= focal <= 400 else None
