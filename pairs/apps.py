from django.apps import AppConfig


class PairsConfig(AppConfig):
    name = "pairs"
