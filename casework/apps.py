from django.apps import AppConfig
from django.db.models.signals import post_migrate, pre_migrate

from casework import triggers


class CaseworkConfig(AppConfig):
    name = "casework"

    def ready(self):
        # Both come once a run: before its first migration of any app, and after its last.
        pre_migrate.connect(triggers.take_away, sender=self)
        post_migrate.connect(triggers.lay, sender=self)
