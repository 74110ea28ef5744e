"""What stands at the head of papers, and whose they are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..plans import Boundaries, Grade, Plan
from .look import Look

USUAL_LOOK, NO_BOUNDARIES = Look(), Boundaries()


@dataclass(frozen=True, slots=True)
class Emblem:
    """The mark of a school: the hash of its picture, which is so many points wide and high."""

    digest: str
    width: int
    height: int
    school: str


@dataclass(frozen=True, slots=True)
class Heading:
    """What stands at the top of every paper of a form set."""

    title: str
    department: str = ""
    instructions: str = ""
    # the number by which the code on each page names the set; without one there are no codes
    form_set: int | None = None
    look: Look = USUAL_LOOK
    boundaries: Boundaries = NO_BOUNDARIES
    # what the marks are scaled to when they are added up
    maximum: Fraction | None = None
    # the mark of the school
    emblem: Emblem | None = None

    def total(self, plan: Plan) -> Fraction:
        """What all marks of a test are told as when they are added up."""
        return plan.marks if self.maximum is None else self.maximum

    def grades(self, plan: Plan) -> Sequence[Grade]:
        return self.boundaries.grades(self.total(plan))


@dataclass(frozen=True, slots=True)
class Holder:
    """Whose a paper is, where it is printed for somebody."""

    # the number by which the code on each page names them
    student: int
    name: str
    school_class: str = ""
    # where they sit
    seat: str = ""
