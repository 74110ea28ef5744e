"""What was done to a plan, so that it can be taken back: before every change, the whole plan as plain data."""

from __future__ import annotations

from collections.abc import Mapping
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from django.db import models

from vorlage.web.bank.models import Topic
from vorlage.web.classes.models import Class
from vorlage.web.people.models import User

from .inserts import Insert
from .places import Candidate, Section, Target, TestPlace

if TYPE_CHECKING:
    from .tests import Test

# So many steps of a test can be taken back.
KEPT = 60
TEST = ("title", "instructions", "before", "school_class_id", "maximum", "in_order", "across", "look", "boundaries")
SECTION = ("position", "title", "text", "calculator", "new_page", "mixed")
PLACE = ("section_id", "position", "pool", "name", "take", "rule", "marks", "bonus", "room", "room_height")
CANDIDATE = ("place_id", "position", "revision_id", "draw")
TARGET = ("topic_id", "level", "marks")
INSERT = ("position", "name", "text", "file_id", "pages", "behind")


class Step(models.Model):
    """A change of a plan, in words, with what the plan was before."""

    test = models.ForeignKey("plans.Test", on_delete=models.CASCADE, related_name="steps")
    user = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    words = models.CharField(max_length=300)
    before = models.JSONField()
    moment = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return self.words

    @classmethod
    def keep(cls, test: Test, user: User, words: str, before: Mapping[str, Any]) -> None:
        cls.objects.create(test=test, user=user, words=words[:300], before=before)
        old = test.steps.values_list("pk", flat=True)[KEPT:]
        cls.objects.filter(pk__in=list(old)).delete()


def plain(row: models.Model, names: tuple[str, ...]) -> dict[str, Any]:
    """Some fields of a row; marks as text."""
    values = {name: getattr(row, name) for name in names}
    return {name: str(each) if isinstance(each, Decimal) else each for name, each in values.items()}


def snapshot(test: Test) -> dict[str, Any]:
    """A plan as plain data."""
    held = type(test).objects.get(pk=test.pk)
    rows = {
        "sections": (test.sections.order_by("pk"), SECTION),
        "places": (test.places.order_by("pk"), PLACE),
        "candidates": (Candidate.objects.filter(place__test=test).order_by("pk"), CANDIDATE),
        "targets": (test.targets.order_by("pk"), TARGET),
        "inserts": (test.inserts.order_by("pk"), INSERT),
    }
    found: dict[str, Any] = {"test": plain(held, TEST)}
    for kind, (queryset, names) in rows.items():
        found[kind] = [{"id": row.pk, **plain(row, names)} for row in queryset]
    return found


def put_back(test: Test, before: Mapping[str, Any], anew: bool = False) -> None:
    """Make a plan what it was; ``anew`` makes rows of its own for it, for a copy."""
    settings = dict(before["test"])
    # what the plan named may be gone meanwhile
    if settings.get("school_class_id") and not Class.objects.filter(pk=settings["school_class_id"]).exists():
        settings["school_class_id"] = None
    topics = set(
        Topic.objects.filter(pk__in=[each["topic_id"] for each in before["targets"]]).values_list("pk", flat=True)
    )
    before = {**before, "targets": [each for each in before["targets"] if each["topic_id"] in topics]}
    if settings:
        type(test).objects.filter(pk=test.pk).update(**settings)
    test.places.all().delete()
    test.sections.all().delete()
    test.targets.all().delete()
    # a step of a version before says nothing of inserts
    inserts = before.get("inserts")
    if inserts is not None:
        test.inserts.all().delete()
    known: dict[tuple[str, int], int] = {}

    def row(kind: type[models.Model], values: Mapping[str, Any], **held: Any) -> models.Model:
        given = {name: each for name, each in values.items() if name != "id"}
        return kind(**given | held) if anew else kind(id=values["id"], **given | held)

    kinds: dict[str, Any] = {
        "sections": Section, "places": TestPlace, "candidates": Candidate, "targets": Target, "inserts": Insert,
    }  # fmt: skip
    for name, kind in kinds.items():
        made: list[Any] = []
        for values in before.get(name, []):
            held: dict[str, Any] = {} if name == "candidates" else {"test_id": test.pk}
            if name == "places":
                held["section_id"] = known["sections", values["section_id"]]
            elif name == "candidates":
                held["place_id"] = known["places", values["place_id"]]
            made.append(row(kind, values, **held))
        kind.objects.bulk_create(made)
        for values, each in zip(before.get(name, []), made):
            known[name, values["id"]] = each.pk
