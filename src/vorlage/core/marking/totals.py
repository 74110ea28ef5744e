"""What the marks of a student come to."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from fractions import Fraction

from .records import PartMark


@dataclass(frozen=True, slots=True)
class Total:
    """Marks reached out of those that can be reached, both exact, and how many parts wait for somebody."""

    reached: Fraction
    most: Fraction
    waiting: int = 0
    unreadable: int = 0
    # what being late left of them
    kept: Fraction = Fraction(1)

    @property
    def so_far(self) -> bool:
        """Whether more can come."""
        return self.waiting > 0


def total_of(
    marks: Iterable[tuple[PartMark, bool]], maximum: Fraction | None = None, kept: Fraction = Fraction(1)
) -> Total:
    """The total of marks, each with whether it is beyond those of the test: what is beyond adds to what is reached and
    not to what can be reached, and lowers nothing. It is scaled to a maximum where one is set; it is never below 0.
    ``kept`` is the share that lateness leaves.
    """
    reached, most, waiting, unreadable = Fraction(0), Fraction(0), 0, 0
    for mark, beyond in marks:
        reached += max(Fraction(0), mark.marks) if beyond else mark.marks
        most += Fraction(0) if beyond else mark.most
        waiting += mark.waits
        unreadable += mark.outcome == "unreadable"
    reached = max(Fraction(0), reached) * kept
    if maximum is not None and most:
        reached, most = reached * maximum / most, maximum
    return Total(reached, most, waiting, unreadable, kept)
