"""A question looked at beside the list: as a student and as a marker sees it, some of its draws, where it is used."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from vorlage.core.budget import OutOfBudget, budgeted
from vorlage.core.draws import DrawError
from vorlage.core.questions import QuestionDrawing
from vorlage.web.bank.views import question_of
from vorlage.web.design.asking import chosen_number
from vorlage.web.people.permissions import member
from vorlage.web.people.requests import MemberRequest

from .draw_table import draw_table
from .preview import FURTHEST, MAXIMUM_SECONDS, MAXIMUM_STEPS, Preview
from .sheet import sheet_of

# so many draws are laid below each other
SHOWN = 6


@member
@require_GET
def look(request: MemberRequest, pk: int) -> HttpResponse:
    """The question with one of its draws; nothing of it can be changed here."""
    found = question_of(request, pk)
    as_marker = request.GET.get("as") == "marker"
    context: dict[str, Any] = {"question": found, "as_marker": as_marker, "draw": 1}
    try:
        with budgeted(MAXIMUM_STEPS, MAXIMUM_SECONDS):
            compiled = found.newest.compiled(request.membership.department.habits)
            drawing = QuestionDrawing(compiled, str(found.key), found.latest)
            count = compiled.parameters.count or FURTHEST
            draw = max(1, min(chosen_number(request.GET.get("draw", ""), 1), count))
            first = max(1, min(draw - 1, count - SHOWN + 1))
            drawn = [drawing.draw(number) for number in range(first, min(first + SHOWN, count + 1))]
            chosen = next(item for item in drawn if item.draw.number == draw)
            context |= {
                "draw": draw,
                "count": compiled.parameters.count,
                "preview": Preview(sheet=sheet_of(chosen)),
                "table": draw_table(compiled, drawn, [], {}, ""),
                "earlier": draw - 1,
                "later": draw + 1 if draw < count else 0,
            }
    except (OutOfBudget, DrawError) as problem:
        # versions before kept what cannot be drawn any more as well
        context["trouble"] = str(problem)
    return render(request, "desk/_look.html", context)
