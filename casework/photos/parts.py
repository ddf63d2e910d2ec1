"""Files that arrive in pieces over a bad connection: each lies in a folder until it is whole, and goes on where it
broke off. Named by the link and by a token that the phone has chosen, so that nothing comes twice."""

import fcntl
import time
from dataclasses import dataclass
from pathlib import Path
from uuid import UUID

from django.conf import settings

from assay.errors import AssayError
from assay.imaging.opening import check_bytes

MOST_PIECE = 1_000_000
"""Bytes of one piece: what a page may send at once, with room to spare."""
MOST_AT_ONCE = 12
"""Files that a link may have begun."""
KEPT_S = 24 * 3600
"""A file that does not go on for so long is thrown away."""


@dataclass(frozen=True, slots=True)
class Part:
    """A file that is arriving."""

    link: int
    token: UUID

    @property
    def path(self) -> Path:
        return Path(settings.DATA_DIR) / "arriving" / f"{self.link}-{self.token.hex}.part"

    @property
    def have(self) -> int:
        """Bytes that are there."""
        return self.path.stat().st_size if self.path.exists() else 0

    def add(self, piece: bytes, *, at: int, whole: int) -> int:
        """Lay a piece on the others. Returns how many bytes are there by now; a piece that does not begin where they
        end changes nothing. Raises AssayError ``piece_too_large``, ``too_many_at_once``, and as a whole file does."""
        check_bytes(whole)
        if len(piece) > MOST_PIECE or at + len(piece) > whole:
            raise AssayError("piece_too_large")
        self.path.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
        if not at and not self.path.exists():
            sweep()
            if len(list(self.path.parent.glob(f"{self.link}-*.part"))) >= MOST_AT_ONCE:
                raise AssayError("too_many_at_once", most=MOST_AT_ONCE)
        with self.path.open("ab") as kept:
            fcntl.flock(kept, fcntl.LOCK_EX)
            if kept.tell() == at:
                kept.write(piece)
            return kept.tell()

    def take(self) -> bytes | None:
        """The whole file, taken away: only one of several that ask gets it."""
        mine = self.path.with_suffix(".whole")
        try:
            self.path.rename(mine)
        except FileNotFoundError:
            return None
        data = mine.read_bytes()
        mine.unlink()
        return data


def sweep() -> None:
    """Throw away what has not gone on for long."""
    for kept in (Path(settings.DATA_DIR) / "arriving").glob("*"):
        if time.time() - kept.stat().st_mtime > KEPT_S:
            kept.unlink(missing_ok=True)
