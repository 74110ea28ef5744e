"""What a class answered, counted question by question: shown when it is uncovered, never of fewer than five."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.utils import timezone
from django.utils.html import escape
from django.utils.safestring import SafeString
from django.views.decorators.http import require_GET

from vorlage.core.marking import FEWEST
from vorlage.core.sittings import Tally, shown_count, tallies
from vorlage.web.bank.markup import for_students
from vorlage.web.people.permissions import personally
from vorlage.web.people.requests import MemberRequest

from .models import Response, Sitting, StudentItem, Taking
from .road import is_empty
from .views import sitting_of

# So many different answers are shown of a part; the rest are counted together.
MOST_SHOWN = 12


@dataclass(frozen=True)
class Bar:
    """An answer, how many gave it, and its share of all who answered in per cent."""

    label: SafeString
    count: int
    share: int


@dataclass
class Asked:
    """A part of a question, and what was given to it, with the part as it stood on each form."""

    part: Mapping[str, Any]
    given: list[tuple[Mapping[str, Any], Any]] = field(default_factory=list)

    @property
    def bars(self) -> list[Bar]:
        found = tallies(self.given)
        rest = sum(each.count for each in found[MOST_SHOWN:])
        more = [Tally("other answers", rest)] if rest else []
        return [
            Bar(labelled(each), each.count, round(100 * each.count / len(self.given)))
            for each in found[:MOST_SHOWN] + more
        ]


def labelled(tally: Tally) -> SafeString:
    return for_students(tally.label) if tally.is_markup else SafeString(escape(tally.label[:400]))


@personally("sittings.list_sittings")
@require_GET
def answers(request: MemberRequest, pk: int) -> HttpResponse:
    """What the class answered: the questions, and once it is uncovered how many gave which answer."""
    found = sitting_of(request, pk)
    now = timezone.now()
    # of several attempts the first: whoever comes after it moves nobody
    handed_in = list(found.takings.counted().filter(attempt=1).exclude(handed_in=None).order_by("handed_in", "pk"))
    more_may_come = found.held.closes is None or now < found.held.closes
    count = shown_count(len(handed_in), more_may_come)
    uncovered = "uncovered" in request.GET and count > 0
    context = {
        "sitting": found, "station": "sittings", "all": len(handed_in), "count": count, "uncovered": uncovered,
        "fewest": FEWEST, "more_may_come": more_may_come,
        "questions": questions_of(found, handed_in[:count] if uncovered else []),
    }  # fmt: skip
    return render(request, "sittings/answers.html", context)


def questions_of(sitting: Sitting, takings: Sequence[Taking]) -> list[tuple[dict[str, Any], list[Asked]]]:
    """The questions of a sitting in the order of the plan, each as it stands on the first form that was given, with
    what these students gave to its parts."""
    forms = {taking.form_id for taking in takings} or {sitting.form_set.forms.values_list("pk", flat=True).first()}
    items = StudentItem.objects.filter(form__in=forms).order_by("item__slot", "form")
    shown: dict[int, tuple[dict[str, Any], dict[str, Asked]]] = {}
    where: dict[tuple[int, int], tuple[int, dict[str, Any]]] = {}
    for form, position, sheet, candidate in items.values_list("form", "position", "shown", "item__candidate"):
        parts = {part["id"]: part for part in sheet["parts"] if part["shape"] != "nothing"}
        shown.setdefault(candidate, (sheet, {name: Asked(part) for name, part in parts.items()}))
        where[form, position] = candidate, parts
    of_form = {taking.pk: taking.form_id or 0 for taking in takings}
    rows = Response.objects.filter(taking__in=takings, counts=True).order_by("taking_id", "position", "part", "-pk")
    last = rows.distinct("taking_id", "position", "part").values_list("taking", "position", "part", "response")
    for taking, position, name, response in last:
        candidate, parts = where.get((of_form[taking], position), (0, {}))
        if name in parts and not is_empty(response):
            shown[candidate][1][name].given.append((parts[name], response))
    return [(sheet, list(asked.values())) for sheet, asked in shown.values()]
