"""What a teacher does while a sitting runs and after it: for students, for those who mark, for all."""

from __future__ import annotations

import dataclasses
from datetime import timedelta

from django.contrib import messages
from django.db import transaction
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone
from django.views.decorators.http import require_POST

from vorlage.core.sittings import (
    TimeError,
    duration_words,
    read_duration,
)
from vorlage.web.classes.models import Student
from vorlage.web.forms.basis import retest
from vorlage.web.forms.views import why_not
from vorlage.web.once.models import once
from vorlage.web.people.permissions import personally
from vorlage.web.people.requests import MemberRequest

from .deeds import Order, carried_out
from .models import Note, Sitting, Taking, forms_for
from .notes import questions_in
from .opening import all_standings, open_for
from .views import colleagues, one_of, sitting_of


@personally("sittings.list_sittings")
@require_POST
def act(request: MemberRequest, pk: int) -> HttpResponse:
    """More time, a pause, handing in, reopening: for those who are chosen, with a reason, on record."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    what, reason = request.POST.get("what", ""), request.POST.get("reason", "").strip()[:300]
    chosen = [int(each) for each in request.POST.getlist("who") if each.isdecimal()]
    if "everybody" in request.POST:
        chosen = list(found.takings.counted().current().order_by("pk").values_list("pk", flat=True))
    now = timezone.now()
    if not chosen:
        messages.warning(request, "Nobody is chosen: tick students in the table first.")
        return back(request, pk)
    length, allowed = timedelta(0), dict[str, int | None]()
    try:
        if what == "more":
            length = read_duration(request.POST.get("length", ""))
        if what == "allow":
            allowed = allowed_here(request)
            if not reason:
                raise TimeError("no_reason", "Say why it is different here: the reason is kept on record.")
    except TimeError as problem:
        messages.warning(request, problem.message)
        return back(request, pk)
    order = Order(what, request.user, reason, now, length, allowed)
    done = sum(carried_out(found, each, order) for each in chosen[:1000])
    words = {
        "more": f"{duration_words(length)} more", "pause": "paused", "go-on": "going on", "hand-in": "handed in",
        "reopen": "reopened", "let-in": "let in", "form": "given another form", "withhold": "results withheld",
        "give-back": "results no longer withheld", "release": "results released",
        "allow": "allowed something else here", "open": "let begin", "absent": "noted as not there",
        "present": "noted as there",
    }.get(what, "")  # fmt: skip
    skipped = len(chosen) - done
    messages.success(request, f"{done} student{'' if done == 1 else 's'}: {words}." if words else "Nothing was done.")
    if skipped and words:
        messages.warning(request, f"For {skipped} it could not be done where they are now.")
    return back(request, pk)


def allowed_here(request: MemberRequest) -> dict[str, int | None]:
    """What is allowed in this sitting in place of what is allowed anyway; nothing typed is as anyway. Raises
    ``TimeError``."""
    found: dict[str, int | None] = {}
    for name, words, most in (
        ("percent", "More time", 200), ("minutes", "Minutes more", 240), ("later", "Closing later", 20_160),
    ):  # fmt: skip
        typed = request.POST.get(f"allow_{name}", "").strip().removesuffix("%").removesuffix("min").strip()
        if typed and not (typed.isdecimal() and len(typed) < 7 and int(typed) <= most):
            raise TimeError("no_allowance", f"{words}: type a whole number up to {most}.")
        found[name] = int(typed) if typed else None
    return found


@personally("sittings.list_sittings")
@require_POST
def tell(request: MemberRequest, pk: int) -> HttpResponse:
    """A note to all, or a correction to one question; it appears on every page."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    text, question = request.POST.get("text", "").strip()[:500], request.POST.get("question", "").strip()
    about = next((each for each in questions_in(found) if str(each) == question), None)
    if not text:
        messages.warning(request, "Nobody was told anything: the note is empty.")
    elif question and about is None:
        messages.warning(request, f"Nobody was told anything: that question is not in this sitting. You wrote: {text}")
    else:
        to = one_of(found, request.POST.get("to", ""))
        Note.objects.create(sitting=found, taking=to, text=text, candidate_id=about, by=request.user)
        where = f"the page of {to.full_name}" if to is not None else "every page"
        where = where if about is None or to is not None else "the page of everybody who has the question"
        messages.success(request, f"It is on {where} within ten seconds.")
    return redirect("sitting", pk)


@personally("sittings.list_sittings")
@require_POST
@transaction.atomic
def release(request: MemberRequest, pk: int) -> HttpResponse:
    """Release results now or as soon as everything is marked, or take them back."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    what = request.POST.get("what", "")
    if what not in RELEASING:
        messages.warning(request, "Nothing was done.")
        return back(request, pk)
    found.released = timezone.now() if what == "release" else None if what == "withdraw" else found.released
    found.when_marked = what == "when-marked"
    found.save(update_fields=["released", "when_marked"])
    kind, words = RELEASING[what]
    found.note(kind, request.user)
    messages.success(request, words)
    return back(request, pk)


# What can become of results: how it is noted, and what is said.
RELEASING = {
    "release": ("released", "Results are released."),
    "withdraw": ("withdrawn", "Results are withdrawn: students see them no more."),
    "when-marked": ("release when marked", "Results are released as soon as everything is marked."),
    "by-hand": ("release by hand", "Results wait for you to release them."),
}


def back(request: MemberRequest, pk: int) -> HttpResponse:
    """To the page from which something was done: that of the sitting, or its results."""
    return redirect("results" if request.POST.get("from") == "results" else "sitting", pk)


@personally("sittings.list_sittings")
@require_POST
def change_word(request: MemberRequest, pk: int) -> HttpResponse:
    """Another entry word: those inside notice nothing, those outside need the new one."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    word = " ".join(request.POST.get("word", "").split())[:40]
    found.keep_rules(dataclasses.replace(found.held, word=word), request.user)
    now = f"The entry word is “{word}” now." if word else "No entry word is needed now."
    messages.success(request, f"{now} Those inside notice nothing.")
    return redirect("sitting", pk)


@personally("sittings.list_sittings")
@require_POST
@transaction.atomic
def set_marker(request: MemberRequest, pk: int) -> HttpResponse:
    """Ask somebody to mark, or no more."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    who = request.POST.get("who", "")
    if "remove" in request.POST:
        gone = found.markers.filter(pk=int(who)).first() if who.isdecimal() else None
        if gone is not None:
            found.markers.remove(gone)
            found.note("marker removed", request.user, data={"who": gone.pk})
            messages.success(request, f"{gone.name} does not mark it any more.")
        return redirect("sitting", pk)
    asked = colleagues(found).filter(pk=int(who)).first() if who.isdecimal() else None
    if asked is None:
        messages.warning(request, "Choose a colleague who is to mark it.")
        return redirect("sitting", pk)
    found.markers.add(asked)
    found.note("marker", request.user, data={"who": asked.pk})
    messages.success(request, f"{asked.name} finds it under Sittings and can look into it.")
    return redirect("sitting", pk)


@personally("sittings.list_sittings")
@require_POST
@transaction.atomic
def try_it(request: MemberRequest, pk: int) -> HttpResponse:
    """Go through it as a student would, on any form and with what a student is allowed; nothing of it is counted."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    form, like = request.POST.get("form", ""), request.POST.get("like", "")
    if found.ready is None:
        messages.warning(request, "It is being got ready. Try it in some seconds.")
        return redirect("sitting", pk)
    forms = found.form_set.forms.order_by("position")
    chosen = (forms.filter(pk=int(form)).first() if form.isdecimal() else None) or forms.first()
    alike = next((each for each in found.students() if str(each.pk) == like), None)
    Taking.objects.filter(sitting=found, tried_by=request.user).delete()
    now = timezone.now()
    made = Taking.objects.create(sitting=found, tried_by=request.user, tried_as=alike, form=chosen)
    made.set_off(made.rules_at(now), now)
    made.save()
    return redirect("practice" if found.held.practice == "only" else "sit-work", pk)


@personally("sittings.list_sittings")
@require_POST
@once
def give_again(request: MemberRequest, pk: int) -> HttpResponse:
    """The same test to the same students by the same rules on a later day, with forms of its own."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    if reason := why_not(found.test):
        messages.warning(request, reason)
        return redirect("sitting", pk)
    rules = found.held.later(timezone.localtime())
    made = Sitting.give(found.test, list(found.classes.all()), rules, request.user, chosen=list(found.chosen.all()))
    messages.success(request, "It is given again on a later day. Change here what is to be different.")
    return redirect("sitting-rules", made.pk)


@personally("sittings.list_sittings")
@require_POST
@transaction.atomic
def open_next(request: MemberRequest, pk: int) -> HttpResponse:
    """Open what comes after a sitting for all who have passed it."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    through = [row.taking.student_id for row in all_standings(found) if row.passed and row.taking.student_id]
    for each in found.opens_next.all():
        open_for(each, through, request.user)
        each.note("opened", request.user, data={"students": through})
    count = len(through)
    who = "one student who has" if count == 1 else f"{count} students who have"
    messages.success(request, f"What comes after it is open for {who} passed.")
    return redirect("sitting", pk)


# For whom a test is given once more.
RETAKERS = {"absent": "did not begin", "failed": "have not passed", "ticked": "are ticked", "all": "sit it"}


@personally("sittings.list_sittings")
@require_POST
@once
def retake(request: MemberRequest, pk: int) -> HttpResponse:
    """The same test once more for some students, on fresh forms that ask as much as those that they replace."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    whom = request.POST.get("whom", "")
    students = who_retakes(found, whom, set(request.POST.getlist("who")))
    if not students:
        messages.warning(request, f"There is nobody: say who is to sit it once more. Nobody of those who sit it "
                                  f"{RETAKERS.get(whom, 'are ticked')}.")  # fmt: skip
        return redirect("sitting", pk)
    form = found.form_set.forms.order_by("position").first()
    if form is None or found.ready is None:
        messages.warning(request, "Its forms are still being made. Try it again in some seconds.")
        return redirect("sitting", pk)
    rules = found.held.later(timezone.localtime())
    with transaction.atomic():
        fresh = retest(found.form_set, form, request.user, forms_for(len(students), rules))
        classes = list(found.classes.all())
        made = Sitting.give(found.test, classes, rules, request.user, fresh, students)
        Sitting.objects.filter(pk=made.pk).update(title=f"{found.title}: retake"[:200])
        made.note("retake", request.user, data={"of": found.pk, "whom": whom})
    count = len(students)
    told = f"A retake for {count} student{'s'[: count != 1]}."
    messages.success(request, f"{told} It opens on a later day: change here what is to be different.")
    return redirect("sitting-rules", made.pk)


def who_retakes(found: Sitting, whom: str, ticked: set[str]) -> list[Student]:
    """The students who are to sit a test once more."""
    students = found.students()
    if whom == "all":
        return students
    if whom == "ticked":
        places = found.takings.counted().filter(pk__in=[int(each) for each in ticked if each.isdecimal()][:1000])
        chosen = set(places.values_list("student", flat=True))
        return [each for each in students if each.pk in chosen]
    begun = set(found.takings.counted().exclude(begun=None).values_list("student", flat=True))
    if whom == "absent":
        if found.held.on_paper:
            begun = set(found.takings.counted().filter(absent=False).values_list("student", flat=True))
        return [each for each in students if each.pk not in begun]
    if whom == "failed" and found.held.has_pass_mark:
        through = {row.taking.student_id for row in all_standings(found) if row.passed}
        return [each for each in students if each.pk in begun and each.pk not in through]
    return []


@personally("sittings.list_sittings")
@require_POST
def archive(request: MemberRequest, pk: int) -> HttpResponse:
    """Put a sitting away, or bring it back; nothing of it is deleted."""
    found = sitting_of(request, pk, "sittings.change_sitting")
    away = request.POST.get("what") != "restore"
    found.archived = timezone.now() if away else None
    found.save(update_fields=["archived"])
    found.note("archived" if away else "restored", request.user)
    if away:
        messages.success(request, "It is in the archive. Students see it no more.")
        return redirect("sittings")
    messages.success(request, "It is back from the archive.")
    return redirect("sitting", pk)
