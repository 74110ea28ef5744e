"""The formula book, to be looked through."""

from __future__ import annotations

from dataclasses import dataclass

from django.http import HttpResponse
from django.shortcuts import render
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.http import require_GET

from vorlage.core.formulas import Constant, Formula, Letter, book, search_book
from vorlage.core.notation import POINT, Habits, Name, Node, Style, from_document, line, mathml
from vorlage.web.people.permissions import member
from vorlage.web.people.requests import MemberRequest

# So many formulas are shown for words.
SHOWN = 60


@dataclass(frozen=True)
class Entry:
    """A formula as it stands on the page."""

    formula: Formula
    shown: SafeString
    # the right side, to be typed
    typed: str
    letters: list[tuple[SafeString, Letter]]


def entry(formula: Formula, habits: Habits) -> Entry:
    equation = formula.equations[0]
    letters = [(markup(Name(name)), formula.letters[name]) for name in formula.in_order]
    typed = from_document(line(equation.terms[1]), habits)
    return Entry(formula, markup(equation, True, habits.style), typed, letters)


def markup(tree: Node, block: bool = False, style: Style = POINT) -> SafeString:
    """Markup that the core's own printer wrote."""
    return mark_safe(mathml(tree, style, block))


@member
@require_GET
def formula_book(request: MemberRequest) -> HttpResponse:
    """A topic of the book, or the formulas that some words speak of."""
    habits = request.membership.department.habits
    words = " ".join(request.GET.get("words", "").split())[:100]
    topics: dict[str, list[str]] = {}
    for formula in book().formulas:
        names = topics.setdefault(formula.subject, [])
        if formula.topic not in names:
            names.append(formula.topic)
    topic = request.GET.get("topic", "")
    if words:
        found = search_book(words)[:SHOWN]
    else:
        known = {name for names in topics.values() for name in names}
        topic = topic if topic in known else topics["mathematics"][0]
        found = [formula for formula in book().formulas if formula.topic == topic]
    context = {
        "words": words,
        "topic": "" if words else topic,
        "topics": topics,
        "count": len(book().formulas),
        "entries": [entry(formula, habits) for formula in found],
        "constants": [
            (markup(Name(each.name)), each, from_document(each.values[0], habits)) for each in constants_in(found)
        ],
    }
    template = "desk/_formulas.html" if request.headers.get("HX-Request") else "desk/formulas.html"
    return render(request, template, context)


def constants_in(formulas: list[Formula]) -> list[Constant]:
    """The constants that some formulas use, in the book's order."""
    used = {name for formula in formulas for name, letter in formula.letters.items() if letter.constant}
    return [constant for name, constant in book().constants.items() if name in used]
