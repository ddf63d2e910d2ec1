"""Guide files between looking at them and taking them in: a shop's own, for an hour."""

import re
import time
from pathlib import Path
from uuid import uuid4

from django.conf import settings

from assay.errors import AssayError
from pairs.models import Organisation

LASTS_S = 3600


def _folder() -> Path:
    folder = Path(settings.DATA_DIR) / "guide-files"
    folder.mkdir(mode=0o700, parents=True, exist_ok=True)
    return folder


def keep(organisation: Organisation, data: bytes) -> str:
    """Keep a file; older ones go. Returns its name."""
    for old in _folder().glob("*.zip"):
        if time.time() - old.stat().st_mtime > LASTS_S:
            old.unlink(missing_ok=True)
    name = uuid4().hex
    (_folder() / f"{organisation.pk}-{name}.zip").write_bytes(data)
    return name


def taken(organisation: Organisation, name: str) -> bytes:
    """The file, which is kept no longer. Raises AssayError ``guide_file_gone``."""
    path = _folder() / f"{organisation.pk}-{name}.zip"
    if not re.fullmatch(r"[0-9a-f]{32}", name) or not path.exists():
        raise AssayError("guide_file_gone")
    data = path.read_bytes()
    path.unlink(missing_ok=True)
    return data
