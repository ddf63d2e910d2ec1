"""Keep what a counter writes on a slip of paper beside a case."""

from collections.abc import Mapping

from django.db import transaction

from casework.ledger import note
from casework.models import Case, DeskNotes


@transaction.atomic
def keep_desk_notes(*, case: Case, user, given: Mapping) -> None:
    """Keep those given; the ledger says that they changed, not what they say: a seller's name stays off it."""
    notes, _ = DeskNotes.objects.get_or_create(case=case)
    changed = [name for name, value in given.items() if getattr(notes, name) != value]
    for name in changed:
        setattr(notes, name, given[name])
    if changed:
        notes.save(update_fields=changed)
        note(case, user, "desk_notes", fields=changed)
