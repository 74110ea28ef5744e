"""The list of questions and the question desk."""

from __future__ import annotations

import uuid

from django.contrib import messages
from django.core.paginator import Paginator
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils.safestring import SafeString
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.questions import Question as CompiledQuestion
from vorlage.core.questions import Spread, load_document, survey
from vorlage.web.accounts.permissions import author, member
from vorlage.web.papers.models import Test

from .desk_form import (
    CHOOSE,
    EQUATION_FORMS,
    FORMS,
    KINDS,
    MATCHES,
    MODES,
    SCORES,
    UNIT_RULES,
    UP_TO,
    ConditionRow,
    Desk,
    OptionRow,
    ParameterRow,
    PartRow,
    TableRow,
)
from .models import Question, Revision
from .preview import DRAWS, Preview, Wish, part_label, preview, safe

PAGE = 24
# What the fields of a part offer.
PART_CHOICES = {
    "kinds": KINDS, "modes": MODES, "forms": FORMS, "up_to": UP_TO, "equation_forms": EQUATION_FORMS,
    "unit_rules": UNIT_RULES, "matches": MATCHES, "choices": CHOOSE, "scores": SCORES,
}  # fmt: skip
SUBJECTS = [("mathematics", "Mathematics"), ("physics", "Physics"), ("chemistry", "Chemistry")]


@member
@require_GET
def questions(request: HttpRequest) -> HttpResponse:
    """The department's questions, found by words and narrowed by subject."""
    text, subject = request.GET.get("search", ""), request.GET.get("subject", "")
    found = Question.objects.of(request.membership).search(text)
    if subject in dict(SUBJECTS):
        found = found.filter(subject=subject)
    page = Paginator(found, PAGE).get_page(request.GET.get("page"))
    revisions = latest_revisions(list(page.object_list))
    context = {
        "page": page,
        "sheets": [(question, stem(revisions[question.pk])) for question in page.object_list],
        "search": text,
        "subject": subject,
        "subjects": SUBJECTS,
    }
    template = "questions/_results.html" if request.htmx and not request.htmx.boosted else "questions/list.html"
    return render(request, template, context)


def latest_revisions(found: list[Question]) -> dict[int, Revision]:
    """The latest revision of each question, in one query."""
    wanted = Revision.objects.filter(question__in=found).order_by("question_id", "-number").distinct("question_id")
    latest = {revision.question_id: revision for revision in wanted}
    for each in found:
        latest[each.pk].question = each
    return latest


def stem(revision: Revision) -> SafeString:
    """The wording with the numbers of the first draw."""
    compiled = revision.compiled
    if compiled.problems:
        return SafeString("")
    drawn = compiled.drawing(str(revision.question.key), revision.number).draw(1)
    markup = drawn.html(compiled.wording)
    return safe(markup) if markup.strip() else safe(drawn.html(compiled.part_wordings[0]))


# the desk


def desk_context(
    request: HttpRequest, desk: Desk, question: Question | None, key: str, shown: Preview
) -> dict[str, object]:
    revision = question.current if question else None
    return {
        "desk": desk,
        "question": question,
        "revision": revision,
        "key": key,
        "base": question.latest if question else 0,
        "preview": shown,
        **PART_CHOICES,
        "subjects": SUBJECTS,
        "levels": [str(level) for level in range(1, 6)],
        "view": request.POST.get("view", "paper"),
        "tried": request.POST.get("try", ""),
        "tried_part": chosen_number(request, "try_part"),
        "uses": uses(question) if question else [],
    }


def uses(question: Question) -> list[object]:
    """The tests that have this question."""
    return list(Test.objects.filter(places__revision__question=question).distinct())


def chosen_number(request: HttpRequest, name: str, otherwise: int = 0) -> int:
    text = request.POST.get(name, "")
    return int(text) if text.isdecimal() and len(text) < 9 else otherwise


@author
@require_GET
def new_question(request: HttpRequest) -> HttpResponse:
    desk, key = Desk.blank(), str(uuid.uuid4())
    shown = Preview(
        no_draws="Write the wording, say what varies, give the answer: eight draws appear here as you type.",
        marks=sum(int(row.marks) for row in desk.parts),
    )
    return render(request, "questions/desk.html", desk_context(request, desk, None, key, shown))


@member
@require_GET
def question(request: HttpRequest, pk: int) -> HttpResponse:
    found = get_object_or_404(Question.objects.of(request.membership), pk=pk)
    desk = Desk.from_document(load_document(found.current.document))
    shown = preview(desk, str(found.key), found.latest)
    return render(request, "questions/desk.html", desk_context(request, desk, found, str(found.key), shown))


def posted_desk(request: HttpRequest) -> tuple[Desk, Question | None, str, int]:
    """The fields as they stand in the browser, and under which identity their draws are made.

    A reader's fields are not sent: theirs are those of the latest revision.
    """
    found = None
    if pk := chosen_number(request, "question"):
        found = get_object_or_404(Question.objects.of(request.membership), pk=pk)
    latest = load_document(found.current.document) if found else None
    if not request.membership.may_write:
        desk = Desk.from_document(latest) if latest else Desk.blank()
    else:
        desk = Desk.from_post(request.POST)
    key = str(found.key) if found else identity(request.POST.get("key", ""))
    revision = 1
    if found:
        document, problems = desk.document()
        unchanged = not problems and document == latest
        revision = found.latest if unchanged else found.latest + 1
    return desk, found, key, revision


def identity(text: str) -> str:
    try:
        return str(uuid.UUID(text))
    except ValueError:
        return str(uuid.uuid4())


def wish(request: HttpRequest) -> Wish:
    """What the author wants to see; a draw that was gone to counts before the one that was chosen."""
    return Wish(
        chosen_number(request, "go") or chosen_number(request, "draw", 1),
        request.POST.get("try", ""),
        chosen_number(request, "try_part"),
        chosen_number(request, "rows", DRAWS),
        request.POST.get("sort", ""),
    )


@member
@require_POST
def survey_question(request: HttpRequest) -> HttpResponse:
    """A thousand draws at a glance."""
    desk, _, key, revision = posted_desk(request)
    document, problems = desk.document()
    compiled = CompiledQuestion(document) if document is not None else None
    if compiled is None or problems or compiled.problems:
        return render(request, "questions/_survey.html", {"unsound": True})
    found = survey(compiled.drawing(key, revision))
    labels = [part_label(compiled, k) or "Answer" for k in range(len(compiled.document.parts))]
    rows = [(labels[each.part], each, bars(each)) for each in found.spreads]
    return render(request, "questions/_survey.html", {"survey": found, "rows": rows})


def bars(found: Spread) -> list[tuple[int, int, int]]:
    """The bars of a distribution: (x, y, height), at most 40 high."""
    most = max(found.bars, default=0)
    heights = [0 if not count else max(1, round(40 * count / most)) for count in found.bars]
    return [(8 * k, 40 - height, height) for k, height in enumerate(heights)]


@member
@require_POST
def preview_question(request: HttpRequest) -> HttpResponse:
    """All that is computed on the desk, renewed as one types."""
    desk, found, key, revision = posted_desk(request)
    shown = preview(desk, key, revision, wish(request))
    context = desk_context(request, desk, found, key, shown)
    context["changed"] = found is None or revision > found.latest
    return render(request, "questions/_preview.html", context)


@author
@require_POST
def save_question(request: HttpRequest) -> HttpResponse:
    """Keep what stands on the desk as a revision; when it cannot be kept, everything typed is still there."""
    desk, found, key, revision = posted_desk(request)
    shown = preview(desk, key, revision, wish(request))
    document, problems = desk.document()
    context = desk_context(request, desk, found, key, shown)
    if document is None or problems or not shown.sound:
        context["refused"] = "Not saved yet: mend what is marked, then save again. Nothing you typed is lost."
        return render(request, "questions/desk.html", context, status=422)
    if found and chosen_number(request, "base") != found.latest:
        context["refused"] = (
            f"{found.current.author} saved revision {found.latest} while you were writing. "
            "Save again to keep yours as the next revision; theirs stays in the history."
        )
        return render(request, "questions/desk.html", context, status=409)
    kept = Question.save_revision(
        request.membership.department,
        request.user,
        document,
        found,
        uuid.UUID(key),
        request.POST.get("revision_note", ""),
    )
    messages.success(request, f"Saved as revision {kept.number}.")
    return redirect("question", kept.question_id)


@author
@require_GET
def new_parameter(request: HttpRequest) -> HttpResponse:
    return render(request, "questions/_parameter.html", {"row": ParameterRow(), "preview": Preview()})


@author
@require_GET
def new_condition(request: HttpRequest) -> HttpResponse:
    row = ConditionRow(request.GET.get("text", "")[:500])
    return render(request, "questions/_condition.html", {"row": row, "preview": Preview()})


@author
@require_GET
def new_table(request: HttpRequest) -> HttpResponse:
    return render(request, "questions/_table.html", {"row": TableRow(), "preview": Preview()})


@author
@require_GET
def new_option(request: HttpRequest, uid: str) -> HttpResponse:
    return render(request, "questions/_option.html", {"option": OptionRow(), "uid": uid})


@author
@require_GET
def new_part(request: HttpRequest) -> HttpResponse:
    context = {"row": PartRow(), "preview": Preview(), **PART_CHOICES}
    return render(request, "questions/_part.html", context)
