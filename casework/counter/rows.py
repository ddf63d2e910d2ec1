"""What a row of the counter shows."""

from dataclasses import dataclass
from datetime import date

from django.urls import reverse
from django.utils import timezone

from casework.models import Case, DeskNotes, Opinion
from pairs.models import Photo


@dataclass(frozen=True)
class CaseProgress:
    """How far a case is: ``done`` of ``of`` checks compared, and how many of each grade, the gravest first."""

    done: int
    of: int
    waits: str
    """What it waits for, in words."""
    photo: Photo | None
    grades: tuple[tuple[str, int], ...]


@dataclass(frozen=True)
class CaseRow:
    case: Case
    opinion: Opinion | None
    desk: DeskNotes | None
    hidden: bool
    """A second opinion is wanted or open: nothing of the first is shown."""
    may_second: bool
    """Whether the person who looks may give the second opinion."""
    progress: CaseProgress | None = None

    @property
    def is_signed(self) -> bool:
        return self.opinion is not None

    @property
    def due(self) -> date | None:
        return self.desk and self.desk.due_on

    @property
    def is_overdue(self) -> bool:
        return bool(self.due) and not self.is_signed and self.due < timezone.localdate()

    @property
    def url(self) -> str:
        """Where its next step is."""
        started = self.case.pair.condition and self.progress.photo
        page = "verdict" if self.is_signed else "bench" if started else "intake"
        return reverse(page, args=[self.case.number])

    @property
    def facts(self) -> list[str]:
        pair = self.case.pair
        size = f"US {pair.size_us}" if pair.size_us else ""
        return [fact for fact in (pair.release.style_code, size, pair.get_condition_display()) if fact]

    @property
    def notes(self) -> list[str]:
        return [note for note in (self.desk.ticket, self.desk.shelf) if note] if self.desk else []

    @property
    def signer(self) -> str:
        return self.opinion.checker.first_name or self.opinion.checker.username
