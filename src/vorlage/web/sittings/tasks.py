"""The work around sittings: forms and sheets are got ready, what ran out is handed in, what was handed in is marked."""

from __future__ import annotations

import time
from fractions import Fraction

from django.utils import timezone

from vorlage.core.documents import page_picture
from vorlage.core.sittings import GRACE, TIME_UP, student_sheet
from vorlage.web.files.models import Stored
from vorlage.web.forms.models import Form, FormItem, FormSet, ItemKey
from vorlage.web.jobs.models import Job, JobFailed
from vorlage.web.jobs.tasks import does, regularly

from .attempts import kept_repeats
from .marking import mark
from .models import MARKING, READYING, InsertPage, Sitting, StudentItem, Taking
from .questions import drawn_item
from .releasing import release_what_is_marked

# How often it is looked whether the forms are made, in seconds, and for how many altogether.
LOOK, PATIENCE = 0.3, 900
# The pixels an inch of what is read beside the questions, on screens that show it large.
SHARP = 150


@does(READYING)
def get_ready(job: Job) -> None:
    """Write what students see of every question of every form, and give everybody a form. Forms that are still being
    made are waited for."""
    sitting = Sitting.objects.select_related("form_set__job").get(pk=job.arguments["sitting"])
    wait_for(sitting.form_set, job)
    write_sheets(sitting.form_set, job)
    picture_inserts(sitting.form_set)
    repeats = kept_repeats(sitting.form_set_id)
    with job.finishing():
        sitting.deal()
        Sitting.objects.filter(pk=sitting.pk).update(ready=timezone.now(), repeats=repeats)


def wait_for(form_set: FormSet, job: Job) -> None:
    """Wait until the forms are made. Raises ``JobFailed`` with the reason when they are not."""
    until = time.monotonic() + PATIENCE
    while not FormSet.objects.filter(pk=form_set.pk).exclude(frozen=None).exists():
        making = Job.objects.get(pk=form_set.work.pk)
        if not making.open and making.state != Job.State.DONE:
            raise JobFailed(making.reason or "Making the forms was cancelled.")
        if time.monotonic() > until:
            raise JobFailed("The forms were not made in a quarter of an hour. Give the test again.")
        job.note(0, "Making forms, proving keys")
        time.sleep(LOOK)


def write_sheets(form_set: FormSet, job: Job) -> None:
    """Write the sheets that are not there yet: of a set that was given before all are."""
    forms = list(Form.objects.filter(form_set=form_set).order_by("position"))
    there = set(StudentItem.objects.filter(form__in=forms).values_list("item", flat=True))
    for done, form in enumerate(forms):
        items = FormItem.objects.filter(form=form).select_related("form__form_set", "candidate", "place__section")
        missing = [item for item in items if item.pk not in there]
        if missing:
            keys = dict(ItemKey.objects.filter(item__in=missing).values_list("item", "parts"))
            StudentItem.objects.bulk_create(
                (sheet_row(item, [Fraction(each["marks"]) for each in keys[item.pk]]) for item in missing),
                ignore_conflicts=True,
            )
        job.note(min(done + 1, job.total), "Laying out questions")


def picture_inserts(form_set: FormSet) -> None:
    """Make pictures of the pages of what lies beside the questions, where there are none yet."""
    for insert in form_set.inserts.filter(pictures=None).select_related("file"):
        content = insert.file.read()
        pictures = [
            Stored.keep(page_picture(content, number, SHARP, trimmed=True)) for number in range(1, insert.pages + 1)
        ]
        InsertPage.objects.bulk_create(
            (InsertPage(insert=insert, number=number, picture=each) for number, each in enumerate(pictures, start=1)),
            ignore_conflicts=True,
        )


def sheet_row(item: FormItem, marks: list[Fraction]) -> StudentItem:
    """A question of a form as students see it."""
    sheet = student_sheet(drawn_item(item), marks)
    return StudentItem(
        item=item,
        form_id=item.form_id,
        position=item.position,
        section=item.place.section.title,
        section_number=item.place.section.position,
        shown=sheet.shown,
        readers=sheet.kept_readers,
        hints=sheet.kept_hints,
    )


@does(MARKING)
def mark_all(job: Job) -> None:
    """Mark what was handed in in a sitting and is not marked yet."""
    handed_in = Taking.objects.filter(sitting=job.arguments["sitting"], marked=None).exclude(handed_in=None)
    for taking in handed_in.select_related("sitting__form_set"):
        mark(taking)
    with job.finishing():
        pass


@regularly
def hand_in_what_ran_out() -> None:
    """Hand in what nobody can go on with. Nothing depends on this being in time: who looks before does the same."""
    now = timezone.now()
    running = Taking.objects.filter(handed_in=None, begun__isnull=False, paused=None, ends__lt=now - GRACE)
    # who may go on is never handed in, and would stand before those who are
    running = running.exclude(sitting__rules__time_up="go_on").order_by("ends")
    for taking in running.select_related("sitting", "student")[:200]:
        settle(taking)


@regularly
def release() -> None:
    release_what_is_marked()


def settle(taking: Taking) -> bool:
    """Hand in for a student whose time is up; whether it was."""
    now = timezone.now()
    return taking.phase(now) == TIME_UP and taking.hand_in(now, by_time=True)
