"""The work of making a form set: draw, prove, print, and freeze everything at once."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Sequence
from contextlib import AbstractContextManager, closing
from fractions import Fraction
from itertools import islice
from typing import BinaryIO, cast

from django.utils import timezone

from vorlage.core.crew import collecting_seldom
from vorlage.core.documents import Archive, Heading, Joined, Look, Order, Press
from vorlage.core.errors import CoreError
from vorlage.core.forms import Evenness, MadeForm, MadeSet, key_as_json, outlined, shared_answers
from vorlage.core.notation import Habits
from vorlage.core.plans import Boundaries, Place, Plan, Pool, Section
from vorlage.web.files.models import Stored
from vorlage.web.jobs.models import Job, JobFailed
from vorlage.web.jobs.tasks import does
from vorlage.web.plans.models import room_of

from .basis import Basis
from .models import (
    MAKING,
    SAID_OF_A_SECTION,
    Form,
    FormItem,
    FormSet,
    FormSetCandidate,
    FormSetPlace,
    ItemKey,
    Print,
)

CHOOSING, MAKING_THEM = "Choosing draws that are equal", "Drawing, proving keys, printing"
# Forms whose rows are written at a time.
FORMS = 50


@does(MAKING)
@collecting_seldom()
def make_form_set(job: Job) -> None:
    """Make the forms of a set from its places, and keep everything in one transaction."""
    order = FormSet.objects.select_related("test__department__school", "mark__school").get(pk=job.arguments["form_set"])
    places = order.read
    plan = plan_of(order, places)
    heading = heading_of(order)
    inserts = [(each, each.file.read()) for each in order.inserts.select_related("file")]
    # the processes of the press have no database of their own
    pictures = {source.digest for each in plan.questions for source in each.question.document.pictures}
    if heading.emblem is not None:
        pictures.add(heading.emblem.digest)
    uploaded = {digest: order.uploaded(digest) for digest in pictures}
    told = ""

    def progress(done: int, step: str = MAKING_THEM) -> None:
        nonlocal told
        if f"{done} {step}" != told:
            told = f"{done} {step}"
            job.note(done, step)

    progress(0, CHOOSING)
    try:
        chosen = outlined(plan, order.count, order.seed, Basis.of(order), lambda looked: progress(0, CHOOSING))
    except CoreError as problem:
        raise JobFailed(problem.message) from problem
    even = chosen.evenness
    press = Press(Order(plan, heading, chosen, order.seed, uploaded))
    # the press lets go of what is made already as it goes on
    del chosen
    progress(0)
    forms, pages, shown = list[MadeForm](), list[int](), list[list[list[str]]]()
    name = f"test-{order.test_id}-set-{order.number}"
    with (
        file() as papers, file() as key, file() as short, file() as packed,
        closing(Archive(packed, name)) as archive,
    ):  # fmt: skip
        behind = [insert for each, insert in inserts if each.behind]
        all_papers, all_keys = Joined(papers, order.count * (1 + len(behind))), Joined(key, press.length)
        try:
            for stretch in press.stretches(progress):
                for form, paper in zip(stretch.forms, stretch.papers):
                    pages.append(all_papers.add(f"Form {form.code}", paper))
                    for insert in behind:
                        all_papers.add("", insert)
                    archive.add_paper(form.code, paper)
                all_keys.add("", stretch.key)
                forms += stretch.forms
                shown += stretch.shown
        except CoreError as problem:
            raise JobFailed(problem.message) from problem
        job.note(order.count, "Packing the archive")
        answers = Joined(short, len(press.answers))
        for table in press.answers:
            answers.add("", table)
        answers.finish()
        all_papers.finish()
        all_keys.finish()
        made = press.set_of(tuple(forms))
        for each, insert in inserts:
            archive.add_insert(each.name, insert)
        archive.finish(made, {"all-papers": papers, "key": key, "answers": short})
        with job.finishing():
            keep_forms(order, places, made, even, zip(archive.each_paper(), pages, shown))
            files: dict[Print.Kind, BinaryIO] = {
                Print.Kind.PAPERS: papers,
                Print.Kind.KEY: key,
                Print.Kind.SHORT: short,
                Print.Kind.ARCHIVE: packed,
            }
            for kind, content in files.items():
                Print.objects.create(form_set=order, kind=kind, file=Stored.keep(content))
            kept = {name: getattr(even, name) for name in ("scale", "spread", "before", "limit", "place")}
            columns = list(zip(*even.forms))
            kept["lowest"], kept["highest"] = [min(each) for each in columns], [max(each) for each in columns]
            FormSet.objects.filter(pk=order.pk).update(frozen=timezone.now(), evenness=kept)


def heading_of(order: FormSet) -> Heading:
    heads = order.test.department.heads_papers
    boundaries = Boundaries.of(order.boundaries)
    maximum = None if order.maximum is None else Fraction(order.maximum)
    emblem = order.mark.emblem if order.mark else None
    return Heading(order.title, heads, order.instructions, order.pk, Look.of(order.look), boundaries, maximum, emblem)


def file() -> AbstractContextManager[BinaryIO]:
    """A file that is gone when it is closed."""
    return cast(AbstractContextManager[BinaryIO], tempfile.TemporaryFile())


def plan_of(order: FormSet, places: Sequence[FormSetPlace]) -> Plan:
    """What is to be made, from the places of a set."""
    habits, held, sections = Habits(**order.habits), list[Place | Pool](), list[Section]()
    for number, place in enumerate(places):
        section = place.section
        if not number or places[number - 1].section_id != place.section_id:
            said = {name: getattr(section, name) for name in SAID_OF_A_SECTION}
            sections.append(Section(number, **said))
        questions = [question_of(each, place, habits, order.in_order) for each in place.all_candidates]
        one = questions[0] if len(questions) == 1 and place.take == 1 and not place.name else None
        held.append(one or Pool(questions, place.take, place.marks, place.bonus, place.name, room_of(place)))
    return Plan(order.title, held, order.instructions, habits, sections, order.across)


def question_of(candidate: FormSetCandidate, place: FormSetPlace, habits: Habits, in_order: bool) -> Place:
    revision = candidate.revision
    question, key = revision.compiled(habits, in_order), str(revision.question.key)
    return Place(question, key, revision.number, candidate.first_draw, place.marks, place.bonus, room_of(place))


# The paper of a form, its pages, and its keys as markup, by place and part.
Pressing = tuple[bytes, int, list[list[str]]]


def keep_forms(
    order: FormSet, places: list[FormSetPlace], made: MadeSet, even: Evenness, pressed: Iterable[Pressing]
) -> None:
    """Keep every form with its paper, what was drawn for it, and apart from that its keys."""
    shared, left = shared_answers(made.forms), iter(pressed)
    for start in range(0, len(made.forms), FORMS):
        some = made.forms[start : start + FORMS]
        work = even.forms[start : start + FORMS]
        keep_some(order, places, list(zip(some, work)), list(islice(left, FORMS)), start, shared)
    answered = {(made.forms[form].items[position].place, part) for form, position, part in shared}
    for position, place in enumerate(places):
        place.repeats = position in made.outlines.repeats
        place.shared = len({part for where, part in answered if where == position})
    FormSetPlace.objects.bulk_update(places, ["repeats", "shared"])


def keep_some(
    order: FormSet, places: list[FormSetPlace], made: Sequence[tuple[MadeForm, Sequence[float]]],
    pressed: list[Pressing], start: int, shared: set[tuple[int, int, int]],
) -> None:  # fmt: skip
    """Keep some forms of a set with their number work, from number ``start`` (from 0) on."""
    papers = Stored.keep_all([paper for paper, _, _ in pressed])
    forms = Form.objects.bulk_create(
        Form(form_set=order, position=number, code=form.code, paper=paper, pages=pages, work=list(work))
        for number, ((form, work), paper, (_, pages, _)) in enumerate(zip(made, papers, pressed), start)
    )
    items, apart = [], []
    for number, (form, (frozen, _), (_, _, shown)) in enumerate(zip(forms, made, pressed), start):
        for position, item in enumerate(frozen.items):
            place = places[item.place]
            drawn = {"draw": item.draw.number, "values": item.draw.values, "orders": item.draw.orders}
            where = {"place": place, "candidate": place.all_candidates[item.candidate], "slot": item.slot}
            items.append(FormItem(form=form, position=position, texts=item.draw.texts, **where, **drawn))
            apart.append(
                [
                    {**key_as_json(key), "shown": markup, "shared": (number, position, part) in shared}
                    for part, (key, markup) in enumerate(zip(item.keys, shown[position]))
                ]
            )
    items = FormItem.objects.bulk_create(items)
    ItemKey.objects.bulk_create(ItemKey(item=item, parts=parts) for item, parts in zip(items, apart))
