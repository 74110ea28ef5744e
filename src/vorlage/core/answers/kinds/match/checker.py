"""Pairs to be found; distractors belong to nothing."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from ....algebra import Values
from ....notation import Node, Settings, Text
from ...answer import LETTERS, DrawnAnswer, Offering
from ...chosen import PROVED, REFUTED, Unreadable, is_blank, lettered, place_number, places
from ...spaces import Pairs, Space
from ...verdict import NOTHING, Verdict, of_share, unread

if TYPE_CHECKING:
    from .document import MatchAnswer


class MatchChecker:
    """Pairs to be found; distractors belong to nothing."""

    def __init__(self, answer: MatchAnswer, settings: Settings) -> None:
        self.answer = answer

    def drawn(self, values: Values) -> DrawnMatch:
        """The answer for one draw, its right sides in the document's order."""
        return DrawnMatch(self.answer, tuple(range(len(self.answer.right_sides))))


@dataclass(frozen=True, slots=True)
class DrawnMatch(DrawnAnswer):
    """Pairs whose right sides are shown in an order of their own."""

    answer: MatchAnswer
    order: tuple[int, ...]

    @property
    def offerings(self) -> Mapping[str, Offering]:
        return {"": Offering(len(self.order))}

    def shown_in(self, orders: Mapping[str, tuple[int, ...]]) -> DrawnMatch:
        return replace(self, order=orders[""])

    def space(self) -> Space:
        lefts = len(self.answer.pairs)
        return Pairs(tuple((str(k + 1), k) for k in range(lefts)), lettered(self.order, lefts))

    def right_response(self) -> dict[str, int]:
        """A response that is right."""
        return {str(k + 1): k + 1 for k in self.best}

    @property
    def best(self) -> list[int]:
        """The pairs that earn marks."""
        return [k for k, worth in enumerate(self.answer.worths) if worth > 0]

    def key_tree(self) -> Node:
        """``1 B, 2 A``: the letter of each left side."""
        return Text(", ".join(f"{k + 1} {LETTERS[self.order.index(k)]}" for k in self.best))

    def closeness(self) -> str:
        """How it is counted, in words."""
        return (
            "a share for every pair"
            if not self.answer.cost
            else f"a share for every pair, less {self.answer.cost} for a wrong one"
        )

    def check(self, response: Any) -> Verdict:
        """The verdict for pairs: an object from left to right, or letters in the order of the left sides."""
        if is_blank(response):
            return NOTHING
        try:
            chosen = self.chosen(response)
        except Unreadable as problem:
            return unread(problem)
        pairs = self.answer.pairs
        # two right sides with the same text are the same
        texts = self.answer.right_sides
        found = [left for left, right in chosen.items() if texts[right] == pairs[left].right]
        worths = self.answer.worths
        share = sum((worths[left] for left in found), Fraction(0)) - self.answer.cost * (len(chosen) - len(found))
        reading = ", ".join(f"{left + 1} {LETTERS[self.order.index(right)]}" for left, right in sorted(chosen.items()))
        right = [left for left in found if worths[left] > 0]
        told = () if share == 1 or not right else (f"{len(right)} of {len(self.best)} pairs are right.",)
        certainty = PROVED if share == 1 else REFUTED
        return Verdict(of_share(share), share, reading, told, "pairs found", certainty, tree=Text(reading))

    def chosen(self, response: Any) -> dict[int, int]:
        """The right side chosen for each left side, as places from 0."""
        count, sides = len(self.answer.pairs), len(self.answer.right_sides)
        if isinstance(response, str) and re.search(r"\d\s*[A-Za-z]", response):
            response = dict(re.findall(r"(\d+)\s*[-–:=]?\s*([A-Za-z])", response))
        if isinstance(response, Mapping):
            found = {}
            for left, right in response.items():
                line = place_number(str(left))
                if not 1 <= line <= count:
                    raise Unreadable(f"There is no line {str(left)[:20]}.")
                if named := places([right], self.order, sides):
                    found[line - 1] = named[0]
            return found
        listed = places(response, self.order, sides)
        if len(listed) > count:
            raise Unreadable(f"There are {count} lines to be matched.")
        return dict(enumerate(listed))
