"""What the logbook suggests, put into the guide or the policy with a click, by those who may."""

from dataclasses import replace

from django.db import transaction

from assay.errors import AssayError
from casework.actions.change_check import withdraw_check
from casework.actions.keep_checks import keep_check
from casework.actions.set_policy import set_policy
from casework.grading import core_policy, policy_in_force
from casework.ledger import note_of_organisation
from casework.logbook import queries, seasons
from library.models import Checkpoint
from library.writers import must_write
from pairs.models import Organisation

CAP_STEP = 3.0
"""Deciban that a cap is raised by at once."""


def use_suggestion(*, checkpoint: Checkpoint, action: str, organisation: Organisation, user) -> None:
    """Retire a check that never told, or raise the cap of one that always does; only what is suggested now.

    Raises AssayError ``not_suggested`` and what the actions raise.
    """
    suggested = {(check["pk"], check["suggests"]) for check in queries.checks(organisation)}
    if (checkpoint.pk, action) not in suggested or action not in ("retire", "raise"):
        raise AssayError("not_suggested")
    if action == "retire":
        withdraw_check(checkpoint=checkpoint, organisation=organisation, user=user)
    else:
        raised = checkpoint.cap_against + CAP_STEP
        keep_check(checkpoint=checkpoint, organisation=organisation, user=user, given={"cap_against": raised})


@transaction.atomic
def note_habit(*, checkpoint: Checkpoint, batch: str, organisation: Organisation, user) -> None:
    """Write among a batch's habits that by now it gets a thing right; only what is suggested now.

    Raises AssayError ``not_suggested``, ``not_allowed``.
    """
    turned = [one for one in seasons.got_right(organisation, queries.LAST) if one["check"] == checkpoint.pk]
    found = next((one for one in turned if one["batch"].name == batch), None)
    if found is None:
        raise AssayError("not_suggested")
    must_write(user, checkpoint.release)
    known = found["batch"]
    if not found["noted"]:
        known.habits = f"{known.habits} {found['said']}".strip()
        known.save(update_fields=["habits"])
        note_of_organisation(organisation, user, "habit_noted", batch=batch, check=checkpoint.key)


@transaction.atomic
def use_recalibration(*, organisation: Organisation, user) -> None:
    """Move the shop's thresholds to where, by the known outcomes, they mean what they say: a new policy, which can be
    set back. Raises AssayError ``not_the_owner``, ``not_suggested``."""
    found, policy = queries.recalibration(organisation), policy_in_force(organisation)
    if found is None or not found.is_better:
        raise AssayError("not_suggested")
    rules = core_policy(policy)
    # Moved from what the shop meant at first: a second time does not move them further.
    meant = {name: policy.recalibration.get(name, getattr(rules, name)) for name in ("legit_from", "fake_from")}
    moved = {name: round(found.threshold(value), 1) for name, value in meant.items()}
    if moved == {name: getattr(rules, name) for name in moved}:
        raise AssayError("not_suggested")
    kept = {**meant, "slope": round(found.slope, 4), "shift": round(found.shift, 3), "cases": found.many}
    given = {
        "ultraviolet": policy.ultraviolet,
        "second": (policy.second, policy.second_from),
        "levels": (policy.level, policy.full_from),
        "recalibration": kept,
    }
    set_policy(organisation=organisation, user=user, rules=replace(rules, **moved), **given)
