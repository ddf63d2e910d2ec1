"""Change what the house asks before it decides."""

from django.db import transaction

from assay.judge.schools import Ultraviolet
from casework.grading import policy_in_force, regrade
from casework.models import Case, HousePolicy, LedgerEntry
from pairs.models import House


def set_policy(
    *, house: House, user, red_flags: int, coverage: float, ultraviolet: str = Ultraviolet.FOUND_COUNTS
) -> HousePolicy:
    """A new policy, numbered on from the last; open cases are graded by it. Opinions already signed keep the one they
    were signed under."""
    with transaction.atomic():
        last = policy_in_force(house)
        policy = HousePolicy.objects.create(
            house=house,
            number=(last.number if last else 0) + 1,
            red_flags=red_flags,
            coverage=coverage,
            ultraviolet=ultraviolet,
            made_by=user,
        )
        LedgerEntry.objects.create(
            house=house,
            actor=user,
            deed="policy_set",
            details={
                "number": policy.number,
                "red_flags": red_flags,
                "coverage": coverage,
                "ultraviolet": str(ultraviolet),
            },
        )
        if last and last.ultraviolet != ultraviolet:
            for case in Case.objects.filter(house=house, signed_at=None):
                regrade(case)
    return policy
