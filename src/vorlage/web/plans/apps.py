from typing import Any

from django.apps import AppConfig
from django.db import connection
from django.db.models.signals import post_migrate


class PlansConfig(AppConfig):
    name = "vorlage.web.plans"
    label = "plans"

    def ready(self) -> None:
        """What it shows on the pages of others is put there, and what belongs to people is said."""
        from . import owned, slots  # noqa: F401

        post_migrate.connect(count_all, sender=self)


def count_all(**given: Any) -> None:
    """Count anew, after an upgrade, how many tests have each question: the bank notes what is found before that."""
    from .models import Candidate, count_uses

    if {"bank_found", Candidate._meta.db_table} <= set(connection.introspection.table_names()):
        count_uses(Candidate.objects.order_by().values_list("revision__question", flat=True).distinct())
