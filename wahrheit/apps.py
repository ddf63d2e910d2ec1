import gc

from django.apps import AppConfig


class WahrheitConfig(AppConfig):
    name = "wahrheit"

    def ready(self):
        # What is loaded at the start stays: full collections need not look through it.
        gc.freeze()
