"""A newer revision of a question in a test beside the one that it has: what it changes, and draws of both."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.http import require_GET

from vorlage.core.budget import OutOfBudget, budgeted
from vorlage.core.draws import DrawError
from vorlage.core.questions import QuestionDrawing, differences, load_document
from vorlage.web.bank.models import Revision
from vorlage.web.bank.views import marked
from vorlage.web.design.asking import chosen_number
from vorlage.web.desk.preview import FURTHEST, MAXIMUM_SECONDS, MAXIMUM_STEPS, Preview
from vorlage.web.desk.sheet import sheet_of
from vorlage.web.people.permissions import member
from vorlage.web.people.requests import MemberRequest
from vorlage.web.people.turns import in_turn

from .models import Candidate
from .views import test_of


@member
@require_GET
@in_turn
def newer(request: MemberRequest, pk: int, candidate: int) -> HttpResponse:
    """What the latest revision of a question changes: field by field, and a draw of both side by side."""
    found = test_of(request, pk, "plans.view_test")
    candidates = Candidate.objects.select_related("revision__question__current")
    outdated = get_object_or_404(candidates, place__test=found, pk=candidate)
    habits, older = request.membership.department.habits, outdated.revision
    latest = older.question.newest
    changes = differences(load_document(older.document), load_document(latest.document), habits)
    draw, last, trouble = max(1, chosen_number(request.GET.get("draw", ""), 1)), FURTHEST, ""
    sheets: list[tuple[Revision, Preview]] = []
    try:
        with budgeted(MAXIMUM_STEPS, MAXIMUM_SECONDS):
            compiled = [each.compiled(habits) for each in (older, latest)]
            last = min([FURTHEST, *(each.parameters.count or FURTHEST for each in compiled)])
            draw = min(draw, last)
            for revision, question in zip((older, latest), compiled):
                drawing = QuestionDrawing(question, str(older.question.key), revision.number)
                sheets.append((revision, Preview(sheet=sheet_of(drawing.draw(draw)))))
    except (OutOfBudget, DrawError) as problem:
        trouble = str(problem)
    context = {
        "test": found, "place": outdated, "older": older, "newer": latest, "draw": draw, "last": last,
        "changes": [(change, *marked(change)) for change in changes], "sheets": sheets, "trouble": trouble,
    }  # fmt: skip
    return render(request, "plans/_newer.html", context)
