"""A test, and every change of its plan."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from decimal import Decimal

from django.db import models, transaction
from django.db.models import Count, F, OuterRef, Subquery, Sum
from django.db.models.functions import Coalesce

from vorlage.core.documents import Look
from vorlage.web.bank.models import Found, MarksField, Question
from vorlage.web.classes.models import Class
from vorlage.web.people.models import Department, Membership, User

from .marks import SchoolMark
from .places import MOST_IN_A_POOL, Candidate, Held, Section, TestPlace
from .steps import Step, put_back, snapshot


class TestQuerySet(models.QuerySet["Test"]):
    def of(self, membership: Membership) -> TestQuerySet:
        """The tests of the department that a member works in."""
        return self.filter(department=membership.department_id)

    def in_use(self) -> TestQuerySet:
        """Without those that were put into the archive."""
        return self.filter(archived=None)

    def named(self, text: str) -> TestQuerySet:
        """Tests whose title holds the text."""
        return self.filter(title__icontains=text)

    def with_totals(self) -> TestQuerySet:
        """With the number of questions that a form has, and the marks of the test."""
        first = Candidate.objects.filter(place=OuterRef("pk")).order_by("position").values("revision__marks")[:1]
        worth = F("take") * Coalesce("marks", Subquery(first), Decimal(0))
        of_test = TestPlace.objects.filter(test=OuterRef("pk")).order_by().values("test")
        counted = of_test.filter(bonus=False).annotate(worth=worth).values("test")
        marks = counted.annotate(sum=Sum("worth")).values("sum")
        count = of_test.annotate(sum=Sum("take")).values("sum")
        return self.annotate(
            place_count=Coalesce(Subquery(count), 0),
            total_marks=Coalesce(Subquery(marks), Decimal(0), output_field=MarksField()),
        )


class Test(models.Model):
    """A plan: which questions, in which order, worth how much."""

    department = models.ForeignKey(Department, on_delete=models.PROTECT, related_name="tests")
    title = models.CharField(max_length=200)
    # what stands on the sheet once it has begun, and what students see before
    instructions = models.CharField(max_length=500, blank=True)
    before = models.CharField(max_length=500, blank=True)
    school_class = models.ForeignKey(Class, on_delete=models.SET_NULL, related_name="tests", null=True, blank=True)
    # what the marks are scaled to when they are added up
    maximum = MarksField(null=True, blank=True)
    # whether options stand as their author wrote them, and on paper beside each other where they have room
    in_order = models.BooleanField(default=False)
    across = models.BooleanField(default=False)
    # how its papers look, as ``Look`` has it; what is not said is as usual
    look = models.JSONField(default=dict, blank=True)
    # from which total on a grade is given, as ``Boundaries`` has it
    boundaries = models.JSONField(default=dict, blank=True)
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    # out of the way and still there; when it was put there
    archived = models.DateTimeField(null=True)
    created = models.DateTimeField(auto_now_add=True)
    changed = models.DateTimeField(auto_now=True)

    objects = TestQuerySet.as_manager()

    class Meta:
        ordering = ["-changed", "-pk"]

    def __str__(self) -> str:
        return self.title

    def ordered(self) -> list[Held]:
        """The places in order, each with its section and with the questions that it takes from."""
        return Held.of(self)

    @property
    def mark(self) -> SchoolMark | None:
        """The mark of the school, where papers are to have it and there is one."""
        return SchoolMark.of(self.department.school_id) if Look.of(self.look).mark else None

    @contextmanager
    def changing(self, user: User, words: str) -> Iterator[None]:
        """What is done within is one step, in words, that can be taken back; a later change has a later moment."""
        with transaction.atomic():
            self.touch()
            before = snapshot(self)
            yield
            if snapshot(self) != before:
                Step.keep(self, user, words, before)

    @transaction.atomic
    def take_back(self, step: Step) -> None:
        """Make the plan what it was before a step."""
        self.touch()
        concerned = self.questions
        put_back(self, step.before)
        self.refresh_from_db()
        step.delete()
        count_uses([*concerned, *self.questions])

    def touch(self) -> None:
        """Hold the plan for this transaction and note that it changes now."""
        Test.objects.select_for_update().get(pk=self.pk)
        self.save(update_fields=["changed"])

    @property
    def questions(self) -> list[int]:
        """The questions that it names, but for those that a rule finds."""
        named = Candidate.objects.filter(place__test=self).order_by()
        return list(named.values_list("revision__question", flat=True).distinct())

    def first_section(self) -> Section:
        """The section that places are in unless another is said; every test has one."""
        return self.sections.first() or self.sections.create(position=0)

    def last_section(self) -> Section:
        return self.sections.order_by("-position").first() or self.first_section()

    @transaction.atomic
    def add(self, question: Question, draw: int | None = None, section: Section | None = None) -> TestPlace:
        """Put a question, as it now stands, at the end; ``draw`` is the one that was seen and taken along."""
        self.touch()
        held = section or self.last_section()
        place = self.places.create(position=self.places.count(), section=held)
        place.candidates.create(position=0, revision=question.newest, draw=draw)
        self.set_order(self.tokens())
        count_uses([question.pk])
        return place

    def add_pool(self, section: Section, questions: Sequence[Question], take: int, name: str = "") -> TestPlace:
        """A place that takes some of these questions."""
        position = self.places.count()
        place = self.places.create(section=section, position=position, pool=True, take=max(1, take), name=name[:120])
        self.fill(place, questions)
        return place

    def fill(self, place: TestPlace, questions: Sequence[Question]) -> None:
        """Put questions into a pool, those that it has not yet, as far as there is room."""
        there = set(place.candidates.values_list("revision__question", flat=True))
        new = [each for each in questions if each.pk not in there][: MOST_IN_A_POOL - len(there)]
        Candidate.objects.bulk_create(
            Candidate(place=place, position=len(there) + k, revision=each.newest) for k, each in enumerate(new)
        )
        count_uses([each.pk for each in new])

    @transaction.atomic
    def take_out(self, place: TestPlace) -> None:
        self.touch()
        concerned = list(place.candidates.values_list("revision__question", flat=True))
        place.delete()
        count_uses(concerned)

    @transaction.atomic
    def renew(self, candidate: Candidate) -> None:
        """Take the latest revision of a question."""
        self.touch()
        latest = candidate.revision.question.current
        Candidate.objects.filter(pk=candidate.pk).update(revision=latest, draw=None)

    # the order: sections by ``s`` and their number, places by their number

    def tokens(self) -> list[str]:
        """The plan from top to bottom."""
        sections = list(self.sections.order_by("position")) or [self.first_section()]
        places = list(self.places.order_by("position", "pk"))
        return [
            token
            for section in sections
            for token in (f"s{section.pk}", *(str(place.pk) for place in places if place.section_id == section.pk))
        ]

    @transaction.atomic
    def move(self, token: str, by: int) -> None:
        """Move a place down by so many lines, up when negative, as far as there are lines; a section with all that is
        in it by as many sections."""
        self.touch()
        order = self.tokens()
        if token not in order:
            # somebody has taken it out meanwhile
            return
        if token.startswith("s"):
            return self.move_section(token, by, order)
        at = order.index(token)
        # the heading of the first section stays above everything
        to = max(1, min(len(order) - 1, at + by))
        order.insert(to, order.pop(at))
        self.set_order(order)

    def move_section(self, token: str, by: int, order: Sequence[str]) -> None:
        starts = [k for k, each in enumerate(order) if each.startswith("s")]
        blocks = [list(order[a:b]) for a, b in zip(starts, [*starts[1:], len(order)])]
        at = next(k for k, block in enumerate(blocks) if block[0] == token)
        to = max(0, min(len(blocks) - 1, at + by))
        blocks.insert(to, blocks.pop(at))
        self.set_order([each for block in blocks for each in block])

    @transaction.atomic
    def arrange(self, order: Sequence[str]) -> None:
        """Put everything in this order; what is not ours is passed over, what is new stays at the end."""
        self.touch()
        known = self.tokens()
        wanted = [each for each in dict.fromkeys(order) if each in known]
        wanted += [each for each in known if each not in wanted]
        # what would stand above the first section stands in it
        first = next(each for each in wanted if each.startswith("s"))
        self.set_order([first, *(each for each in wanted if each != first)])

    def set_order(self, order: Sequence[str]) -> None:
        places = {str(place.pk): place for place in self.places.all()}
        sections = {f"s{section.pk}": section for section in self.sections.all()}
        position, held = 0, None
        for token in order:
            if token in sections:
                held = sections[token]
                held.position = sum(each.startswith("s") for each in order[: order.index(token)])
            elif held is not None:
                places[token].position, places[token].section = position, held
                position += 1
        Section.objects.bulk_update(sections.values(), ["position"])
        TestPlace.objects.bulk_update(places.values(), ["position", "section"])

    @transaction.atomic
    def copy(self, author: User, title: str, with_settings: bool) -> Test:
        """The same plan once more; without its settings it has the places, in sections without names, and no more."""
        made = Test.objects.create(department=self.department, author=author, title=title)
        before = snapshot(self)
        if not with_settings:
            before["test"] = {}
            before["targets"], before["inserts"] = [], []
            before["sections"] = [{**each, "text": "", "calculator": None} for each in before["sections"]]
        put_back(made, {**before, "test": {**before["test"], "title": title}}, anew=True)
        count_uses(made.questions)
        made.refresh_from_db()
        return made


def count_uses(questions: Iterable[int]) -> None:
    """Note with these questions how many tests have each."""
    tests = (
        Candidate.objects.filter(revision__question=OuterRef("pk"))
        .order_by()
        .values("revision__question")
        .annotate(count=Count("place__test", distinct=True))
    )
    counted = Coalesce(Subquery(tests.values("count")), 0)
    Found.objects.filter(pk__in=list(questions)).update(uses=counted)
