"""Checking ratios."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from ....algebra import Compiled, Values, to_fraction
from ....notation import Node, NotationError, Settings, Text, read_authored
from ...answer import DrawnAnswer, of_field
from ...verdict import NOTHING, RIGHT, WRONG, Verdict, of_share, unread

if TYPE_CHECKING:
    from .document import RatioAnswer


class RatioChecker:
    """A ratio, its two sides read once."""

    def __init__(self, answer: RatioAnswer, settings: Settings) -> None:
        self.answer = answer
        with of_field("key"):
            self.sides = [Compiled(read_authored(side, settings)) for side in answer.key.split(":")]

    def drawn(self, values: Values) -> DrawnRatio:
        first, second = (to_fraction(side.value(values)) for side in self.sides)
        return DrawnRatio(self.answer, first, second)


@dataclass(frozen=True, slots=True)
class DrawnRatio(DrawnAnswer):
    """The ratio of one draw."""

    answer: RatioAnswer
    first: Fraction
    second: Fraction

    @property
    def simplest(self) -> Fraction:
        return self.first / self.second

    def right_response(self) -> str:
        return f"{self.simplest.numerator} : {self.simplest.denominator}"

    def key_tree(self) -> Node:
        return Text(self.right_response())

    def closeness(self) -> str:
        return "in lowest terms" if self.answer.simplest else "in every multiple"

    def check(self, response: Any) -> Verdict:
        text = str(response).strip().strip('"')
        if not text:
            return NOTHING
        sides = [side.strip() for side in text.split(":")]
        if len(sides) != 2 or not all(side.isdecimal() for side in sides) or int(sides[1]) == 0:
            return unread(NotationError("no_ratio", "A ratio is written as 2 : 3."))
        given = Fraction(int(sides[0]), int(sides[1]))
        if given != self.simplest:
            return Verdict(WRONG, reading=text, because="another ratio")
        share = Fraction(1, 2) if self.answer.simplest and int(sides[0]) != given.numerator else Fraction(1)
        told = () if share == 1 else ("Write it in its lowest terms.",)
        return Verdict(of_share(share) if share < 1 else RIGHT, share, text, told, "the same ratio", tree=Text(text))
