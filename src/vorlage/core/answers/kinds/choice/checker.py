"""One or many options out of several, each with its share."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from ....algebra import Values
from ....notation import Node, Settings, Text
from ...answer import LETTERS, DrawnAnswer, Offering
from ...chosen import PROVED, REFUTED, Unreadable, is_blank, lettered, places
from ...spaces import Options, Space
from ...verdict import NOTHING, Verdict, of_share, unread

if TYPE_CHECKING:
    from .document import ChoiceAnswer


class ChoiceChecker:
    """One or many options out of several, each with its share."""

    def __init__(self, answer: ChoiceAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings

    def drawn(self, values: Values) -> DrawnChoice:
        """The answer for one draw, its options in the document's order."""
        return DrawnChoice(self.answer, tuple(range(len(self.answer.options))))


@dataclass(frozen=True, slots=True)
class DrawnChoice(DrawnAnswer):
    """Options in the order in which they are shown."""

    answer: ChoiceAnswer
    order: tuple[int, ...]

    @property
    def offerings(self) -> Mapping[str, Offering]:
        fixed = frozenset(k for k, option in enumerate(self.answer.options) if option.fixed)
        return {"": Offering(len(self.order), self.answer.shuffle, fixed)}

    def shown_in(self, orders: Mapping[str, tuple[int, ...]]) -> DrawnChoice:
        return replace(self, order=orders[""])

    def space(self) -> Space:
        return Options(lettered(self.order), self.answer.choose == "many")

    @property
    def best(self) -> frozenset[int]:
        """The options that earn marks; of one choice those that earn the most."""
        options = self.answer.options
        most = max(option.share for option in options)
        if self.answer.choose == "one":
            return frozenset(k for k, option in enumerate(options) if option.share == most)
        return frozenset(k for k, option in enumerate(options) if option.share > 0)

    def worth(self, place: int) -> Fraction:
        """What choosing an option earns or costs; of many, a wrong one costs as much as a right one earns."""
        share = self.answer.options[place].share
        return -Fraction(1, len(self.best)) if self.answer.choose == "many" and not share else share

    def right_response(self) -> list[int]:
        """A response that is right."""
        return [k + 1 for k in sorted(self.best)][: 1 if self.answer.choose == "one" else None]

    def letters(self, chosen: Iterable[int]) -> str:
        return ", ".join(sorted(LETTERS[self.order.index(k)] for k in chosen))

    def key_tree(self) -> Node:
        """The letters of the best options, as the paper shows them."""
        between = " or " if self.answer.choose == "one" else ", "
        return Text(self.letters(self.best).replace(", ", between))

    def closeness(self) -> str:
        """How it is counted, in words."""
        return "one option" if self.answer.choose == "one" else "every right option, and no other"

    def check(self, response: Any) -> Verdict:
        """The verdict for the options chosen."""
        if is_blank(response):
            return NOTHING
        options = self.answer.options
        try:
            chosen = list(dict.fromkeys(places(response, self.order, len(options))))
            if self.answer.choose == "one" and len(chosen) > 1:
                raise Unreadable("Choose one option.")
        except Unreadable as problem:
            return unread(problem)
        share = min(Fraction(1), sum(map(self.worth, chosen), Fraction(0)))
        told = tuple(options[k].feedback for k in chosen if options[k].feedback)
        reading = self.letters(chosen)
        certainty = PROVED if share == 1 else REFUTED
        return Verdict(of_share(share), share, reading, told, "the options chosen", certainty, tree=Text(reading))
