"""Grade boundaries of a test: from which share of the marks on, or from how many, a grade is given."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from typing import Any

# What boundaries can be told in, and what it is called; the first is what is usual.
TOLD_IN: Mapping[str, str] = {"share": "per cent of the marks", "marks": "marks"}


@dataclass(frozen=True, slots=True)
class Grade:
    """A grade with the least total that earns it: the marks, and their share of all, both exact."""

    name: str
    marks: Fraction
    share: Fraction


@dataclass(frozen=True, slots=True)
class Boundaries:
    """The grades of a test from the best on, each with its least, in per cent or in marks. They hold for the total as
    it is told, scaled where it is scaled."""

    told_in: str = "share"
    least: tuple[tuple[str, Decimal], ...] = ()

    @classmethod
    def of(cls, kept: Mapping[str, Any]) -> Boundaries:
        """What ``kept`` gave; nothing kept is no boundaries."""
        return cls(kept.get("told_in", "share"), tuple((name, Decimal(least)) for name, least in kept.get("least", [])))

    @property
    def kept(self) -> dict[str, Any]:
        if not self.least:
            return {}
        return {"told_in": self.told_in, "least": [[name, str(least)] for name, least in self.least]}

    def grades(self, total: Fraction) -> Sequence[Grade]:
        """The grades of a test that has so many marks.

        >>> [str(each.marks) for each in Boundaries("share", (("merit", Decimal("62.5")),)).grades(Fraction(20))]
        ['25/2']
        """
        if self.told_in == "marks":
            return [Grade(name, Fraction(least), Fraction(least) / total if total else Fraction(0))
                    for name, least in self.least]  # fmt: skip
        return [Grade(name, Fraction(least) / 100 * total, Fraction(least) / 100) for name, least in self.least]

    def wrong(self, total: Fraction) -> dict[int, str]:
        """Why boundaries cannot stand, by their numbers from 0."""
        found = dict[int, str]()
        most = Fraction(100) if self.told_in == "share" else total
        for number, (_, least) in enumerate(self.least):
            if not 0 <= least <= most:
                what = "per cent" if self.told_in == "share" else "marks of this test"
                found[number] = f"From 0 to {float(most):g} {what}."
            elif number and least >= self.least[number - 1][1]:
                before, above = self.least[number - 1]
                found[number] = f"It has to be less than {above}, where {before} begins."
        return found
