"""Tests: their list, and the plan of one."""

from __future__ import annotations

from django.contrib import messages
from django.core.exceptions import PermissionDenied, ValidationError
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.answers import total_marks
from vorlage.web.bank.models import Collected, Question
from vorlage.web.bank.search import found_by
from vorlage.web.bank.tray import in_tray
from vorlage.web.design.asking import chosen_number, for_paper
from vorlage.web.design.slots import filled
from vorlage.web.once.models import claim, once
from vorlage.web.people.permissions import allowed, held, may, member
from vorlage.web.people.requests import MemberRequest

from .forms import TestForm
from .models import Test, TestPlace

OFFERED = 20


@member
@require_GET
def tests(request: MemberRequest) -> HttpResponse:
    return tests_page(request, TestForm())


def tests_page(request: MemberRequest, form: TestForm, status: int = 200) -> HttpResponse:
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
    form = TestForm(request.POST)
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
    for each in collected:
        # a draw of a revision that is not the newest any more was another one
        found.add(each.question, each.draw if each.revision_id == each.question.current_id else None)
    Collected.objects.filter(pk__in=[each.pk for each in collected]).delete()
    return redirect("test", found.pk)


@member
@require_GET
def test(request: MemberRequest, pk: int) -> HttpResponse:
    return test_page(request, test_of(request, pk))


def test_of(request: MemberRequest, pk: int, permission: str = "plans.view_test") -> Test:
    """A test, when the member may do this with it."""
    return held(request, permission, Test.objects.all(), pk=pk)


def test_page(request: MemberRequest, found: Test, status: int = 200, **more: object) -> HttpResponse:
    """The page of a test, with what a station above puts into its slots."""
    return render(request, "plans/test.html", test_context(request, found, **more), status=status)


def test_context(request: MemberRequest, found: Test, **more: object) -> dict[str, object]:
    places = found.ordered()
    running = total_marks([])
    lines = []
    for number, place in enumerate(places, start=1):
        running = total_marks([running, place.revision.marks])
        lines.append({"number": number, "place": place, "revision": place.revision, "running": running})
    chosen = {place.revision.question_id for place in places}
    return {
        "test": found,
        "lines": lines,
        "marks": running,
        "chosen": chosen,
        "offered": offered(request, chosen),
        "search": request.GET.get("search", ""),
        "form": TestForm(instance=found),
        **more,
    }


def offered(request: MemberRequest, chosen: set[int]) -> list[Question]:
    """Questions that are not in the test yet, found by the words typed."""
    search = request.GET.get("search", "")
    return found_by(request.membership.department, search, OFFERED, chosen)


@member
@require_GET
def offers(request: MemberRequest, pk: int) -> HttpResponse:
    """The list of questions to add, renewed while searching."""
    found = test_of(request, pk, "plans.change_test")
    chosen = set(found.places.values_list("revision__question_id", flat=True))
    return render(request, "plans/_offers.html", {"test": found, "offered": offered(request, chosen)})


@member
@require_POST
def edit_test(request: MemberRequest, pk: int) -> HttpResponse:
    found = test_of(request, pk, "plans.change_test")
    form = TestForm(request.POST, instance=found)
    if not form.is_valid():
        return test_page(request, found, status=422, form=form)
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


def plan(request: MemberRequest, found: Test) -> HttpResponse:
    """The answer to a change of the plan: the piece for htmx, the page for others."""
    if request.htmx:
        return render(request, "plans/_plan_and_offers.html", test_context(request, found))
    return redirect("test", found.pk)


@member
@require_POST
def add_place(request: MemberRequest, pk: int, question: int) -> HttpResponse:
    found = test_of(request, pk, "plans.change_test")
    added = held(request, "bank.view_question", Question.objects.select_related("current"), pk=question)
    with transaction.atomic():
        if claim(request):
            found.add(added)
    return plan(request, found)


def place_of(request: MemberRequest, pk: int, place: int) -> tuple[Test, TestPlace]:
    found = test_of(request, pk, "plans.change_test")
    return found, get_object_or_404(found.places, pk=place)


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
            for place in found.places.filter(revision__question=question).exclude(revision=question.current_id):
                found.renew(place)
    if request.htmx:
        return HttpResponse(filled("question-uses", request, [question], {})[question.pk])
    return redirect("question", pk)


@member
@require_POST
def remove_place(request: MemberRequest, pk: int, place: int) -> HttpResponse:
    found, unwanted = place_of(request, pk, place)
    found.take_out(unwanted)
    return plan(request, found)


@member
@require_POST
def move_place(request: MemberRequest, pk: int, place: int) -> HttpResponse:
    """One up or one down."""
    found, moved = place_of(request, pk, place)
    found.move(moved, -1 if request.POST.get("to") == "up" else 1)
    return plan(request, found)


@member
@require_POST
def arrange(request: MemberRequest, pk: int) -> HttpResponse:
    """The order that dragging left behind."""
    found = test_of(request, pk, "plans.change_test")
    found.arrange([chosen_number(value) for value in request.POST.getlist("place")])
    return plan(request, found)


@member
@require_POST
def renew_place(request: MemberRequest, pk: int, place: int) -> HttpResponse:
    """Take the latest revision of the question in this place."""
    found, outdated = place_of(request, pk, place)
    found.renew(outdated)
    return plan(request, found)
