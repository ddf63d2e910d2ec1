"""The ledger: one line for every deed, never changed."""

from casework.models import LedgerEntry


def note(case, actor, deed: str, **details) -> None:
    """Write a line about a case."""
    LedgerEntry.objects.create(house_id=case.house_id, case=case, actor=actor, deed=deed, details=details)


def note_of_house(house, user, deed: str, **details) -> None:
    """The same for what concerns no single case."""
    LedgerEntry.objects.create(house=house, actor=user, deed=deed, details=details)
