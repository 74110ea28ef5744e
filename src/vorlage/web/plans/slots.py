"""What tests have to show on the pages of questions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from django.utils.safestring import SafeString

from vorlage.web.bank.models import Question
from vorlage.web.design.slots import filled, fills
from vorlage.web.people.models import Membership, School
from vorlage.web.people.requests import MemberRequest

from .models import Candidate, SchoolMark, Test

# What the session knows of the test for which a question is written.
WRITING_FOR = "writing_for"
# so many tests are offered, those last worked on
RECENT = 30


@dataclass(frozen=True)
class Use:
    """A test that has a question: the number of the revision that it has, whether there is a newer one, and what
    stations above say of the test."""

    test: Test
    number: int
    outdated: bool
    state: SafeString = field(default_factory=SafeString)


@fills("question-uses", "plans/_uses.html")
def uses(request: MemberRequest, questions: Sequence[Question]) -> dict[Any, dict[str, Any]]:
    """The tests of the department that have each question, and how many others do."""
    found: dict[Any, dict[Any, Use]] = {question.pk: {} for question in questions}
    elsewhere: dict[Any, set[Any]] = {question.pk: set() for question in questions}
    newest = {question.pk: question for question in questions}
    placed = Candidate.objects.filter(revision__question__in=found).select_related("place__test", "revision")
    for each in placed.defer("revision__document", "revision__sheet").order_by("place__test", "pk"):
        key, test = each.revision.question_id, each.place.test
        if test.department_id != request.membership.department_id:
            elsewhere[key].add(test.pk)
        else:
            outdated = each.revision_id != newest[key].current_id
            found[key][test.pk] = Use(test, each.revision.number, outdated)
    listed = [use.test for tests in found.values() for use in tests.values()]
    states = filled("test-state", request, listed, {})
    awaited = written_for(request, [key for key, tests in found.items()])
    return {
        key: {
            "awaited": awaited if awaited and awaited.pk not in tests else None,
            "uses": [replace(use, state=states[use.test.pk]) for use in tests.values()],
            "used_question": newest[key],
            "elsewhere": len(elsewhere[key]),
            "any_outdated": request.membership.may_write and any(use.outdated for use in tests.values()),
        }
        for key, tests in found.items()
    }


def written_for(request: MemberRequest, shown: Sequence[Any]) -> Test | None:
    """The test for which a question is being written, on the page of one."""
    chosen = request.session.get(WRITING_FOR)
    if chosen is None or len(shown) != 1 or not request.membership.may_write:
        return None
    return Test.objects.of(request.membership).filter(pk=chosen).first()


@fills("school-aside", "plans/_school_mark.html")
def mark_of(request: MemberRequest, schools: Sequence[School]) -> dict[Any, dict[str, Any]]:
    """The mark that papers can have at their head."""
    return {each.pk: {"school": each, "mark": SchoolMark.of(each.pk)} for each in schools}


@fills("tray", "plans/_tray.html")
def tests_of_tray(request: MemberRequest, memberships: Sequence[Membership]) -> dict[Any, dict[str, Any]]:
    """What can become of the tray: a test, or more of one."""
    return {each.pk: {"tests": Test.objects.of(each).in_use()[:RECENT]} for each in memberships if each.may_write}
