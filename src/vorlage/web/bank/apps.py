from contextlib import suppress
from typing import Any

from django.apps import AppConfig
from django.db import connection
from django.db.models.signals import post_migrate


class BankConfig(AppConfig):
    name = "vorlage.web.bank"
    label = "bank"

    def ready(self) -> None:
        """What belongs to people is said, and after an upgrade every question can be found."""
        from . import owned  # noqa: F401

        post_migrate.connect(find_all, sender=self)


def find_all(**given: Any) -> None:
    """Note what questions are found by that have nothing noted."""
    from django.db.models import Q

    from vorlage.core.questions import DocumentError, load_document

    from .models import Question
    from .models.finding import note_found, note_words

    if not {"bank_found", "bank_worded", "bank_word"} <= set(connection.introspection.table_names()):
        return
    unnoted = Question.objects.filter(Q(found=None) | Q(found__worded=None)).exclude(current=None)
    note_found(unnoted.values_list("pk", flat=True))
    for question in unnoted.select_related("current", "department"):
        # versions before kept what cannot be read as well
        with suppress(DocumentError):
            note_words(question.department.school_id, [(question.pk, load_document(question.newest.document))])
