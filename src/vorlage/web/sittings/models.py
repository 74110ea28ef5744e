"""Sittings, who takes part, every answer as it arrived, and every mark as it was given.

Answers, marks and what happened are only ever added. The keys are not here: what a student's page reads, of a form and
of its questions, is ``StudentItem``, from which no key can be told.
"""

from __future__ import annotations

import secrets
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from fractions import Fraction
from functools import cached_property, lru_cache
from typing import Any

from django.db import models, transaction
from django.db.models import Count, Max, Q
from django.utils import timezone

from vorlage.core import sittings
from vorlage.core.forms import MAXIMUM_FORMS
from vorlage.core.marking import PartMark
from vorlage.core.questions import FrozenDraw
from vorlage.core.sittings import Allowed, Attempt, Record, Rules, Stage
from vorlage.web.classes.models import Allowance, Class, Enrolment, Student
from vorlage.web.files.models import Stored
from vorlage.web.forms.models import Form, FormItem, FormSet, FormSetCandidate, FormSetInsert
from vorlage.web.jobs.models import Job
from vorlage.web.people.models import Department, User
from vorlage.web.plans.models import Test
from vorlage.web.seating.models import Seat

# The kinds of jobs: getting forms and sheets ready, and marking what was handed in.
READYING, MARKING = "sitting", "marking"
# What stands as a part for the working at a question.
WORKING_PART = "~working"
# Letters and figures that nobody confuses, for a receipt.
RECEIPT = "ACDEFHJKLMNPRTUVWXY3479"


class SittingQuerySet(models.QuerySet["Sitting"]):
    def seen_by(self, user: User) -> SittingQuerySet:
        """The sittings that somebody may open: of departments where they write, and of classes that they teach."""
        marks = Sitting.objects.filter(markers=user).values("pk")
        return self.filter(Q(pk__in=Sitting.objects.run_by(user).values("pk")) | Q(pk__in=marks))

    def run_by(self, user: User) -> SittingQuerySet:
        """The sittings that somebody may change: of departments where they write, and of classes that they teach."""
        writes = [held.department_id for held in user.roles if held.may_write]
        teaches = Sitting.objects.filter(classes__teachings__user=user).values("pk")
        return self.filter(Q(test__department__in=writes) | Q(pk__in=teaches))

    def for_student(self, student: Student) -> SittingQuerySet:
        """What a student has to do, or has done: given to a class of theirs, to them where it is for some of it."""
        mine = Enrolment.objects.filter(student=student, left=None).values("held")
        given = Sitting.objects.filter(classes__in=mine).filter(Q(chosen=None) | Q(chosen=student)).values("pk")
        taken = Taking.objects.filter(student=student).values("sitting")
        return self.filter(Q(pk__in=given) | Q(pk__in=taken)).filter(archived=None)


class Sitting(models.Model):
    """A test that is given to classes, with the rules that hold."""

    test = models.ForeignKey(Test, on_delete=models.PROTECT, related_name="sittings")
    number = models.PositiveIntegerField()
    title = models.CharField(max_length=200)
    form_set = models.ForeignKey(FormSet, on_delete=models.PROTECT, related_name="sittings")
    classes: models.ManyToManyField[Class, Any] = models.ManyToManyField(Class, related_name="sittings")
    # those of the classes who are to sit it; everybody where there are none
    chosen: models.ManyToManyField[Student, Any] = models.ManyToManyField(Student, related_name="+")
    # who may look into it and mark it, besides those who run it
    markers: models.ManyToManyField[User, Any] = models.ManyToManyField(User, related_name="+")
    # the sittings that passing it opens; and whether others have to be passed before it
    opens_next: models.ManyToManyField[Sitting, Any] = models.ManyToManyField(
        "self", symmetrical=False, related_name="opened_by"
    )
    behind = models.BooleanField(default=False)
    # what is typed to come in
    code = models.CharField(max_length=8, unique=True, null=True)
    # as ``Rules`` has them
    rules = models.JSONField()
    # the work of getting it ready, and when it was: nobody begins before
    job = models.ForeignKey(Job, on_delete=models.PROTECT, null=True, related_name="+")
    ready = models.DateTimeField(null=True)
    # whether forms were made for it, one for everybody and every attempt
    own_forms = models.BooleanField(default=False)
    # as ``Repeats`` has them, once the forms are there
    repeats = models.JSONField(null=True)
    released = models.DateTimeField(null=True)
    archived = models.DateTimeField(null=True)
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created = models.DateTimeField(auto_now_add=True)

    objects = SittingQuerySet.as_manager()

    class Meta:
        ordering = ["-created", "-pk"]
        constraints = [models.UniqueConstraint(fields=["test", "number"], name="one_sitting_a_number")]

    def __str__(self) -> str:
        return self.title

    @cached_property
    def held(self) -> Rules:
        """The rules that hold."""
        return Rules.of(self.rules)

    @classmethod
    @transaction.atomic
    def give(
        cls, test: Test, classes: Sequence[Class], rules: Rules, by: User, form_set: FormSet | None = None,
        chosen: Sequence[Student] = (),
    ) -> Sitting:  # fmt: skip
        """Give a test to classes, or to those who are chosen of them; without a form set one is made, with a form for
        everybody."""
        own_forms = form_set is None
        if form_set is None:
            enrolled = Enrolment.objects.filter(held__in=classes, left=None)
            everybody = len(chosen) or enrolled.values("student").distinct().count()
            form_set = FormSet.order(test, forms_for(everybody, rules), by)
        Test.objects.select_for_update().get(pk=test.pk)
        last = cls.objects.filter(test=test).aggregate(last=Max("number"))["last"] or 0
        made = cls.objects.create(
            test=test, number=last + 1, title=test.title, form_set=form_set, rules=rules.kept, author=by,
            code=fresh_code(), own_forms=own_forms,
        )  # fmt: skip
        made.classes.set(classes)
        made.chosen.set(chosen)
        made.get_ready(by)
        made.note("given", by)
        return made

    def get_ready(self, by: User) -> None:
        """Order that its forms are laid out and given."""
        self.job, self.ready, self.repeats = Job.order(READYING, by, self.form_set.count, sitting=self.pk), None, None
        self.save(update_fields=["job", "ready", "repeats"])

    def take_forms(self, form_set: FormSet, by: User) -> None:
        """Other forms than before, while nobody has begun."""
        self.form_set = form_set
        self.save(update_fields=["form_set"])
        self.takings.filter(begun=None).update(form=None)
        self.takings.exclude(tried_by=None).delete()
        self.get_ready(by)

    @transaction.atomic
    def keep_rules(self, rules: Rules, by: User, reason: str = "") -> None:
        """Other rules from now on; what they were stays on record."""
        Event.objects.create(sitting=self, kind="rules", by=by, reason=reason, data={"before": self.rules})
        named = self.held.come_in != "anonymous"
        self.rules = rules.kept
        self.__dict__.pop("held", None)
        self.save(update_fields=["rules"])
        if named and rules.come_in == "anonymous":
            # nobody's name stands beside a place any more
            self.takings.counted().filter(begun=None).delete()
        elif self.ready is not None:
            if not named and rules.come_in != "anonymous":
                self.takings.counted().filter(begun=None).delete()
            self.deal()

    def note(self, kind: str, by: User | None = None, taking: Taking | None = None, **more: Any) -> None:
        Event.objects.create(sitting=self, taking=taking, kind=kind, by=by, **more)

    def students(self) -> list[Student]:
        """Who is to sit it, in class order, and who has sat it."""
        if self.held.come_in == "anonymous":
            return []
        now = Enrolment.objects.filter(held__in=self.classes.all(), left=None)
        if chosen := list(self.chosen.values_list("pk", flat=True)):
            now = now.filter(student__in=chosen)
        taken = Taking.objects.filter(sitting=self).exclude(student=None).values("student")
        wanted = Q(pk__in=now.values("student")) | Q(pk__in=taken)
        return list(Student.objects.filter(wanted).select_related("allowance"))

    @property
    def begun(self) -> bool:
        return self.takings.counted().exclude(begun=None).exists()

    def least_used(self, but: int | None = None) -> int:
        """The form that fewest have; another one than ``but`` where there is one."""
        forms = list(self.form_set.forms.order_by("position").values_list("pk", flat=True))
        given = dict(self.takings.exclude(form=None).order_by().values_list("form").annotate(Count("pk")))
        return min([each for each in forms if each != but] or forms, key=lambda each: given.get(each, 0))

    @transaction.atomic
    def deal(self) -> None:
        """Give a form to everybody of the classes who has none: by a seat plan of the class where there is one, else in
        turn, so that forms are used equally often. Who practises gets fresh draws and no form."""
        if self.held.practice == "only":
            return
        forms = list(self.form_set.forms.order_by("position").values_list("pk", flat=True))
        seats = Seat.objects.filter(plan__form_set=self.form_set, plan__held__in=self.classes.all(), form__isnull=False)
        by_seat = dict(seats.order_by("plan__created").values_list("student", "form"))
        counts = dict(self.takings.order_by().values_list("form").annotate(Count("pk")))
        used = {form: counts.get(form, 0) for form in forms}
        have = set(self.takings.exclude(form=None).values_list("student", flat=True))
        takings = []
        for student in self.students():
            if student.pk in have:
                continue
            form = by_seat.get(student.pk) or min(forms, key=lambda each: used[each])
            used[form] = used.get(form, 0) + 1
            takings.append(Taking(sitting=self, student=student, form_id=form))
        without = {each.student_id: each.form_id for each in takings}
        for there in self.takings.filter(form=None, student__in=without, earlier=False):
            Taking.objects.filter(pk=there.pk, form=None).update(form=without.pop(there.student_id))
        Taking.objects.bulk_create((each for each in takings if each.student_id in without), ignore_conflicts=True)

    def repeats_by(self, attempt: int | None) -> bool:
        """Whether numbers can come again up to an attempt; None stands for one after any number of them."""
        if attempt is None:
            return True
        held = self.repeats
        return attempt > 1 and (held is None or attempt > held["sure"])


# Forms for so many attempts are made where there is no limit to them.
ATTEMPTS_WITHOUT_LIMIT = 5


def forms_for(people: int, rules: Rules) -> int:
    """How many forms are made for so many people: one for each of their attempts."""
    return max(1, min(people * (rules.attempts or ATTEMPTS_WITHOUT_LIMIT), MAXIMUM_FORMS))


def fresh_code() -> str:
    """A code that no other sitting has, and nothing on a wall, easily told and typed."""
    while True:
        code = "".join(secrets.choice(RECEIPT) for _ in range(6))
        if not Sitting.objects.filter(code=code).exists() and not Wall.objects.filter(code=code).exists():
            return code


class StudentItem(models.Model):
    """A question of a form as students see it, and what reads their answers; no key is in it."""

    item = models.OneToOneField(FormItem, on_delete=models.CASCADE, primary_key=True, related_name="for_students")
    form = models.ForeignKey(Form, on_delete=models.CASCADE, related_name="for_students")
    position = models.PositiveSmallIntegerField()
    section = models.CharField(max_length=120, blank=True)
    # its number in the set, from 0
    section_number = models.PositiveSmallIntegerField(default=0)
    # as ``StudentSheet`` has them
    shown = models.JSONField()
    readers = models.JSONField()
    hints = models.JSONField(default=dict)

    class Meta:
        ordering = ["form", "position"]
        indexes = [models.Index(fields=["form", "position"], name="sheets_of_a_form")]

    def __str__(self) -> str:
        return f"Question {self.position + 1} of form {self.form_id} for students"

    @property
    def place_on_form(self) -> int:
        """The question of the form that it is, from 0."""
        return self.position

    @property
    def called(self) -> str:
        """Its number, as it stands before it."""
        return str(self.position + 1)


@lru_cache(maxsize=1024)
def places_in_sections(form: int) -> tuple[int, ...]:
    """The section of every question of a form by its number, in the order of the questions: laid out once. Raises
    ``LookupError`` while it is not laid out."""
    found = tuple(StudentItem.objects.filter(form=form).order_by("position").values_list("section_number", flat=True))
    if not found:
        # not kept: a moment later it would be missed for good
        raise LookupError
    return found


def sections_of(form: int) -> tuple[int, ...]:
    """The numbers of the sections of a form that have questions. Raises ``LookupError`` while it is not laid out."""
    return tuple(sorted(set(places_in_sections(form))))


class InsertPage(models.Model):
    """A page of what lies beside the questions, as a picture."""

    insert = models.ForeignKey(FormSetInsert, on_delete=models.CASCADE, related_name="pictures")
    number = models.PositiveSmallIntegerField()
    picture = models.ForeignKey(Stored, on_delete=models.PROTECT, related_name="+")

    class Meta:
        constraints = [models.UniqueConstraint(fields=["insert", "number"], name="one_picture_an_insert_page")]

    def __str__(self) -> str:
        return f"Page {self.number} of {self.insert}"


class TakingQuerySet(models.QuerySet["Taking"]):
    def counted(self) -> TakingQuerySet:
        """Those that are of students: what a teacher tries is never counted and nowhere seen."""
        return self.filter(tried_by=None)

    def current(self) -> TakingQuerySet:
        """Of everybody's attempts the last."""
        return self.filter(earlier=False)


class Taking(models.Model):
    """A student's attempt at a sitting: their form, their time, and how far they are."""

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="takings")
    # nobody of the lists where somebody came in with a name and a class, or without a name, or tries it
    student = models.ForeignKey(Student, on_delete=models.PROTECT, null=True, related_name="takings")
    name = models.CharField(max_length=120, blank=True)
    group = models.CharField(max_length=60, blank=True)
    # what the browser of whoever came in without signing in shows, hashed; and how often they came in
    entry = models.CharField(max_length=64, blank=True)
    entries = models.PositiveSmallIntegerField(default=0)
    # the teacher who goes through it, and the student whose allowances hold for that
    tried_by = models.ForeignKey(User, on_delete=models.CASCADE, null=True, related_name="+")
    tried_as = models.ForeignKey(Student, on_delete=models.CASCADE, null=True, related_name="+")
    # what they are allowed in this sitting alone; null where what they are allowed anyway holds
    percent = models.PositiveSmallIntegerField(null=True)
    minutes = models.PositiveSmallIntegerField(null=True)
    later = models.PositiveIntegerField(null=True)
    let_in = models.DateTimeField(null=True)
    # who was not there when it was sat on paper
    absent = models.BooleanField(default=False)
    # which of their attempts it is, from 1, the first of them, and whether there was a later one
    attempt = models.PositiveSmallIntegerField(default=1)
    first = models.ForeignKey("self", on_delete=models.CASCADE, null=True, related_name="+")
    earlier = models.BooleanField(default=False)
    # how often it was handed in where that can be done several times, the time that is being worked on included
    submission = models.PositiveSmallIntegerField(default=1)
    # answers before it were to another form
    since = models.BigIntegerField(default=0)
    form = models.ForeignKey(Form, on_delete=models.PROTECT, null=True, related_name="+")
    begun = models.DateTimeField(null=True)
    # until when they have; null when there is no end
    ends = models.DateTimeField(null=True)
    paused = models.DateTimeField(null=True)
    # where sections have times of their own: the one they are at, since when, and until when
    section = models.PositiveSmallIntegerField(default=0)
    section_begun = models.DateTimeField(null=True)
    section_ends = models.DateTimeField(null=True)
    handed_in = models.DateTimeField(null=True)
    # whether time handed it in, and how many days late it was
    by_time = models.BooleanField(default=False)
    late = models.PositiveSmallIntegerField(default=0)
    receipt = models.CharField(max_length=8, blank=True)
    # the page that may write: another one that was opened later ends it
    tab = models.CharField(max_length=40, blank=True)
    # the last question that they answered, counted from 1, and when something was last saved and asked
    place = models.PositiveSmallIntegerField(default=0)
    saved = models.DateTimeField(null=True)
    asked = models.DateTimeField(null=True)
    # how often they left the page, and for how many seconds altogether
    away = models.PositiveIntegerField(default=0)
    away_seconds = models.PositiveIntegerField(default=0)
    released = models.BooleanField(default=False)
    withheld = models.BooleanField(default=False)
    marked = models.DateTimeField(null=True)

    objects = TakingQuerySet.as_manager()

    class Meta:
        ordering = ["sitting", "student__search_text", "pk"]
        constraints = [
            models.UniqueConstraint(
                fields=["sitting", "student"], condition=Q(earlier=False), name="one_current_taking_a_student"
            ),
            models.UniqueConstraint(
                fields=["sitting", "tried_by"], condition=Q(earlier=False), name="one_current_trial_a_teacher"
            ),
            models.UniqueConstraint(fields=["first", "attempt"], name="one_attempt_a_number"),
        ]
        indexes = [
            models.Index(fields=["ends"], name="takings_that_run", condition=Q(handed_in=None, begun__isnull=False))
        ]

    def __str__(self) -> str:
        return f"{self.who} in {self.sitting}"

    @property
    def who(self) -> str:
        """Whose it is, as lists have it."""
        if self.student is not None:
            return str(self.student)
        return f"{self.name}, {self.group}".rstrip(", ") or "without a name"

    @property
    def full_name(self) -> str:
        return self.student.full_name if self.student is not None else self.who

    @property
    def likeness(self) -> Student | None:
        """The student whose allowances hold."""
        return self.student if self.tried_by_id is None else self.tried_as

    @property
    def allowed(self) -> Allowed:
        """What they are allowed here: for this sitting where that was said, else as in every other."""
        usual = allowed_to(self.likeness)
        here = {name: getattr(self, name) for name in ("percent", "minutes", "later")}
        return replace(usual, **{name: value for name, value in here.items() if value is not None})

    @property
    def record(self) -> Record:
        """What is on record, as the rules ask for it."""
        released = self.released or self.sitting.released is not None
        let_in = self.let_in is not None or self.tried_by_id is not None
        return Record(
            self.begun, self.ends, self.paused, self.handed_in, let_in, released, self.withheld, self.submission
        )  # fmt: skip

    @property
    def whose(self) -> int:
        """What all attempts of one person have in common, and no other's."""
        return self.first_id or self.pk

    @property
    def own(self) -> models.QuerySet[Taking]:
        """All attempts of the same person, in their order."""
        return Taking.objects.filter(Q(pk=self.whose) | Q(first=self.whose)).order_by("attempt")

    @property
    def attempts(self) -> list[Attempt]:
        """When each of their attempts was begun and handed in."""
        if self.attempt == 1 and not self.earlier:
            rows = [(self.begun, self.handed_in)]
        else:
            rows = list(self.own.values_list("begun", "handed_in"))
        return [Attempt(begun, handed_in) for begun, handed_in in rows if begun is not None]

    @property
    def next_begin(self) -> datetime | None:
        """From when on they may begin another attempt; None where there is none. Whoever tries it waits for nothing."""
        rules = self.sitting.held
        if self.begun is None or rules.practice == "only":
            return None
        if self.tried_by_id is not None:
            rules = replace(rules, closes=None, wait=timedelta(0), per_period=None)
        return sittings.next_begin(rules, self.attempts, self.allowed)

    @property
    def whole_record(self) -> Record:
        """What is on record, with what becomes of it in attempts that can come."""
        rules = self.sitting.held
        more = rules.attempts != 1 and self.next_begin is not None
        return replace(self.record, more=more, repeats=more and self.sitting.repeats_by(rules.attempts))

    def phase(self, now: datetime) -> str:
        return sittings.phase(self.sitting.held, self.record, now, self.allowed)

    def seen(self, now: datetime) -> frozenset[str]:
        """What the student sees of it now: nothing of marks and keys is shown but through this."""
        return sittings.seen(self.sitting.held, self.whole_record, now, self.allowed)

    @classmethod
    @transaction.atomic
    def begin(cls, sitting: Sitting, who: Student | Taking, now: datetime) -> Taking:
        """Begin, or go on where one is: a student of the lists, or whoever has a place already."""
        if isinstance(who, Student):
            cls.objects.get_or_create(sitting=sitting, student=who, earlier=False)
            taking = cls.locked(sitting=sitting, student=who, earlier=False)
        else:
            taking = cls.locked(pk=who.pk)
        if taking.form_id is None:
            taking.form_id = sitting.least_used()
        if taking.begun is None:
            taking.set_off(sitting.held, now)
            sitting.note("begun", taking=taking)
        taking.save()
        return taking

    @transaction.atomic
    def follow(self, now: datetime, choose: Callable[[Taking], int]) -> Taking:
        """Begin the next attempt, on a form that ``choose`` names; the one that runs already where there is one."""
        taking = Taking.locked(pk=self.pk)
        begins = taking.next_begin
        if taking.earlier or taking.handed_in is None or begins is None or begins > now:
            return taking
        form = choose(taking)
        taking.earlier = True
        taking.save(update_fields=["earlier"])
        # what they are allowed, how they came in and what became of their results is theirs in every attempt
        kept = {name: getattr(taking, name) for name in KEPT_IN_ATTEMPTS}
        following = Taking(first_id=taking.whose, attempt=taking.attempt + 1, form_id=form, **kept)
        following.set_off(taking.rules_at(now), now)
        following.save()
        taking.sitting.note("begun", taking=following, data={"attempt": following.attempt})
        return following

    def rules_at(self, now: datetime) -> Rules:
        """The rules by which they begin: whoever tries it does as if it were open now, whatever its moments are."""
        rules = self.sitting.held
        return rules if self.tried_by_id is None else replace(rules, opens=now, closes=None)

    def set_off(self, rules: Rules, now: datetime) -> None:
        """Begin now: until when they have is worked out, of the first section too."""
        self.begun, self.ends = now, sittings.end_if_begun(rules, now, self.allowed)
        if rules.staged:
            sections = sections_of(self.form_id or 0)
            self.ends = sittings.stages_end(rules, sections, now, self.ends, self.allowed)
            self.put(sittings.stage_begun(rules, sections[0], now, self.ends, self.allowed))

    @property
    def stage(self) -> Stage | None:
        """The section that they are at, where sections have times of their own."""
        return None if self.section_begun is None else Stage(self.section, self.section_begun, self.section_ends)

    def put(self, stage: Stage) -> None:
        """Be at a section; the end of the last one is that of the whole."""
        self.section, self.section_begun, self.section_ends = stage.section, stage.begun, stage.ends
        if stage.ends is not None and sittings.next_section(sections_of(self.form_id or 0), stage.section) is None:
            self.ends = stage.ends

    def reach(self, now: datetime) -> bool:
        """Be at the section that time has brought; whether that is another one. The row is locked."""
        stage = self.stage
        if stage is None or self.handed_in is not None:
            return False
        sections, at = sections_of(self.form_id or 0), self.paused or now
        found = sittings.stage_reached(self.sitting.held, stage, sections, at, self.ends, self.allowed)
        if found == stage:
            return False
        self.put(found)
        return True

    @property
    def in_last_section(self) -> bool:
        """Whether nothing comes after the section that they are at."""
        stage = self.stage
        return stage is None or sittings.next_section(sections_of(self.form_id or 0), stage.section) is None

    def resume(self, now: datetime) -> None:
        """Go on after a pause, which took nothing of their time."""
        if self.section_ends is not None and self.paused is not None:
            self.section_ends += max(timedelta(0), now - self.paused)
        self.ends, self.paused = sittings.after_pause(self.record, now), None

    @classmethod
    def locked(cls, **lookup: Any) -> Taking:
        """The row, which nobody else changes until the transaction ends."""
        return (
            cls.objects.select_for_update(of=("self",)).select_related("sitting", "student", "tried_as").get(**lookup)
        )

    @transaction.atomic
    def hand_in(self, now: datetime, by_time: bool = False, by: User | None = None, reason: str = "") -> bool:
        """Hand in what is there; False when it was handed in already. Marking it is ordered with it."""
        taking = Taking.locked(pk=self.pk)
        if taking.handed_in is not None or taking.begun is None:
            return False
        taking.handed_in = min(now, taking.ends) if by_time and taking.ends is not None else now
        taking.by_time, taking.paused = by_time, None
        taking.late = sittings.days_late(taking.sitting.held, taking.handed_in, taking.allowed)
        taking.receipt = "".join(secrets.choice(RECEIPT) for _ in range(5))
        taking.marked = None
        taking.save(update_fields=["handed_in", "by_time", "paused", "late", "receipt", "marked"])
        taking.sitting.note("handed in", by, taking, reason=reason, data={"by_time": by_time})
        order_marking(taking.sitting)
        self.refresh_from_db()
        return True

    def answers(self) -> dict[tuple[int, str], Any]:
        """The answers that count, by question (from 0) and part: of each the last that arrived in time."""
        rows = Response.objects.filter(taking=self, counts=True, pk__gt=self.since).order_by("position", "part", "-pk")
        return {(each.position, each.part): each.response for each in rows.distinct("position", "part")}

    def marks(self) -> list[Mark]:
        """The marks that hold now, of every part one."""
        return held_marks(self.sitting.held, Mark.objects.filter(taking=self).order_by("pk"))

    def hint_costs(self) -> dict[tuple[int, str], Fraction]:
        """The share that hints have cost, by question and part."""
        found: dict[tuple[int, str], Fraction] = {}
        for position, part, cost in self.hints.filter(form=self.form_id).values_list("position", "part", "cost"):
            found[position, part] = found.get((position, part), Fraction(0)) + Fraction(cost)
        return found


# What is the same in all attempts of one person.
KEPT_IN_ATTEMPTS = (
    "sitting", "student", "name", "group", "entry", "entries", "tried_by", "tried_as", "percent", "minutes", "later",
    "let_in", "released", "withheld",
)  # fmt: skip


def held_marks(rules: Rules, marks: Iterable[Mark]) -> list[Mark]:
    """Of the marks of one attempt, the oldest first, those that hold: of every part the last; where the best of what
    was handed in counts, the best of the last of each time, the latest of equal ones. What somebody gave by hand, and
    what somebody has to look at, holds over what came before."""
    last: dict[tuple[int, str], dict[int, Mark]] = {}
    for mark in marks:
        times = last.setdefault((mark.position, mark.part), {})
        if mark.by_id is not None or mark.outcome == "waiting" or rules.resubmitted == "last":
            times.clear()
        times.pop(mark.submission, None)
        times[mark.submission] = mark
    return [max(reversed(times.values()), key=lambda each: Fraction(each.marks)) for times in last.values()]


def by_person(takings: Iterable[Taking]) -> list[Sequence[Taking]]:
    """The attempts of everybody, each person's in their order."""
    found: dict[int, list[Taking]] = {}
    for taking in takings:
        found.setdefault(taking.whose, []).append(taking)
    return [sorted(own, key=lambda each: each.attempt) for own in found.values()]


def order_marking(sitting: Sitting) -> None:
    """Order that what was handed in is marked, unless it is ordered already."""
    waiting = Job.objects.filter(kind=MARKING, state=Job.State.WAITING, arguments__sitting=sitting.pk)
    if not waiting.exists():
        Job.order(MARKING, sitting.author, 1, sitting=sitting.pk)


def allowed_to(student: Student | None) -> Allowed:
    """What a student is allowed, as the rules ask for it."""
    if student is None:
        return sittings.USUAL
    try:
        held = student.allowance
    except Allowance.DoesNotExist:
        return sittings.USUAL
    return Allowed(held.more_time_percent, held.more_time_minutes, held.later_closing_minutes)


@dataclass(frozen=True, slots=True)
class Change:
    """An answer as a page sends it: under a number of the page's own, so that the same sent twice is kept once."""

    number: int
    position: int
    part: str
    response: Any

    @property
    def columns(self) -> dict[str, Any]:
        return {"number": self.number, "position": self.position, "part": self.part, "response": self.response}


class Response(models.Model):
    """An answer as it arrived. None is ever changed; of those that count, the last is the student's answer."""

    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, related_name="responses")
    # the question on their form, from 0, and the part by its identity
    position = models.PositiveSmallIntegerField()
    part = models.CharField(max_length=20)
    response = models.JSONField(null=True)
    # the page that sent it, and the number that it gave it
    tab = models.CharField(max_length=40)
    number = models.PositiveIntegerField()
    arrived = models.DateTimeField()
    counts = models.BooleanField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["taking", "tab", "number"], name="one_change_a_number")]
        indexes = [models.Index(fields=["taking", "position", "part", "-id"], name="answers_of_a_taking")]

    def __str__(self) -> str:
        return f"Answer {self.number} of taking {self.taking_id}"


class HintTaken(models.Model):
    """A hint that a student took, and the share of the marks that it cost."""

    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, related_name="hints")
    # the form that they had then
    form = models.ForeignKey(Form, on_delete=models.PROTECT, related_name="+")
    position = models.PositiveSmallIntegerField()
    part = models.CharField(max_length=20)
    # which of the part's hints, from 0
    number = models.PositiveSmallIntegerField()
    cost = models.CharField(max_length=40)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["taking", "form", "position", "part", "number"], name="one_hint_once")
        ]

    def __str__(self) -> str:
        return f"Hint {self.number + 1} to {self.position + 1} {self.part}"


class Earned(models.Model):
    """What a part earned, and by which rule."""

    position = models.PositiveSmallIntegerField()
    part = models.CharField(max_length=20)
    outcome = models.CharField(max_length=12)
    # exact fractions, as text
    share = models.CharField(max_length=40)
    marks = models.CharField(max_length=40)
    most = models.CharField(max_length=40)
    # the share that hints and further tries have cost
    cost = models.CharField(max_length=40, default="0")
    code = models.CharField(max_length=60)
    because = models.CharField(max_length=500)
    certainty = models.CharField(max_length=12, blank=True)
    reading = models.CharField(max_length=1000, blank=True)
    feedback = models.JSONField(default=list)

    class Meta:
        abstract = True

    @property
    def held(self) -> PartMark:
        """As the core has it."""
        share, marks, most = Fraction(self.share), Fraction(self.marks), Fraction(self.most)
        return PartMark(
            self.part, self.outcome, share, marks, most, self.code, self.because, self.certainty, self.reading,
            tuple(self.feedback), Fraction(self.cost),
        )  # fmt: skip

    @staticmethod
    def columns_of(mark: PartMark) -> dict[str, Any]:
        """The columns for what the core has."""
        return {
            "part": mark.part, "outcome": mark.outcome, "share": str(mark.share), "marks": str(mark.marks),
            "most": str(mark.most), "cost": str(mark.cost), "code": mark.code[:60], "because": mark.because[:500],
            "certainty": mark.certainty, "reading": mark.reading[:1000], "feedback": list(mark.feedback),
        }  # fmt: skip


class Tried(Earned):
    """A try of a part that was checked before all was handed in, with what it came to. None is ever changed."""

    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, related_name="tries")
    # the form that they had then
    form = models.ForeignKey(Form, on_delete=models.PROTECT, related_name="+")
    response = models.JSONField(null=True)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["pk"]
        indexes = [models.Index(fields=["taking", "form", "position"], name="tries_of_a_taking")]

    def __str__(self) -> str:
        return f"{self.outcome} at {self.position + 1} {self.part}"


class Mark(Earned):
    """What a part earned, and by which rule. None is ever changed; the last is the one that holds."""

    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, related_name="given_marks")
    beyond = models.BooleanField(default=False)
    # the question of the form that it stands for, where it is a similar one, and what was handed in that time
    place = models.PositiveSmallIntegerField(null=True)
    submission = models.PositiveSmallIntegerField(default=1)
    # what was drawn, the revision of the question, and the version of the rules
    draw = models.BigIntegerField()
    revision = models.PositiveIntegerField()
    version = models.PositiveSmallIntegerField()
    # who gave it, where no rule did
    by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")
    reason = models.CharField(max_length=300, blank=True)
    made = models.DateTimeField(default=timezone.now)

    class Meta:
        indexes = [models.Index(fields=["taking", "position", "part", "-id"], name="marks_of_a_taking")]

    def __str__(self) -> str:
        return f"{self.marks} of {self.most} for {self.position + 1} {self.part}"


class PractisedQuerySet(models.QuerySet["Practised"]):
    def of(self, sitting: Sitting, student: Student | None, taking: Taking | None) -> PractisedQuerySet:
        """What somebody has practised with: a student of the lists, else whoever has a place."""
        mine = Q(student=student) if student is not None else Q(taking=taking, student=None)
        return self.filter(mine, sitting=sitting)


class Fresh(models.Model):
    """A fresh draw of one question for one student, laid out for them."""

    candidate = models.ForeignKey(FormSetCandidate, on_delete=models.PROTECT, related_name="+")
    # as ``FrozenDraw`` has them, and whether all of its values had been had before
    draw = models.BigIntegerField()
    values = models.JSONField()
    orders = models.JSONField()
    texts = models.JSONField()
    repeats = models.BooleanField(default=False)
    # as ``StudentSheet`` has them
    shown = models.JSONField()
    readers = models.JSONField()
    hints = models.JSONField(default=dict)
    # what each part is worth, as text
    worth = models.JSONField()
    made = models.DateTimeField(default=timezone.now)

    class Meta:
        abstract = True

    @property
    def frozen_draw(self) -> FrozenDraw:
        return FrozenDraw(self.draw, self.values, self.orders, self.texts)


class Similar(Fresh):
    """A similar question that a student had instead of a missed one: it stands behind the questions of their form."""

    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, related_name="similar")
    form = models.ForeignKey(Form, on_delete=models.PROTECT, related_name="+")
    # where its answers are, from 0; the question of the form that it stands for; and which one for it, from 1
    position = models.PositiveSmallIntegerField()
    place = models.PositiveSmallIntegerField()
    number = models.PositiveSmallIntegerField()
    section = models.CharField(max_length=120, blank=True)
    section_number = models.PositiveSmallIntegerField(default=0)

    class Meta:
        ordering = ["position"]
        constraints = [models.UniqueConstraint(fields=["taking", "form", "position"], name="one_similar_a_position")]

    def __str__(self) -> str:
        return f"Question {self.called}"

    @property
    def place_on_form(self) -> int:
        """The question of the form that it stands for, from 0."""
        return self.place

    @property
    def called(self) -> str:
        """Its number, as it stands before it."""
        return f"{self.place + 1} once more" if self.number == 1 else f"{self.place + 1} once more, {self.number}"


class Practised(Fresh):
    """A fresh draw of one question that somebody practises with, and what they gave for it.

    It is apart from all marks: no total, table or statistic reads it. What was laid out stays until the next one comes.
    """

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="practised")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, null=True, related_name="practised")
    # of whoever is in no list
    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, null=True, related_name="practised")
    answers = models.JSONField(default=dict)
    # how often it was checked, and the outcome of each part when it was last
    checks = models.PositiveSmallIntegerField(default=0)
    outcomes = models.JSONField(default=dict)
    right = models.BooleanField(default=False)
    # whether the key was shown: nothing is checked after it
    told = models.BooleanField(default=False)

    objects = PractisedQuerySet.as_manager()

    class Meta:
        ordering = ["-pk"]
        indexes = [models.Index(fields=["sitting", "student", "candidate", "-id"], name="practice_of_a_student")]

    def __str__(self) -> str:
        return f"Draw {self.draw} of {self.candidate_id} in {self.sitting_id}"


class Wall(models.Model):
    """A test, or one question, that somebody shows large to a class: which question with which numbers, and what of it
    is shown."""

    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="+")
    by = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    title = models.CharField(max_length=200)
    # the revisions of its questions, in their order
    revisions = models.JSONField()
    code = models.CharField(max_length=8, unique=True, null=True)
    begun = models.DateTimeField(default=timezone.now)
    # the question that is shown, from 0, and how many draws have been shown
    position = models.PositiveSmallIntegerField(default=0)
    turn = models.PositiveIntegerField(default=0)
    # as ``FrozenDraw`` and ``StudentSheet`` have them; no key is among it
    draw = models.JSONField(default=dict)
    shown = models.JSONField(default=dict)
    readers = models.JSONField(default=dict)
    # the values that were shown of each revision, as ``values_text`` has them
    had = models.JSONField(default=dict)
    # what is shown now
    answer = models.BooleanField(default=False)
    solution = models.BooleanField(default=False)
    uncovered = models.BooleanField(default=False)
    # until when they have
    until = models.DateTimeField(null=True)

    class Meta:
        ordering = ["-begun", "-pk"]

    def __str__(self) -> str:
        return f"{self.title} on the wall"


class WallAnswer(models.Model):
    """What a phone gave to the question on a wall; of one turn that one phone gave it can be told, and nothing more."""

    wall = models.ForeignKey(Wall, on_delete=models.CASCADE, related_name="answers")
    turn = models.PositiveIntegerField()
    part = models.CharField(max_length=20)
    response = models.JSONField(null=True)
    # another one in every turn
    phone = models.CharField(max_length=64)

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["wall", "turn", "phone", "part"], name="one_answer_a_phone_and_turn")
        ]

    def __str__(self) -> str:
        return f"An answer to turn {self.turn} of {self.wall}"


class Opened(models.Model):
    """That a sitting which comes after another one was opened for a student by hand."""

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="opened_for")
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="+")
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["sitting", "student"], name="opened_once")]

    def __str__(self) -> str:
        return f"{self.sitting} for {self.student}"


class Event(models.Model):
    """Something that happened in a sitting, to all or to one: what, by whom, why."""

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="events")
    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, null=True, related_name="events")
    kind = models.CharField(max_length=20)
    by = models.ForeignKey(User, on_delete=models.PROTECT, null=True, related_name="+")
    reason = models.CharField(max_length=300, blank=True)
    data = models.JSONField(default=dict)
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["-at", "-pk"]

    def __str__(self) -> str:
        return f"{self.kind} in {self.sitting_id}"


class Note(models.Model):
    """What a teacher tells everybody while they sit, or one of them; or a correction to one question."""

    sitting = models.ForeignKey(Sitting, on_delete=models.CASCADE, related_name="notes")
    taking = models.ForeignKey(Taking, on_delete=models.CASCADE, null=True, related_name="notes")
    text = models.CharField(max_length=500)
    # where the question stands on every form, counted from 1, where it is about one
    question = models.PositiveSmallIntegerField(null=True)
    by = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(default=timezone.now)

    class Meta:
        ordering = ["at", "pk"]

    def __str__(self) -> str:
        return self.text


class Way(models.Model):
    """A department's own way of working: rules under a name, which fill those of a sitting."""

    department = models.ForeignKey(Department, on_delete=models.CASCADE, related_name="ways")
    name = models.CharField(max_length=60)
    # as ``Rules`` has them; the moments in it are not used
    rules = models.JSONField()
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")

    class Meta:
        ordering = ["name"]
        constraints = [models.UniqueConstraint(fields=["department", "name"], name="one_way_a_name")]

    def __str__(self) -> str:
        return self.name
