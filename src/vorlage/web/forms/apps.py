from django.apps import AppConfig


class FormsConfig(AppConfig):
    name = "vorlage.web.forms"
    label = "forms"

    def ready(self) -> None:
        """What it shows on the pages of others is put there."""
        from . import slots  # noqa: F401
