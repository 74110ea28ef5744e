"""Tests: their list, and the plan of one."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from typing import Any

from django.contrib import messages
from django.core.exceptions import PermissionDenied, ValidationError
from django.db import transaction
from django.db.models import Q, QuerySet
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.plans import first_without
from vorlage.core.questions import ARROW
from vorlage.web.bank.models import Collected, KeptSearch, Question, Tree
from vorlage.web.bank.search import found_by
from vorlage.web.bank.tray import in_tray
from vorlage.web.design.asking import chosen_number, for_paper
from vorlage.web.design.slots import filled
from vorlage.web.once.models import once
from vorlage.web.people.permissions import allowed, held, may, member
from vorlage.web.people.requests import MemberRequest

from .coverage import Grid, grid_of
from .forms import BoundariesForm, InsertForm, NewTestForm, TestForm
from .models import Candidate, Held, Insert, Section, Test

OFFERED = 20


@member
@require_GET
def tests(request: MemberRequest) -> HttpResponse:
    return tests_page(request, NewTestForm())


def tests_page(request: MemberRequest, form: NewTestForm, status: int = 200) -> HttpResponse:
    """The tests in use, or those in the archive."""
    own, in_archive = Test.objects.of(request.membership), request.GET.get("archive") == "yes"
    context = {
        "tests": (own.exclude(archived=None) if in_archive else own.in_use()).with_totals(),
        "archived": own.exclude(archived=None).count(),
        "in_archive": in_archive,
        "form": form,
    }
    return render(request, "plans/tests.html", context, status=status)


@allowed("plans.add_test")
@require_POST
@once
def new_test(request: MemberRequest) -> HttpResponse:
    form = NewTestForm(request.POST)
    if not form.is_valid():
        return tests_page(request, form, 422)
    test = form.save(commit=False)
    test.department, test.author = request.membership.department, request.user
    test.save()
    return redirect("test", test.pk)


@allowed("plans.add_test")
@require_POST
@once
def from_tray(request: MemberRequest) -> HttpResponse:
    """What is in the tray becomes a test, or is added to one; the tray is empty then."""
    collected = in_tray(request)
    try:
        title = for_paper(" ".join(request.POST.get("title", "").split()))[:200]
    except ValidationError as problem:
        messages.error(request, problem.messages[0])
        return redirect("questions")
    if not collected:
        messages.error(request, "There is nothing in the tray.")
        return redirect("questions")
    if chosen := chosen_number(request.POST.get("test", "")):
        found = test_of(request, chosen, "plans.change_test")
    else:
        department = request.membership.department
        found = Test.objects.create(department=department, author=request.user, title=title or "New test")
    take, pooled = chosen_number(request.POST.get("take", "")), len(collected) > 1
    with found.changing(request.user, f"Took {len(collected)} questions from the tray"):
        if take and pooled:
            found.add_pool(found.last_section(), [each.question for each in collected], min(take, len(collected)))
        for each in [] if take and pooled else collected:
            # a draw of a revision that is not the newest any more was another one
            found.add(each.question, each.draw if each.revision_id == each.question.current_id else None)
        found.set_order(found.tokens())
    Collected.objects.filter(pk__in=[each.pk for each in collected]).delete()
    return redirect("test", found.pk)


@member
@require_GET
def test(request: MemberRequest, pk: int) -> HttpResponse:
    return test_page(request, test_of(request, pk))


def test_of(request: MemberRequest, pk: int, permission: str = "plans.view_test") -> Test:
    """A test, when the member may do this with it."""
    return held(request, permission, Test.objects.all(), pk=pk)


def test_page(request: MemberRequest, found: Test, status: int = 200, **more: Any) -> HttpResponse:
    """The page of a test, with what a station above puts into its slots."""
    return render(request, "plans/test.html", test_context(request, found, **more), status=status)


def test_context(
    request: MemberRequest,
    found: Test,
    rows: Sequence[int] = (),
    wrong: Mapping[str, str] | None = None,
    **more: Any,
) -> dict[str, object]:
    """What the page of a test shows; ``rows`` are objectives that the grid has a row for whatever they have, ``wrong``
    is what was typed into it and refused."""
    places = found.ordered()
    chosen = {each.revision.question_id for one in places for each in one.candidates if not one.place.rule}
    steps = list(found.steps.select_related("user")[:1])
    tree = Tree(found.department_id)
    return {
        "test": found,
        "sections": lines_of(found, places),
        "places": places,
        "marks": (marks := sum((one.counted for one in places), Fraction(0))),
        "bonus": sum((one.marks for one in places if one.place.bonus), Fraction(0)),
        "count": sum(one.place.take for one in places),
        "minutes": minutes_of(places),
        "short": too_few(places),
        "step": steps[0] if steps else None,
        "grid": (grid := grid_of(found, places, tree, rows, wrong)),
        "other_topics": other_topics(tree, grid) if more.get("aiming") else [],
        "chosen": chosen,
        "offered": offered(request, chosen),
        "search": request.GET.get("search", ""),
        "pools": request.membership.department.pools.filter(archived=None),
        "searches": kept_searches(request),
        "form": TestForm(instance=found, department=found.department),
        "inserts": inserts_of(found, more.get("changed_insert")),
        "insert_form": InsertForm(),
        "boundaries_form": BoundariesForm(found, marks, request.membership.department.habits),
        # a section or a place whose change was refused, and which is open
        "section_form": None,
        "place_form": None,
        "edited": "",
        **more,
    }


def inserts_of(found: Test, refused: tuple[int, InsertForm] | None = None) -> list[tuple[Insert, InsertForm]]:
    """The inserts of a test, each with the form that changes it: as it was sent where that was refused."""
    return [
        (each, refused[1] if refused and refused[0] == each.pk else InsertForm(instance=each))
        for each in found.inserts.all()
    ]


def other_topics(tree: Tree, grid: Grid) -> list[tuple[int, str]]:
    """The objectives that the grid has no row for, with their paths."""
    there = {row.topic for row in grid.rows}
    return [(topic.pk, ARROW.join(tree.path(topic.pk))) for topic, _ in tree.rows if topic.pk not in there]


@dataclass
class Line:
    """A place as it stands in the plan: its questions begin at ``number``; ``running`` are the marks up to here."""

    number: int
    held: Held
    running: Fraction

    @property
    def numbers(self) -> str:
        last = self.number + self.held.place.take - 1
        return str(self.number) if last == self.number else f"{self.number}–{last}"


@dataclass
class Lines:
    """A section and the lines in it."""

    section: Section
    lines: list[Line]

    @property
    def marks(self) -> Fraction:
        return sum((line.held.counted for line in self.lines), Fraction(0))


def lines_of(found: Test, places: Sequence[Held]) -> list[Lines]:
    """The plan as it is read: sections in order, and in each its places with their numbers and marks."""
    sections = list(found.sections.order_by("position", "pk")) or [found.first_section()]
    rows = {section.pk: Lines(section, []) for section in sections}
    number, running = 1, Fraction(0)
    for one in places:
        running += one.counted
        rows[one.place.section_id].lines.append(Line(number, one, running))
        number += one.place.take
    return list(rows.values())


def minutes_of(places: Sequence[Held]) -> tuple[Decimal, int]:
    """The minutes that a form is expected to take, a pool's on average, and for how many places nothing is said."""
    total, unsaid = Decimal(0), 0
    for one in places:
        said = [each.revision.question.minutes for each in one.candidates if each.revision.question.minutes]
        unsaid += not said
        total += one.place.take * sum(said, Decimal(0)) / len(said) if said else 0
    return total.quantize(Decimal(1)), unsaid


def too_few(places: Sequence[Held]) -> Held | None:
    """The first place that cannot get its questions when no question stands twice in a form; None where all can."""
    slots = [one for one in places for _ in range(one.place.take)]
    options = [[str(each.revision.question_id) for each in one.candidates] for one in slots]
    slot = first_without(options)
    return None if slot is None else slots[slot]


def kept_searches(request: MemberRequest) -> QuerySet[KeptSearch]:
    """The named searches that a rule can be made of: one's own and what colleagues share."""
    of_department = KeptSearch.objects.filter(department=request.membership.department)
    return of_department.filter(Q(user=request.user) | Q(shared=True))


def offered(request: MemberRequest, chosen: set[int]) -> list[Question]:
    """Questions that are not in the test yet, found by the words typed."""
    search = request.GET.get("search", "")
    return found_by(request.membership.department, search, OFFERED, chosen)


@member
@require_GET
def offers(request: MemberRequest, pk: int) -> HttpResponse:
    """The list of questions to add, renewed while searching."""
    found = test_of(request, pk, "plans.change_test")
    return render(request, "plans/_offers.html", {"test": found, "offered": offered(request, set(found.questions))})


@member
@require_POST
def edit_test(request: MemberRequest, pk: int) -> HttpResponse:
    found = test_of(request, pk, "plans.change_test")
    form = TestForm(request.POST, instance=found, department=found.department)
    if not form.is_valid():
        return test_page(request, Test.objects.get(pk=pk), status=422, form=form)
    with found.changing(request.user, "Title and texts"):
        form.save()
    messages.success(request, "Saved.")
    return redirect("test", pk)


@member
@require_POST
def archive_test(request: MemberRequest, pk: int) -> HttpResponse:
    """Put a test out of the way, or back; its form sets stay, and nothing is lost."""
    found = test_of(request, pk, "plans.change_test")
    restored = request.POST.get("do") == "restore"
    Test.objects.filter(pk=pk).update(archived=None if restored else timezone.now())
    messages.success(request, f"“{found.title}” is {'back' if restored else 'in the archive'}.")
    return redirect("test" if restored else "tests", *([pk] if restored else []))


def plan(request: MemberRequest, found: Test, **more: Any) -> HttpResponse:
    """The answer to a change of the plan: the piece for htmx, the page for others."""
    if request.htmx:
        return render(request, "plans/_plan_and_offers.html", test_context(request, found, **more))
    return redirect("test", found.pk)


@member
@require_POST
def move_on(request: MemberRequest, pk: int) -> HttpResponse:
    """The tests that were ticked take the newest revision of a question; sets that are frozen stay as they are."""
    question = held(request, "bank.view_question", Question.objects.select_related("current", "department"), pk=pk)
    chosen = [chosen_number(text) for text in request.POST.getlist("moving")]
    with transaction.atomic():
        for found in Test.objects.of(request.membership).filter(pk__in=chosen):
            if not may(request.membership, "plans.change_test", found):
                raise PermissionDenied
            placed = Candidate.objects.filter(place__test=found, revision__question=question)
            with found.changing(request.user, f"“{question.title}” in its revision {question.latest}"):
                for each in placed.exclude(revision=question.current_id).select_related("revision__question__current"):
                    found.renew(each)
    if request.htmx:
        return HttpResponse(filled("question-uses", request, [question], {})[question.pk])
    return redirect("question", pk)


@member
@require_POST
@once
def copy_test(request: MemberRequest, pk: int) -> HttpResponse:
    """The same plan once more, with its settings or without."""
    found = test_of(request, pk, "plans.change_test")
    with_settings = request.POST.get("settings") == "yes"
    made = found.copy(request.user, f"{found.title} (copy)"[:200], with_settings)
    messages.success(request, "This is the copy.")
    return redirect("test", made.pk)
