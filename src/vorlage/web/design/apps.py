from django.apps import AppConfig


class DesignConfig(AppConfig):
    name = "vorlage.web.design"
    label = "design"
