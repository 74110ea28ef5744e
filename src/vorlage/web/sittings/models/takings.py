"""Who takes part in a sitting: their form, their time, and how far they are."""

from __future__ import annotations

import secrets
from collections.abc import Callable, Iterable, Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from django.db import models, transaction
from django.db.models import Q

from vorlage.core import sittings
from vorlage.core.marking import best_of_times
from vorlage.core.sittings import Allowed, Attempt, Record, Rules, Stage
from vorlage.web.classes.models import Allowance, Student
from vorlage.web.forms.models import Form
from vorlage.web.jobs.models import Job
from vorlage.web.people.models import User

from .answers import Mark, Response, SomeMark
from .sheets import sections_of

if TYPE_CHECKING:
    from .sittings import Sitting


# Letters and figures that nobody confuses, for a receipt.
RECEIPT = "ACDEFHJKLMNPRTUVWXY3479"
# The kind of job that marks what was handed in.
MARKING = "marking"


class TakingQuerySet(models.QuerySet["Taking"]):
    def counted(self) -> TakingQuerySet:
        """Those that are of students: what a teacher tries is never counted and nowhere seen."""
        return self.filter(tried_by=None)

    def current(self) -> TakingQuerySet:
        """Of everybody's attempts the last."""
        return self.filter(earlier=False)


class Taking(models.Model):
    """A student's attempt at a sitting: their form, their time, and how far they are."""

    sitting = models.ForeignKey("sittings.Sitting", on_delete=models.CASCADE, related_name="takings")
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


def held_marks(rules: Rules, marks: Iterable[SomeMark]) -> list[SomeMark]:
    """Of the marks of one attempt, the oldest first, those that hold: of every part the last; where the best of what
    was handed in counts, the best of the last of each time, the latest of equal ones. What somebody gave by hand, and
    what somebody has to look at, holds over what came before."""
    last: dict[tuple[int, str], dict[int, SomeMark]] = {}
    for mark in marks:
        times = last.setdefault((mark.position, mark.part), {})
        if mark.by_id is not None or rules.resubmitted == "last":
            times.clear()
        times.pop(mark.submission, None)
        times[mark.submission] = mark
    several = [list(times.values()) for times in last.values()]
    return [own[0] if len(own) == 1 else own[best_of_times([each.held for each in own])] for own in several]


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
