"""Open a photograph: check it, turn it upright, drop everything personal that rides along.

Reads JPEG, PNG, WebP, TIFF and HEIC. Orientation: EXIF tag 274, values 1 to 8; capture time: tag 36867 (CIPA DC-008).
Refuses: ``empty_file``, ``file_too_large``, ``not_a_photo``, ``truncated``, ``too_many_pixels``, ``too_few_pixels``.
"""

import hashlib
import io
import warnings
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from PIL import Image, ImageOps, UnidentifiedImageError
from pillow_heif import register_heif_opener

from assay.errors import CannotOpen

MOST_BYTES = 40_000_000
# A 100-megapixel phone photograph passes, a decompression bomb does not.
MOST_PIXELS = 110_000_000
FEWEST_PIXELS_A_SIDE = 200
FORMATS = ("JPEG", "PNG", "WEBP", "TIFF", "HEIF")
CAPTURE_TIME_TAG, EXIF_PART = 36867, 0x8769
register_heif_opener()
STORED_QUALITY = 93
PREVIEW_SIDE = 720


@dataclass(frozen=True, slots=True)
class Opened:
    """A photograph ready to be stored."""

    rgb: np.ndarray
    """(H, W, 3) uint8, upright."""
    sha256: str
    """Of the bytes as they came: tells the same file sent twice."""
    stored: bytes
    """JPEG, upright, without any metadata."""
    taken_at: datetime | None
    """Capture time by the camera's own clock, without zone; the only metadata that is kept."""
    preview: bytes
    """JPEG of at most PREVIEW_SIDE pixels a side."""


def open_photo(data: bytes) -> Opened:
    """Open the bytes of an image file. Raises CannotOpen."""
    check_bytes(len(data))
    image, taken_at = _upright(data)
    small = image.copy()
    small.thumbnail((PREVIEW_SIDE, PREVIEW_SIDE))
    return Opened(
        np.asarray(image),
        hashlib.sha256(data).hexdigest(),
        _jpeg(image, STORED_QUALITY),
        taken_at,
        _jpeg(small, quality=82),
    )


def check_bytes(size: int) -> None:
    """Turn away a file by its size in bytes alone. Raises CannotOpen."""
    if not size:
        raise CannotOpen("empty_file")
    if size > MOST_BYTES:
        raise CannotOpen("file_too_large", megabytes=round(size / 1e6), most=round(MOST_BYTES / 1e6))


def decode(stored: bytes) -> np.ndarray:
    """Pixels of a file that ``open_photo`` made, (H, W, 3) uint8."""
    with Image.open(io.BytesIO(stored)) as image:
        return np.asarray(image.convert("RGB"))


def _upright(data: bytes) -> tuple[Image.Image, datetime | None]:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=FORMATS)
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, ValueError, SyntaxError) as error:
        reason = "too_many_pixels" if isinstance(error, Image.DecompressionBombError) else "not_a_photo"
        raise CannotOpen(reason, most=MOST_PIXELS // 1_000_000) from error
    width, height = image.size
    if width * height > MOST_PIXELS:
        raise CannotOpen("too_many_pixels", megapixels=round(width * height / 1e6), most=MOST_PIXELS // 1_000_000)
    if min(width, height) < FEWEST_PIXELS_A_SIDE:
        raise CannotOpen("too_few_pixels", width=width, height=height, fewest=FEWEST_PIXELS_A_SIDE)
    try:
        return ImageOps.exif_transpose(image).convert("RGB"), _capture_time(image)
    except (OSError, SyntaxError, ValueError, EOFError) as error:
        raise CannotOpen("truncated") from error


def _capture_time(image: Image.Image) -> datetime | None:
    written = image.getexif().get_ifd(EXIF_PART).get(CAPTURE_TIME_TAG, "")
    try:
        return datetime.strptime(str(written).strip("\0 "), "%Y:%m:%d %H:%M:%S")  # noqa: DTZ007 - cameras know no zone
    except ValueError:
        return None


def _jpeg(image: Image.Image, quality: int) -> bytes:
    target = io.BytesIO()
    Image.fromarray(np.asarray(image)).save(target, "JPEG", quality=quality)
    return target.getvalue()
