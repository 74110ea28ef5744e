"""What tests have to show on the pages of questions."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from vorlage.web.bank.models import Question
from vorlage.web.design.slots import fills
from vorlage.web.people.models import Membership
from vorlage.web.people.requests import MemberRequest

from .models import Test, TestPlace

# so many tests are offered, those last worked on
RECENT = 30


@fills("question-uses", "plans/_uses.html")
def uses(request: MemberRequest, questions: Sequence[Question]) -> dict[Any, dict[str, Any]]:
    """The tests that have each question."""
    found: dict[Any, dict[Any, Any]] = {question.pk: {} for question in questions}
    placed = TestPlace.objects.filter(revision__question__in=found).select_related("test", "revision")
    for place in placed.defer("revision__document", "revision__sheet").order_by("test"):
        found[place.revision.question_id][place.test_id] = place.test
    return {key: {"uses": list(tests.values())} for key, tests in found.items()}


@fills("tray", "plans/_tray.html")
def tests_of_tray(request: MemberRequest, memberships: Sequence[Membership]) -> dict[Any, dict[str, Any]]:
    """What can become of the tray: a test, or more of one."""
    return {each.pk: {"tests": Test.objects.of(each)[:RECENT]} for each in memberships if each.may_write}
