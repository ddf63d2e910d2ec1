"""Add a kind of photograph to a guide: a close-up, a side that nobody asked for yet."""

from collections.abc import Mapping

from django.db import transaction
from django.utils.text import slugify

from assay.errors import AssayError
from casework.ledger import note_of_organisation
from library.models import View
from library.photo_kinds import kinds_by_key
from library.writers import MAY_CHECK, must
from pairs.models import Organisation

STEP = 10


@transaction.atomic
def add_view(*, organisation: Organisation, user, given: Mapping) -> View:
    """Keep it behind those that there are. ``given``: fields of ``View``; ``name`` names it. Raises AssayError
    ``not_allowed``, ``no_name`` or ``view_exists``."""
    must(user, MAY_CHECK)
    key = slugify(given["name"])[:40]
    if not key:
        raise AssayError("no_name")
    known = kinds_by_key()
    same = [view for view in known.values() if view.name.casefold() == given["name"].strip().casefold()]
    if key in known or same:
        raise AssayError("view_exists", name=given["name"])
    position = max((view.position for view in known.values()), default=0) + STEP
    made = View.objects.create(key=key, position=position, **given)
    note_of_organisation(organisation, user, "view_added", view=made.key)
    return made
