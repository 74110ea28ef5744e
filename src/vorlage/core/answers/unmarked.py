"""Answers that no machine marks: information, a scale, what is written at length."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from ..algebra import Values
from ..notation import Node, Text
from .answer import DrawnAnswer
from .chosen import is_blank
from .spaces import Space
from .verdict import NOTHING, RIGHT, WAITING, Verdict


@dataclass(frozen=True, slots=True)
class DrawnUnmarked(DrawnAnswer):
    """Nothing that the machine marks, the same in every draw; it checks itself as well.

    ``in_key`` stands in the key, ``counted`` says how it counts, ``laid`` is its space; ``by_hand`` says whether a
    person marks it.
    """

    in_key: str
    counted: str
    laid: Space
    by_hand: bool = False

    def drawn(self, values: Values) -> DrawnUnmarked:
        """The same in every draw."""
        return self

    def key_tree(self) -> Node:
        return Text(self.in_key)

    def closeness(self) -> str:
        return self.counted

    def right_response(self) -> None:
        """Nothing is right here by itself."""
        return None

    def space(self) -> Space:
        return self.laid

    def check(self, response: Any) -> Verdict:
        """Nothing is right or wrong here."""
        if is_blank(response):
            return NOTHING
        reading = str(response)[:200]
        if self.by_hand:
            return Verdict(WAITING, reading=reading, because="to be marked by hand")
        return Verdict(RIGHT, Fraction(1), reading, because="no marks are given here", code="no_marks")
