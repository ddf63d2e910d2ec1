"""Write down what the shop's own bench card and grey tile really are."""

from django.db import transaction

from casework.ledger import note_of_house
from pairs.models import House


def set_card_bar(*, house: House, user, bar_mm: float) -> None:
    """Photographs read from now on are measured by it; those read before keep the bar they were read with."""
    _keep(house, user, "card_bar_set", "card_bar_mm", bar_mm)


def set_grey_tile(*, house: House, user, reflectance: float | None) -> None:
    """Reflectance of the tile, 0 to 1, or None: there is no tile. Colours named by it before stay as they are."""
    _keep(house, user, "grey_tile_set", "tile_reflectance", reflectance)


def _keep(house: House, user, deed: str, field: str, value: float | None) -> None:
    with transaction.atomic():
        before = getattr(house, field)
        setattr(house, field, value)
        house.save(update_fields=[field])
        note_of_house(house, user, deed, before=before, after=value)
