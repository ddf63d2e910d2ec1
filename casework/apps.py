from django.apps import AppConfig


class CaseworkConfig(AppConfig):
    name = "casework"
