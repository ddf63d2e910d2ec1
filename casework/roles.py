"""What people may do: a checker checks, a guide writer writes what is known, an owner decides for the shop."""

from django.contrib.auth.models import Permission

WRITER = ("add_checkpoint", "change_maker")
ROLES = {"checker": (), "writer": WRITER, "owner": (*WRITER, "add_organisationpolicy")}
NAMES = {"checker": "checker", "writer": "guide writer", "owner": "owner"}
MAY_OWN = "casework.add_organisationpolicy"


def role_of(user) -> str:
    """A person's role by what they may. A query or two."""
    if user.has_perm(MAY_OWN):
        return "owner"
    return "writer" if user.has_perm("library.add_checkpoint") else "checker"


def give_role(user, role: str) -> None:
    """Exactly what the role may; other permissions that the person has stay."""
    ours = Permission.objects.filter(codename__in=ROLES["owner"])
    user.user_permissions.remove(*ours)
    user.user_permissions.add(*ours.filter(codename__in=ROLES[role]))
