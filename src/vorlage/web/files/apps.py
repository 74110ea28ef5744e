from django.apps import AppConfig


class FilesConfig(AppConfig):
    name = "vorlage.web.files"
    label = "files"
