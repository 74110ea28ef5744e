"""How a class did, for its students: no more than cannot be told of one of them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from .totals import Total

# Of fewer than so many nothing is said, and while more may come they are counted by as many.
FEWEST = 5


@dataclass(frozen=True, slots=True)
class ClassResult:
    """How many have a total, their mean, and between what the middle half of them is; marks out of ``most``."""

    count: int
    mean: Fraction
    low: Fraction
    high: Fraction
    most: Fraction


def class_result(totals: Sequence[Total]) -> ClassResult | None:
    """How those with these totals did; None where they are too few. Where forms can reach different marks, as large a
    share of what the first can reach."""
    if len(totals) < FEWEST or not all(each.most for each in totals):
        return None
    most = totals[0].most
    reached = sorted(each.reached / each.most * most for each in totals)
    quarter = len(reached) // 4
    mean = sum(reached, Fraction(0)) / len(reached)
    return ClassResult(len(reached), mean, reached[quarter], reached[-1 - quarter], most)
