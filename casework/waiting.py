"""How long unread photographs still take, in words."""

import fcntl

from django.conf import settings

from pairs.models import Pair, Photo

NO_WORKER = "Photographs are not being read: whoever runs this machine must start “manage.py work”."
SECONDS_A_PHOTO = 1.5
"""Assumed, s a worker: a free core takes 0.2 (docs/scale.md), one that others use several times as long."""


def workers_up() -> bool:
    """Whether a command that keeps workers up is running on this data folder."""
    with (settings.DATA_DIR / "work.lock").open("a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return True
    return False


def waiting_words(pair: Pair) -> str:
    """A sentence, or nothing where no photograph of the pair waits. Three queries."""
    first = pair.photos.filter(state=Photo.State.ARRIVED).order_by("pk").first()
    if first is None:
        return ""
    if not workers_up():
        return NO_WORKER
    before = Photo.objects.filter(state__in=(Photo.State.ARRIVED, Photo.State.READING), pk__lt=first.pk)
    others = before.exclude(pair=pair).count()
    waiting = pair.photos.filter(state__in=(Photo.State.ARRIVED, Photo.State.READING)).count() + others
    seconds = max(1, round(waiting * SECONDS_A_PHOTO / settings.WORKERS))
    about = f"{seconds} s" if seconds < 60 else f"{-(-seconds // 60)} min"
    return f"About {about} left. You can go on working."
