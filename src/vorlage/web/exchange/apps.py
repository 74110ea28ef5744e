from django.apps import AppConfig


class ExchangeConfig(AppConfig):
    name = "vorlage.web.exchange"
    label = "exchange"

    def ready(self) -> None:
        """What belongs to people is said."""
        from . import owned  # noqa: F401
