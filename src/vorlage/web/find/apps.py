from django.apps import AppConfig


class FindConfig(AppConfig):
    name = "vorlage.web.find"
    label = "find"
