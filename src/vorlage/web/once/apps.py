from django.apps import AppConfig


class OnceConfig(AppConfig):
    name = "vorlage.web.once"
    label = "once"
