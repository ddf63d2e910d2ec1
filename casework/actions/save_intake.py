"""Keep the facts of a case as they are entered."""

from django.db import transaction

from assay.judge.levels import Level
from casework.grading import policy_in_force, regrade
from casework.ledger import note
from casework.models import Case
from pairs.actions.take_paper import read_papers

OF_PAIR = ("size_us", "box_size_us", "region", "condition", "generation", "feet", "bought_on")
OF_CASE = ("arrival", "in_hand", "reference_in_hand", "tools", "source", "asked_price", "level")


def save_intake(*, case: Case, user, facts: dict) -> None:
    """Keep the valid facts among those given; what depends on them is graded anew. From the shop's price on a case is
    looked into fully."""
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
        if "asked_price" in changed and "level" not in changed and _is_dear(case) and case.level != Level.FULL:
            case.level = changed["level"] = Level.FULL.value
            case.save(update_fields=["level"])
        if changed:
            # What print should say depends on size, region, condition and dates.
            read_papers(pair=case.pair, by=user)
            regrade(case)
            note(case, user, "facts_entered", **changed)


def _is_dear(case: Case) -> bool:
    """Whether the shop looks fully into a case of this price. One query."""
    policy = policy_in_force(case.house)
    return policy.full_from is not None and (case.asked_price or 0) >= policy.full_from
