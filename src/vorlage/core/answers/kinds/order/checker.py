"""Items to be put in order."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import pairwise
from typing import TYPE_CHECKING, Any

from ....algebra import Values
from ....notation import Node, Settings, Text
from ...answer import LETTERS, DrawnAnswer, Offering
from ...chosen import PROVED, REFUTED, Unreadable, is_blank, lettered, places
from ...spaces import Items, Space
from ...verdict import NOTHING, PARTLY, RIGHT, WRONG, Verdict, unread

if TYPE_CHECKING:
    from .document import OrderAnswer


class OrderChecker:
    """Items to be put in order."""

    def __init__(self, answer: OrderAnswer, settings: Settings) -> None:
        self.answer = answer

    def drawn(self, values: Values) -> DrawnOrder:
        """The answer for one draw, its items in the document's order."""
        return DrawnOrder(self.answer, tuple(range(len(self.answer.items))))


@dataclass(frozen=True, slots=True)
class DrawnOrder(DrawnAnswer):
    """Items in the order in which they are shown."""

    answer: OrderAnswer
    order: tuple[int, ...]

    @property
    def offerings(self) -> Mapping[str, Offering]:
        return {"": Offering(len(self.order), never_as_written=True)}

    def shown_in(self, orders: Mapping[str, tuple[int, ...]]) -> DrawnOrder:
        return replace(self, order=orders[""])

    def space(self) -> Space:
        return Items(lettered(self.order))

    def right_response(self) -> list[int]:
        """A response that is right."""
        return [k + 1 for k in range(len(self.answer.items))]

    def key_tree(self) -> Node:
        """The letters in the right order."""
        return Text(", ".join(LETTERS[self.order.index(k)] for k in range(len(self.answer.items))))

    def closeness(self) -> str:
        """How it is counted, in words."""
        return "the longest part in order" if self.answer.score == "run" else "every item in its place"

    def check(self, response: Any) -> Verdict:
        """The verdict for an order of all items."""
        if is_blank(response):
            return NOTHING
        count = len(self.answer.items)
        try:
            chosen = places(response, self.order, count)
            if sorted(chosen) != list(range(count)):
                raise Unreadable(f"Name each of the {count} letters once, in order.")
        except Unreadable as problem:
            return unread(problem)
        if self.answer.score == "run":
            # n items have n - 1 neighbours: a run of one is nothing
            share = Fraction(longest_run(chosen) - 1, count - 1)
        else:
            share = Fraction(sum(place == k for k, place in enumerate(chosen)), count)
        reading = ", ".join(LETTERS[self.order.index(k)] for k in chosen)
        outcome = RIGHT if share == 1 else PARTLY if share else WRONG
        certainty = PROVED if share == 1 else REFUTED
        return Verdict(outcome, share, reading, (), self.closeness(), certainty, tree=Text(reading))


def longest_run(chosen: list[int]) -> int:
    """The length of the longest stretch of items that follow each other as they should.

    >>> longest_run([2, 0, 1, 3])
    2
    """
    longest = length = 1
    for before, after in pairwise(chosen):
        length = length + 1 if after == before + 1 else 1
        longest = max(longest, length)
    return longest
