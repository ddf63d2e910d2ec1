"""Change what the shop asks before it decides."""

from collections.abc import Mapping
from dataclasses import asdict
from types import MappingProxyType

from django.db import transaction

from assay.errors import AssayError
from assay.judge.levels import Level
from assay.judge.rules import Policy, Ultraviolet
from casework.grading import policy_in_force, regrade
from casework.ledger import note_of_organisation
from casework.models import Case, NearBasis, OrganisationPolicy, Second
from pairs.models import Organisation

MAY_SET = "casework.add_organisationpolicy"
"""Who may say how the shop decides."""


def set_policy(  # noqa: PLR0913 - every part of a policy
    *,
    organisation: Organisation,
    user,
    rules: Policy,
    ultraviolet: str = Ultraviolet.FOUND_COUNTS,
    second: tuple = (Second.NEVER, None),
    levels: tuple = (Level.STANDARD.value, None),
    recalibration: Mapping = MappingProxyType({}),
    near_basis: str = "",
    after: int | None = None,
) -> OrganisationPolicy:
    """A new policy, numbered on from the last; open cases are graded by it. ``second``: who must look twice, and from
    which price; ``levels``: how deep a new case is looked into, and from which price fully. Opinions already signed
    keep the one they were signed under. ``near_basis``: what the share of nearly perfect copies rests on; as before
    where nothing is said. ``after``: number of the policy that its person saw. Raises AssayError
    ``not_the_owner``, ``policy_changed``, or what the rules raise."""
    if not user.has_perm(MAY_SET) or not organisation.members.filter(pk=user.pk).exists():
        raise AssayError("not_the_owner")
    said = asdict(rules.checked())
    with transaction.atomic():
        last = policy_in_force(organisation)
        if after is not None and last and last.number != after:
            raise AssayError("policy_changed", by=last.made_by.first_name or last.made_by.get_username())
        if not recalibration and last and (last.legit_from, last.fake_from) == (rules.legit_from, rules.fake_from):
            # Thresholds that were moved once stay known as moved, so that nobody moves them twice.
            recalibration = last.recalibration
        policy = OrganisationPolicy.objects.create(
            organisation=organisation,
            number=(last.number if last else 0) + 1,
            ultraviolet=ultraviolet,
            second=second[0],
            second_from=second[1],
            level=levels[0],
            full_from=levels[1],
            recalibration=dict(recalibration),
            near_basis=near_basis or (last.near_basis if last else NearBasis.ASSUMED),
            made_by=user,
            **said,
        )
        told = {"number": policy.number, "ultraviolet": str(ultraviolet), "second": str(second[0])}
        told |= {"level": str(levels[0])}
        note_of_organisation(organisation, user, "policy_set", **told, **said)
        if last and last.ultraviolet != ultraviolet:
            for case in Case.objects.filter(organisation=organisation, signed_at=None):
                regrade(case)
    return policy
