"""What unread photographs wait for, and since when, in words."""

import fcntl

from django.conf import settings
from django.utils import timezone

from pairs.models import Pair, Photo

NO_WORKER = "No worker is up, so nothing is read: whoever runs this machine starts “manage.py work”."


def workers_up() -> bool:
    """Whether a command that keeps workers up is running on this data folder."""
    with (settings.DATA_DIR / "work.lock").open("a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
    return False


def waiting_words(pair: Pair) -> str:
    """A sentence, or nothing where no photograph of the pair waits. Two queries."""
    first = pair.photos.filter(state=Photo.State.ARRIVED).order_by("pk").first()
    if first is None:
        return ""
    since = f"The first has waited since {timezone.localtime(first.added_at):%H:%M:%S}"
    if not workers_up():
        return f"{since}. {NO_WORKER}"
    before = Photo.objects.filter(state__in=(Photo.State.ARRIVED, Photo.State.READING), pk__lt=first.pk)
    others = before.exclude(pair=pair).count()
    return f"{since}, behind {others} of other pairs." if others else f"{since}; workers are at it."
