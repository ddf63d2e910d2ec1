"""Who may write what is known, and who sees it."""

from django.db.models import Q

from assay.errors import AssayError
from library.models import Release

MAY_CHECK = "library.add_checkpoint"
MAY_MAKER = "library.change_maker"


def must(user, permission: str) -> None:
    """Raise AssayError ``not_allowed`` where the user lacks a permission."""
    if not user.has_perm(permission):
        raise AssayError("not_allowed")


def must_write(user, release: Release, permission: str = MAY_CHECK) -> None:
    """The same, and AssayError ``others_release`` where another shop keeps this release's guide. A query."""
    must(user, permission)
    if release.organisation_id and not release.organisation.members.filter(pk=user.pk).exists():
        raise AssayError("others_release", organisation=release.organisation.name)


def visible_to(organisation):
    """Releases that a shop sees: its own, common ones, and those of shops that share."""
    return Release.objects.filter(Q(organisation=None) | Q(organisation=organisation) | Q(organisation__private=False))
