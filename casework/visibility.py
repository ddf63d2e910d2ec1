"""What a person may not see of their own shop's cases: a verdict on a pair that they may still look at blind."""

from casework.models import Case
from casework.second_rule import may_give_second_opinion, second_rule


def hides(case: Case, user) -> bool:
    """Whether a case says what its person must not know yet: a second opinion on it is wanted that they may give. None
    to six queries."""
    return may_give_second_opinion(case, user) and second_rule(case.organisation).wants(case, case.opinions.last())


def hidden_cases(user, organisation) -> frozenset[int]:
    """Keys of the shop's signed cases that the person sees nothing of: those that they are looking at blind, and those
    that wait for a second opinion that they may give. Eight queries at most."""
    rule, cases = second_rule(organisation), Case.objects.filter(organisation=organisation, discarded_at=None)
    looking = cases.filter(second_of__isnull=False, round=False, opened_by=user, signed_at=None)
    hidden = set(looking.values_list("second_of", flat=True))
    others = cases.filter(signed_at__isnull=False, second_of=None).exclude(opened_by=user)
    begun = cases.filter(second_of__isnull=False, round=False).values("second_of")
    waiting = others.filter(rule.query).exclude(opinions__checker=user).exclude(pk__in=begun).distinct()
    for case in waiting.prefetch_related("opinions"):
        opinions = list(case.opinions.all())
        if rule.wants(case, opinions[-1] if opinions else None):
            hidden.add(case.pk)
    return frozenset(hidden)
