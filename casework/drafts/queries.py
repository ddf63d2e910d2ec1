"""Reads for the page of a drafted guide."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace

from assay.contracts import MarkKind
from assay.errors import AssayError
from assay.judge.copy_model import by_level, even_shares
from assay.judge.evidence import EvidenceItem
from assay.judge.judgement import Kind
from assay.judge.planner import worth
from assay.measure.registry import MEASURES
from casework.drafts.wording import choice_of, name_of
from casework.guides.wording import COUNT, WORDS, Choice
from casework.retail import prior_of
from guides.models import GuideDraft, ProposedCheck
from library.models import Checkpoint, Release
from pairs.models import Organisation


@dataclass(frozen=True)
class Row:
    """One proposal as it is shown."""

    proposal: ProposedCheck
    choice: Choice
    name: str
    section: str
    numbers: list[tuple[str, str]]
    """By pair's label, in words."""
    bits: float
    """What it tells on average, at even odds."""

    @property
    def points(self) -> str:
        return " ".join(f"{x:.1f},{y:.1f}" for x, y in self.proposal.points)

    @property
    def closed(self) -> bool:
        return MEASURES[self.proposal.measure].marks is MarkKind.REGION

    @property
    def on_one_pair(self) -> bool:
        return len(self.proposal.numbers) == 1


@dataclass(frozen=True)
class DraftPage:
    release: Release
    draft: GuideDraft | None
    rows: list[Row]
    """The most telling photograph first, of each the most telling check first."""
    at: int
    accepted: int
    rejected: int

    @property
    def row(self) -> Row | None:
        return self.rows[self.at] if self.rows else None

    @property
    def beside(self) -> list[Row]:
        """The others on the same photograph."""
        return [
            one
            for one in self.rows
            if self.row and one is not self.row and one.proposal.photo == self.row.proposal.photo
        ]

    @property
    def before(self) -> int:
        """The key of the one before it; 0: none."""
        return self.rows[self.at - 1].proposal.pk if self.at else 0

    @property
    def after(self) -> int:
        return self.rows[self.at + 1].proposal.pk if self.at + 1 < len(self.rows) else 0


@dataclass(frozen=True)
class DraftProgress:
    release: Release
    draft: GuideDraft | None
    found: int
    """Proposals so far that nobody has decided."""


def draft_progress(release: Release, organisation: Organisation) -> DraftProgress:
    """How far it is. Two queries."""
    known = ProposedCheck.objects.filter(release=release, organisation=organisation, state=ProposedCheck.State.OPEN)
    drafts = GuideDraft.objects.filter(release=release, organisation=organisation)
    return DraftProgress(release, drafts.first(), known.count())


def draft_page(release: Release, organisation: Organisation, wanted: int = 0) -> DraftPage:
    """What a release's drafts propose, the one with the key ``wanted`` large. Four queries."""
    known = ProposedCheck.objects.filter(release=release, organisation=organisation)
    open_ones = known.filter(state=ProposedCheck.State.OPEN).select_related("photo__pair")
    rows = _told_apart(_by_photo(list(_rows(open_ones))))
    keys = [row.proposal.pk for row in rows]
    states = list(known.values_list("state", flat=True))
    return DraftPage(
        release=release,
        draft=GuideDraft.objects.filter(release=release, organisation=organisation).first(),
        rows=rows,
        at=keys.index(wanted) if wanted in keys else 0,
        accepted=states.count(ProposedCheck.State.ACCEPTED),
        rejected=states.count(ProposedCheck.State.REJECTED),
    )


def _by_photo(rows: list[Row]) -> list[Row]:
    best: dict[int, float] = {}
    for row in rows:
        best[row.proposal.photo_id] = max(row.bits, best.get(row.proposal.photo_id, 0.0))
    return sorted(rows, key=lambda row: (-best[row.proposal.photo_id], row.proposal.photo_id, -row.bits))


def _told_apart(rows: list[Row]) -> list[Row]:
    """No two with the same name."""
    seen: Counter = Counter()
    for n, row in enumerate(rows):
        seen[row.name] += 1
        if seen[row.name] > 1:
            rows[n] = replace(row, name=f"{row.name[:77]} {seen[row.name]}")
    return rows


def _rows(proposals) -> Iterator[Row]:
    for proposal in proposals:
        if choice := choice_of(proposal):
            numbers = [(label, _written(choice, *number)) for label, number in proposal.numbers.items()]
            section = WORDS[proposal.measure].section
            yield Row(proposal, choice, name_of(proposal, choice), section, numbers, _bits(proposal, choice))


def _written(choice: Choice, value: float, unsure: float) -> str:
    if choice.unit == COUNT:
        return f"{value:.0f}"
    return f"{value:.3g} ± {unsure:.1g}"


def _bits(proposal: ProposedCheck, choice: Choice) -> float:
    kind = Kind.COUNT if choice.unit == COUNT else Kind.CONTINUOUS
    check = Checkpoint(measure=proposal.measure, quantity=proposal.quantity, kind=kind.value, prior=proposal.prior)
    retail = [value for value, _ in proposal.numbers.values()]
    item = EvidenceItem(key="proposed", group="proposed", kind=kind, value=None, retail=retail, prior=prior_of(check))
    try:
        return worth(item, by_level(even_shares([])), 0.5).bits
    except AssayError:
        return 0.0
