"""Rooms of a school, and seat plans: who of a class sits where with which form of a set."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from django.core.validators import MaxValueValidator, MinValueValidator
from django.db import models, transaction

from vorlage.core import forms
from vorlage.core.forms import MOST_COLUMNS, MOST_ROWS
from vorlage.web.classes.models import Class, Student
from vorlage.web.files.models import Stored
from vorlage.web.forms.models import Form, FormSet, ItemKey
from vorlage.web.jobs.models import Job
from vorlage.web.people.models import School, User

# The kinds of jobs: giving forms to seats, and printing the papers of a class with names.
GIVING, PRINTING = "seat plan", "class papers"


def limits(most: int) -> list[MinValueValidator | MaxValueValidator]:
    return [MinValueValidator(1), MaxValueValidator(most)]


class Room(models.Model):
    """A room with desks in rows and columns; gaps are where there is none."""

    school = models.ForeignKey(School, on_delete=models.CASCADE, related_name="rooms")
    name = models.CharField(max_length=40)
    rows = models.PositiveSmallIntegerField(validators=limits(MOST_ROWS))
    columns = models.PositiveSmallIntegerField(validators=limits(MOST_COLUMNS))
    # row and column from 0, the front row first
    gaps = models.JSONField(default=list, blank=True)

    class Meta:
        ordering = ["name", "pk"]
        constraints = [models.UniqueConstraint(fields=["school", "name"], name="one_room_a_name")]

    def __str__(self) -> str:
        return self.name

    @property
    def layout(self) -> forms.Room:
        return laid_out(self)

    @property
    def seat_count(self) -> int:
        return len(self.layout.seats)


def laid_out(room: Room | SeatPlan) -> forms.Room:
    """Rows, columns and gaps as the core has them; a gap beyond them is none."""
    gaps = {(row, column) for row, column in room.gaps if row < room.rows and column < room.columns}
    return forms.Room(room.rows, room.columns, frozenset(gaps))


class SeatPlan(models.Model):
    """A class in a room, with a form for everybody. It keeps the room as it was when it was made."""

    form_set = models.ForeignKey(FormSet, on_delete=models.CASCADE, related_name="seat_plans")
    held = models.ForeignKey(Class, on_delete=models.CASCADE, related_name="seat_plans")
    room_name = models.CharField(max_length=40)
    rows = models.PositiveSmallIntegerField()
    columns = models.PositiveSmallIntegerField()
    gaps = models.JSONField(default=list)
    # whether seats between people are left free as far as there are enough
    apart = models.BooleanField(default=False)
    # whether it is shown from the front desk
    turned = models.BooleanField(default=False)
    # the work of giving forms, and of printing papers with names
    job = models.ForeignKey(Job, on_delete=models.PROTECT, null=True, related_name="+")
    printing = models.ForeignKey(Job, on_delete=models.PROTECT, null=True, related_name="+")
    papers = models.ForeignKey(Stored, on_delete=models.PROTECT, null=True, related_name="+")
    author = models.ForeignKey(User, on_delete=models.PROTECT, related_name="+")
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ["-created", "-pk"]

    def __str__(self) -> str:
        return f"{self.held.name} in {self.room_name}"

    @property
    def layout(self) -> forms.Room:
        return laid_out(self)

    @property
    def seated(self) -> list[Seat]:
        """Who sits where, from the front row on."""
        found, numbers = (
            list(self.seats.select_related("student", "form").order_by("row", "column")),
            self.layout.numbers,
        )
        for each in found:
            each.number = numbers.get((each.row or 0, each.column or 0), 0)
        return found

    @property
    def is_being_given(self) -> bool:
        return self.job is not None and self.job.open

    def students(self) -> list[Student]:
        """The class as it is now, by name."""
        return list(Student.objects.filter(enrolments__held=self.held_id, enrolments__left=None))

    @classmethod
    @transaction.atomic
    def order(
        cls, form_set: FormSet, held: Class, room: Room, students: Sequence[Student], apart: bool, by: User
    ) -> SeatPlan:
        """A plan with these students in their order, whose forms a worker gives. There are seats for all."""
        kept = {"room_name": room.name, "rows": room.rows, "columns": room.columns, "gaps": room.gaps}
        plan = cls.objects.create(form_set=form_set, held=held, apart=apart, author=by, **kept)
        plan.seat(students)
        plan.give(by)
        return plan

    def seat(self, students: Sequence[Student]) -> None:
        """Put students into seats from the front on; their forms are to be given."""
        places = self.layout.seats_for(len(students), self.apart)
        self.seats.all().delete()
        Seat.objects.bulk_create(
            Seat(plan=self, row=row, column=column, student=student) for (row, column), student in zip(places, students)
        )

    @transaction.atomic
    def bring_up_to_date(self, by: User) -> bool:
        """Give seats to those who have none, and take away those of who left the class; False where the room is too
        small, and nothing is changed then."""
        now = {student.pk: student for student in self.students()}
        seated = self.seated
        free = set(self.layout.seats) - {(each.row, each.column) for each in seated if each.student_id in now}
        known = {each.student_id for each in seated}
        missing = [student for pk, student in now.items() if pk not in known]
        if len(missing) > len(free):
            return False
        self.seats.exclude(student__in=now).delete()
        Seat.objects.bulk_create(
            Seat(plan=self, row=row, column=column, student=student)
            for (row, column), student in zip(sorted(free), missing)
        )
        self.give(by)
        return True

    def give(self, by: User) -> None:
        """Order the work of giving forms."""
        self.job = Job.order(GIVING, by, 1, plan=self.pk)
        self.papers = self.printing = None
        self.save(update_fields=["job", "papers", "printing"])

    @transaction.atomic
    def move(self, start: forms.Seat, end: forms.Seat, paper_alone: bool) -> bool:
        """Let a student and their paper change places with whoever sits at the other seat, or go there where nobody
        does; or let two change papers alone. False where nothing can be moved so."""
        SeatPlan.objects.select_for_update().get(pk=self.pk)
        there = {(each.row, each.column): each for each in self.seats.select_for_update()}
        one, other = there.get(start), there.get(end)
        if one is None or start == end or end not in self.layout.seats or (paper_alone and other is None):
            return False
        if paper_alone and other is not None:
            one.form_id, other.form_id = other.form_id, one.form_id
        else:
            # out of the way first: two never sit at one desk
            Seat.objects.filter(pk=one.pk).update(row=None, column=None)
            if other is not None:
                other.row, other.column = start
                other.save(update_fields=["row", "column"])
            one.row, one.column = end
        Seat.objects.bulk_update([one, *([other] if other else [])], ["row", "column", "form"])
        SeatPlan.objects.filter(pk=self.pk).update(papers=None, printing=None)
        return True


class Seat(models.Model):
    """Where a student sits, and which form they have; none before it is given."""

    plan = models.ForeignKey(SeatPlan, on_delete=models.CASCADE, related_name="seats")
    # from 0, the front row first; null only while two change places
    row = models.PositiveSmallIntegerField(null=True)
    column = models.PositiveSmallIntegerField(null=True)
    student = models.ForeignKey(Student, on_delete=models.CASCADE, related_name="+")
    form = models.ForeignKey(Form, on_delete=models.CASCADE, null=True, related_name="+")

    # its number in its row, where that has been counted
    number = 0

    class Meta:
        constraints = [
            models.UniqueConstraint(fields=["plan", "row", "column"], name="one_student_a_seat"),
            models.UniqueConstraint(fields=["plan", "student"], name="one_seat_a_student"),
        ]

    def __str__(self) -> str:
        return f"{self.student} in {self.where}"

    @property
    def where(self) -> str:
        return "" if self.row is None else f"row {self.row + 1}, seat {self.number}"


def written_in(chosen: Iterable[int]) -> dict[int, list[forms.Written]]:
    """What the answers of some forms say, by the form."""
    found: dict[int, list[forms.Written]] = {pk: [] for pk in chosen}
    rows = ItemKey.objects.filter(item__form__in=found).order_by()
    names = ("item__form", "item__position", "item__place", "item__candidate", "parts")
    for form, number, place, candidate, parts in rows.values_list(*names):
        found[form] += [
            forms.Written(number, k, (place, candidate), part["key"], part.get("says", ""))
            for k, part in enumerate(parts)
        ]
    return found
