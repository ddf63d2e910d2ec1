"""Uploaded photographs one by one, those in a ZIP as well."""

import zipfile
from collections.abc import Callable, Iterable, Iterator
from pathlib import PurePosixPath

from django.core.files.base import ContentFile, File

from assay.errors import AssayError, CannotOpen
from assay.imaging.opening import MOST_BYTES
from casework import wording

MOST = 60
"""Photographs of one ZIP."""
ENDINGS = (".jpg", ".jpeg", ".png", ".webp", ".tif", ".tiff", ".heic", ".heif")


def take_each(uploads: Iterable[File], take_in: Callable[[File], object]) -> list[str]:
    """Take in every photograph; returns a sentence for each that could not be."""
    problems = []
    for upload in uploads:
        try:
            for photo in _photographs(upload):
                try:
                    take_in(photo)
                except AssayError as error:
                    problems.append(f"{photo.name}: {wording.of_error(error)}")
        except AssayError as error:
            problems.append(f"{upload.name}: {wording.of_error(error)}")
    return problems


def _photographs(upload: File) -> Iterator[File]:
    """The file itself, or what photographs a ZIP holds. Raises CannotOpen ``zip_broken``, ``zip_empty``,
    ``zip_too_many``."""
    if not zipfile.is_zipfile(upload):
        upload.seek(0)
        yield upload
        return
    try:
        with zipfile.ZipFile(upload) as packed:
            inside = [one for one in packed.infolist() if one.filename.lower().endswith(ENDINGS)]
            # What a Mac puts beside every file is no photograph.
            inside = [one for one in inside if not PurePosixPath(one.filename).name.startswith("._")]
            if not inside:
                raise CannotOpen("zip_empty")
            if len(inside) > MOST:
                raise CannotOpen("zip_too_many", most=MOST)
            for one in inside:
                with packed.open(one) as member:
                    # Read no further than a photograph may be long, whatever the ZIP says of it.
                    yield ContentFile(member.read(MOST_BYTES + 1), name=PurePosixPath(one.filename).name[:120])
    except CannotOpen:
        raise
    except (zipfile.BadZipFile, RuntimeError, NotImplementedError, EOFError, OSError, ValueError) as error:
        raise CannotOpen("zip_broken") from error
