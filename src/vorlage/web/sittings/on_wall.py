"""A test, or one question, large for the class: the next numbers, the answer, the worked solution, a timer, by keys.

No key is in a page, or in a row, before it is shown: it is worked out anew from the draw then.
"""

from __future__ import annotations

import secrets
from datetime import timedelta
from typing import Any

import segno
from django.contrib import messages
from django.db import transaction
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.forms import NoFreshDraw, fresh_item, values_text
from vorlage.core.marking import FEWEST
from vorlage.core.plans import Place
from vorlage.core.questions import DrawnQuestion, FrozenDraw, QuestionDrawing, thaw
from vorlage.core.sittings import TimeError, read_duration, student_sheet
from vorlage.web.bank.models import Revision
from vorlage.web.bank.views import question_of
from vorlage.web.once.models import once
from vorlage.web.people.permissions import member, personally
from vorlage.web.people.requests import MemberRequest
from vorlage.web.plans.views import test_of

from .answered import Asked
from .marking import Returned, returned_part
from .models import Wall, fresh_code
from .questions import compiled
from .road import is_empty

# So many draws of one question are remembered, so as not to come again; and so long a code is good for.
REMEMBERED = 200
GOOD_FOR = timedelta(hours=12)
USUAL_TIME = timedelta(minutes=2)


@member
@require_POST
@once
def show_test(request: MemberRequest, pk: int) -> HttpResponse:
    """Show a test on the wall, question by question: of a place with several questions the first."""
    test = test_of(request, pk)
    revisions = [place.candidates[0].revision_id for place in test.ordered() if place.candidates]
    if not revisions:
        messages.warning(request, "There is nothing to show yet: add a question to the test first.")
        return redirect("test", pk)
    return begun(request, test.title, revisions)


@member
@require_POST
def show_question(request: MemberRequest, pk: int) -> HttpResponse:
    """Show one question on the wall."""
    current = question_of(request, pk).current
    if current is None:
        raise Http404
    return begun(request, current.title, [current.pk])


def begun(request: MemberRequest, title: str, revisions: list[int]) -> HttpResponse:
    wall = Wall(
        department=request.membership.department, by=request.user, title=title[:200], revisions=revisions,
        code=fresh_code(),
    )  # fmt: skip
    Wall.objects.filter(by=request.user, begun__lt=timezone.now() - GOOD_FOR).update(code=None)
    draw(wall)
    wall.save()
    if request.htmx:
        answer = HttpResponse(status=204)
        answer["HX-Redirect"] = reverse("on-wall", args=[wall.pk])
        return answer
    return redirect("on-wall", wall.pk)


def draw(wall: Wall) -> None:
    """Other numbers for the question that is shown; what was shown of the ones before is covered."""
    revision = wall.revisions[wall.position]
    question, key, number = compiled(revision, wall.department.habits, False)
    had = wall.had.get(str(revision), [])
    wall.turn += 1
    wall.answer = wall.solution = wall.uncovered = False
    wall.until = None
    try:
        found = fresh_item(Place(question, key, number), secrets.token_hex(8), set(had)).item
    except NoFreshDraw:
        wall.draw, wall.shown, wall.readers = {}, {}, {}
        return
    frozen = found.draw
    wall.draw = {"number": frozen.number, "values": frozen.values, "orders": frozen.orders, "texts": frozen.texts}
    sheet = student_sheet(drawn(wall), [each.marks for each in found.keys])
    wall.shown, wall.readers = sheet.shown, sheet.kept_readers
    wall.had = wall.had | {str(revision): [*had, values_text(frozen)][-REMEMBERED:]}


def drawn(wall: Wall) -> DrawnQuestion:
    """The question that is shown, with its numbers."""
    question, key, number = compiled(wall.revisions[wall.position], wall.department.habits, False)
    kept = wall.draw
    frozen = FrozenDraw(kept["number"], kept["values"], kept["orders"], kept["texts"])
    return thaw(QuestionDrawing(question, key, number), frozen)


def wall_of(request: MemberRequest, pk: int, lock: bool = False) -> Wall:
    """What somebody shows on a wall; nobody else's."""
    among = Wall.objects.select_related("department")
    return get_object_or_404(among.select_for_update(of=("self",)) if lock else among, pk=pk, by=request.user)


@personally("sittings.list_sittings")
@require_GET
def on_wall(request: MemberRequest, pk: int) -> HttpResponse:
    wall = wall_of(request, pk)
    return render(request, "sittings/on_wall.html", context_of(request, wall))


def context_of(request: MemberRequest, wall: Wall) -> dict[str, Any]:
    """What a wall shows at the moment, and no more of it."""
    rows = frozenset(name for name, shown in (("key", wall.answer), ("solution", wall.solution)) if shown)
    parts = []
    question = drawn(wall) if rows and wall.draw else None
    given = answers_of(wall)
    for k, part in enumerate(wall.shown.get("parts", ())):
        asked = Asked(part, [(part, response) for response in given.get(part["id"], [])])
        told = returned_part(question, k, rows) if question is not None else Returned()
        parts.append((part, told, asked))
    link = request.build_absolute_uri(reverse("wall-phone", args=[wall.code])) if wall.code else ""
    return {
        "wall": wall, "parts": parts, "phones": phones_of(wall), "fewest": FEWEST, "count": len(wall.revisions),
        "title": Revision.objects.values_list("title", flat=True).get(pk=wall.revisions[wall.position]),
        "left": None if wall.until is None else max(0, round((wall.until - timezone.now()).total_seconds())),
        "link": link, "qr": square(link), "typed_at": request.build_absolute_uri(reverse("come-in")),
        "station": "sittings",
    }  # fmt: skip


def square(link: str) -> SafeString:
    """A link as a square to scan."""
    return mark_safe(segno.make(link, error="m").svg_inline(border=2, scale=1, omitsize=True)) if link else SafeString()


def answers_of(wall: Wall) -> dict[str, list[Any]]:
    """What phones gave to the question that is shown, by its parts, once it is uncovered; empty ones left out."""
    found: dict[str, list[Any]] = {}
    if wall.uncovered:
        # in an order that tells nothing of when they came
        rows = wall.answers.filter(turn=wall.turn).order_by("phone").values_list("part", "response")
        for part, response in rows:
            if not is_empty(response):
                found.setdefault(part, []).append(response)
    return found


def phones_of(wall: Wall) -> int:
    """How many phones have answered the question that is shown."""
    return wall.answers.filter(turn=wall.turn).values("phone").distinct().count()


@personally("sittings.list_sittings")
@require_GET
def wall_now(request: MemberRequest, pk: int) -> HttpResponse:
    """How many have answered, and once it is uncovered what: for the page that shows it."""
    wall = wall_of(request, pk)
    return render(request, "sittings/_wall_answers.html", context_of(request, wall))


@personally("sittings.list_sittings")
@require_POST
@transaction.atomic
def wall_do(request: MemberRequest, pk: int) -> HttpResponse:
    """The next numbers, another question, the answer, and what else there is to press."""
    wall, what = wall_of(request, pk, lock=True), request.POST.get("what", "")
    if what in {"next", "back"}:
        moved = wall.position + (1 if what == "next" else -1)
        if 0 <= moved < len(wall.revisions):
            wall.position = moved
            draw(wall)
    elif what == "draw":
        draw(wall)
    elif what in {"answer", "solution", "uncovered"}:
        setattr(wall, what, not getattr(wall, what))
    elif what == "timer":
        wall.until = None if wall.until is not None else timezone.now() + length_of(request.POST.get("length", ""))
    elif what == "end":
        wall.code = None
        wall.save()
        messages.success(request, "Phones come in no more.")
        return redirect("on-wall", pk)
    wall.save()
    if not request.htmx:
        return redirect("on-wall", pk)
    return render(request, "sittings/_wall.html", context_of(request, wall))


def length_of(typed: str) -> timedelta:
    """How long a timer runs."""
    try:
        return min(read_duration(typed), timedelta(hours=9)) if typed.strip() else USUAL_TIME
    except TimeError:
        return USUAL_TIME
