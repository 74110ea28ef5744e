"""Ready questions to start from, and what each revision changed."""

from __future__ import annotations

import difflib
import re
from functools import cache

from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils.safestring import SafeString
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.notation import USUAL, Habits
from vorlage.core.questions import CompiledQuestion, Difference, QuestionDrawing, differences, load_document, written
from vorlage.core.text import HTML
from vorlage.library import Ready, ready_questions
from vorlage.web.design.asking import chosen_number
from vorlage.web.once.models import once
from vorlage.web.people.permissions import allowed, held, member
from vorlage.web.people.requests import MemberRequest

from .markup import safe
from .models import Question


def question_of(request: MemberRequest, pk: int, permission: str = "bank.view_question") -> Question:
    """A question with its newest revision, when the member may do this with it."""
    among = Question.objects.select_related("current__author", "department", "owner", "origin__question__department")
    return held(request, permission, among.defer("origin__document", "origin__sheet"), pk=pk)


@allowed("bank.add_question")
@require_GET
def gallery(request: MemberRequest) -> HttpResponse:
    """Ready questions to start from, by subject and topic."""
    subject = request.GET.get("subject", "")
    ready = ready_questions().values()
    subjects = list(dict.fromkeys(each.filing.topic[0] for each in ready))
    habits = request.membership.department.habits
    topics: dict[str, list[tuple[Ready, SafeString]]] = {}
    for each in ready:
        if subject in {"", each.filing.topic[0]}:
            topics.setdefault(each.filing.topic[-1], []).append((each, first_draw(each, habits)))
    count = sum(len(entries) for entries in topics.values())
    return render(
        request, "bank/gallery.html", {"topics": topics, "count": count, "subjects": subjects, "subject": subject}
    )


def load_gallery() -> None:
    """Draw every ready question now; otherwise whoever looks at them first waits for it."""
    for each in ready_questions().values():
        first_draw(each, USUAL)


@cache
def first_draw(ready: Ready, habits: Habits) -> SafeString:
    """What a ready question asks, in its first draw."""
    drawn = QuestionDrawing(CompiledQuestion(ready.document, habits), ready.name, 1).draw(1)
    texts = [drawn.question.wording, *drawn.question.part_wordings[:1]]
    return safe("".join(written(drawn, text, HTML) for text in texts))


@allowed("bank.add_question")
@require_POST
@once
def copy_question(request: MemberRequest, pk: int) -> HttpResponse:
    """Make a question one's own, to change it for oneself; a colleague's stays as it is."""
    made = question_of(request, pk).copy_for(request.user, request.membership.department)
    return redirect("question", made.pk)


@member
@require_GET
def history(request: MemberRequest, pk: int) -> HttpResponse:
    """The revisions of a question, and what each changed."""
    found, habits = question_of(request, pk), request.membership.department.habits
    revisions = list(found.revisions.select_related("author").order_by("-number"))
    entries = []
    for newer, older in zip(revisions, [*revisions[1:], None]):
        changes = []
        if older is not None:
            changes = differences(load_document(older.document), load_document(newer.document), habits)
        entries.append((newer, [(change, *marked(change)) for change in changes]))
    numbers = {revision.number: revision for revision in revisions}
    asked = [request.GET.get(name, "") for name in ("from", "to")]
    chosen = [numbers.get(chosen_number(text)) for text in asked]
    comparison = None
    if chosen[0] is not None and chosen[1] is not None:
        old, new = (load_document(revision.document) for revision in chosen if revision is not None)
        comparison = [(change, *marked(change)) for change in differences(old, new, habits)]
    compared = [revision.number if revision else 0 for revision in chosen]
    if comparison is None and len(revisions) > 1:
        compared = [revisions[1].number, revisions[0].number]
    context = {"question": found, "entries": entries, "comparison": comparison, "compared": compared}
    return render(request, "bank/history.html", context)


def marked(change: Difference) -> tuple[list[tuple[str, bool]], list[tuple[str, bool]]]:
    """The words before and after, each with whether it changed."""
    old, new = (re.findall(r"\s+|\w+|[^\w\s]", text or "") for text in (change.before, change.after))
    before: list[tuple[str, bool]] = []
    after: list[tuple[str, bool]] = []
    for kind, a, b, c, d in difflib.SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if a < b:
            before.append(("".join(old[a:b]), kind != "equal"))
        if c < d:
            after.append(("".join(new[c:d]), kind != "equal"))
    return before, after
