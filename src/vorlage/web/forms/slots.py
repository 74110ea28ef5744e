"""What form sets have to show on the pages of tests."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from vorlage.web.design.slots import fills
from vorlage.web.people.requests import MemberRequest
from vorlage.web.plans.models import Test

from .forms import FormCountForm
from .models import FormSet


def of_tests(tests: Sequence[Test]) -> dict[int, list[FormSet]]:
    """The form sets of some tests, in one query."""
    found: dict[int, list[FormSet]] = {test.pk: [] for test in tests}
    for made in FormSet.objects.filter(test__in=found).select_related("job"):
        found[made.test_id].append(made)
    return found


@fills("test-line", "forms/_of_line.html")
def in_line(request: MemberRequest, tests: Sequence[Test]) -> dict[Any, dict[str, Any]]:
    """The form sets of each test, in the list of tests."""
    return {key: {"form_sets": made} for key, made in of_tests(tests).items()}


@fills("test-aside", "forms/_of_test.html")
def beside_the_plan(request: MemberRequest, tests: Sequence[Test]) -> dict[Any, dict[str, Any]]:
    """The form sets of a test, beside its plan."""
    return {key: {"form_sets": made} for key, made in of_tests(tests).items()}


@fills("test-actions", "forms/_order.html")
def to_order(request: MemberRequest, tests: Sequence[Test]) -> dict[Any, dict[str, Any]]:
    """How many forms are wanted: a form that was sent and refused comes from the page."""
    return {test.pk: {"fresh_form": FormCountForm()} for test in tests}


@fills("test-state", "forms/_state_of_test.html")
def state(request: MemberRequest, tests: Sequence[Test]) -> dict[Any, dict[str, Any]]:
    """How many frozen sets a test has, which nothing changes any more."""
    return {key: {"frozen": sum(1 for each in made if each.frozen)} for key, made in of_tests(tests).items()}
