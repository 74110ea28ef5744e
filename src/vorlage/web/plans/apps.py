from django.apps import AppConfig


class PlansConfig(AppConfig):
    name = "vorlage.web.plans"
    label = "plans"

    def ready(self) -> None:
        """What it shows on the pages of others is put there, and what belongs to people is said."""
        from . import owned, slots  # noqa: F401
