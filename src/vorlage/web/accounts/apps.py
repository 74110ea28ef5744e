from django.apps import AppConfig


class AccountsConfig(AppConfig):
    name = "vorlage.web.accounts"
    label = "accounts"
