"""The Sandhaven sample data, loaded through the same checks as anything typed."""

from __future__ import annotations

import json
import uuid
from dataclasses import dataclass

from vorlage.library import DEMO, samples

SCHOOL = "Sandhaven Harbour School"
PASSWORD = "quay-and-tide-1887"


@dataclass(frozen=True)
class Person:
    email: str
    name: str
    # department and role
    roles: tuple[tuple[str, str], ...]
    about: str


PEOPLE = [
    Person(
        "ines.varga@sandhaven.example", "Ines Varga", (("Physics", "lead"), ("Mathematics", "author")),
        "head of physics, writes in mathematics too",
    ),
    Person("tomas.brandt@sandhaven.example", "Tomas Brandt", (("Mathematics", "lead"),), "head of mathematics"),
    Person("noor.elmas@sandhaven.example", "Noor Elmas", (("Chemistry", "author"),), "writes in chemistry"),
    Person("petra.lindqvist@sandhaven.example", "Petra Lindqvist", (("Physics", "reader"),), "reads in physics"),
]  # fmt: skip
DEPARTMENTS = {"mathematics": "Mathematics", "physics": "Physics", "chemistry": "Chemistry"}


def load() -> None:
    """Fill an empty database with people, questions, tests and a form set; do nothing when it has any."""
    from django.db import transaction

    from vorlage.web.people.models import User

    if User.objects.exists():
        return
    with transaction.atomic():
        fill()


def fill() -> None:
    from vorlage.web.bank.models import Question
    from vorlage.web.forms.models import FormSet
    from vorlage.web.jobs.tasks import perform
    from vorlage.web.people.models import Department, Membership, User
    from vorlage.web.plans.models import Test

    departments = {name: Department.objects.create(name=name, school=SCHOOL) for name in DEPARTMENTS.values()}
    people = {}
    for person in PEOPLE:
        user = User.objects.create_user(person.email, PASSWORD, name=person.name)
        people[person.email] = user
        for department, role in person.roles:
            Membership.objects.create(user=user, department=departments[department], role=role)
    writers = {
        name: Membership.objects.filter(department=held, role__in=["lead", "author"]).order_by("pk")[0].user
        for name, held in departments.items()
    }
    questions = {}
    for name, (document, filing) in samples().items():
        department = DEPARTMENTS[filing.subject]
        # the same identity on every machine, so that the demo's numbers are the same everywhere
        key = uuid.uuid5(uuid.NAMESPACE_URL, f"sandhaven/{name}")
        revision = Question.save_revision(departments[department], writers[department], document, filing, key=key)
        questions[name] = revision.question
    for planned in json.loads((DEMO / "tests.json").read_text("utf-8")):
        held = departments[planned["department"]]
        test = Test.objects.create(
            department=held, title=planned["title"], instructions=planned["instructions"], author=writers[held.name]
        )
        for name in planned["questions"]:
            test.add(questions[name])
        if planned.get("forms"):
            form_set = FormSet.order(test, planned["forms"], test.author)
            FormSet.objects.filter(pk=form_set.pk).update(seed=f"sandhaven/{test.title}")
            work = form_set.work
            perform(work.pk)
            work.refresh_from_db()
            if work.state != work.State.DONE:
                raise ValueError(work.reason)
