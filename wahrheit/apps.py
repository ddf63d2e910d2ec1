from django.apps import AppConfig


class WahrheitConfig(AppConfig):
    name = "wahrheit"
