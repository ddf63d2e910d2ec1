"""Image files with their bytes put wrong: whole ones of every format, cut, flipped, with forged headers."""

import io
import random
import struct
from collections.abc import Iterator

import numpy as np
from PIL import Image

SIZE = (420, 300)


def _whole() -> list[bytes]:
    noise = np.random.default_rng(3).integers(0, 255, (SIZE[1], SIZE[0], 3), np.uint8)
    image, files = Image.fromarray(noise), []
    exif = Image.Exif()
    exif[274] = 6
    for kind, more in (("JPEG", {"exif": exif}), ("JPEG", {"progressive": True}), ("PNG", {"exif": exif}),
                       ("WEBP", {"lossless": True}), ("TIFF", {"compression": "tiff_lzw"})):  # fmt: skip
        target = io.BytesIO()
        image.save(target, kind, **more)
        files.append(target.getvalue())
    return files


def _png_claiming(width: int, height: int) -> bytes:
    """A PNG's head alone, of any size it likes."""
    head = b"IHDR" + struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + struct.pack(">I", 13) + head + b"\0\0\0\0"


def hostile(seed: int, many: int) -> Iterator[bytes]:
    """So many files, each bad in its own way."""
    rng, whole = random.Random(seed), _whole()
    yield from (
        _png_claiming(65535, 200),
        _png_claiming(60000, 60000),
        _png_claiming(0, 0),
        b"",
        b"\xff\xd8",
        b"GIF89a",
    )
    for _ in range(many):
        data = bytearray(rng.choice(whole))
        action = rng.randrange(4)
        if action == 0:
            del data[rng.randrange(len(data)) :]
        elif action == 1:
            for _ in range(rng.randrange(1, 40)):
                data[rng.randrange(len(data))] = rng.randrange(256)
        elif action == 2:
            for _ in range(rng.randrange(1, 8)):
                data[rng.randrange(min(400, len(data)))] = rng.randrange(256)
        else:
            at = rng.randrange(len(data))
            data[at:at] = rng.randbytes(rng.randrange(1, 200))
        yield bytes(data)
