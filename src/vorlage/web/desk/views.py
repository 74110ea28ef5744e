"""The question desk: opened, renewed as one types, and a thousand draws at a glance."""

from __future__ import annotations

import json
import uuid
from dataclasses import dataclass, field, replace

from django.http import HttpResponse
from django.shortcuts import get_object_or_404, render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import KINDS, plain_marks
from vorlage.core.draws import DEFINITION_WORDS
from vorlage.core.figures import STATEMENTS, STYLES
from vorlage.core.notation import COMPLETIONS, Habits, from_document
from vorlage.core.questions import (
    LEVELS,
    CompiledQuestion,
    Extreme,
    QuestionDrawing,
    Spread,
    Survey,
    load_document,
    survey,
)
from vorlage.library import ready_questions
from vorlage.web.bank.models import Question, Revision
from vorlage.web.bank.views import question_of
from vorlage.web.design.asking import chosen_number
from vorlage.web.people.permissions import allowed, member
from vorlage.web.people.requests import MemberRequest
from vorlage.web.people.turns import in_turn

from .drafts import keep_draft, others_writing, own_drafts
from .field_messages import in_place
from .form import Desk
from .helping import example, ways
from .local import by_habits, opened
from .merging import Merged, merged
from .models import Draft
from .pieces import kept_rubrics
from .posted import Posted, identity, may_change, posted_desk, wish
from .preview import Preview, preview
from .rows import ConditionRow, FigureRow, ParameterRow, PartRow, TableRow
from .uids import FRESH

# What the bar under the fields inserts: how it looks, what it inserts, its name.
SIGNS = [
    ("√", "sqrt()", "square root"), ("ⁿ√", "root(3, )", "root of some order"), ("x²", "^2", "squared"),
    ("xⁿ", "^()", "power"), ("|x|", "abs()", "absolute value"), ("a⁄b", "()/()", "fraction"), ("π", "pi", "pi"),
    ("≤", " <= ", "at most"), ("≥", " >= ", "at least"), ("≠", " != ", "not equal"),
    ("±", "±", "plus or minus"), ("∞", "infinity", "infinity"), ("∫", "integral(, x, 0, 1)", "integral"),
    ("Σ", "sum(, k, 1, n)", "sum"), ("→", " -> ", "arrow"),
]  # fmt: skip
# How the sheet is looked at.
VIEWS = [("paper", "Paper"), ("phone", "Phone"), ("large", "Large"), ("aloud", "Aloud"), ("solution", "Key")]


@dataclass(frozen=True)
class Fresh:
    """Empty rows, for the templates that the browser makes new rows from."""

    uid: str = FRESH
    parameter: ParameterRow = field(default_factory=lambda: ParameterRow(uid=FRESH))
    condition: ConditionRow = field(default_factory=lambda: ConditionRow(uid=FRESH))
    table: TableRow = field(default_factory=lambda: TableRow(uid=FRESH))
    figure: FigureRow = field(default_factory=lambda: FigureRow(lines="frame 0..8, 0..5\n", uid=FRESH))
    part: PartRow = field(default_factory=lambda: PartRow(uid=FRESH))

    @staticmethod
    def of(request: MemberRequest) -> Fresh:
        """As they are typed in the department of somebody."""
        habits = request.membership.department.habits
        return Fresh(part=PartRow(uid=FRESH, marks=from_document(first_marks(request), habits)))


def first_marks(request: MemberRequest) -> str:
    """The marks with which a part of a new question begins, as documents have them."""
    return str(plain_marks(request.membership.department.first_marks))


def desk_context(request: MemberRequest, posted: Posted, shown: Preview) -> dict[str, object]:
    """All that the page of the desk shows."""
    question, habits = posted.question, posted.desk.habits
    return {
        "desk": posted.desk,
        "question": question,
        "revision": question.current if question else None,
        "key": posted.key,
        "base": question.latest if question else 0,
        "preview": shown,
        "covers": request.POST.get("covers", ""),
        "stroke": chosen_number(request.POST.get("stroke", "")),
        "kinds": KINDS.values(),
        "may_write": may_change(request, question),
        "may_copy": question is not None and request.membership.may_write,
        "fresh": Fresh.of(request) if request.membership.may_write else None,
        "signs": [(look, from_document(inserted, habits), name) for look, inserted, name in SIGNS],
        "ways": ways(habits),
        "statements": STATEMENTS,
        "styles": STYLES,
        "completions": json.dumps([*(from_document(each, habits) for each in COMPLETIONS), *DEFINITION_WORDS]),
        "views": VIEWS,
        "levels": [str(level) for level in LEVELS],
        "demands": request.membership.department.demands,
        "view": request.POST.get("view", "paper"),
        "rubrics": kept_rubrics(request) if request.membership.may_write else [],
    }


@allowed("bank.add_question")
@never_cache
@require_GET
def new_question(request: MemberRequest) -> HttpResponse:
    """An empty desk, one that was left, a ready question, or, for whoever has written none, an example."""
    habits = request.membership.department.habits
    desk, key, is_example = by_habits(Desk.blank(first_marks(request)), habits), str(uuid.uuid4()), False
    drafts = list(own_drafts(request).filter(question=None, key=identity(request.GET.get("draft", ""))))
    draft, windows = next(iter(drafts), None), None
    if draft is not None:
        desk, windows = brought_together(drafts, Desk(), habits)
        key = str(draft.key)
    elif ready := ready_questions().get(request.GET.get("ready", "")):
        desk = opened(ready.document, ready.filing, habits)
    elif "empty" not in request.GET and not Revision.objects.filter(author=request.user).exists():
        desk, is_example = by_habits(example(), habits), True
    if draft is not None or is_example or "ready" in request.GET:
        context = desk_context(request, Posted(desk, None, key, 1), preview(desk, key, 1))
        context |= {"draft": draft, "kept": draft is not None, "example": is_example, "windows": windows}
        return render(request, "desk/desk.html", context | {"covers": covers(drafts)})
    shown = Preview(
        no_draws="Write the wording, say what varies, give the answer: eight draws appear here as you type.",
        marks=plain_marks(request.membership.department.first_marks),
    )
    return render(request, "desk/desk.html", desk_context(request, Posted(desk, None, key, 1), shown))


@member
@never_cache
@require_GET
def question(request: MemberRequest, pk: int) -> HttpResponse:
    found = question_of(request, pk)
    revision, habits = found.latest, request.membership.department.habits
    desk = opened(load_document(found.newest.document), found.filing, habits)
    drafts = list(own_drafts(request).filter(question=found)) if may_change(request, found) else []
    draft = next(iter(drafts), None)
    taken_up, both, windows = chosen_number(request.GET.get("revision", "")), None, None
    if taken_up:
        old = get_object_or_404(found.revisions, number=taken_up)
        desk, revision = opened(load_document(old.document), found.filing, habits), found.latest + 1
        draft = None
    elif draft is not None:
        revision = found.latest + 1
        desk, windows = brought_together(drafts, desk, habits)
        both = with_newest(found, draft, desk)
        desk = both.desk if both else desk
    shown = preview(desk, str(found.key), revision)
    context = desk_context(request, Posted(desk, found, str(found.key), revision), shown)
    if draft is not None:
        context |= {"draft": draft, "changed": True, "kept": True, "both": both, "windows": windows}
        context["covers"] = covers(drafts)
    if taken_up:
        context |= {"taken_up": taken_up, "changed": True}
    return render(request, "desk/desk.html", context)


def covers(drafts: list[Draft]) -> str:
    """The drafts with which a page is opened, as it sends them."""
    return ",".join(str(draft.pk) for draft in drafts)


def brought_together(drafts: list[Draft], begun: Desk, habits: Habits) -> tuple[Desk, Merged | None]:
    """What was typed in several windows, the newest first, on one desk, and what became of it where there were several.

    ``begun`` is what they were opened with, as far as nothing is known of a draft that they have in common.
    """
    newest, *others = drafts
    desk, found = by_habits(Desk.from_draft(newest.fields), habits), None
    for other in others:
        # what both have in common
        kept = other.begun.get(newest.leaf) or newest.begun.get(other.leaf)
        base = by_habits(Desk.from_draft(kept), habits) if kept else begun
        result = merged(base, desk, by_habits(Desk.from_draft(other.fields), habits))
        desk = result.desk
        earlier = found or Merged(desk)
        found = Merged(desk, [*earlier.taken, *result.taken], [*earlier.conflicts, *result.conflicts])
    return desk, found


def with_newest(found: Question, draft: Draft, desk: Desk) -> Merged | None:
    """The draft with what was saved since it was begun; None when nothing was."""
    begun = found.revisions.filter(number=draft.base).first() if 0 < draft.base < found.latest else None
    if begun is None:
        return None
    base, newest = (opened(load_document(each.document), found.filing, desk.habits) for each in (begun, found.newest))
    return merged(base, desk, newest)


@member
@require_POST
@in_turn
def survey_question(request: MemberRequest) -> HttpResponse:
    """A thousand draws at a glance."""
    posted = posted_desk(request)
    read = posted.desk.read
    compiled = CompiledQuestion(read.document, posted.desk.habits) if read.document is not None else None
    if compiled is None or read.problems or compiled.problems:
        return render(request, "desk/_survey.html", {"unsound": True})
    found = localised(survey(QuestionDrawing(compiled, posted.key, posted.revision)), posted.desk.habits)
    labels = [label.full or "Answer" for label in compiled.document.labels]
    rows = [(labels[each.part], each, bars(each)) for each in found.spreads]
    return render(request, "desk/_survey.html", {"survey": found, "rows": rows, "desk": posted.desk})


def localised(found: Survey, habits: Habits) -> Survey:
    """What many draws show, its numbers as they are written here."""

    def extreme(each: Extreme) -> Extreme:
        return replace(each, answer=from_document(each.answer, habits))

    spreads = tuple(
        replace(each, least=extreme(each.least), greatest=extreme(each.greatest), longest=extreme(each.longest))
        for each in found.spreads
    )
    return replace(found, spreads=spreads, warnings=tuple(in_place(found.warnings, habits)))


def bars(found: Spread) -> list[tuple[int, int, int]]:
    """The bars of a distribution: (x, y, height), at most 40 high."""
    most = max(found.bars, default=0)
    heights = [0 if not count else max(1, round(40 * count / most)) for count in found.bars]
    return [(8 * k, 40 - height, height) for k, height in enumerate(heights)]


@member
@require_POST
@in_turn
def preview_question(request: MemberRequest) -> HttpResponse:
    """All that is computed on the desk, renewed as one types."""
    posted = posted_desk(request)
    found = posted.question
    shown = preview(posted.desk, posted.key, posted.revision, wish(request))
    context = desk_context(request, posted, shown)
    context["changed"] = not posted.is_unchanged
    if may_change(request, posted.question):
        context["kept"] = keep_draft(request, posted, bool(context["changed"]))
        context["others"] = others_writing(request, found)
        context["overtaken"] = found is not None and 0 < chosen_number(request.POST.get("base", "")) < found.latest
    return render(request, "desk/_preview.html", context)
