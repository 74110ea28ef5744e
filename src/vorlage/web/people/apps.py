from django.apps import AppConfig


class PeopleConfig(AppConfig):
    name = "vorlage.web.people"
    label = "people"
