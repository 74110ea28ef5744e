"""The Sandhaven sample data, loaded through the same checks as anything typed."""

from __future__ import annotations

import json
import uuid
from dataclasses import dataclass
from decimal import Decimal
from typing import TYPE_CHECKING, Any

from vorlage.library import DEMO, bank, samples

from .demo_sittings import fill_sittings

if TYPE_CHECKING:
    from vorlage.web.bank.models import Question
    from vorlage.web.forms.models import FormSet
    from vorlage.web.jobs.models import Job
    from vorlage.web.people.models import Department, School, User
    from vorlage.web.plans.models import Test

SCHOOL = "Sandhaven Harbour School"
PASSWORD = "quay-and-tide-1887"
# whoever wants to see what a student sees
STUDENT = "ada.abara"


@dataclass(frozen=True)
class Person:
    email: str
    name: str
    # department and role
    roles: tuple[tuple[str, str], ...]
    about: str
    administers: bool = False


@dataclass(frozen=True)
class DemoClass:
    department: str
    name: str
    teacher: str
    students: range


PEOPLE = [
    Person(
        "ines.varga@sandhaven.example", "Ines Varga", (("Physics", "lead"), ("Mathematics", "author")),
        "head of physics, writes in mathematics too",
    ),
    Person("tomas.brandt@sandhaven.example", "Tomas Brandt", (("Mathematics", "lead"),), "head of mathematics"),
    Person("noor.elmas@sandhaven.example", "Noor Elmas", (("Chemistry", "author"),), "writes in chemistry"),
    Person("marit.osei@sandhaven.example", "Marit Osei", (), "administers the school", administers=True),
    Person("petra.lindqvist@sandhaven.example", "Petra Lindqvist", (("Physics", "reader"),), "reads in physics"),
]  # fmt: skip
# the department that keeps the questions of each subject
DEPARTMENTS = {
    "Mathematics": "Mathematics",
    "Physics": "Physics",
    "Chemistry": "Chemistry",
    "Biology": "Chemistry",
    "Earth science": "Physics",
}


BOUNDARIES = ["distinction", "merit", "pass"]
# Some students are in two of them.
CLASSES = [
    DemoClass("Physics", "10 A", "ines.varga@sandhaven.example", range(25)),
    DemoClass("Mathematics", "10 M2", "tomas.brandt@sandhaven.example", range(18, 44)),
    DemoClass("Mathematics", "9 C", "tomas.brandt@sandhaven.example", range(44, 68)),
]
ALLOWANCES: dict[int, dict[str, int | bool]] = {
    3: {"more_time_percent": 25},
    11: {"more_time_minutes": 10, "large_print": True, "wider_lines": True},
    20: {"breaks": True, "one_at_a_time": True},
    51: {"more_time_percent": 50, "spoken_maths": True},
}
FAMILIES = (
    "Abara Achterberg Almeida Bielski Brandvold Castellane Chukwu Dahlgren Devereaux Dragomir Eriksen Falkowska "
    "Ferreira Gallowey Grünwald Haddad Halloran Ibarra Iwasaki Jansma Kaplanova Karimi Kowalczuk Lavigne Lindgren "
    "Łaskowska Maduro Marchetti Mbeki Moreau Nakagawa Nyström Ó_Faoláin Okonjo Oyelaran Pereira Petrovic Quist "
    "Rahimi Rasmussen Reyes Rosendahl Sandoval Şahin Schreiber Silvestri Sørensen Szabados Takeda Tamm Thorsen "
    "Tran Udoka Ünal Van_Aalst Varga-Lund Vasquez Vestergaard Vu Wachter Wierzbicki Wójtowicz Xiang Yamada Yıldız "
    "Zamora Zeller Zheng"
).split()
GIVENS = (
    "Ada Amara Anouk Aroha Bela Björn Carlos Chiara Daan Dilek Efua Elif Emil Esme Farid Freya Gabor Greta Hana "
    "Idris Ilse Imani Ivo Jada Joaquín Jonas Kaito Kalina Kofi Lale Leif Linnea Lucía Mads Malik Marisol Mateo "
    "Maya Mira Nadia Nils Noa Nuala Obi Olivia Omar Paolo Petra Quentin Rafaela Rasmus Renzo Roos Sana Selma "
    "Siobhán Soren Tala Tamsin Thea Tuan Umar Vera Viggo Wanda Xenia Yara Zofia"
).split()


def load() -> None:
    """Fill an empty database with people, questions, tests and a form set; do nothing when it has any."""
    from django.db import transaction

    from vorlage.web.people.models import User

    if User.objects.exists():
        return
    with transaction.atomic():
        fill()


def fill() -> None:
    from vorlage.web.bank.models import Judged, Question
    from vorlage.web.forms.basis import retest
    from vorlage.web.forms.models import FormSet
    from vorlage.web.people.models import Department, Membership, School, User

    school = School.objects.create(name=SCHOOL)
    departments = {
        name: Department.objects.create(name=name, school=school, boundary_names=BOUNDARIES)
        for name in dict.fromkeys(DEPARTMENTS.values())
    }
    give_mark(school)
    people = {}
    for person in PEOPLE:
        given = {"name": person.name, "school": school, "administers": person.administers}
        user = User.objects.create_user(person.email, PASSWORD, **given)
        people[person.email] = user
        for department, role in person.roles:
            Membership.objects.create(user=user, department=departments[department], role=role)
    fill_classes(departments, people)
    fill_rooms(school)
    writers = {
        name: Membership.objects.filter(department=held, role__in=["lead", "author"]).order_by("pk")[0].user
        for name, held in departments.items()
    }
    for name, held in departments.items():
        judged = [
            (Judged.of(document, identity(short), 1), filing)
            for short, (document, filing) in bank().items()
            if DEPARTMENTS[filing.topic[0]] == name
        ]
        Question.keep_new(held, writers[name], judged)
    questions = {}
    for name, (document, filing) in samples().items():
        department = DEPARTMENTS[filing.topic[0]]
        revision = Question.save_revision(
            departments[department], writers[department], document, filing, key=identity(name)
        )
        questions[name] = revision.question
    fill_bank(questions)
    for planned in json.loads((DEMO / "tests.json").read_text("utf-8")):
        held = departments[planned["department"]]
        test = plan_of(planned, held, writers[held.name])
        if planned.get("forms"):
            form_set = FormSet.order(test, planned["forms"], test.author)
            FormSet.objects.filter(pk=form_set.pk).update(seed=f"sandhaven/{test.title}")
            done(form_set.work)
        if "seats" in planned:
            seat(form_set, **planned["seats"])
        if planned.get("retest"):
            again = retest(form_set, form_set.forms.get(position=0), test.author, planned["retest"])
            FormSet.objects.filter(pk=again.pk).update(seed=f"sandhaven/{test.title}/retest")
            done(again.work)
    fill_sittings()


def seat(form_set: FormSet, room: str) -> None:
    """The class of a test in a room, everybody with a form."""
    from vorlage.web.seating.models import Room, SeatPlan

    held = form_set.test.school_class
    if held is None:
        raise ValueError(f"{form_set.test} has no class.")
    students = [each.student for each in held.enrolments.select_related("student").order_by("student__search_text")]
    plan = SeatPlan.order(form_set, held, Room.objects.get(name=room), students, False, form_set.author)
    if plan.job is not None:
        done(plan.job)


def fill_rooms(school: School) -> None:
    """Three rooms: with an aisle, with pillars, and a hall."""
    from vorlage.web.seating.models import Room

    aisle = [[row, 3] for row in range(6)]
    Room.objects.create(school=school, name="Room 2.14", rows=6, columns=7, gaps=aisle)
    Room.objects.create(school=school, name="Laboratory 1", rows=4, columns=8, gaps=[[1, 2], [1, 5], [3, 2], [3, 5]])
    Room.objects.create(school=school, name="Assembly hall", rows=10, columns=12, gaps=[[row, 6] for row in range(10)])


def give_mark(school: School) -> None:
    """The lighthouse that stands at the head of papers."""
    from vorlage.web.desk.uploads import taken
    from vorlage.web.files.models import Stored
    from vorlage.web.plans.models import SchoolMark

    with (DEMO / "mark.png").open("rb") as file:
        kept = taken(file, 0)
    values = {"media_type": kept.media_type, "width": kept.width, "height": kept.height}
    SchoolMark.objects.create(school=school, file=Stored.keep(kept.content), **values)


def done(work: Job) -> None:
    """Do a piece of work here and now."""
    from vorlage.web.jobs.tasks import perform

    perform(work.pk)
    work.refresh_from_db()
    if work.state != work.State.DONE:
        raise ValueError(work.reason)


def plan_of(planned: dict[str, Any], held: Department, author: User) -> Test:
    """A test as it is planned: sections with questions by their short names, pools, rules, and what is aimed at."""
    from vorlage.core.documents import page_count, typeset_insert
    from vorlage.web.bank.models import Question, Tree
    from vorlage.web.files.models import Stored
    from vorlage.web.plans.coverage import set_target
    from vorlage.web.plans.models import Test

    def called(name: str) -> Question:
        return Question.objects.select_related("current").get(key=identity(name))

    settings = {name: planned.get(name, "") for name in ("title", "instructions", "before")}
    test = Test.objects.create(department=held, author=author, maximum=planned.get("maximum"), **settings)
    test.school_class = held.classes.filter(name=planned.get("class", "")).first()
    test.in_order, test.across = planned.get("in_order", False), planned.get("across", False)
    test.look, test.boundaries = planned.get("look", {}), planned.get("boundaries", {})
    test.save()
    for number, (name, text) in enumerate(planned.get("inserts", {}).items()):
        pdf = typeset_insert(name, text, held.heads_papers, held.habits)
        test.inserts.create(position=number, name=name, text=text, file=Stored.keep(pdf), pages=page_count(pdf))
    for number, said in enumerate(planned["sections"]):
        words = {name: each for name, each in said.items() if name != "places"}
        section = test.sections.create(position=number, **words)
        for place in said["places"]:
            if isinstance(place, str):
                test.add(called(place), section=section)
                continue
            if "bonus" in place:
                made = test.add(called(place["bonus"]), section=section)
            else:
                questions = [called(name) for name in place.get("pool", ())]
                made = test.add_pool(section, questions, place["take"], place["name"])
            given = {"marks": place.get("marks"), "rule": place.get("rule", ""), "bonus": "bonus" in place}
            test.places.filter(pk=made.pk).update(**given)
    test.set_order(test.tokens())
    tree = Tree(held)
    for path, level, marks in planned.get("aims", ()):
        set_target(test, tree.paths[tuple(path.split(" > "))], level, Decimal(marks))
    return test


def identity(name: str) -> uuid.UUID:
    """The same on every machine, so that the demo's numbers are the same everywhere."""
    return uuid.uuid5(uuid.NAMESPACE_URL, f"sandhaven/{name}")


def fill_bank(questions: dict[str, Question]) -> None:
    """What people have made of their questions: one is shared with the whole school, some are a pool, a search has a
    name."""
    from vorlage.web.bank.models import KeptSearch, Pool, Question
    from vorlage.web.bank.models.finding import note_found

    shared = questions["sea-chest"]
    Question.objects.filter(pk=shared.pk).update(whole_school=True)
    note_found([shared.pk])
    owner, department = shared.owner, shared.department
    pool = Pool.objects.create(
        department=department, owner=owner, name="Forces on the quay", note="for the second half of the year"
    )
    for place, name in enumerate(("lock-gate", "sea-chest", "harbour-crane")):
        pool.pooled.create(question=questions[name], position=place)
    given = {"department": department, "user": owner, "shared": True}
    KeptSearch.objects.create(name="Level 2 and not used yet", asked="level=2&used=no", **given)


def fill_classes(departments: dict[str, Department], people: dict[str, User]) -> None:
    """Classes with their students; those of the first class have slips, and some have allowances."""
    from django.contrib.auth.hashers import make_password
    from django.utils import timezone

    from vorlage.web.classes.models import Allowance, Class, Student, school_year
    from vorlage.web.classes.slips import make_slips
    from vorlage.web.people.models import User

    year = school_year(timezone.localdate())
    school = next(iter(departments.values())).school
    students = []
    for k in range(max(each.students.stop for each in CLASSES)):
        family = FAMILIES[k].replace("_", " ")
        # another order than that of the family names
        given = GIVENS[k * 29 % len(GIVENS)]
        email = f"s{2401 + k}@sandhaven.example" if k % 3 == 0 else ""
        student = Student(school=school, family=family, given=given, number=str(2401 + k), email=email)
        student.save()
        students.append(student)
    for each in CLASSES:
        held = Class.objects.create(department=departments[each.department], name=each.name, year=year)
        held.teachers.add(people[each.teacher])
        held.enrol(students[k].pk for k in each.students)
    make_slips(students[:25])
    User.objects.filter(student__in=students[:25]).update(password=make_password(PASSWORD))
    for k, allowed in ALLOWANCES.items():
        Allowance.objects.create(student=students[k], **allowed)
    held.take_out([students[CLASSES[-1].students[-1]].pk])
