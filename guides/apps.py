from django.apps import AppConfig


class GuidesConfig(AppConfig):
    name = "guides"
