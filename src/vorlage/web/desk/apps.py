from django.apps import AppConfig


class DeskConfig(AppConfig):
    name = "vorlage.web.desk"
    label = "desk"

    def ready(self) -> None:
        """What it shows on the pages of others is put there, and what belongs to people is said."""
        from . import owned, slots  # noqa: F401
