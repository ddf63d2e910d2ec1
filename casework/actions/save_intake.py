"""Keep the facts of a case as they are entered."""

from decimal import Decimal

from django.db import transaction

from assay.judge.levels import Level
from casework.grading import policy_in_force, regrade
from casework.ledger import note
from casework.models import Case
from pairs.actions.take_paper import read_papers

FAR_UNDER = Decimal("0.5")
"""Asked less than this share of the retail price, a pair is looked into fully. Common practice, no source."""
OF_PAIR = ("size_us", "box_size_us", "region", "condition", "generation", "feet", "bought_on")
OF_CASE = ("arrival", "in_hand", "reference_in_hand", "tools", "source", "asked_price", "level")


def save_intake(*, case: Case, user, facts: dict) -> None:
    """Keep the valid facts among those given; what depends on them is graded anew. From the shop's price on,
    and far under the retail price, a case is looked into fully."""
    changed = {}
    with transaction.atomic():
        for owner, names in ((case.pair, OF_PAIR), (case, OF_CASE)):
            # As it is now: somebody may have saved another fact since the page was sent.
            owner.refresh_from_db(fields=names)
            new = [name for name in names if name in facts and getattr(owner, name) != facts[name]]
            for name in new:
                setattr(owner, name, facts[name])
                changed[name] = str(facts[name])
            if new:
                owner.save(update_fields=new)
        if "asked_price" in changed and "level" not in changed and why_fully(case) and case.level != Level.FULL:
            case.level = changed["level"] = Level.FULL.value
            case.save(update_fields=["level"])
        if changed:
            # What print should say depends on size, region, condition and dates.
            read_papers(pair=case.pair, by=user)
            regrade(case)
            note(case, user, "facts_entered", **changed)


def why_fully(case: Case) -> str:
    """Why a case of this price is looked into fully: ``dear``, ``cheap`` or nothing. One query."""
    policy, retail = policy_in_force(case.organisation), case.pair.release.retail_price
    if case.asked_price is None:
        return ""
    asked = Decimal(case.asked_price)
    if policy.full_from is not None and asked >= policy.full_from:
        return "dear"
    return "cheap" if retail and asked < FAR_UNDER * retail else ""
