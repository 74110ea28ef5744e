from django.apps import AppConfig


class PlansConfig(AppConfig):
    name = "vorlage.web.plans"
    label = "plans"

    def ready(self) -> None:
        """What it shows on the pages of others is put there."""
        from . import slots  # noqa: F401
