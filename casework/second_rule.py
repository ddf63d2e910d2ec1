"""Which signed cases want a second opinion: by the shop's policy, from when it was set on, and by name."""

from dataclasses import dataclass
from datetime import datetime

from django.db.models import Q

from assay.judge.rules import Verdict
from casework.models import Case, Opinion, Second

SECOND_ASKED = "second_asked"
"""The ledger's word for one that was asked for by name: a signed case itself does not change."""


@dataclass(frozen=True, slots=True)
class SecondRule:
    """What a shop asks for now."""

    kind: str
    price_from: float | None
    since: datetime | None
    """Only what was signed from then on: a policy of today queues nothing of yesterday."""
    named: frozenset[int]
    """Keys of cases that somebody asked a second opinion for."""

    def wants(self, case: Case, opinion: Opinion | None) -> bool:
        """Whether a case with this last opinion wants another person's. No query."""
        if opinion is None or case.second_of_id:
            return False
        if case.pk in self.named:
            return True
        if self.since is None or not case.signed_at or case.signed_at < self.since:
            return False
        if self.kind == Second.PRICE:
            return self.price_from is not None and (case.asked_price or 0) >= self.price_from
        return self.kind == Second.ALWAYS or (self.kind == Second.FAKE and opinion.verdict == Verdict.FAKE)

    @property
    def query(self) -> Q:
        """Signed cases that may want one, those whose last opinion is not looked at among them."""
        if self.since is None:
            return Q(pk__in=self.named)
        wanted = Q(signed_at__gte=self.since, second_of=None)
        if self.kind == Second.PRICE:
            wanted &= Q(asked_price__gte=self.price_from)
        elif self.kind == Second.FAKE:
            wanted &= Q(opinions__verdict=Verdict.FAKE.value)
        return wanted | Q(pk__in=self.named)


def second_rule(organisation) -> SecondRule:
    """The shop's rule. Four queries at most."""
    policy = organisation.policies.order_by("-number").first()
    named = frozenset(organisation.ledger.filter(action=SECOND_ASKED).values_list("case_id", flat=True))
    if policy is None or policy.second == Second.NEVER:
        return SecondRule(Second.NEVER, None, None, named)
    before = organisation.policies.exclude(second=policy.second).order_by("-number").first()
    first = organisation.policies.filter(number__gt=before.number if before else 0).order_by("number").first()
    return SecondRule(policy.second, policy.second_from, first.made_at, named)


def is_begun(case: Case) -> bool:
    """Whether somebody is at a second look, or has signed one; one given up leaves room for another. A query."""
    return case.seconds.filter(round=False, discarded_at=None).exists()


def may_give_second_opinion(case: Case, user) -> bool:
    """Whether the person may give the second opinion: signed by others only, and nobody is at it yet. Two queries at
    most."""
    if not case.signed_at or case.second_of_id or case.opened_by_id == user.pk or is_begun(case):
        return False
    return not case.opinions.filter(checker=user).exists()
