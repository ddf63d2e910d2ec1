from django.apps import AppConfig
from django.db.models.signals import post_migrate, pre_migrate

from casework import triggers


class CaseworkConfig(AppConfig):
    name = "casework"

    def ready(self):
        # Both come once a run: before its first migration of any app, and after its last.
        pre_migrate.connect(triggers.take_away, sender=self)
        post_migrate.connect(triggers.lay, sender=self)
        post_migrate.connect(give_owners, sender=self)


def give_owners(plan, **_signal) -> None:
    """After an upgrade from a version without roles every shop has somebody who may invite and decide: of a shop in
    which nobody may, its first member."""
    from casework.roles import MAY_OWN, give_role  # noqa: PLC0415  models are there only now
    from pairs.models import Organisation  # noqa: PLC0415

    for organisation in Organisation.objects.all() if plan else ():
        members = list(organisation.members.filter(is_active=True).order_by("pk"))
        if members and not any(member.has_perm(MAY_OWN) for member in members):
            give_role(members[0], "owner")
