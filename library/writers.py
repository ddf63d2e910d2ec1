"""Who may write guides."""

from assay.errors import AssayError

MAY_CHECK = "library.add_checkpoint"
MAY_MAKER = "library.change_maker"


def must(user, permission: str) -> None:
    """Raise AssayError ``not_allowed`` where the user lacks a permission."""
    if not user.has_perm(permission):
        raise AssayError("not_allowed")
