"""A teacher's side of sittings: giving a test, the rules, the table while it runs, release."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import redirect, render
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.marking import waits
from vorlage.core.sittings import (
    WAYS,
    Rules,
    TimeError,
    after_pause,
    day_end,
    duration_words,
    moment_words,
    objections,
    read_duration,
    sentences,
    unequal,
    with_more_time,
)
from vorlage.web.forms.views import why_not
from vorlage.web.once.models import once
from vorlage.web.people.permissions import held, member, personally
from vorlage.web.people.requests import MemberRequest
from vorlage.web.plans.views import test_of, test_page

from .forms import GiveForm, RulesForm
from .models import Mark, Note, Sitting, Taking
from .table import rows_of


def sitting_of(request: MemberRequest, pk: int, permission: str = "sittings.view_sitting") -> Sitting:
    """A sitting, when this person may do this with it."""
    among = Sitting.objects.select_related("test__department__school", "form_set", "job", "author")
    return held(request, permission, among, by=request.user, pk=pk)


@personally("sittings.list_sittings")
@require_GET
def sittings(request: MemberRequest) -> HttpResponse:
    """The sittings that somebody may open, the newest first."""
    now = timezone.localtime()
    found = Sitting.objects.seen_by(request.user).filter(archived=None).select_related("test", "job")
    listed = list(found.prefetch_related("classes", "takings")[:200])
    rows = []
    for each in listed:
        takings = list(each.takings.all())
        rows.append(
            {
                "sitting": each,
                "state": state_of(each, now),
                "classes": ", ".join(sorted(held.name for held in each.classes.all())),
                "begun": sum(taking.begun is not None for taking in takings),
                "handed_in": sum(taking.handed_in is not None for taking in takings),
                "count": len(takings),
            }
        )
    return render(request, "sittings/sittings.html", {"rows": rows, "station": "sittings"})


def state_of(sitting: Sitting, now: Any) -> str:
    """How far a sitting is, in words."""
    local = timezone.localtime
    rules = sitting.held
    if sitting.ready is None:
        job = sitting.job
        return "being got ready" if job is None or job.open else "not made"
    if sitting.released is not None or (rules.results is not None and now >= rules.results):
        return "results released"
    if now < rules.opens:
        return f"opens {moment_words(local(rules.opens), now)}"
    if rules.closes is None:
        return "open"
    if now < rules.closes:
        return f"open until {moment_words(local(rules.closes), now)}"
    return f"closed {moment_words(local(rules.closes), now)}"


@member
@require_POST
@once
def give(request: MemberRequest, pk: int) -> HttpResponse:
    """Give a test to classes: with nothing else said it is open now, until the end of the school day."""
    test = test_of(request, pk, "forms.make_formset")
    form = GiveForm(test, request.user, request.POST)
    if form.is_valid() and form.cleaned_data["form_set"] is None and (reason := why_not(test)):
        form.add_error("form_set", reason)
    if not form.is_valid():
        return test_page(request, test, status=422, give_form=form)
    now = timezone.localtime().replace(second=0, microsecond=0)
    ends = test.department.school.day_ends
    closes = day_end(now, timedelta(hours=ends.hour, minutes=ends.minute))
    rules = Rules(now, closes=closes, before=test.before, above=test.instructions)
    made = Sitting.give(test, list(form.cleaned_data["classes"]), rules, request.user, form.cleaned_data["form_set"])
    return redirect("sitting", made.pk)


@personally("sittings.list_sittings")
@require_GET
def sitting(request: MemberRequest, pk: int) -> HttpResponse:
    """Who is where, and what can be done for them."""
    return render(request, "sittings/sitting.html", context_of(request, sitting_of(request, pk)))


def context_of(request: MemberRequest, found: Sitting, **more: Any) -> dict[str, Any]:
    now = timezone.localtime()
    rows = rows_of(found, now)
    covered = "covered" in request.GET
    job = found.job
    return {
        "sitting": found,
        "station": "sittings",
        "state": state_of(found, now),
        "classes": found.classes.all(),
        "rows": rows,
        "covered": covered,
        "need": [row for row in rows if row.silent],
        "counts": counts_of(rows),
        "getting_ready": found.ready is None and (job is None or job.open),
        "failed": job.reason if job is not None and found.ready is None and not job.open else "",
        "notes": [(each, moment_words(timezone.localtime(each.at), now)) for each in found.notes.select_related("by")],
        "said": sentences(found.held, now),
        "release": release_check(found, [row.taking for row in rows]),
    } | more


def counts_of(rows: Any) -> dict[str, int]:
    takings = [row.taking for row in rows]
    return {
        "all": len(takings),
        "begun": sum(each.begun is not None for each in takings),
        "handed_in": sum(each.handed_in is not None for each in takings),
    }


def release_check(found: Sitting, takings: list[Taking]) -> dict[str, int]:
    """What is missing before results can be released: who sits still, who never began, what waits for a mark."""
    latest = Mark.objects.filter(taking__sitting=found).order_by("taking_id", "position", "part", "-pk")
    marks = latest.distinct("taking_id", "position", "part").values_list("outcome", "certainty", "by")
    waiting, unreadable = 0, 0
    for outcome, certainty, by in marks:
        waiting += by is None and waits(outcome, certainty)
        unreadable += by is None and outcome == "unreadable"
    return {
        "waiting": waiting,
        "unreadable": unreadable,
        "absent": sum(each.begun is None for each in takings),
        "sitting": sum(each.begun is not None and each.handed_in is None for each in takings),
        "unmarked": sum(each.handed_in is not None and each.marked is None for each in takings),
    }


@personally("sittings.list_sittings")
@require_GET
def table(request: MemberRequest, pk: int) -> HttpResponse:
    """The table by itself, for the page that shows it."""
    return render(request, "sittings/_table.html", context_of(request, sitting_of(request, pk), renewed=True))


@personally("sittings.list_sittings")
@require_GET
def sitting_rules(request: MemberRequest, pk: int) -> HttpResponse:
    found = sitting_of(request, pk, "sittings.change_sitting")
    return rules_page(request, found, rules_form(found))


def rules_form(found: Sitting, data: Any = None) -> RulesForm:
    return RulesForm(found.held, found.test.department.school.day_ends, data)


def rules_page(request: MemberRequest, found: Sitting, form: RulesForm, status: int = 200) -> HttpResponse:
    said = form.is_bound and form.is_valid()
    context = said_of(found, form.rules if said else found.held)
    earlier = Sitting.objects.seen_by(request.user).exclude(pk=found.pk)[:20]
    more = {
        "sitting": found, "station": "sittings", "form": form, "ways": list(WAYS.items()), "earlier": earlier,
        "begun": found.begun,
    }  # fmt: skip
    return render(request, "sittings/rules.html", context | more, status=status)


def said_of(found: Sitting, rules: Rules) -> dict[str, Any]:
    """What rules mean, and what in them contradicts itself."""
    now = timezone.localtime()
    refused = changed_too_late(found, rules)
    return {"said": sentences(rules, now), "objections": objections(rules, now), "too_late": refused}


def changed_too_late(found: Sitting, rules: Rules) -> list[str]:
    """What cannot be changed any more since somebody has begun, in words."""
    return unequal(found.held, rules) if found.begun else []


@personally("sittings.list_sittings")
@require_POST
def say_rules(request: MemberRequest, pk: int) -> HttpResponse:
    """What the rules that are being typed mean; nothing is kept."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    form = rules_form(found, request.POST)
    context = said_of(found, form.rules) if form.is_valid() else {"said": {}, "objections": [], "too_late": []}
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
    elif chosen.isdecimal():
        other = sitting_of(request, int(chosen))
        found.keep_rules(Rules.of({**other.rules, **moments_of(kept)}), request.user)
    return redirect("sitting-rules", pk)


def moments_of(rules: Rules) -> dict[str, Any]:
    kept = rules.kept
    return {name: kept[name] for name in ("opens", "due", "closes", "results")}


@personally("sittings.list_sittings")
@require_POST
def act(request: MemberRequest, pk: int) -> HttpResponse:
    """More time, a pause, handing in, reopening: for those who are chosen, with a reason, on record."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    what, reason = request.POST.get("what", ""), request.POST.get("reason", "").strip()[:300]
    chosen = [int(each) for each in request.POST.getlist("who") if each.isdecimal()]
    now = timezone.now()
    if not chosen:
        messages.warning(request, "Nobody is chosen: tick students in the table first.")
        return redirect("sitting", pk)
    length = timedelta(0)
    if what == "more":
        try:
            length = read_duration(request.POST.get("length", ""))
        except TimeError as problem:
            messages.warning(request, problem.message)
            return redirect("sitting", pk)
    done = sum(carried_out(found, each, what, length, request, reason, now) for each in chosen[:1000])
    words = {
        "more": f"{duration_words(length)} more", "pause": "paused", "go-on": "going on", "hand-in": "handed in",
        "reopen": "reopened",
    }.get(what, "")  # fmt: skip
    skipped = len(chosen) - done
    messages.success(request, f"{done} student{'' if done == 1 else 's'}: {words}." if words else "Nothing was done.")
    if skipped and words:
        messages.warning(request, f"For {skipped} it could not be done where they are now.")
    return redirect("sitting", pk)


@transaction.atomic
def carried_out(
    found: Sitting, pk: int, what: str, length: timedelta, request: MemberRequest, reason: str, now: Any
) -> bool:
    """Do it for one student; False where it cannot be done where they are."""
    taking = Taking.objects.select_for_update(of=("self",)).filter(pk=pk, sitting=found).first()
    if taking is None or taking.begun is None:
        return False
    taking.sitting = found
    if what == "more" and taking.ends is not None and taking.handed_in is None:
        taking.ends = with_more_time(taking.record, length, now)
    elif what == "pause" and taking.paused is None and taking.handed_in is None:
        taking.paused = now
    elif what == "go-on" and taking.paused is not None:
        taking.ends, taking.paused = after_pause(taking.record, now), None
    elif what == "hand-in" and taking.handed_in is None:
        return taking.hand_in(now, by=request.user, reason=reason)
    elif what == "reopen" and taking.handed_in is not None:
        taking.handed_in, taking.receipt, taking.marked, taking.by_time = None, "", None, False
        if taking.ends is not None and taking.ends <= now:
            taking.ends = now + timedelta(minutes=10)
    else:
        return False
    taking.save(update_fields=["ends", "paused", "handed_in", "receipt", "marked", "by_time"])
    found.note(what, request.user, taking, reason=reason, data={"seconds": length.total_seconds()})
    return True


@personally("sittings.list_sittings")
@require_POST
def tell(request: MemberRequest, pk: int) -> HttpResponse:
    """A note to all, or a correction to one question; it appears on every page."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    text, question = request.POST.get("text", "").strip()[:500], request.POST.get("question", "").strip()
    if text:
        number = int(question) if question.isdecimal() and 0 < int(question[:4]) < 1000 else None
        Note.objects.create(sitting=found, text=text, question=number, by=request.user)
        messages.success(request, "It is on every page within ten seconds.")
    return redirect("sitting", pk)


@personally("sittings.list_sittings")
@require_POST
@transaction.atomic
def release(request: MemberRequest, pk: int) -> HttpResponse:
    """Release results, or take them back."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    out = request.POST.get("what") != "withdraw"
    found.released = timezone.now() if out else None
    found.save(update_fields=["released"])
    found.note("released" if out else "withdrawn", request.user)
    messages.success(request, "Results are released." if out else "Results are withdrawn: students see them no more.")
    return redirect("sitting", pk)
