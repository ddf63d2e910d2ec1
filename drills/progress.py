"""How somebody does: d′ and criterion per kind, how far their sureness holds, time, and what to practise next."""

from dataclasses import dataclass
from statistics import median

from django.utils import timezone

from assay.judge.detection import Detection, brier, detection, reliability
from drills.cards import KINDS, Card, card_of, pool
from drills.models import Answer, Memory, Shared
from pairs.models import Organisation

LADDER, UP, DOWN = 8, 7, 4
"""Of so many answers on a level so many right lead up; so many or fewer lead down."""
LEVELS = 5
FEW = 10
"""Answers of a kind below which it is said that there are few."""


@dataclass(frozen=True, slots=True)
class Progress:
    """One kind's figures of one person."""

    kind: str
    name: str
    answers: int
    found: Detection | None
    brier: float | None
    seconds: float | None
    level: int
    held: tuple
    """(said, so, how many)."""

    @property
    def d_prime(self) -> str:
        return "–" if self.found is None else f"{self.found.d_prime:.2f}"

    @property
    def leans(self) -> str:
        """Which way somebody's line is drawn, in words."""
        if self.found is None or abs(self.found.criterion) < 0.3:
            return ""
        return "calls too much a fault" if self.found.criterion < 0 else "lets too much pass"


def progress_of(user) -> list[Progress]:
    """Every kind, in order. One query."""
    by_kind: dict[str, list[Answer]] = {kind: [] for kind in KINDS}
    for one in Answer.objects.filter(person=user).order_by("pk"):
        by_kind.setdefault(one.kind, []).append(one)
    return [_progress(kind, given) for kind, given in by_kind.items()]


def _progress(kind: str, given: list[Answer]) -> Progress:
    told = [answer for answer in given if answer.said != 0.5]
    signals, noises = ([one for one in told if one.so is so] for so in (True, False))
    found = detection(
        sum(signal.said > 0.5 for signal in signals),
        len(signals),
        sum(noise.said > 0.5 for noise in noises),
        len(noises),
    )
    said, so = [answer.said for answer in given], [int(answer.so) for answer in given]
    return Progress(
        kind, KINDS.get(kind, kind), len(given), found, brier(said, so) if given else None,
        median(answer.seconds for answer in given) if given else None, level_of(given), tuple(reliability(said, so)),
    )  # fmt: skip


def level_of(given: list[Answer]) -> int:
    """The rung that somebody stands on: led up and down by their last answers on each."""
    level, here = 1, []
    for answer in given:
        here.append((answer.said > 0.5) == answer.so and answer.said != 0.5)
        last = here[-LADDER:]
        if len(last) == LADDER and sum(last) >= UP and level < LEVELS:
            level, here = level + 1, []
        elif len(last) == LADDER and sum(last) <= DOWN and level > 1:
            level, here = level - 1, []
    return level


def next_card(organisation: Organisation, user, kind: str = "") -> Card | None:
    """What is due first; else a new one of the kind asked for, or of the one that was practised least. Few queries."""
    due = Memory.objects.filter(person=user, due__lte=timezone.now()).order_by("due")
    for one in due[:40]:
        card = card_of(one.card, organisation)
        if card and kind in ("", card.kind):
            return card
    seen = set(Memory.objects.filter(person=user).values_list("card", flat=True))
    figures = {one.kind: one for one in progress_of(user)}
    kinds = [kind] if kind in KINDS else sorted(KINDS, key=lambda one: figures[one].answers)
    for one in kinds:
        for key in pool(organisation, one, figures[one].level, seed=len(seen)):
            if key not in seen and (card := card_of(key, organisation)):
                return card
    return None


def to_practise(figures: list[Progress]) -> str:
    """Where practice would help most, in words."""
    told = [figure for figure in figures if figure.found is not None]
    if not told:
        return "Answer a few cards of both kinds, legit and fake: then it is said what to practise."
    worst = min(told, key=lambda one: one.found.d_prime)
    few = f" From {worst.answers} answers only." if worst.answers < FEW else ""
    leans = f" It {worst.leans}." if worst.leans else ""
    return f"Practise {worst.name.lower()}: d′ {worst.d_prime}.{leans}{few}"


def shared_with(organisation: Organisation) -> list[tuple]:
    """(person, figures) of members who share theirs. A query each."""
    people = [one.person for one in Shared.objects.filter(person__organisations=organisation).select_related("person")]
    return [(person, [one for one in progress_of(person) if one.answers]) for person in people]
