"""What a sitting comes to: everybody's marks and totals, on the page and as a table to take away."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from functools import lru_cache

from vorlage.core.answers import shown_marks
from vorlage.core.marking import Total, that_counts
from vorlage.core.notation import Habits, told
from vorlage.core.plans import Boundaries
from vorlage.web.design.tables import Cell
from vorlage.web.sittings.marking import marks_of_all, that_stand, total
from vorlage.web.sittings.models import Mark, Sitting, Taking

from .overview import Asked, asked_in, candidates_at


def as_shown(sitting: Sitting, marks: Fraction) -> Fraction:
    """Marks as the department shows totals: boundaries hold for these."""
    return Fraction(shown_marks(marks, sitting.test.department.rounding))


def boundaries_now(sitting: Sitting) -> Boundaries:
    """The grade boundaries that hold in a sitting: its own, else those of its forms."""
    return Boundaries.of(sitting.changed.get("boundaries") or sitting.form_set.boundaries)


def grade_of(sitting: Sitting, counted: Total) -> str:
    """The grade of a total as it is shown; empty where it earns none."""
    shown = as_shown(sitting, counted.reached)
    return next((each.name for each in boundaries_now(sitting).grades(counted.most) if shown >= each.marks), "")


@dataclass(frozen=True)
class Result:
    """Somebody's result: the attempt that is shown, the marks of each part in the order of the plan, the total that
    counts, and the grade."""

    taking: Taking
    marks: Sequence[Mark | None]
    total: Total
    shown: Fraction
    grade: str


def cells_of(row: Result, habits: Habits) -> list[tuple[str, bool]]:
    """The marks of a row as they are shown, each with whether somebody gave it: a class has thousands, and no template
    is gone through for each."""
    return [
        ("", False) if mark is None else ("waits", False) if mark.outcome == "waiting" else
        (shown_as(mark.marks, habits), mark.by_id is not None)
        for mark in row.marks
    ]  # fmt: skip


@lru_cache(maxsize=4096)
def shown_as(marks: str, habits: Habits) -> str:
    """Marks that are kept exactly, as they are written here."""
    return told(str(shown_marks(Fraction(marks))), habits)


@dataclass(frozen=True)
class Results:
    """Everybody's results in class order, and the parts that stand above them."""

    asked: Sequence[Asked]
    rows: Sequence[Result]


def results_of(sitting: Sitting) -> Results:
    """The results of a sitting."""
    people = marks_of_all(sitting)
    takings = [taking for own, _ in people for taking in own]
    where, asked = candidates_at(sitting, takings), asked_in(sitting)
    rows = []
    for own, marks in people:
        totals = [total(taking, each) for taking, each in zip(own, marks)]
        counted = that_counts(sitting.held.which, totals)
        # of several attempts the one that counts is shown, of a mean the last
        k = next((k for k, each in enumerate(totals) if each == counted), len(own) - 1)
        stand = that_stand(marks[k])
        by_part = {(where.get((own[k].pk, each.position), 0), each.part): each for each in stand}
        found = [by_part.get((each.candidate.pk, each.part)) for each in asked]
        shown = as_shown(sitting, counted.reached)
        rows.append(Result(own[k], found, counted, shown, grade_of(sitting, counted)))
    return Results(asked, sorted(rows, key=lambda row: row.taking.who))


def table_of(sitting: Sitting, named: bool) -> list[list[Cell]]:
    """The results as a table: of every part the marks as exact decimals where they have an end, then what they come to,
    and the total that counts. Without names in an order that tells nothing."""
    found = results_of(sitting)
    graded = any(row.grade for row in found.rows)
    head: list[Cell] = ["Student" if named else "Number", "Form"]
    head += [f"{each.name} {each.title}" for each in found.asked]
    head += ["Reached", "Out of", "Total as shown"] + (["Grade"] if graded else [])
    rows = found.rows if named else sorted(found.rows, key=lambda row: row.taking.receipt)
    table = [head]
    for number, row in enumerate(rows, start=1):
        cells: list[Cell] = [row.taking.who if named else str(number), row.taking.form.code if row.taking.form else ""]
        for mark in row.marks:
            cells.append("" if mark is None else "waits" if mark.outcome == "waiting" else exact(Fraction(mark.marks)))
        cells += [exact(row.total.reached), exact(row.total.most), exact(row.shown)]
        table.append(cells + ([row.grade] if graded else []))
    return table


def exact(marks: Fraction) -> Decimal:
    """Marks as a decimal: exactly where they end within 15 places, else to as many as a spreadsheet holds."""
    found = Decimal(marks.numerator) / Decimal(marks.denominator)
    return Decimal(format(round(found, 12).normalize(), "f"))
