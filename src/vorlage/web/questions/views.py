"""The list of questions and the question desk."""

from __future__ import annotations

import difflib
import re
import uuid
from datetime import timedelta
from decimal import Decimal
from functools import cache

from django.contrib import messages
from django.core.paginator import Paginator
from django.db.models import QuerySet
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.utils.safestring import SafeString
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import total_marks
from vorlage.core.questions import Difference, Spread, Unsound, differences, load_document, survey
from vorlage.core.questions import Question as CompiledQuestion
from vorlage.gallery import Ready, ready_questions
from vorlage.web.accounts.permissions import author, member
from vorlage.web.papers.models import Test

from .desk_form import Desk
from .models import Draft, Ending, Picture, Question, Revision, Stroke, desk_held
from .pieces import PART_CHOICES, kept_rubrics
from .preview import DRAWS, Preview, Wish, part_label, preview, safe

PAGE = 24
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
SUBJECTS = [("mathematics", "Mathematics"), ("physics", "Physics"), ("chemistry", "Chemistry")]


@member
@require_GET
def questions(request: HttpRequest) -> HttpResponse:
    """The department's questions, found by words and narrowed by subject."""
    text, subject = request.GET.get("search", ""), request.GET.get("subject", "")
    found = Question.objects.of(request.membership).listed().search(text)
    if subject in dict(SUBJECTS):
        found = found.filter(subject=subject)
    page = Paginator(found, PAGE).get_page(request.GET.get("page"))
    context = {
        "page": page,
        "sheets": [(question, safe(question.current.sheet)) for question in page.object_list],
        "search": text,
        "subject": subject,
        "subjects": SUBJECTS,
        "drafts": own_drafts(request)[:12] if request.membership.may_write else [],
    }
    template = "questions/_results.html" if request.htmx and not request.htmx.boosted else "questions/list.html"
    return render(request, template, context)


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
        "signs": SIGNS,
        "views": VIEWS,
        "subjects": SUBJECTS,
        "levels": [str(level) for level in range(1, 6)],
        "view": request.POST.get("view", "paper"),
        "tried": request.POST.get("try", ""),
        "tries": request.POST.get("tries", ""),
        "uses": uses(question) if question else [],
        "rubrics": kept_rubrics(request) if request.membership.may_write else [],
    }


def uses(question: Question) -> list[object]:
    """The tests that have this question."""
    return list(Test.objects.filter(places__revision__question=question).distinct())


def chosen_number(request: HttpRequest, name: str, otherwise: int = 0) -> int:
    return chosen_number_of(request.POST.get(name, ""), otherwise)


def chosen_number_of(text: str, otherwise: int = 0) -> int:
    return int(text) if text.isdecimal() and len(text) < 9 else otherwise


@author
@require_GET
def new_question(request: HttpRequest) -> HttpResponse:
    """An empty desk, one that was left, or a copy of another question."""
    desk, key = Desk.blank(), str(uuid.uuid4())
    draft = own_drafts(request).filter(question=None, key=identity(request.GET.get("draft", ""))).first()
    if draft is not None:
        desk, key = Desk.from_draft(draft.fields), str(draft.key)
    elif ready := ready_questions().get(request.GET.get("ready", "")):
        desk = Desk.from_document(ready.document, ready.filing)
    elif request.GET.get("from", "").isdecimal():
        source = question_of(request, int(request.GET["from"]))
        desk = Desk.from_document(load_document(source.current.document), source.filing)
        desk.title = f"{desk.title} (copy)"[:200]
    if draft is not None or {"from", "ready"} & request.GET.keys():
        context = desk_context(request, desk, None, key, preview(desk, key, 1))
        return render(request, "questions/desk.html", context | {"draft": draft, "kept": draft is not None})
    shown = Preview(
        no_draws="Write the wording, say what varies, give the answer: eight draws appear here as you type.",
        marks=total_marks(Decimal(row.marks) for row in desk.parts),
    )
    return render(request, "questions/desk.html", desk_context(request, desk, None, key, shown))


@member
@require_GET
def question(request: HttpRequest, pk: int) -> HttpResponse:
    found = question_of(request, pk)
    revision = found.latest
    desk = Desk.from_document(load_document(found.current.document), found.filing)
    draft = own_drafts(request).filter(question=found).first() if request.membership.may_write else None
    taken_up = request.GET.get("revision", "")
    if taken_up.isdecimal():
        old = get_object_or_404(found.revisions, number=taken_up)
        desk, revision = Desk.from_document(load_document(old.document), found.filing), found.latest + 1
        draft = None
    elif draft is not None:
        desk, revision = Desk.from_draft(draft.fields), found.latest + 1
    shown = preview(desk, str(found.key), revision)
    context = desk_context(request, desk, found, str(found.key), shown)
    if draft is not None:
        context |= {"draft": draft, "changed": True, "kept": True, "base": draft.base}
    if taken_up:
        context |= {"taken_up": taken_up, "changed": True}
    return render(request, "questions/desk.html", context)


def question_of(request: HttpRequest, pk: int) -> Question:
    """A question of one's department with its newest revision."""
    return get_object_or_404(Question.objects.of(request.membership).select_related("current__author"), pk=pk)


def own_drafts(request: HttpRequest) -> QuerySet[Draft]:
    return Draft.objects.filter(user=request.user, department=request.membership.department)


def stroke_of(request: HttpRequest) -> Stroke:
    """How far the desk had been written when this was sent."""
    return Stroke(request.POST.get("leaf", "")[:16], chosen_number(request, "stroke"))


def keep_draft(request: HttpRequest, desk: Desk, found: Question | None, key: str, changed: bool) -> bool:
    """Keep what stands on the desk, and say whether it was; an unchanged question needs no draft, nor does an empty
    desk. What was overtaken on its way, by a save or by what was typed later, changes nothing."""
    stroke, draft_key, base = stroke_of(request), uuid.UUID(key), chosen_number(request, "base")
    with desk_held(draft_key):
        if Ending.of(request.user, draft_key, stroke):
            return False
        kept = own_drafts(request).filter(key=draft_key)
        if stroke.leaf and kept.filter(leaf=stroke.leaf, stroke__gt=stroke.number).exists():
            return True
        now = Question.objects.of(request.membership).select_related("current").filter(key=draft_key).first()
        if now is not None and (found is None or now.latest != found.latest):
            # saved since this was read
            changed = not is_as_kept(now, desk)
        if now is not None and base < now.latest:
            # what is typed after one's own save goes on from there
            base = max(base, Ending.saved_number(request.user, draft_key, stroke.leaf))
        if now is None and not worth_keeping(request, desk):
            return False
        if not changed:
            kept.delete()
            return False
        Draft.objects.update_or_create(
            user=request.user,
            key=draft_key,
            defaults={
                "department": request.membership.department,
                "question": now,
                "base": base,
                "title": desk.title[:200],
                "fields": desk.as_draft(),
                "leaf": stroke.leaf,
                "stroke": stroke.number,
            },
        )
    return True


def worth_keeping(request: HttpRequest, desk: Desk) -> bool:
    """Whether something was typed on the desk of a new question, more than looked at."""
    typed = desk.title.strip() or desk.wording.strip() or desk.used_parameters()
    return bool(request.POST.get("touched") and typed)


def others_writing(request: HttpRequest, found: Question | None) -> list[Draft]:
    """Who else has changed this question's desk in the last minutes."""
    if found is None:
        return []
    since = timezone.now() - timedelta(minutes=10)
    return list(found.drafts.filter(changed__gte=since).exclude(user=request.user).select_related("user"))


@author
@require_POST
def drop_draft(request: HttpRequest, pk: int) -> HttpResponse:
    """Put a draft away for good; the revisions stay."""
    draft = get_object_or_404(own_drafts(request), pk=pk)
    question = draft.question_id
    with desk_held(draft.key):
        Ending.note(request.user, draft.key, stroke_of(request))
    messages.success(request, "The draft is put away.")
    return redirect("question", question) if question else redirect("questions")


@author
@require_GET
def gallery(request: HttpRequest) -> HttpResponse:
    """Ready questions to start from, by subject and topic."""
    subject = request.GET.get("subject", "")
    wanted = [each for each in ready_questions().values() if subject in {"", each.filing.subject}]
    topics: dict[str, list[tuple[Ready, SafeString]]] = {}
    for each in wanted:
        topics.setdefault(each.filing.topic, []).append((each, first_draw(each)))
    context = {"topics": topics, "count": len(wanted), "subjects": SUBJECTS, "subject": subject}
    return render(request, "questions/gallery.html", context)


def load_gallery() -> None:
    """Draw every ready question now; otherwise whoever looks at them first waits for it."""
    for each in ready_questions().values():
        first_draw(each)


@cache
def first_draw(ready: Ready) -> SafeString:
    """What a ready question asks, in its first draw."""
    drawn = CompiledQuestion(ready.document).drawing(ready.name, 1).draw(1)
    texts = [drawn.question.wording, *drawn.question.part_wordings[:1]]
    return safe("".join(drawn.html(text) for text in texts))


@member
@require_GET
def history(request: HttpRequest, pk: int) -> HttpResponse:
    """The revisions of a question, and what each changed."""
    found = question_of(request, pk)
    revisions = list(found.revisions.select_related("author").order_by("-number"))
    entries = []
    for newer, older in zip(revisions, [*revisions[1:], None]):
        changes = []
        if older is not None:
            changes = differences(load_document(older.document), load_document(newer.document))
        entries.append((newer, [(change, *marked(change)) for change in changes]))
    numbers = {revision.number: revision for revision in revisions}
    asked = [request.GET.get(name, "") for name in ("from", "to")]
    chosen = [numbers.get(chosen_number_of(text)) for text in asked]
    comparison = None
    if chosen[0] is not None and chosen[1] is not None:
        old, new = (load_document(revision.document) for revision in chosen if revision is not None)
        comparison = [(change, *marked(change)) for change in differences(old, new)]
    compared = [revision.number if revision else 0 for revision in chosen]
    if comparison is None and len(revisions) > 1:
        compared = [revisions[1].number, revisions[0].number]
    context = {"question": found, "entries": entries, "comparison": comparison, "compared": compared}
    return render(request, "questions/history.html", context)


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


def posted_desk(request: HttpRequest) -> tuple[Desk, Question | None, str, int]:
    """The fields as they stand in the browser, and under which identity their draws are made.

    A reader's fields are not sent: theirs are those of the latest revision.
    """
    found = None
    if pk := chosen_number(request, "question"):
        found = question_of(request, pk)
    if not request.membership.may_write:
        latest = load_document(found.current.document) if found else None
        desk = Desk.from_document(latest, found.filing) if latest and found else Desk.blank()
    else:
        desk = Desk.from_post(request.POST)
    key = str(found.key) if found else identity(request.POST.get("key", ""))
    revision = 1
    if found:
        revision = found.latest if stands(found, desk) else found.latest + 1
    return desk, found, key, revision


def stands(question: Question, desk: Desk) -> bool:
    """Whether what is on a desk is the newest revision as it stands, wherever it is to be filed."""
    document, problems = desk.document()
    return document is not None and not problems and question.current.holds(document)


def is_as_kept(question: Question, desk: Desk) -> bool:
    """Whether nothing on a desk has changed, neither what the question says nor where it is filed."""
    return desk.files_as(question.filing) and stands(question, desk)


def identity(text: str) -> str:
    try:
        return str(uuid.UUID(text))
    except ValueError:
        return str(uuid.uuid4())


def wish(request: HttpRequest) -> Wish:
    """What the author wants to see; a draw that was gone to counts before the one that was chosen."""
    return Wish(
        chosen_number(request, "go") or chosen_draw(request),
        request.POST.get("try", ""),
        chosen_number(request, "try_part"),
        chosen_number(request, "rows", DRAWS),
        request.POST.get("sort", ""),
        tuple(filter(None, request.POST.get("tries", "").splitlines()[-6:])),
    )


def chosen_draw(request: HttpRequest) -> int:
    """The draw on the sheet; pinned draws have numbers below 0."""
    text = request.POST.get("draw", "")
    return -chosen_number_of(text[1:]) if text.startswith("-") else chosen_number_of(text, 1)


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
    context["changed"] = found is None or revision > found.latest or not desk.files_as(found.filing)
    if request.membership.may_write:
        context["kept"] = keep_draft(request, desk, found, key, bool(context["changed"]))
        context["others"] = others_writing(request, found)
        context["overtaken"] = found is not None and 0 < chosen_number(request, "base") < found.latest
    return render(request, "questions/_preview.html", context)


@author
@require_POST
def save_question(request: HttpRequest) -> HttpResponse:
    """Keep what stands on the desk as a revision; when it cannot be kept, everything typed is still there."""
    desk, found, key, revision = posted_desk(request)
    filed, problems = desk.filed()
    missing = Picture.missing(request.membership.department, filed[0]) if filed else []
    if filed is None or problems or missing:
        words = f"Not saved yet: {missing[0].message}" if missing and not problems else UNSOUND
        return not_saved(request, desk, found, key, revision, words)
    document, filing = filed
    stroke, draft_key = stroke_of(request), uuid.UUID(key)
    with desk_held(draft_key):
        twin = Ending.of(request.user, draft_key, stroke)
        now = Question.objects.of(request.membership).select_related("current__author").filter(key=draft_key).first()
        if twin is not None and twin.revision is not None and twin.revision.holds(document):
            # the same form, sent twice
            return saved(request, twin.revision)
        if now is not None and found is None and now.current.author == request.user and now.current.holds(document):
            # the form of a new question, sent twice by a browser that does not count what it sends
            return saved(request, now.current)
        if now is not None and chosen_number(request, "base") != now.latest:
            words = (
                f"{now.current.author} saved revision {now.latest} while you were writing. "
                "Save again to keep yours as the next revision; theirs stays in the history."
            )
            return not_saved(request, desk, now, key, now.latest + 1, words, status=409)
        if now is not None and now.current.holds(document):
            words = f"Nothing has changed since revision {now.latest}."
            if filing != now.filing:
                now.file_under(filing)
                words = f"Filed anew; revision {now.latest} stands as it is."
            Ending.note(request.user, draft_key, stroke, now.current)
            messages.success(request, words)
            return redirect("question", now.pk)
        try:
            kept = Question.save_revision(
                request.membership.department,
                request.user,
                document,
                filing,
                question=now,
                key=draft_key,
                note=request.POST.get("revision_note", ""),
            )
        except Unsound:
            return not_saved(request, desk, found, key, revision, UNSOUND)
        Ending.note(request.user, draft_key, stroke, kept)
    return saved(request, kept)


UNSOUND = "Not saved yet: mend what is marked, then save again. Nothing you typed is lost."


def saved(request: HttpRequest, revision: Revision) -> HttpResponse:
    messages.success(request, f"Saved as revision {revision.number}.")
    return redirect("question", revision.question_id)


def not_saved(
    request: HttpRequest, desk: Desk, found: Question | None, key: str, revision: int, words: str, status: int = 422
) -> HttpResponse:
    """The desk with everything that was typed, and why it was not kept."""
    shown = preview(desk, key, revision, wish(request))
    context = desk_context(request, desk, found, key, shown) | {"refused": words}
    if status == 422:
        # whoever saved meanwhile is still to be told of
        context["base"] = chosen_number(request, "base")
    return render(request, "questions/desk.html", context, status=status)
