from django.apps import AppConfig


class LibraryConfig(AppConfig):
    name = "library"

    def ready(self):
        from library import photo_kinds  # noqa: PLC0415 - models are there only now

        photo_kinds.watch(self.get_model("View"))
