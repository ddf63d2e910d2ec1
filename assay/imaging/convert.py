"""Turn a large picture of another format into an upright JPEG, in a process of its own with bounded memory.

``python -m assay.imaging.convert TURN``: the file on standard input, the JPEG on standard output; ends with 1 where the
picture is broken, with 2 where it asks for more memory than a picture may.
"""

import io
import resource
import sys
import warnings

from PIL import Image

from assay.errors import CannotOpen
from assay.imaging.opening import BROKEN, FORMATS, TOO_LARGE, upright

MOST_MEMORY = 1_700_000_000
"""Address space of the process, bytes; a 64-megapixel WebP takes 1.2 GB of memory."""


def main(turn: int) -> int:
    """Convert standard input; returns how the process ends. ``turn``: EXIF orientation, 1 to 8."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    warnings.simplefilter("ignore")
    data = sys.stdin.buffer.read()
    try:
        jpeg = upright(Image.open(io.BytesIO(data), formats=FORMATS), turn)
    except CannotOpen:
        return BROKEN
    except MemoryError:
        return TOO_LARGE
    sys.stdout.buffer.write(jpeg)
    return 0


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1])))
