"""Move the large files of photographs of long closed cases to the archive; every page still finds them there."""

import shutil
from collections.abc import Iterator
from datetime import timedelta
from hashlib import sha256
from pathlib import Path

from django.conf import settings
from django.utils import timezone

from assay.errors import AssayError
from pairs.models import Photo, Standing


def to_archive(days: int) -> Iterator[Photo]:
    """Photographs of cases signed so many days ago, but for pairs that joined the library; those not moved yet."""
    until = timezone.now() - timedelta(days=days)
    old = Photo.objects.filter(pair__case__signed_at__lt=until, pair__standing=Standing.SUSPECT)
    for photo in old.order_by("pk").iterator():
        if (Path(settings.MEDIA_ROOT) / photo.full.name).exists():
            yield photo


def archive(photo: Photo) -> int:
    """Copy its file, read the copy back, then let go of the first one. Returns bytes that came free.

    Raises AssayError ``no_archive``, ``not_as_written`` where the file is not the one that was taken in.
    """
    if settings.ARCHIVE is None or not Path(settings.ARCHIVE).is_dir():
        raise AssayError("no_archive")
    own = Path(settings.MEDIA_ROOT) / photo.full.name
    there = Path(settings.ARCHIVE) / photo.full.name
    there.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    half = there.with_suffix(".part")
    shutil.copyfile(own, half)
    if photo.stored_sha256 and sha256(half.read_bytes()).hexdigest() != photo.stored_sha256:
        half.unlink()
        raise AssayError("not_as_written", name=photo.full.name)
    half.replace(there)
    freed = own.stat().st_size
    own.unlink()
    return freed
