"""The kinds of photograph there are, asked for once a request."""

from asgiref.local import Local
from django.apps import apps
from django.core.signals import request_started
from django.db.models.signals import post_delete, post_save

_kept = Local()


def kinds_by_key() -> dict:
    """Every view by its key, in working order. One query a request, or a run of measuring."""
    if not hasattr(_kept, "views"):
        _kept.views = {view.key: view for view in apps.get_model("library", "View").objects.all()}
    return _kept.views


def name_of(key: str) -> str:
    """What a view is called; empty for none."""
    known = kinds_by_key().get(key)
    return known.name if known else key.replace("_", " ").replace("-", " ")


def keys_where(**wanted) -> list[str]:
    """Keys of the views whose fields are like this."""
    return [
        key
        for key, view in kinds_by_key().items()
        if all(getattr(view, name) == value for name, value in wanted.items())
    ]


def forget(**_signal) -> None:
    """Ask anew: somebody may have added one."""
    if hasattr(_kept, "views"):
        del _kept.views


def watch(view_model) -> None:
    """Forget whenever a request starts or a view changes."""
    request_started.connect(forget, dispatch_uid="photo_kinds")
    for signal in (post_save, post_delete):
        signal.connect(forget, sender=view_model, dispatch_uid="photo_kinds")
