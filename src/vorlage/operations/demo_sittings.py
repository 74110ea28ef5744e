"""The sittings of the sample data: one that runs, one that is closed and waits for marks, one that is released and can
be practised, one that is practice and nothing else, a survey, homework that opens a second step, one on paper, and one
that is full of what has to be marked."""

from __future__ import annotations

import json
import math
import random
from dataclasses import replace
from datetime import timedelta
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from vorlage.library import DEMO

from .simulated import answer_of

if TYPE_CHECKING:
    from vorlage.core.sittings import Rules
    from vorlage.web.jobs.models import Job
    from vorlage.web.plans.models import Test
    from vorlage.web.sittings.models import Sitting, Taking

MINUTE, HOUR, DAY = timedelta(minutes=1), timedelta(hours=1), timedelta(days=1)


def fill_sittings() -> None:
    """Give tests to a class, with students who have answered."""
    from vorlage.web.plans.models import Test

    running = Test.objects.get(title="Harbour science, year 10")
    give(running, "10 A", "running")
    released = Test.objects.get(title="Moments, energy and waves")
    give(released, "10 A", "released")
    waiting = Test.objects.get(title="Energy and rays, in words and pictures")
    give(waiting, "10 A", "waiting")
    give(released, "10 A", "practice")
    give_survey("10 A", running)
    give_homework(released, waiting, "10 A")
    give_on_paper(waiting, "10 A")
    give_to_mark("10 A", running)


def give(test: Test, class_name: str, state: str) -> None:
    """A test given to a class, and how far it is."""
    from django.utils import timezone

    from vorlage.core.sittings import WAYS, Rules
    from vorlage.web.classes.models import Class
    from vorlage.web.sittings.models import Sitting

    held = Class.objects.get(name=class_name, department=test.department)
    now = timezone.localtime().replace(second=0, microsecond=0)
    if state == "running":
        # for as long as anybody may want to look at it
        rules = Rules(
            now - 25 * MINUTE, closes=now + 30 * DAY, come_in="named", hints=True, working=True, questions=True
        )
    elif state == "practice":
        rules = Rules(now - 3 * DAY, closes=now + 30 * DAY, **WAYS["practice"][1])
    else:
        days = 6 if state == "released" else 1
        morning = now.replace(hour=9, minute=40) - days * DAY
        practice = "closed" if state == "released" else "no"
        rules = Rules(morning, closes=morning + 2 * HOUR, limit=45 * MINUTE, practice=practice)
    rules = replace(rules, before=test.before, above=test.instructions)
    form_set = test.form_sets.exclude(frozen=None).filter(source=None).order_by("number").first()
    sitting = Sitting.give(test, [held], rules, test.author, form_set)
    if form_set is None:
        perform(sitting.form_set.work)
    if sitting.job is not None:
        perform(sitting.job)
    sitting.refresh_from_db()
    if state == "practice":
        sitting.title = "Forces and waves for the next test"
        sitting.save(update_fields=["title"])
    else:
        sit_all(sitting, state)


def given(test: Test, class_name: str, rules: Rules, title: str) -> Sitting:
    """A test given to a class under a title of its own, with everything that it takes got ready."""
    from vorlage.web.classes.models import Class
    from vorlage.web.sittings.models import Sitting

    held = Class.objects.get(name=class_name, department=test.department)
    sitting = Sitting.give(test, [held], rules, test.author)
    for job in (sitting.form_set.work, sitting.job):
        if job is not None:
            perform(job)
    sitting.refresh_from_db()
    sitting.title = title
    sitting.save(update_fields=["title"])
    return sitting


def give_homework(test: Test, after: Test, class_name: str) -> None:
    """Homework with retries and two attempts, which opens a second step for those who pass it."""
    from django.utils import timezone

    from vorlage.core.sittings import WAYS, Rules
    from vorlage.web.sittings.attempts import following_form
    from vorlage.web.sittings.marking import mark
    from vorlage.web.sittings.models import Taking
    from vorlage.web.sittings.opening import follows

    now = timezone.localtime().replace(second=0, microsecond=0)
    changes = dict(WAYS["homework"][1])
    seen = dict(changes.pop("seen")) | {"marks": "handed_in", "total": "handed_in"}
    seen |= {"key": "no_attempt", "solution": "no_attempt"}
    rules = Rules(
        now - 2 * DAY, closes=now + 30 * DAY, attempts=2, pass_share=Fraction(3, 5), try_cost=Fraction(1, 10),
        seen=seen, **changes | {"take_back": False},
    )  # fmt: skip
    first = given(test, class_name, rules, "Homework: moments and waves")
    second = given(
        after, class_name, Rules(now - DAY, closes=now + 30 * DAY, practice="closed"), "Homework: second step"
    )
    follows(first, [second])
    chance = random.Random("sandhaven/homework")
    takings = list(first.takings.select_related("sitting", "student__allowance").order_by("student__search_text"))
    for k, taking in enumerate(takings[1:-4]):
        begun = first.held.opens + timedelta(minutes=7 * k)
        taking = work_at_home(Taking.begin(first, taking, begun), chance, chance.uniform(0.15, 0.7))
        taking.hand_in(begun + 40 * MINUTE)
        mark(taking)
        if chance.random() < 0.4:
            again = taking.follow(begun + DAY, following_form)
            work_at_home(again, chance, chance.uniform(0.6, 0.95))
            if chance.random() < 0.7:
                again.hand_in(begun + DAY + 30 * MINUTE)
                mark(again)
    mark_all()


def work_at_home(taking: Taking, chance: random.Random, skill: float) -> Taking:
    """The answers of one student, each question checked, and most of what was wrong tried once more."""
    from vorlage.web.sittings.checking import tried

    assert taking.begun is not None
    answer_all(taking, chance, skill, 1.0)
    for position in range(len(taking.form.for_students.all()) if taking.form is not None else 0):
        tried(taking, position, taking.begun + 20 * MINUTE)
    answer_all(taking, chance, 0.45, 1.0, number=500)
    for position in range(len(taking.form.for_students.all()) if taking.form is not None else 0):
        if chance.random() < 0.6:
            tried(taking, position, taking.begun + 30 * MINUTE)
    return taking


def give_on_paper(test: Test, class_name: str) -> None:
    """A test that is sat on paper: who has which form, and who was not there."""
    from django.utils import timezone

    from vorlage.core.sittings import Rules

    now = timezone.localtime().replace(second=0, microsecond=0)
    morning = now.replace(hour=8, minute=0) - 2 * DAY
    rules = Rules(morning, closes=morning + HOUR, come_in="paper")
    sitting = given(test, class_name, rules, "Energy and rays, on paper")
    ill = sitting.takings.order_by("student__search_text").values_list("pk", flat=True)
    sitting.takings.filter(pk__in=[ill[4], ill[11]]).update(absent=True)


def give_to_mark(class_name: str, like: Test) -> None:
    """A test that is closed and full of what marking is for: long answers, some that cannot be read, one mistake that
    many made in as many draws, numbers rounded in more than one way, and a row of a table that was typed wrongly, so
    that the key is wrong in one draw."""
    from django.utils import timezone

    from vorlage.core.questions import Filing, load_document
    from vorlage.core.sittings import Rules
    from vorlage.web.bank.models import Question
    from vorlage.web.plans.models import Test
    from vorlage.web.sittings.models import Taking

    told = json.loads((DEMO / "marking.json").read_text("utf-8"))
    test = Test.objects.create(department=like.department, title=told["title"], author=like.author)
    filing = Filing(topics=(("Physics", "Energy and power"),), level=2, demand=2)
    for raw in told["questions"]:
        document = load_document(raw)
        test.add(Question.save_revision(like.department, like.author, document, filing).question)
    morning = timezone.localtime().replace(hour=10, minute=30, second=0, microsecond=0) - DAY
    sitting = given(test, class_name, Rules(morning, closes=morning + HOUR), test.title)
    chance = random.Random("sandhaven/marking")
    takings = sitting.takings.select_related("sitting", "student__allowance").order_by("student__search_text")
    for k, each in enumerate(takings):
        begun = morning + timedelta(seconds=chance.randint(20, 300))
        taking = Taking.begin(sitting, each, begun)
        answer_to_mark(taking, k, chance, told)
        taking.hand_in(begun + timedelta(minutes=chance.randint(20, 45)))
    mark_all()


def answer_to_mark(taking: Taking, k: int, chance: random.Random, told: dict[str, Any]) -> None:
    """The answers of the student with this number: most of the class leave out the field strength, and all read the
    data sheet as it is."""
    from vorlage.core.algebra import approximate
    from vorlage.web.sittings.models import Change
    from vorlage.web.sittings.place import keep
    from vorlage.web.sittings.questions import questions_had

    asked = {had.drawn.question.document.title: had.drawn for had in questions_had(taking)}
    winch, rope = asked["Sacks of salt"], asked["A rope over the edge"]
    m, h, t, energy = (approximate(winch.values[name]) for name in ("m", "h", "t", "E"))
    force, angle = (approximate(rope.values[name]) for name in ("F", "alpha"))
    slips = [m * h / 1000] * 13 + [energy / 1000] * 9 + [energy] * 3
    power = energy / t
    written = [f"{power:.1f} W", f"{power:.2f} W", f"{power:.0f} W", f"{round(energy, -2) / t:.1f} W", "see the sheet"]
    turned = {"cos": math.cos, "sin": math.sin}["cos" if k % 3 else "sin"](math.radians(angle))
    # to four figures, and as students write it
    first, explanations = float(f"{slips[k % len(slips)]:.4g}"), told["explanations"]
    row = round(approximate(asked["Full to the hatch"].values["cargo"])) - 1
    answers = {
        "Sacks of salt": [f"{first:g} kJ", written[k % len(written)], explanations[k % len(explanations)]],
        "Full to the hatch": [f"{40 * told['data_sheet'][row]:g} t"],
        "A rope over the edge": [f"{force * turned:.1f} N" if k % 8 else "2*("],
    }
    at, number, tab = taking.begun, 0, "sandhaven"
    assert at is not None
    taking.tab = tab
    taking.save(update_fields=["tab"])
    for had in questions_had(taking):
        document, changes = had.drawn.question.document, []
        for part, answer in zip(document.parts, answers[document.title], strict=True):
            number += 1
            changes.append(Change(number, had.position, part.id, answer))
        at += timedelta(seconds=chance.randint(60, 300))
        keep(taking.pk, [(each, tab) for each in changes], tab, at)


# What students of Sandhaven would like.
WISHES = (
    "More time for the experiments.", "More time for the experiments.", "Worked solutions to read at home.",
    "Smaller groups at the ripple tank.", "Worked solutions to read at home.", "A list of the formulas.", "",
)  # fmt: skip


def give_survey(class_name: str, like: Test) -> None:
    """A survey without marks and without names, which most of a class have answered."""
    from django.utils import timezone

    from vorlage.core.questions import Filing, load_document
    from vorlage.core.sittings import WAYS, Rules
    from vorlage.web.bank.models import Question
    from vorlage.web.plans.models import Test
    from vorlage.web.sittings.models import Change, StudentItem, Taking
    from vorlage.web.sittings.place import keep

    document = load_document(json.loads((DEMO / "survey.json").read_text("utf-8")))
    filing = Filing(topics=(("Physics", "About the lessons"),))
    test = Test.objects.create(department=like.department, title=document.title, author=like.author)
    test.add(Question.save_revision(like.department, like.author, document, filing).question)
    now = timezone.localtime().replace(second=0, microsecond=0)
    rules = Rules(now - DAY, closes=now + 30 * DAY, **WAYS["survey"][1])
    sitting = given(test, class_name, rules, test.title)
    chance, form = random.Random("sandhaven/survey"), sitting.form_set.forms.get(position=0)
    parts = StudentItem.objects.get(form=form).shown["parts"]
    for k in range(18):
        at = rules.opens + timedelta(minutes=20 * k)
        taking = Taking.objects.create(sitting=sitting, form=form, begun=at, tab="sandhaven")
        said = [str(min(5, max(1, round(chance.gauss(middle, 1))))) for middle in (3.6, 3.1)]
        said.append(chance.choice(WISHES))
        changes = [Change(n, 0, part["id"], each) for n, (part, each) in enumerate(zip(parts, said))]
        keep(taking.pk, [(each, "sandhaven") for each in changes], "sandhaven", at)
        taking.hand_in(at + MINUTE)
    mark_all()


def mark_all() -> None:
    """Mark what was handed in."""
    from vorlage.web.jobs.models import Job
    from vorlage.web.sittings.models import MARKING

    for job in Job.objects.filter(kind=MARKING, state=Job.State.WAITING):
        perform(job)


def perform(job: Job) -> None:
    from vorlage.web.jobs.tasks import perform

    perform(job.pk)
    job.refresh_from_db()
    if job.state != job.State.DONE:
        raise ValueError(job.reason)


def sit_all(sitting: Sitting, state: str) -> None:
    """Everybody begins, but for the first of a class that runs, and for one who is ill of one that is closed."""
    from vorlage.web.sittings.models import Taking

    chance = random.Random(f"sandhaven/{sitting.title}")
    takings = list(sitting.takings.select_related("sitting", "student__allowance").order_by("student__search_text"))
    missing = takings[0] if state == "running" else takings[7 % len(takings)]
    for taking in takings:
        if taking.pk == missing.pk:
            continue
        begun = sitting.held.opens + timedelta(seconds=chance.randint(20, 400))
        taking = Taking.begin(sitting, taking, begun)
        skill = chance.uniform(0.35, 0.92)
        share = chance.uniform(0.3, 0.75) if state == "running" else 1.0
        answer_all(taking, chance, skill, share)
        if state != "running":
            took = timedelta(minutes=chance.randint(22, 44))
            taking.hand_in(begun + took)
    mark_all()
    if state == "released":
        sitting.released = sitting.held.closes + DAY if sitting.held.closes else None
        sitting.save(update_fields=["released"])
        sitting.note("released", sitting.author)


def answer_all(taking: Taking, chance: random.Random, skill: float, share: float, number: int = 0) -> None:
    """The answers of one student to a share of the questions, a minute or two apart, numbered from ``number`` on."""
    from vorlage.web.forms.models import ItemKey
    from vorlage.web.sittings.models import Change, StudentItem
    from vorlage.web.sittings.place import keep

    items = list(StudentItem.objects.filter(form=taking.form_id).order_by("position"))
    keys = dict(ItemKey.objects.filter(item__in=[each.pk for each in items]).values_list("item", "parts"))
    at, tab = taking.begun, "sandhaven"
    assert at is not None
    taking.tab = tab
    taking.save(update_fields=["tab"])
    for item in items[: max(1, round(share * len(items)))]:
        changes = []
        for part, key in zip(item.shown["parts"], keys[item.pk]):
            if part["shape"] == "nothing":
                continue
            number += 1
            changes.append(Change(number, item.position, part["id"], answer_of(chance, part, key["key"], skill)))
        at += timedelta(seconds=chance.randint(40, 130))
        keep(taking.pk, [(each, tab) for each in changes], tab, at)
