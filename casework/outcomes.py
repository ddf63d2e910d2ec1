"""How closed cases turned out: what was learned of their pairs after signing. Never a random sample: what comes back or
is disputed is learned of, what nobody doubts is not."""

from dataclasses import dataclass
from datetime import timedelta

from django.db.models import OuterRef, Subquery
from django.utils import timezone

from assay.judge.assumptions import READS_LIKE_RETAIL, SHARE_OF_LEVEL, CopyLevel
from assay.judge.copy_model import learned_near_perfect
from assay.judge.detection import jeffreys
from casework.models import Case, Opinion, Outcome
from pairs.models import Organisation

LAST_OPINION = Opinion.objects.filter(case=OuterRef("pk")).order_by("-pk")
LAST_OUTCOME = Outcome.objects.filter(case=OuterRef("pk")).order_by("-pk")
"""Of a case, within a query of cases."""


def known_ends(organisation: Organisation) -> tuple[int, int]:
    """How many copies and how many retail pairs there are among the cases whose end is known. One query."""
    ends = [so for so, _ in _ends(organisation)]
    return ends.count(Outcome.So.FAKE), ends.count(Outcome.So.LEGIT)


@dataclass(frozen=True, slots=True)
class GoodCopies:
    """Copies of known end whose evidence spoke for retail when they were signed."""

    times: int
    of: int

    @property
    def interval(self) -> tuple[float, float]:
        """Jeffreys' 95 % interval of the share."""
        return jeffreys(self.times, self.of)

    @property
    def learned(self) -> float:
        """The share of nearly perfect copies that they teach, from what is assumed on."""
        return learned_near_perfect(self.times, self.of, SHARE_OF_LEVEL[CopyLevel.NEARLY_PERFECT])


def good_copies(organisation: Organisation) -> GoodCopies:
    """How many of the known copies read like retail. One query."""
    copies = [decibans for so, decibans in _ends(organisation) if so == Outcome.So.FAKE]
    return GoodCopies(sum((decibans or 0.0) >= READS_LIKE_RETAIL for decibans in copies), len(copies))


@dataclass(frozen=True, slots=True)
class Decided:
    """What thresholds would have made of the last closed cases, by their evidence alone."""

    cases: int
    legit: int
    fake: int
    known: int
    """Cases of known end among them."""
    wrong: int
    """Of these decided against what was learned."""

    @property
    def undecided(self) -> int:
        return self.cases - self.legit - self.fake


def decided_at(organisation: Organisation, legit_from: float, fake_from: float) -> Decided:
    """The closed cases of the last year under these thresholds, decibans. One query."""
    since = timezone.now() - timedelta(days=365)
    rows = [row for row in _closed(organisation, since).values_list("so", "decibans") if row[1] is not None]
    said = [
        (so, Outcome.So.LEGIT if decibans >= legit_from else Outcome.So.FAKE if decibans <= fake_from else None)
        for so, decibans in rows
    ]
    verdicts = [verdict for _, verdict in said]
    known = [(so, verdict) for so, verdict in said if so]
    wrong = sum(verdict is not None and verdict != so for so, verdict in known)
    legit, fake = verdicts.count(Outcome.So.LEGIT), verdicts.count(Outcome.So.FAKE)
    return Decided(len(said), legit, fake, len(known), wrong)


def _ends(organisation: Organisation):
    return _closed(organisation).filter(so__isnull=False).values_list("so", "decibans")


def _closed(organisation: Organisation, since=None):
    """Closed cases with what was learned last and what they weighed when they were signed."""
    cases = Case.objects.filter(organisation=organisation, signed_at__isnull=False, discarded_at=None)
    if since is not None:
        cases = cases.filter(signed_at__gte=since)
    so, decibans = Subquery(LAST_OUTCOME.values("so")[:1]), Subquery(LAST_OPINION.values("decibans")[:1])
    return cases.annotate(so=so, decibans=decibans)
