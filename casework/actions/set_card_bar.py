"""Write down what the check bar on the shop's printed bench card really measures."""

from django.db import transaction

from casework.ledger import note_of_house
from pairs.models import House


def set_card_bar(*, house: House, user, bar_mm: float) -> None:
    """Photographs read from now on are measured by it; those read before keep the bar they were read with."""
    with transaction.atomic():
        before, house.card_bar_mm = house.card_bar_mm, bar_mm
        house.save(update_fields=["card_bar_mm"])
        note_of_house(house, user, "card_bar_set", before=before, after=bar_mm)
