from django.apps import AppConfig


class SeatingConfig(AppConfig):
    name = "vorlage.web.seating"
    label = "seating"

    def ready(self) -> None:
        """What it shows on the pages of others is put there."""
        from . import slots  # noqa: F401
