from django.apps import AppConfig


class BankConfig(AppConfig):
    name = "vorlage.web.bank"
    label = "bank"
