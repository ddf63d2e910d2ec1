"""Write down what the shop's own bench card and grey tile really are."""

from django.db import transaction

from casework.ledger import note_of_organisation
from pairs.models import Organisation


def set_card_bar(*, organisation: Organisation, user, bar_mm: float) -> None:
    """Photographs read from now on are measured by it; those read before keep the bar they were read with."""
    _keep(organisation, user, "card_bar_set", "card_bar_mm", bar_mm)


def set_grey_tile(*, organisation: Organisation, user, reflectance: float | None) -> None:
    """Reflectance of the tile, 0 to 1, or None: there is no tile. Colours named by it before stay as they are."""
    _keep(organisation, user, "grey_tile_set", "tile_reflectance", reflectance)


def _keep(organisation: Organisation, user, action: str, field: str, value: float | None) -> None:
    with transaction.atomic():
        before = getattr(organisation, field)
        setattr(organisation, field, value)
        organisation.save(update_fields=[field])
        note_of_organisation(organisation, user, action, before=before, after=value)
