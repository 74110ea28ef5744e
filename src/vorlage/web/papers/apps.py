from django.apps import AppConfig


class PapersConfig(AppConfig):
    name = "vorlage.web.papers"
    label = "papers"
