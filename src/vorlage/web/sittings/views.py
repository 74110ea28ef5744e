"""A teacher's side of sittings: giving a test, the rules, the table while it runs, release."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta
from typing import Any

import segno
from django.db.models import Exists, OuterRef, Prefetch, QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.utils.safestring import mark_safe
from django.views.decorators.http import require_GET, require_POST

from vorlage.core.sittings import (
    USUAL,
    Rules,
    day_end,
    moment_words,
    sentences,
    that_hold,
)
from vorlage.web.classes.models import Allowance, Class, Enrolment, Student
from vorlage.web.forms.views import why_not
from vorlage.web.once.models import once
from vorlage.web.people.models import User
from vorlage.web.people.permissions import held, may, member, personally
from vorlage.web.people.requests import MemberRequest
from vorlage.web.plans.views import test_of, test_page

from .forms import GiveForm
from .models import Event, Sitting, Taking, allowed_to
from .notes import questions_in
from .opening import passing_of
from .practice import practice_of
from .releasing import open_marks
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
    put_away = "archived" in request.GET
    mine = Sitting.objects.seen_by(request.user)
    found = mine.exclude(archived=None) if put_away else mine.filter(archived=None)
    counted = Prefetch("takings", queryset=Taking.objects.counted().current().order_by())
    listed = list(found.select_related("test", "job").prefetch_related("classes", counted)[:200])
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
    others = mine.filter(archived=None).exists() if put_away else mine.exclude(archived=None).exists()
    context = {"rows": rows, "station": "sittings", "put_away": put_away, "others": others}
    return render(request, "sittings/sittings.html", context)


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
    classes, form_set = list(form.cleaned_data["classes"]), form.cleaned_data["form_set"]
    chosen: list[Student] = []
    if "some" in request.POST:
        among = students_of(classes)
        picked = set(request.POST.getlist("student"))
        chosen = [each for each in among if str(each.pk) in picked]
        if not chosen:
            context = {
                "test": test, "classes": classes, "form_set": form_set, "students": among, "station": "tests",
                "nobody": "student" in request.POST or "chosen" in request.POST,
            }  # fmt: skip
            return render(request, "sittings/give_some.html", context, status=422 if context["nobody"] else 200)
    now = timezone.localtime().replace(second=0, microsecond=0)
    ends = test.department.school.day_ends
    closes = day_end(now, timedelta(hours=ends.hour, minutes=ends.minute))
    rules = Rules(now, closes=closes, before=test.before, above=test.instructions)
    made = Sitting.give(test, classes, rules, request.user, form_set, chosen)
    return redirect("sitting", made.pk)


def students_of(classes: Sequence[Class]) -> list[Student]:
    """The students of classes, in class order."""
    enrolled = Enrolment.objects.filter(held__in=classes, left=None).values("student")
    return list(Student.objects.filter(pk__in=enrolled))


@personally("sittings.list_sittings")
@require_GET
def sitting(request: MemberRequest, pk: int) -> HttpResponse:
    """Who is where, and what can be done for them."""
    found = sitting_of(request, pk)
    now = timezone.localtime()
    job = found.job
    context = table_of(request, found, may(request.user, "sittings.change_sitting", found)) | {
        "station": "sittings",
        "state": state_of(found, now),
        "classes": found.classes.all(),
        "getting_ready": found.ready is None and (job is None or job.open),
        "failed": job.reason if job is not None and found.ready is None and not job.open else "",
        "said": that_hold(found.held, sentences(found.held, now)),
        "before_it": list(found.opened_by.all()) if found.behind else [],
        "passing": passing_of(found),
        "practice": practice_of(found) if found.held.practice != "no" else [],
    }
    return render(
        request, "sittings/sitting.html", context | (for_running_it(request, found) if context["runs"] else {})
    )


def for_running_it(request: MemberRequest, found: Sitting) -> dict[str, Any]:
    """What whoever runs a sitting has beside its table."""
    now, questions = timezone.localtime(), questions_in(found)
    return {
        "link": request.build_absolute_uri(reverse("sitting-door", args=[found.code])) if found.code else "",
        "staff": colleagues(found),
        "markers": list(found.markers.order_by("name")),
        "forms": list(found.form_set.forms.order_by("position").only("code")[:40]),
        "alike": [each for each in found.students() if allowed_to(each) != USUAL or flags_of(each)],
        "to": one_of(found, request.GET.get("to", "")),
        "questions": questions.items(),
        "notes": [
            (each, questions.get(each.candidate_id or 0, ""), moment_words(timezone.localtime(each.at), now))
            for each in found.notes.select_related("by", "taking__student")
        ],
    }


def one_of(found: Sitting, pk: str) -> Taking | None:
    """Somebody who sits it, by the number of their place."""
    return (
        found.takings.counted().current().select_related("student").filter(pk=int(pk)).first()
        if pk.isdecimal()
        else None
    )


def flags_of(student: Student) -> bool:
    """Whether a student is allowed something that shows on the page."""
    allowance = getattr(student, "allowance", None)
    return allowance is not None and any(getattr(allowance, name) for name in Allowance.WORDS)


def colleagues(found: Sitting) -> QuerySet[User]:
    """Who may be asked to mark: whoever works at the school and does not mark it yet."""
    school = found.test.department.school_id
    there = User.objects.filter(is_active=True, studies=False, memberships__department__school=school)
    return there.exclude(pk__in=found.markers.values("pk")).distinct().order_by("name")


def table_of(request: MemberRequest, found: Sitting, runs: bool) -> dict[str, Any]:
    """What the table shows, and what is renewed with it."""
    now = timezone.localtime()
    rows = rows_of(found, now)
    return {
        "sitting": found,
        "runs": runs,
        "rows": rows,
        "covered": "covered" in request.GET,
        "need": [row for row in rows if row.silent],
        "counts": counts_of(rows),
        "asked": asked_in(found, now) if found.held.questions else [],
        "release": release_check(found, [row.taking for row in rows]),
    }


def asked_in(found: Sitting, now: datetime) -> list[tuple[Event, str]]:
    """What students have asked about questions, the newest first."""
    events = found.events.filter(kind="asked").select_related("taking__student")[:20]
    return [(each, moment_words(timezone.localtime(each.at), now)) for each in events]


def counts_of(rows: Any) -> dict[str, int]:
    takings = [row.taking for row in rows]
    return {
        "all": len(takings),
        "begun": sum(each.begun is not None for each in takings),
        "handed_in": sum(each.handed_in is not None for each in takings),
        "absent": sum(each.absent for each in takings),
    }


def release_check(found: Sitting, takings: list[Taking]) -> dict[str, int]:
    """What is missing before results can be released: who sits still, who never began, what waits for a mark."""
    outcomes = list[str]()
    # nothing is looked for that cannot be there: this is asked every three seconds
    if any(each.handed_in is not None or each.attempt > 1 for each in takings):
        outcomes = list(open_marks(Sitting.objects.filter(pk=found.pk)).values_list("outcome", flat=True))
    return {
        "waiting": outcomes.count("waiting"),
        "unreadable": outcomes.count("unreadable"),
        "absent": 0 if found.held.on_paper else sum(each.begun is None for each in takings),
        "sitting": sum(each.begun is not None and each.handed_in is None for each in takings),
        "unmarked": sum(each.handed_in is not None and each.marked is None for each in takings),
    }


@personally("sittings.list_sittings")
@require_GET
def table(request: MemberRequest, pk: int) -> HttpResponse:
    """The table by itself, for the page that shows it."""
    # it is asked every three seconds by everybody who has it open: all that has to be known first in one query
    runs = Exists(Sitting.objects.run_by(request.user).filter(pk=OuterRef("pk")).order_by())
    among = Sitting.objects.seen_by(request.user).annotate(runs=runs).order_by()
    found = get_object_or_404(among, pk=pk)
    context = table_of(request, found, bool(vars(found)["runs"])) | {"renewed": True}
    return render(request, "sittings/_table.html", context)


@personally("sittings.list_sittings")
@require_GET
def wall(request: MemberRequest, pk: int) -> HttpResponse:
    """How to come in, large enough for the back row."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    link = request.build_absolute_uri(reverse("sitting-door", args=[found.code])) if found.code else ""
    code = segno.make(link, error="m").svg_inline(border=2, scale=1, omitsize=True) if link else ""
    context = {
        "sitting": found, "station": "sittings", "link": link, "qr": mark_safe(code),
        "typed_at": request.build_absolute_uri(reverse("come-in")),
    }  # fmt: skip
    return render(request, "sittings/wall.html", context)
