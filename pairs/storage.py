"""Where photographs lie: in the data folder, old ones in an archive that may be another disk; asked for by one name."""

from pathlib import Path

from django.conf import settings
from django.core.files.storage import FileSystemStorage


class KeptOrArchived(FileSystemStorage):
    """A file that is no longer in the data folder is looked for in the archive."""

    def path(self, name: str) -> str:
        """The data folder's own file first, else the archive's where it is there."""
        own = super().path(name)
        if settings.ARCHIVE is None or Path(own).exists():
            return own
        # Checked by the line above to lie within the folder: the same name lies within the archive.
        archived = Path(settings.ARCHIVE) / Path(own).relative_to(self.location)
        return str(archived) if archived.exists() else own
