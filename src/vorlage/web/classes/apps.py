from django.apps import AppConfig


class ClassesConfig(AppConfig):
    name = "vorlage.web.classes"
    label = "classes"

    def ready(self) -> None:
        """What belongs to people is said."""
        from . import owned  # noqa: F401
