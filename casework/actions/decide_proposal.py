"""A proposed check taken into the guide, or rejected for good."""

from django.db import transaction
from django.utils.text import slugify

from assay.errors import AssayError
from casework.actions.add_check import keep_tried
from casework.drafts.wording import choice_of, place_name
from casework.guides.wording import WORDS
from guides.models import ProposedCheck
from library.models import Checkpoint
from library.writers import must_write
from pairs.actions.draw_checkpoint import tried_well

MINUTES = 0.2
"""What looking at an automatic reading takes. Assumed."""


def accept_proposal(*, proposal: ProposedCheck, user, name: str) -> Checkpoint:
    """Raises AssayError ``not_allowed``, ``no_name``, ``already_decided``, or what measuring raises."""
    must_write(user, proposal.release)
    choice = choice_of(proposal)
    if not name.strip():
        raise AssayError("no_name")
    if choice is None or proposal.state != ProposedCheck.State.OPEN:
        raise AssayError("already_decided")
    given = {
        "name": name.strip()[:80],
        "instruction": f"{choice.name}.",
        "measure": choice.measure,
        "quantity": choice.quantity,
        "unit": choice.unit,
        "section": WORDS[choice.measure].section,
        "group": slugify(place_name(proposal))[:60] or "check",
        "size_rule": {},
        "minutes": MINUTES,
        "decisive": False,
        "mandatory": False,
        "applies_when": [],
    }
    # Before anything is written: nobody else waits for the measuring.
    tried = tried_well(photo=proposal.photo, measure=choice.measure, points=proposal.points)
    with transaction.atomic():
        _decide(proposal, user, ProposedCheck.State.ACCEPTED)
        made = keep_tried(organisation=proposal.organisation, tried=tried, user=user, given=given)
        ProposedCheck.objects.filter(pk=proposal.pk).update(check_made=made)
    return made


def reject_proposal(*, proposal: ProposedCheck, user) -> None:
    """No later draft proposes it again. Raises AssayError ``not_allowed``, ``already_decided``."""
    must_write(user, proposal.release)
    _decide(proposal, user, ProposedCheck.State.REJECTED)


def _decide(proposal: ProposedCheck, user, state: str) -> None:
    open_one = ProposedCheck.objects.filter(pk=proposal.pk, state=ProposedCheck.State.OPEN)
    if not open_one.update(state=state, decided_by=user):
        raise AssayError("already_decided")
