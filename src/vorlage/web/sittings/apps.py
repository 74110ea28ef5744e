from django.apps import AppConfig


class SittingsConfig(AppConfig):
    name = "vorlage.web.sittings"
    label = "sittings"

    def ready(self) -> None:
        """What it shows on the pages of others is put there."""
        from . import slots  # noqa: F401
