from django.apps import AppConfig


class JobsConfig(AppConfig):
    name = "vorlage.web.jobs"
    label = "jobs"
