"""The work of making a form set: draw, prove, print, and freeze everything at once."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Sequence
from contextlib import AbstractContextManager, closing
from itertools import islice
from typing import BinaryIO, cast

from django.utils import timezone

from vorlage.core.documents import Archive, Heading, Joined, Order, Press, PressError
from vorlage.core.forms import MadeForm, MadeSet, Place, Plan, key_as_json, shared_answers
from vorlage.core.notation import Habits
from vorlage.web.files.models import Stored
from vorlage.web.jobs.models import Job, JobFailed
from vorlage.web.jobs.tasks import does

from .models import MAKING, Form, FormItem, FormSet, FormSetPlace, ItemKey, Print

MAKING_THEM = "Drawing, proving keys, printing"
# Forms whose rows are written at a time.
FORMS = 50


@does(MAKING)
def make_form_set(job: Job) -> None:
    """Make the forms of a set from its places, and keep everything in one transaction."""
    order = FormSet.objects.select_related("test__department__school").get(pk=job.arguments["form_set"])
    places = order.ordered
    heading = Heading(order.title, order.test.department.heads_papers, order.instructions)
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
    forms, pages, shown = list[MadeForm](), list[int](), list[list[list[str]]]()
    name = f"test-{order.test_id}-set-{order.number}"
    with file() as papers, file() as key, file() as packed, closing(Archive(packed, name)) as archive:
        all_papers, all_keys = Joined(papers), Joined(key)
        try:
            for stretch in press.stretches(progress):
                for form, paper in zip(stretch.forms, stretch.papers):
                    pages.append(all_papers.add(f"Form {form.code}", paper))
                    archive.add_paper(form.code, paper)
                all_keys.add("", stretch.key)
                forms += stretch.forms
                shown += stretch.shown
        except PressError as problem:
            raise JobFailed(problem.message) from problem
        job.note(order.count, "Packing the archive")
        all_papers.finish()
        all_keys.finish()
        made = press.set_of(tuple(forms))
        archive.finish(made, papers, key)
        with job.finishing():
            keep_forms(order, places, made, zip(archive.each_paper(), pages, shown))
            files: dict[Print.Kind, BinaryIO] = {
                Print.Kind.PAPERS: papers,
                Print.Kind.KEY: key,
                Print.Kind.ARCHIVE: packed,
            }
            for kind, content in files.items():
                Print.objects.create(form_set=order, kind=kind, file=Stored.keep(content))
            FormSet.objects.filter(pk=order.pk).update(frozen=timezone.now())


def file() -> AbstractContextManager[BinaryIO]:
    """A file that is gone when it is closed."""
    return cast(AbstractContextManager[BinaryIO], tempfile.TemporaryFile())


def placed(place: FormSetPlace, habits: Habits) -> Place:
    key, number = str(place.revision.question.key), place.revision.number
    return Place(place.revision.compiled(habits), key, number, place.first_draw)


# The paper of a form, its pages, and its keys as markup, by place and part.
Pressing = tuple[bytes, int, list[list[str]]]


def keep_forms(order: FormSet, places: list[FormSetPlace], made: MadeSet, pressed: Iterable[Pressing]) -> None:
    """Keep every form with its paper, what was drawn for it, and apart from that its keys."""
    shared, left = shared_answers(made), iter(pressed)
    for start in range(0, len(made.forms), FORMS):
        keep_some(order, places, made.forms[start : start + FORMS], list(islice(left, FORMS)), start, shared)
    for position, place in enumerate(places):
        place.repeats = position in made.repeats
        place.shared = len({part for _, there, part in shared if there == position})
    FormSetPlace.objects.bulk_update(places, ["repeats", "shared"])


def keep_some(
    order: FormSet, places: list[FormSetPlace], made: Sequence[MadeForm], pressed: list[Pressing], start: int,
    shared: set[tuple[int, int, int]],
) -> None:  # fmt: skip
    """Keep some forms of a set, from number ``start`` (from 0) on."""
    papers = Stored.keep_all([paper for paper, _, _ in pressed])
    forms = Form.objects.bulk_create(
        Form(form_set=order, position=number, code=form.code, paper=paper, pages=pages)
        for number, (form, paper, (_, pages, _)) in enumerate(zip(made, papers, pressed), start)
    )
    items, apart = [], []
    for number, (form, frozen, (_, _, shown)) in enumerate(zip(forms, made, pressed), start):
        for position, item in enumerate(frozen.items):
            drawn = {"draw": item.draw.number, "values": item.draw.values, "orders": item.draw.orders}
            items.append(FormItem(form=form, place=places[position], texts=item.draw.texts, **drawn))
            apart.append(
                [
                    {**key_as_json(key), "shown": markup, "shared": (number, position, part) in shared}
                    for part, (key, markup) in enumerate(zip(item.keys, shown[position]))
                ]
            )
    items = FormItem.objects.bulk_create(items)
    ItemKey.objects.bulk_create(ItemKey(item=item, parts=parts) for item, parts in zip(items, apart))
