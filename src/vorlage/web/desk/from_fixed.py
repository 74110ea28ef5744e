"""The page on which a fixed question becomes a varying one."""

from __future__ import annotations

import uuid
from dataclasses import replace

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.utils.safestring import SafeString
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.algebra import to_fraction
from vorlage.core.notation import (
    Habits,
    NotationError,
    Settings,
    from_document,
    line,
    literal,
    substitute,
    to_document,
    told,
)
from vorlage.core.questions import (
    FoundFormula,
    Proposal,
    VaryingError,
    close_enough,
    keeping_sign,
    propose,
    read_named,
    varied,
)
from vorlage.web.people.permissions import allowed
from vorlage.web.people.requests import MemberRequest

from .form import Desk
from .formulas import markup
from .local import by_habits
from .models import Draft
from .rows import ConditionRow, ParameterRow, PartRow

MOST = 4000


@allowed("bank.add_question")
@require_GET
def from_fixed(request: MemberRequest) -> HttpResponse:
    return render(request, "desk/from_fixed.html", {"text": "", "answer": ""})


@allowed("bank.add_question")
@require_POST
def look_for_numbers(request: MemberRequest) -> HttpResponse:
    """What could vary, and the formulas that give the answer."""
    text, answer = typed(request)
    context: dict[str, object] = {"text": text, "answer": answer}
    habits = request.membership.department.habits
    try:
        proposal = propose(text, answer, habits.reading(Settings()))
        context |= {
            "proposal": proposal,
            "numbers": [(number, from_document(number.definition, habits)) for number in proposal.numbers],
            "formulas": [shown(each, habits) for each in proposal.formulas],
        }
    except VaryingError as problem:
        context["refused"] = told(str(problem), habits)
    return render(request, "desk/_proposal.html", context)


@allowed("bank.add_question")
@require_POST
def vary(request: MemberRequest) -> HttpResponse:
    """Put the question on the desk as a draft, with what was picked."""
    text, answer = typed(request)
    habits = request.membership.department.habits
    try:
        proposal = propose(text, answer, habits.reading(Settings()))
    except VaryingError as problem:
        context = {"text": text, "answer": answer, "refused": told(str(problem), habits)}
        return render(request, "desk/from_fixed.html", context, status=422)
    desk = by_habits(desk_of(proposal, text, request), habits)
    draft = Draft.objects.create(
        user=request.user,
        department=request.membership.department,
        key=uuid.uuid4(),
        title=desk.title,
        fields=desk.as_draft(),
    )
    return redirect(f"{reverse('new-question')}?draft={draft.key}")


def shown(found: FoundFormula, habits: Habits) -> tuple[FoundFormula, SafeString, SafeString]:
    """A formula that was found and the book's, typeset by the core's own printer."""
    style, found = habits.style, replace(found, value=told(found.value, habits))
    printed = found.book.equations[0] if found.book else None
    return (
        found,
        markup(read_named(found.formula), True, style),
        markup(printed, True, style) if printed else SafeString(""),
    )


def typed(request: MemberRequest) -> tuple[str, str]:
    return request.POST.get("text", "").replace("\r\n", "\n")[:MOST], request.POST.get("answer", "")[:200]


def in_document(definition: str, habits: Habits) -> str:
    """A definition as a document has it; the desk says what is wrong with one that means nothing here."""
    try:
        return to_document(definition, habits)
    except NotationError:
        return definition


def desk_of(proposal: Proposal, text: str, request: MemberRequest) -> Desk:
    """The desk with the numbers that were picked to vary; the others stay in the text and in the formula."""
    picked = [number for number in proposal.numbers if f"vary-{number.name}" in request.POST]
    formula, condition = request.POST.get("formula", "")[:500], ""
    habits = request.membership.department.habits
    definitions = {
        number.name: in_document(request.POST.get(f"definition-{number.name}", "")[:200], habits) or number.definition
        for number in picked
    }
    if formula in {found.formula for found in proposal.formulas}:
        fixed = {number.name: literal(to_fraction(number.value)) for number in proposal.numbers if number not in picked}
        condition = keeping_sign(formula, proposal.numbers, definitions)
        formula, condition = (
            line(substitute(read_named(each), fixed)) if each else "" for each in (formula, condition)
        )
    rows = [
        ParameterRow(
            number.name,
            definitions[number.name],
            number.unit,
            number.shown,
        )
        for number in picked
    ]
    mode, close = close_enough(proposal.decimals, proposal.figures)
    kind = "quantity" if proposal.unit else "number"
    part = PartRow(
        kind=kind, typed={"key": formula, "unit": proposal.unit, "mode": mode, "tolerance": close}, marks="2"
    )
    words = text.split()
    title = " ".join(words[:7]) + ("…" if len(words) > 7 else "")
    return Desk(
        title=title[:200],
        wording=varied(text, picked),
        parameters=rows or [ParameterRow()],
        conditions=[ConditionRow(condition)],
        parts=[part],
    )
