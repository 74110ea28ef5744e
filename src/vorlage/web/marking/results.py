"""What a sitting comes to: everybody's marks and totals, on the page and as a table to take away."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction

from django.db.models import prefetch_related_objects
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from vorlage.core.answers import shown_marks, told_marks
from vorlage.core.marking import Counting, Total, earned, share_of, sum_of, that_counts
from vorlage.core.notation import Habits
from vorlage.core.plans import Boundaries
from vorlage.web.design.tables import Cell
from vorlage.web.sittings.marking import marks_of_all, that_stand, total_standing
from vorlage.web.sittings.models import AnyMark, Sitting, Taking

from .overview import Asked, asked_in, candidates_at


def as_shown(sitting: Sitting, marks: Fraction) -> Fraction:
    """Marks as the department shows totals: boundaries hold for these."""
    return Fraction(shown_marks(marks, sitting.test.department.rounding))


def boundaries_now(sitting: Sitting) -> Boundaries:
    """The grade boundaries that hold in a sitting: its own, else those of its forms."""
    return Boundaries.of(sitting.changed.get("boundaries") or sitting.form_set.boundaries)


def lines_in(sitting: Sitting, most: Fraction) -> list[Fraction]:
    """The marks at which a grade begins or one has passed, out of so many."""
    rules = sitting.held
    found = [each.marks for each in boundaries_now(sitting).grades(most)]
    found += [rules.pass_marks] if rules.pass_marks is not None else []
    return found + ([rules.pass_share * most] if rules.pass_share is not None else [])


def near_a_line(sitting: Sitting, within: Fraction) -> set[int] | None:
    """The attempts of whose person the total is so near a boundary or passing, as a share of what can be reached; None
    where there is neither."""
    found, there = set[int](), False
    for row in results_of(sitting).rows:
        lines = lines_in(sitting, row.total.most)
        there = there or bool(lines)
        if any(abs(row.shown - line) <= within * row.total.most for line in lines):
            found |= {each.taking.pk for each in row.attempts}
    return found if there else None


def grade_of(sitting: Sitting, counted: Total) -> str:
    """The grade of a total as it is shown; empty where it earns none."""
    shown = as_shown(sitting, counted.reached)
    return next((each.name for each in boundaries_now(sitting).grades(counted.most) if shown >= each.marks), "")


@dataclass(frozen=True)
class Attempt:
    """A marked attempt: the marks of each part in the order of the plan, and what they come to."""

    taking: Taking
    marks: Sequence[AnyMark | None]
    total: Total


@dataclass(frozen=True)
class Result:
    """Somebody's result: their attempts, the one of them that is shown, the total that counts, and the grade."""

    attempts: Sequence[Attempt]
    that_shows: Attempt
    total: Total
    shown: Fraction
    grade: str

    @property
    def taking(self) -> Taking:
        return self.that_shows.taking

    @property
    def marks(self) -> Sequence[AnyMark | None]:
        return self.that_shows.marks


class Told(dict[Fraction, str]):
    """Marks as they are written here: a class has thousands, and few that differ."""

    def __init__(self, habits: Habits) -> None:
        super().__init__()
        self.habits = habits

    def __missing__(self, marks: Fraction) -> str:
        words = self[marks] = escape(told_marks(marks, self.habits))
        return words


def cells_of(row: Result, told: Told) -> SafeString:
    """The marks of a row as cells, those that somebody gave with a star; no template is gone through for each."""
    return mark_safe("".join(cell_of(mark, told) for mark in row.marks))


def cell_of(mark: AnyMark | None, told: Told) -> str:
    if mark is None:
        return "<td></td>"
    words = "waits" if mark.outcome == "waiting" else told[mark.held.marks]
    star = "" if mark.by_id is None or mark.outcome == "waiting" else '<span class="quiet">*</span>'
    return f'<td class="number">{words}{star}</td>'


def sum_cells_of(sums: Sequence[tuple[Fraction, Fraction] | None], told: Told) -> SafeString:
    """What was reached of what, as cells; empty ones where there is nothing."""
    words = [f"{told[each[0]]} of {told[each[1]]}" if each else "" for each in sums]
    return mark_safe("".join(f'<td class="number">{each}</td>' for each in words))


@dataclass(frozen=True)
class Results:
    """Everybody's results in class order, and the parts that stand above them."""

    asked: Sequence[Asked]
    rows: Sequence[Result]


def results_of(sitting: Sitting) -> Results:
    """The results of a sitting."""
    people = marks_of_all(sitting)
    takings = [taking for own, _ in people for taking in own]
    prefetch_related_objects(takings, "form")
    where, asked = candidates_at(sitting, takings), asked_in(sitting)
    rows = []
    for own, marks in people:
        attempts = []
        for taking, each in zip(own, marks):
            stand = that_stand(each)
            at = {(where.get((taking.pk, mark.position), 0), mark.part): mark for mark in stand}
            placed = [at.get((one.candidate.pk, one.part)) for one in asked]
            attempts.append(Attempt(taking, placed, total_standing(taking, stand)))
        counted = that_counts(sitting.held.which, [each.total for each in attempts])
        # of several attempts the one that counts is shown, of a mean the last
        among = attempts[::-1] if sitting.held.which == "latest" else attempts
        shows = next((each for each in among if share_of(each.total) == share_of(counted)), attempts[-1])
        rows.append(Result(attempts, shows, counted, as_shown(sitting, counted.reached), grade_of(sitting, counted)))
    return Results(asked, sorted(rows, key=lambda row: row.taking.who))


@dataclass(frozen=True)
class Line:
    """An attempt as a row of the table: what each part earns in the total, and what is left out of their sum."""

    number: int
    row: Result
    attempt: Attempt
    marks: Sequence[Fraction | str]

    @classmethod
    def of(cls, number: int, row: Result, attempt: Attempt, counting: Counting) -> Line:
        found: list[Fraction | str] = []
        for mark in attempt.marks:
            waits = mark is not None and mark.outcome == "waiting"
            found.append("" if mark is None else "waits" if waits else earned(mark.held, counting).marks)
        return cls(number, row, attempt, found)

    @property
    def left_out(self) -> Fraction:
        """What the weakest questions, a stop or a cap take from the sum of the marks, or give back to it."""
        return self.attempt.total.counted - sum_of(each for each in self.marks if isinstance(each, Fraction))


def table_of(sitting: Sitting, found: Results, named: bool) -> list[list[Cell]]:
    """The results as a table from which every total can be worked out again: of each part the marks as exact decimals
    where they have an end, what is left out of their sum, the share that lateness leaves, and what they are scaled to,
    as far as there is any of it. Where the mean of several attempts counts, each has a row. Without names in an order
    that tells nothing.

    Reached = Marks × Kept when late × Out of / Of, and Marks = the sum of the parts + Left out.
    """
    mean = sitting.held.which == "mean"
    rows = found.rows if named else sorted(found.rows, key=lambda row: row.taking.receipt)
    lines = [
        Line.of(number, row, attempt, sitting.counted_by)
        for number, row in enumerate(rows, start=1)
        for attempt in (row.attempts if mean else [row.that_shows])
    ]
    totals = [line.attempt.total for line in lines]
    columns: list[tuple[str, bool, Callable[[Line], Cell]]] = [
        ("Student" if named else "Number", True, lambda line: line.row.taking.who if named else str(line.number)),
        ("Attempt", mean, lambda line: Decimal(line.attempt.taking.attempt)),
        ("Form", True, lambda line: line.attempt.taking.form.code if line.attempt.taking.form else ""),
        *((f"{each.name} {each.title}", True, part_cell(k)) for k, each in enumerate(found.asked)),
        ("Left out", any(line.left_out for line in lines), lambda line: exact(line.left_out)),
        ("Marks", True, lambda line: exact(line.attempt.total.counted)),
        ("Of", True, lambda line: exact(line.attempt.total.out_of)),
        ("Kept when late", any(each.kept != 1 for each in totals), lambda line: exact(line.attempt.total.kept)),
        ("Reached", True, lambda line: exact(line.attempt.total.reached)),
        ("Out of", True, lambda line: exact(line.attempt.total.most)),
        ("Mean", mean, lambda line: exact(line.row.total.reached)),
        ("Total as shown", True, lambda line: exact(line.row.shown)),
        ("Grade", any(row.grade for row in rows), lambda line: line.row.grade),
    ]
    kept = [(name, cell) for name, there, cell in columns if there]
    return [[name for name, _ in kept], *([cell(line) for _, cell in kept] for line in lines)]


def part_cell(k: int) -> Callable[[Line], Cell]:
    def cell(line: Line) -> Cell:
        marks = line.marks[k]
        return marks if isinstance(marks, str) else exact(marks)

    return cell


def exact(marks: Fraction) -> Decimal:
    """Marks as a decimal: exactly where they end within 12 places, else as a spreadsheet holds them, so that thirds add
    up to a whole there."""
    found = Decimal(marks.numerator) / Decimal(marks.denominator)
    short = round(found, 12)
    return Decimal(format(short.normalize(), "f")) if Fraction(short) == marks else Decimal(repr(float(marks)))
