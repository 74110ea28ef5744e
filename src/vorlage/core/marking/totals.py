"""What the marks of a student come to."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from math import lcm
from typing import Any, NamedTuple

from .records import PartMark

# Where shares below nothing stop: at the part, at the question, or at the test.
STOPS = ("part", "question", "test")
# What is no answer, and earns no credit for taking part.
NO_ANSWER = frozenset({"blank", "unreadable"})


@dataclass(frozen=True, slots=True)
class Counting:
    """How marks are counted together in one sitting."""

    stop: str = "part"
    # the share of a question's marks that any readable answer earns; being right earns the rest
    taking_part: Fraction = Fraction(0)
    # so many questions, the weakest of each student, are left out
    drop: int = 0
    # whether what is beyond the test never lifts a total above what can be reached
    cap: bool = False
    # what the total is scaled to; None as the test says
    maximum: Fraction | None = None

    @classmethod
    def of(cls, kept: Mapping[str, Any]) -> Counting:
        """What ``kept`` gave."""
        usual = cls()
        maximum = kept.get("maximum")
        return cls(
            kept.get("stop", usual.stop), Fraction(kept.get("taking_part", 0)), int(kept.get("drop", 0)),
            bool(kept.get("cap", False)), None if maximum is None else Fraction(maximum),
        )  # fmt: skip

    @property
    def kept(self) -> dict[str, Any]:
        """As plain data, what is usual left out."""
        usual = Counting()
        values = {
            "stop": self.stop, "taking_part": str(self.taking_part), "drop": self.drop, "cap": self.cap,
            "maximum": None if self.maximum is None else str(self.maximum),
        }  # fmt: skip
        return {name: value for name, value in values.items() if getattr(self, name) != getattr(usual, name)}


USUAL_COUNTING = Counting()


class Counted(NamedTuple):
    """A mark in a total: whether it is beyond those of the test, and which question it belongs to."""

    mark: PartMark
    beyond: bool = False
    place: int = 0


@dataclass(frozen=True, slots=True)
class Total:
    """Marks reached out of those that can be reached, both exact, and how many parts wait for somebody."""

    reached: Fraction
    most: Fraction
    waiting: int = 0
    unreadable: int = 0
    # what being late left of them
    kept: Fraction = Fraction(1)
    # what the marks themselves come to, before lateness and before they are scaled, out of how many
    counted: Fraction = Fraction(0)
    out_of: Fraction = Fraction(0)

    @property
    def so_far(self) -> bool:
        """Whether more can come."""
        return self.waiting > 0


def total_of(
    marks: Iterable[tuple[PartMark, bool] | tuple[PartMark, bool, int]], maximum: Fraction | None = None,
    kept: Fraction = Fraction(1), counting: Counting = USUAL_COUNTING,
) -> Total:  # fmt: skip
    """The total of marks, each as ``Counted`` has it: what is beyond adds to what is reached and not to what can be
    reached, and lowers nothing. It is scaled to a maximum where one is set; it is never below 0. ``kept`` is the share
    that lateness leaves.
    """
    questions: dict[tuple[bool, int], list[PartMark]] = {}
    waiting, unreadable = 0, 0
    for each in marks:
        mark, beyond, place = Counted(*each)
        questions.setdefault((beyond, place), []).append(earned(mark, counting))
        waiting += mark.waits
        unreadable += mark.outcome == "unreadable"
    counted = [of_question(own, beyond, counting) for (beyond, _), own in questions.items()]
    within = without_weakest([found for found, (beyond, _) in zip(counted, questions) if not beyond], counting.drop)
    further = sum_of(reached for (reached, _), (beyond, _) in zip(counted, questions) if beyond)
    reached = sum_of(each for each, _ in within) + further
    most = sum_of(each for _, each in within)
    if counting.cap:
        reached = min(reached, most)
    counted_marks, out_of = max(Fraction(0), reached), most
    reached = counted_marks * kept
    maximum = counting.maximum if counting.maximum is not None else maximum
    if maximum is not None and most:
        reached, most = reached * maximum / most, maximum
    return Total(reached, most, waiting, unreadable, kept, counted_marks, out_of)


def earned(mark: PartMark, counting: Counting) -> PartMark:
    """A mark with what taking part earns in it, stopped at nothing where parts do."""
    marks = mark.marks
    if counting.taking_part and mark.outcome not in NO_ANSWER and not mark.waits:
        credit = counting.taking_part
        marks = credit * mark.most + (1 - credit) * max(Fraction(0), marks)
    if counting.stop == "part" and marks.numerator < 0:
        marks = Fraction(0)
    return mark if marks is mark.marks or marks == mark.marks else replace(mark, marks=marks)


def of_question(marks: Sequence[PartMark], beyond: bool, counting: Counting) -> tuple[Fraction, Fraction]:
    """What a question comes to, and what it can; what is beyond the test lowers nothing."""
    reached, most = (
        (marks[0].marks, marks[0].most)
        if len(marks) == 1
        else (sum_of(each.marks for each in marks), sum_of(each.most for each in marks))
    )
    if beyond or counting.stop == "question":
        reached = max(Fraction(0), reached)
    return reached, most


def sum_of(marks: Iterable[Fraction]) -> Fraction:
    """All of them together, exactly: over one denominator, since a class has thousands.

    >>> sum_of([Fraction(1, 2), Fraction(1, 3)]), sum_of([])
    (Fraction(5, 6), Fraction(0, 1))
    """
    found = list(marks)
    if len(found) < 2:
        return found[0] if found else Fraction(0)
    over = lcm(*(each.denominator for each in found))
    return Fraction(sum(each.numerator * (over // each.denominator) for each in found), over)


def without_weakest(questions: Sequence[tuple[Fraction, Fraction]], count: int) -> list[tuple[Fraction, Fraction]]:
    """Questions without so many of the weakest: those with the least share, of equal ones those worth most; one always
    stays."""
    if not count:
        return list(questions)
    worth = [each for each in questions if each[1] > 0]
    left_out = sorted(range(len(worth)), key=lambda k: (worth[k][0] / worth[k][1], -worth[k][1], k))
    gone = set(left_out[: min(count, max(0, len(worth) - 1))])
    return [each for each in questions if each[1] <= 0] + [each for k, each in enumerate(worth) if k not in gone]
