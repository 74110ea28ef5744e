"""The rules of a sitting: shown with what they mean, changed, filled, kept for another time."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.forms import neighbours
from vorlage.core.sittings import (
    MOMENTS,
    SEEN_AT_ONCE,
    WAYS,
    Objection,
    Rules,
    objections,
    sentences,
    shared_by_neighbours,
    unequal,
)
from vorlage.web.people.permissions import personally
from vorlage.web.people.requests import MemberRequest
from vorlage.web.seating.models import SeatPlan

from .attempts import more_forms, said_repeats
from .forms import RulesForm
from .marking import moved_totals
from .models import Sitting, Way
from .opening import follows, leads_to, may_follow
from .views import sitting_of, students_of


@personally("sittings.list_sittings")
@require_GET
def sitting_rules(request: MemberRequest, pk: int) -> HttpResponse:
    found = sitting_of(request, pk, "sittings.change_sitting")
    return rules_page(request, found, rules_form(found))


def rules_form(found: Sitting, data: Any = None) -> RulesForm:
    sections = list(found.form_set.sections.order_by("position").values_list("title", flat=True))
    return RulesForm(found.held, found.test.department.school.day_ends, data, sections if len(sections) > 1 else ())


def rules_page(request: MemberRequest, found: Sitting, form: RulesForm, status: int = 200) -> HttpResponse:
    said = form.is_bound and form.is_valid()
    context = said_of(found, form.rules if said else found.held)
    earlier = Sitting.objects.seen_by(request.user).exclude(pk=found.pk)[:20]
    chosen, following = set(found.chosen.values_list("pk", flat=True)), set(found.opens_next.all())
    more = {
        "own_ways": Way.objects.filter(department=found.test.department_id),
        "students": [(each, each.pk in chosen) for each in students_of(list(found.classes.all()))],
        "all": not chosen,
        "next": [(each, each in following) for each in may_follow(request.user, found)],
        "sitting": found, "station": "sittings", "form": form, "ways": list(WAYS.items()), "earlier": earlier,
        "begun": found.begun,
        "seen_at_once": [(words, " ".join(rows) or "nothing") for words, rows in SEEN_AT_ONCE.values()],
        "moments": [(key, words) for key, words in MOMENTS.items() if key != "never"],
    }  # fmt: skip
    return render(request, "sittings/rules.html", context | more, status=status)


def said_of(found: Sitting, rules: Rules) -> dict[str, Any]:
    """What rules mean, and what in them contradicts itself."""
    now = timezone.localtime()
    refused = changed_too_late(found, rules)
    wrong = objections(rules, now) + beside_each_other(found)
    said = sentences(rules, now)
    said["how_often"] = f"{said['how_often']} {said_repeats(found, rules)}".rstrip()
    moved = moved_totals(found, rules.which) if rules.which != found.held.which else []
    return {"said": said, "objections": wrong, "too_late": refused, "moved": moved}


def beside_each_other(found: Sitting) -> list[Objection]:
    """That neighbours of a seat plan of its classes have the same form."""
    plan = SeatPlan.objects.filter(held__in=found.classes.all(), seats__row__isnull=False).order_by("-created").first()
    if plan is None:
        return []
    forms = dict(found.takings.counted().current().exclude(form=None).order_by().values_list("student", "form"))
    seats = plan.seats.exclude(row=None).exclude(column=None).select_related("student")
    seated = [seat for seat in seats if seat.student_id in forms]
    same = [
        f"{seated[pair.one].student.full_name} and {seated[pair.other].student.full_name}"
        for pair in neighbours([(seat.row or 0, seat.column or 0) for seat in seated])
        if forms[seated[pair.one].student_id] == forms[seated[pair.other].student_id]
    ]
    return [shared_by_neighbours(same)] if same else []


def changed_too_late(found: Sitting, rules: Rules) -> list[str]:
    """What cannot be changed any more since somebody has begun, in words."""
    return unequal(found.held, rules) if found.begun else []


@personally("sittings.list_sittings")
@require_POST
def say_rules(request: MemberRequest, pk: int) -> HttpResponse:
    """What the rules that are being typed mean; nothing is kept."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    form = rules_form(found, request.POST)
    context = (
        said_of(found, form.rules) if form.is_valid() else {"said": {}, "objections": [], "too_late": [], "moved": []}
    )
    return render(request, "sittings/_said.html", context | {"form": form, "sitting": found})


@personally("sittings.list_sittings")
@require_POST
def keep_rules(request: MemberRequest, pk: int) -> HttpResponse:
    found = sitting_of(request, pk, "sittings.change_sitting")
    form = rules_form(found, request.POST)
    if not form.is_valid():
        return rules_page(request, found, form, 422)
    rules = form.rules
    if changed_too_late(found, rules) or any(each.stands for each in objections(rules, timezone.localtime())):
        return rules_page(request, found, form, 422)
    found.keep_rules(rules, request.user)
    if more_forms(found, request.user):
        messages.success(request, "These rules hold from now on. Forms for all attempts are being made.")
    else:
        messages.success(request, "These rules hold from now on.")
    return redirect("sitting", pk)


@personally("sittings.list_sittings")
@require_POST
def take_rules(request: MemberRequest, pk: int) -> HttpResponse:
    """Fill the rules by a way of working, or as an earlier sitting had them; its moments stay as they are here."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    if found.begun:
        messages.warning(request, "Somebody has begun: the rules cannot be filled anew.")
        return redirect("sitting-rules", pk)
    chosen = request.POST.get("way", "")
    kept = found.held
    if chosen in WAYS:
        changes = dict(WAYS[chosen][1])
        found.keep_rules(Rules.of({**kept.kept, **Rules(kept.opens, **changes).kept, **moments_of(kept)}), request.user)
    elif chosen.startswith("own-") and chosen[4:].isdecimal():
        way = get_object_or_404(Way, pk=int(chosen[4:]), department=found.test.department_id)
        found.keep_rules(Rules.of({**way.rules, **moments_of(kept)}), request.user)
    elif chosen.isdecimal():
        other = sitting_of(request, int(chosen))
        found.keep_rules(Rules.of({**other.rules, **moments_of(kept)}), request.user)
    return redirect("sitting-rules", pk)


def moments_of(rules: Rules) -> dict[str, Any]:
    kept = rules.kept
    return {name: kept[name] for name in ("opens", "due", "closes", "results")}


@personally("sittings.list_sittings")
@require_POST
@transaction.atomic
def choose_students(request: MemberRequest, pk: int) -> HttpResponse:
    """For all students of its classes, or for some; who has begun stays."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    picked = set(request.POST.getlist("student"))
    among = students_of(list(found.classes.all()))
    chosen = [each for each in among if str(each.pk) in picked]
    if not chosen:
        messages.warning(request, "Nobody would be left: tick those who are to sit it.")
        return redirect("sitting-rules", pk)
    everybody = len(chosen) == len(among)
    found.chosen.set([] if everybody else chosen)
    left_out = found.takings.counted().filter(begun=None).exclude(student=None).exclude(student__in=chosen)
    left_out.delete()
    if found.ready is not None:
        found.deal()
    found.note("chosen", request.user, data={"students": [each.pk for each in chosen]})
    count = len(chosen)
    messages.success(
        request,
        "It is for everybody in its classes." if everybody else f"It is for {count} student{'s'[: count != 1]}.",
    )
    return redirect("sitting-rules", pk)


@personally("sittings.list_sittings")
@require_POST
@transaction.atomic
def choose_next(request: MemberRequest, pk: int) -> HttpResponse:
    """Say which sittings passing this one opens."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    picked = set(request.POST.getlist("next"))
    chosen = [each for each in may_follow(request.user, found) if str(each.pk) in picked]
    if any(leads_to(each, found) for each in chosen):
        messages.warning(request, "One of these has to be passed before this one: nobody could begin either.")
        return redirect("sitting-rules", pk)
    follows(found, chosen)
    found.note("next", request.user, data={"sittings": sorted(each.pk for each in chosen)})
    titles = ", ".join(f"“{each.title}”" for each in chosen)
    messages.success(request, f"Passing this opens {titles}." if chosen else "Passing this opens nothing.")
    return redirect("sitting-rules", pk)


@personally("sittings.list_sittings")
@require_POST
def keep_way(request: MemberRequest, pk: int) -> HttpResponse:
    """Keep the rules of a sitting as a way of working of its department, or take one away."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    department = found.test.department
    if "remove" in request.POST:
        gone = request.POST.get("remove", "")
        ways = Way.objects.filter(department=department)
        count, _ = ways.filter(pk=int(gone)).delete() if gone.isdecimal() else (0, {})
        if count:
            messages.success(
                request, "This way of working is taken away. Sittings that were filled by it stay as they are."
            )
        return redirect("sitting-rules", pk)
    name = " ".join(request.POST.get("name", "").split())[:60]
    if not name:
        messages.warning(request, "Type a name for this way of working, such as Short test.")
        return redirect("sitting-rules", pk)
    Way.objects.update_or_create(
        department=department, name=name, defaults={"rules": found.rules, "author": request.user}
    )
    messages.success(request, f"“{name}” can fill the rules of every sitting of {department.name} now.")
    return redirect("sitting-rules", pk)
