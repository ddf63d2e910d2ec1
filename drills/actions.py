"""Answer a card: kept before anything is shown, and scheduled to come back."""

from datetime import UTC, datetime

from django.db import transaction
from fsrs import Card as Remembered
from fsrs import Rating, Scheduler

from assay.errors import AssayError
from drills.cards import SAID, Card
from drills.models import Answer, Memory, Shared
from pairs.models import Organisation

LONGEST_S = 600.0


@transaction.atomic
def answer_card(*, organisation: Organisation, user, card: Card, key: int, seconds: float) -> Answer:
    """``key``: 1 to 5, from surely not to surely so. Raises AssayError ``no_such_answer``."""
    if not 1 <= key <= len(SAID):
        raise AssayError("no_such_answer")
    said = SAID[key - 1]
    made = Answer.objects.create(
        organisation=organisation,
        person=user,
        card=card.key,
        kind=card.kind,
        level=card.level,
        said=said,
        so=card.signal,
        seconds=min(max(seconds, 0.0), LONGEST_S),
    )
    _remember(user, card, _rating(said, so=card.signal))
    return made


def _rating(said: float, *, so: bool) -> Rating:
    """Wrong or no word: again; right: by how sure."""
    right = said if so else 1 - said
    if right <= SAID[2]:
        return Rating.Again
    return Rating.Easy if right >= SAID[4] else Rating.Hard


def _remember(user, card: Card, rating: Rating) -> None:
    known = Memory.objects.filter(person=user, card=card.key).first()
    before = Remembered.from_dict(known.state) if known else Remembered()
    after, _ = Scheduler(enable_fuzzing=False).review_card(before, rating, datetime.now(UTC))
    kept = {"state": after.to_dict(), "due": after.due}
    Memory.objects.update_or_create(person=user, card=card.key, defaults=kept)


def share(*, user, on: bool) -> None:
    """Let one's shop see how one does, or no longer."""
    if on:
        Shared.objects.get_or_create(person=user)
    else:
        Shared.objects.filter(person=user).delete()
