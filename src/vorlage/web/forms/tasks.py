"""The work of making a form set: draw, prove, print, and freeze everything at once."""

from __future__ import annotations

import tempfile
from contextlib import AbstractContextManager
from dataclasses import asdict
from typing import BinaryIO, cast

from django.utils import timezone

from vorlage.core.documents import Heading, Order, Press, PressError, joined_meanwhile, pack, page_count
from vorlage.core.forms import MadeForm, MadeSet, Place, Plan, key_as_json, shared_answers, shown_key
from vorlage.core.notation import Habits
from vorlage.web.files.models import Stored
from vorlage.web.jobs.models import Job, JobFailed
from vorlage.web.jobs.tasks import does

from .models import MAKING, Form, FormItem, FormSet, FormSetPlace, ItemKey, Print

MAKING_THEM = "Drawing, proving keys, printing"
# Rows that are written at a time.
ROWS = 500


@does(MAKING)
def make_form_set(job: Job) -> None:
    """Make the forms of a set from its places, and keep everything in one transaction."""
    order = FormSet.objects.select_related("test__department").get(pk=job.arguments["form_set"])
    places = order.ordered
    heading = Heading(order.title, str(order.test.department), order.instructions)
    habits = Habits(**order.habits)
    plan = Plan(order.title, [placed(place, habits) for place in places], order.instructions, habits)
    # the processes of the press have no database of their own
    pictures = {source.digest for place in plan.places for source in place.question.document.pictures}
    uploaded = {digest: order.uploaded(digest) for digest in pictures}
    press = Press(Order(plan, heading, order.count, order.seed, uploaded))
    told = -1

    def progress(done: int) -> None:
        nonlocal told
        if done != told:
            told = done
            job.note(done, MAKING_THEM)

    progress(0)
    forms, single, keys = list[MadeForm](), list[bytes](), list[bytes]()
    try:
        for stretch in press.stretches(progress):
            forms += stretch.forms
            single += stretch.papers
            keys.append(stretch.key)
    except PressError as problem:
        raise JobFailed(problem.message) from problem
    made = press.set_of(tuple(forms))
    with file() as papers, file() as key, file() as archive:
        job.note(order.count, "Joining the papers for the class, and the key")
        named = [(f"Form {form.code}", paper) for form, paper in zip(forms, single)]
        joined_meanwhile(([("", part) for part in keys], key), (named, papers))
        job.note(order.count, "Packing the archive")
        pack(archive, made, f"test-{order.test_id}-set-{order.number}", single, papers, key)
        with job.finishing():
            keep_forms(order, places, made, single)
            files: dict[Print.Kind, BinaryIO] = {
                Print.Kind.PAPERS: papers,
                Print.Kind.KEY: key,
                Print.Kind.ARCHIVE: archive,
            }
            for kind, content in files.items():
                Print.objects.create(form_set=order, kind=kind, file=Stored.keep(content))
            FormSet.objects.filter(pk=order.pk).update(frozen=timezone.now())


def file() -> AbstractContextManager[BinaryIO]:
    """A file that is gone when it is closed."""
    return cast(AbstractContextManager[BinaryIO], tempfile.TemporaryFile())


def placed(place: FormSetPlace, habits: Habits) -> Place:
    return Place(place.revision.compiled(habits), str(place.revision.question.key), place.revision.number)


def keep_forms(order: FormSet, places: list[FormSetPlace], made: MadeSet, single: list[bytes]) -> None:
    """Keep every form with its paper, what was drawn for it, and apart from that its keys."""
    forms = Form.objects.bulk_create(
        Form(form_set=order, position=number, code=form.code, paper=Stored.keep(paper), pages=page_count(paper))
        for number, (form, paper) in enumerate(zip(made.forms, single))
    )
    shared = shared_answers(made)
    items, apart = [], []
    for number, (form, frozen) in enumerate(zip(forms, made.forms)):
        for position, item in enumerate(frozen.items):
            drawn = asdict(item.draw)
            items.append(FormItem(form=form, place=places[position], draw=drawn.pop("number"), **drawn))
            apart.append(
                [
                    {
                        **key_as_json(key),
                        "shown": shown_key(key.key, Habits(**order.habits)),
                        "shared": (number, position, part) in shared,
                    }
                    for part, key in enumerate(item.keys)
                ]
            )
    items = FormItem.objects.bulk_create(items, batch_size=ROWS)
    ItemKey.objects.bulk_create((ItemKey(item=item, parts=parts) for item, parts in zip(items, apart)), batch_size=ROWS)
    for position, place in enumerate(places):
        place.repeats = position in made.repeats
        place.shared = len({part for _, there, part in shared if there == position})
    FormSetPlace.objects.bulk_update(places, ["repeats", "shared"])
