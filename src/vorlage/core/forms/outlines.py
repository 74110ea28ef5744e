"""What is decided about forms before they are drawn, proved and printed."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from .items import MadeItem

# A place, which of its questions, and the number of a draw.
Drawn = tuple[int, int, int]


@dataclass(frozen=True, slots=True)
class Chosen:
    """A question of a form: the place, which of the place's questions, and the draw.

    ``slot`` is its number in the order of the plan, whatever order the form has.
    """

    place: int
    candidate: int
    draw: int
    slot: int

    @property
    def drawn(self) -> Drawn:
        """What was drawn, wherever it stands."""
        return self.place, self.candidate, self.draw


@dataclass(frozen=True, slots=True)
class Basis:
    """What a set that follows another has from it.

    ``kept`` says, by the number of a form and of the question in the order of the plan, what has to stay: the key of
    the question, and the draw. ``avoided`` are draws that must not come again, by the key of their question.
    ``like`` is number work that every form is to have as much of, in place of the mean of all.
    """

    kept: Mapping[tuple[int, int], tuple[str, int]] = field(default_factory=dict)
    avoided: Mapping[str, frozenset[int]] = field(default_factory=dict)
    like: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Evenness:
    """The number work of every form, and how far forms are apart.

    ``forms`` has a row a form, by ``COMPONENTS``; ``scale`` is the standard deviation of each over forms that are made
    as it comes, 0 for what never differs. ``spread`` is the largest range over the forms of any component in units of
    its scale, ``before`` the median of the same over random sets; ``limit`` and ``place`` say which component it is
    and the draws of which place differ in it most (-1 for none).
    """

    forms: tuple[tuple[float, ...], ...] = ()
    scale: tuple[float, ...] = ()
    spread: float = 0.0
    before: float = 0.0
    limit: str = ""
    place: int = -1


@dataclass(frozen=True, slots=True)
class Outlines:
    """The questions and draws of all forms of a set, each form in the order of its paper."""

    forms: tuple[tuple[Chosen, ...], ...]
    evenness: Evenness = field(default_factory=Evenness)
    # the places whose questions have fewer draws than there are forms
    repeats: tuple[int, ...] = ()
    # the parts, by the number of the place, of which two forms share the answer
    shared: Mapping[int, tuple[int, ...]] = field(default_factory=dict)
    # what was made of draws already, as they were looked through
    made: Mapping[Drawn, MadeItem] = field(default_factory=dict, compare=False, repr=False)

    def made_for(self, forms: Iterable[int]) -> dict[Drawn, MadeItem]:
        """What is made already for some of the forms, by their numbers."""
        wanted = {each.drawn for number in forms for each in self.forms[number]}
        return {drawn: self.made[drawn] for drawn in wanted if drawn in self.made}
