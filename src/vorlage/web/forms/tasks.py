"""The work of making a form set: draw, prove, print, and freeze everything at once."""

from __future__ import annotations

import tempfile
from dataclasses import asdict
from typing import IO

from django.utils import timezone

from vorlage.core.documents import Heading, Printing, pack, page_count
from vorlage.core.draws import DrawError
from vorlage.core.forms import KeyFailure, MadeSet, Place, Plan, key_as_json, make_forms, shared_answers, shown_key
from vorlage.core.notation import Habits
from vorlage.web.files.models import Stored
from vorlage.web.jobs.models import Job, JobFailed
from vorlage.web.jobs.tasks import does

from .models import MAKING, Form, FormItem, FormSet, FormSetPlace, ItemKey, Print

DRAWING, PRINTING = "Drawing and proving keys", "Printing the papers"
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
    every = max(1, order.count // 50)

    def progress(made: int, step: str = DRAWING) -> None:
        if made % every == 0:
            job.note(made, step)

    progress(0)
    try:
        made = make_forms(plan, order.count, order.seed, progress)
        printing = Printing(plan, heading, order.uploaded)
        written, single = [], []
        for number, form in enumerate(made.forms):
            progress(number, PRINTING)
            written.append(printing.paper(form))
            single.append(printing.typeset(written[-1:]))
    except (KeyFailure, DrawError) as problem:
        raise JobFailed(str(problem)) from problem
    job.note(order.count, "Printing the papers for the class")
    papers = printing.typeset(written)
    job.note(order.count, "Printing the key")
    key = printing.key(made)
    job.note(order.count, "Packing the archive")
    with tempfile.TemporaryFile() as archive:
        pack(archive, made, f"test-{order.test_id}-set-{order.number}", single, papers, key)
        with job.finishing():
            keep_forms(order, places, made, single)
            files: dict[Print.Kind, bytes | IO[bytes]] = {
                Print.Kind.PAPERS: papers,
                Print.Kind.KEY: key,
                Print.Kind.ARCHIVE: archive,
            }
            for kind, content in files.items():
                Print.objects.create(form_set=order, kind=kind, file=Stored.keep(content))
            FormSet.objects.filter(pk=order.pk).update(frozen=timezone.now())


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
