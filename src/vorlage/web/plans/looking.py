"""The whole test as a student and as a marker sees it, before any form is made; and writing a question for it."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal
from fractions import Fraction

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import shown_marks
from vorlage.core.budget import OutOfBudget, budgeted
from vorlage.core.draws import DrawError, Stream, stream_key
from vorlage.core.plans import picked
from vorlage.core.questions import QuestionDrawing
from vorlage.web.bank.models import Revision
from vorlage.web.design.asking import chosen_number
from vorlage.web.desk.preview import MAXIMUM_STEPS, Preview
from vorlage.web.desk.sheet import Sheet, sheet_of
from vorlage.web.people.permissions import member
from vorlage.web.people.requests import MemberRequest
from vorlage.web.people.turns import in_turn

from .models import Candidate, Held, Section
from .slots import WRITING_FOR
from .views import Lines, lines_of, test_of

# So many forms can be looked at before any is made; all questions of one take so many seconds at most.
LOOKS, STEPS, SECONDS = 50, MAXIMUM_STEPS * 6, 6.0


@dataclass
class Seen:
    """A question as it lies in the test; why it cannot be shown where it cannot."""

    number: int
    revision: Revision
    preview: Preview | None = None
    trouble: str = ""


@dataclass
class SeenSection:
    section: Section
    questions: list[Seen] = field(default_factory=list)


@member
@require_GET
@in_turn
def look(request: MemberRequest, pk: int) -> HttpResponse:
    """One form of the test as it could be, with the questions of its pools and the numbers of a draw."""
    found = test_of(request, pk)
    number = min(LOOKS, max(1, chosen_number(request.GET.get("form", ""), 1)))
    places = found.ordered()
    chosen = chosen_for(places, pk, number)
    seen, shown = [], 1
    try:
        with budgeted(STEPS, SECONDS):
            for lines in lines_of(found, places):
                seen.append(SeenSection(lines.section, list(questions_of(request, lines, chosen, shown, number))))
                shown += len(seen[-1].questions)
    except OutOfBudget:
        pass
    context = {
        "test": found, "seen": seen, "number": number, "last": LOOKS, "as_marker": request.GET.get("as") == "marker",
        "cut": sum(len(each.questions) for each in seen) < sum(len(each) for each in chosen.values()),
        "marks": sum((held.counted for held in places), Fraction(0)),
        "earlier": number - 1, "later": number + 1 if number < LOOKS else 0,
    }  # fmt: skip
    return render(request, "plans/look.html", context)


def chosen_for(places: Sequence[Held], pk: int, number: int) -> dict[int, list[Candidate]]:
    """The questions that a form could have, by the place."""
    slots = [k for k, held in enumerate(places) for _ in range(held.place.take)]
    asked = [[str(each.revision.question_id) for each in places[k].candidates] for k in slots]
    keys = picked(slots, asked, Counter(), Stream(stream_key(f"look {pk}", 0), number, "picks"), {})
    found: dict[int, list[Candidate]] = {held.pk: [] for held in places}
    for k, key in zip(slots, keys):
        found[places[k].pk] += [each for each in places[k].candidates if str(each.revision.question_id) == key]
    return found


def questions_of(
    request: MemberRequest, lines: Lines, chosen: dict[int, list[Candidate]], first: int, number: int
) -> Sequence[Seen]:
    """The questions of a section with the numbers of a draw."""
    wanted = [(line.held, each) for line in lines.lines for each in chosen[line.held.pk]]
    documents = Revision.objects.select_related("question").in_bulk([each.revision_id for _, each in wanted])
    found = []
    for k, (held, each) in enumerate(wanted):
        revision = documents[each.revision_id]
        seen = Seen(first + k, revision)
        try:
            question = revision.compiled(request.membership.department.habits, held.place.test.in_order)
            draw = each.draw if each.draw and number == 1 else number
            drawn = QuestionDrawing(question, str(revision.question.key), revision.number).draw(draw)
            seen.preview = Preview(sheet=worth_here(sheet_of(drawn), held, revision))
        except DrawError as problem:
            seen.trouble = problem.message
        found.append(seen)
    return found


def worth_here(sheet: Sheet, held: Held, revision: Revision) -> Sheet:
    """The sheet with the marks that its parts have in this place."""
    if held.place.marks is None or not revision.marks:
        return sheet
    factor = held.each / Fraction(revision.marks)
    parts = [replace(part, marks=shown(part.marks, factor)) for part in sheet.parts]
    return replace(sheet, parts=parts)


def shown(marks: Decimal, factor: Fraction) -> Decimal:
    return shown_marks(Fraction(marks) * factor)


@member
@require_POST
def write(request: MemberRequest, pk: int) -> HttpResponse:
    """Write a question from inside the plan: when it is kept, it can be put where it belongs at once."""
    found = test_of(request, pk, "plans.change_test")
    request.session[WRITING_FOR] = found.pk
    return redirect("new-question")
