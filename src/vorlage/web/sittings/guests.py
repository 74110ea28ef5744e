"""Coming in by a code or a link: for students who sign in, and where the rules allow it for others."""

from __future__ import annotations

from typing import Any, TypeVar

from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseBase
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.sittings import folded
from vorlage.core.text import unaccented
from vorlage.web.classes.models import Enrolment, Student
from vorlage.web.people.permissions import signed_in
from vorlage.web.people.requests import MemberRequest

from .here import address_of, as_guest, as_student, let_browser_in
from .limits import OF_A_NETWORK, TooOften, tried
from .models import Sitting, Taking, Wall

Coded = TypeVar("Coded", Sitting, Wall)

# So many places a sitting has for people who do not sign in.
MOST_GUESTS = 2000


@require_GET
def come_in(request: HttpRequest) -> HttpResponse:
    """Where a code is typed."""
    return render(request, "sittings/code.html", {"typed": request.GET.get("code", "")[:20]})


@require_POST
def enter_code(request: HttpRequest) -> HttpResponse:
    """To the sitting that has a code, or to the question on a wall."""
    typed = request.POST.get("code", "")[:20]
    code = "".join(typed.split()).upper()
    found = Sitting.objects.filter(code=code, archived=None).exists()
    walled = not found and Wall.objects.filter(code=code).exists()
    try:
        tried(f"code-{address_of(request)}", not found and not walled, OF_A_NETWORK)
    except TooOften:
        problem = "Too many wrong codes came from this network. Wait a minute and try again."
        return render(request, "sittings/code.html", {"typed": typed, "problem": problem}, status=429)
    if walled:
        return redirect("wall-phone", code)
    if not found:
        problem = "No sitting has this code. It is six letters and figures, as your teacher shows them."
        return render(request, "sittings/code.html", {"typed": typed, "problem": problem}, status=422)
    return redirect("sitting-door", code)


def sitting_at(request: HttpRequest, code: str) -> Sitting:
    """The sitting that has a code."""
    among = Sitting.objects.select_related("test__department__school").prefetch_related("classes")
    return by_code(request, among.filter(code=code.upper(), archived=None).first())


def by_code(request: HttpRequest, found: Coded | None) -> Coded:
    """What was found by a code. Whoever tries many is not answered any more."""
    try:
        tried(f"code-{address_of(request)}", found is None, OF_A_NETWORK)
    except TooOften:
        raise Http404 from None
    if found is None:
        raise Http404
    return found


@require_GET
def door(request: MemberRequest, code: str) -> HttpResponseBase:
    """In front of a sitting: students of its lists go in, others where the rules let them."""
    sitting = sitting_at(request, code)
    if as_guest(request, sitting) is not None and sitting.held.takes_guests:
        return redirect("sit", sitting.pk)
    if sitting.held.come_in != "anonymous":
        if request.user.is_authenticated and request.user.studies and as_student(request, sitting) is not None:
            return redirect("sit", sitting.pk)
        if not sitting.held.takes_guests:
            return to_the_list(request, sitting)
    return door_page(request, sitting)


@signed_in
def to_the_list(request: MemberRequest, sitting: Sitting) -> HttpResponseBase:
    """Those who sign in are let in when it is for them."""
    return redirect("sit", sitting.pk)


def door_page(request: MemberRequest, sitting: Sitting, status: int = 200, **more: Any) -> HttpResponse:
    context = {
        "sitting": sitting,
        "classes": sorted(each.name for each in sitting.classes.all()),
        "outside": not sitting.held.admits(address_of(request)),
        "staff": request.user.is_authenticated and not request.user.studies,
    }
    return render(request, "sittings/door.html", context | more, status=status)


@require_POST
def enter(request: MemberRequest, code: str) -> HttpResponse:
    """Come in with a name and a class, or without a name."""
    sitting = sitting_at(request, code)
    if not sitting.held.takes_guests:
        return redirect("sitting-door", code)
    if not sitting.held.admits(address_of(request)):
        return door_page(request, sitting, 403)
    name = " ".join(request.POST.get("name", "").split())[:120]
    group = " ".join(request.POST.get("group", "").split())[:60]
    named = sitting.held.come_in == "named"
    problems = {}
    if named and len(name) < 2:
        problems["name"] = "Type your name, given name and family name."
    if named and not group:
        problems["group"] = "Type your class, such as 10 A."
    student = listed(sitting, name, group) if named and not problems else None
    if student is not None and student.user_id is not None:
        problems["name"] = "You have a sign-in at this school: sign in with it, and this is in your list."
    if problems:
        return door_page(request, sitting, 422, problems=problems, typed={"name": name, "group": group})
    if sitting.takings.filter(student=None).count() >= MOST_GUESTS:
        problems["name"] = "Too many have come in. Ask your teacher."
        return door_page(request, sitting, 422, problems=problems, typed={"name": name, "group": group})
    taking = place_for(sitting, student, name if named else "", group if named else "")
    answer = redirect("sit", sitting.pk)
    let_browser_in(answer, taking, request.is_secure())
    return answer


def listed(sitting: Sitting, name: str, group: str) -> Student | None:
    """The student of a class of the sitting who has a name, whichever way round it was typed; accents are forgiven
    where that leaves one student."""
    classes = [each.pk for each in sitting.classes.all() if folded(each.name) == folded(group)]
    enrolled = Enrolment.objects.filter(held__in=classes, left=None).select_related("student")
    chosen = set(sitting.chosen.values_list("pk", flat=True))
    among = [each.student for each in enrolled if not chosen or each.student_id in chosen]
    for plain in (str.casefold, unaccented):
        wanted = sorted(plain(name.replace(",", " ")).split())
        alike = {each for each in among if sorted(plain(f"{each.given} {each.family}").split()) == wanted}
        if len(alike) == 1:
            return alike.pop()
    return None


@transaction.atomic
def place_for(sitting: Sitting, student: Student | None, name: str, group: str) -> Taking:
    """The place of whoever comes in: under a name that is there already it is the same, and the teacher sees that it
    was taken once more; without a name it is always a new one."""
    Sitting.objects.select_for_update().get(pk=sitting.pk)
    taking = None
    if student is not None:
        taking, _ = Taking.objects.get_or_create(sitting=sitting, student=student, earlier=False)
    elif name:
        alike = Taking.objects.current().filter(sitting=sitting, student=None, tried_by=None).exclude(name="")
        taking = next(
            (each for each in alike if (folded(each.name), folded(each.group)) == (folded(name), folded(group))), None
        )
    if taking is None:
        taking = Taking.objects.create(sitting=sitting, name=name, group=group)
    if student is not None or name:
        taking.entries += 1
        taking.save(update_fields=["entries"])
        if taking.entries > 1:
            sitting.note("came in again", taking=taking)
    return taking
