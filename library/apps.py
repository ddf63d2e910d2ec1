from django.apps import AppConfig


class LibraryConfig(AppConfig):
    name = "library"

    def ready(self):
        from library import known_views  # noqa: PLC0415 - models are there only now

        known_views.watch(self.get_model("View"))
