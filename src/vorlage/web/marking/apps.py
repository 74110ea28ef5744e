from django.apps import AppConfig


class MarkingConfig(AppConfig):
    name = "vorlage.web.marking"
    label = "marking"
