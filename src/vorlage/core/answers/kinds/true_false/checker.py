"""A statement that is true or false, or a relation between parameters that decides it."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from ....algebra import Condition, Values
from ....notation import Node, NotationError, Settings, Text, names_in, read_authored
from ...answer import DrawnAnswer, of_field
from ...chosen import PROVED, REFUTED, Unreadable, is_blank
from ...spaces import Space, Words
from ...verdict import NOTHING, RIGHT, WRONG, Verdict, unread

if TYPE_CHECKING:
    from .document import TrueFalseAnswer

TRUE = frozenset(["true", "t", "yes", "y", "1", "right", "✓"])
FALSE = frozenset(["false", "f", "no", "n", "0", "wrong", "✗"])


class TrueFalseChecker:
    """A statement that is true or false, or a relation between parameters that decides it."""

    def __init__(self, answer: TrueFalseAnswer, settings: Settings) -> None:
        self.answer = answer
        self.fixed = {"true": True, "false": False}.get(answer.key.strip().lower())
        self.condition: Condition | None = None
        if self.fixed is None:
            with of_field("key"):
                tree = read_authored(answer.key, settings)
                if not names_in(tree) <= settings.names:
                    strange = sorted(names_in(tree) - settings.names)[0]
                    message = f"{strange} is not a parameter of this question."
                    raise NotationError("unknown_name", message, about=strange)
                self.condition = Condition(tree, settings.angle)

    def drawn(self, values: Values) -> DrawnTrueFalse:
        """The answer for one draw."""
        if self.condition is not None:
            return DrawnTrueFalse(self.condition.holds(values))
        return DrawnTrueFalse(bool(self.fixed))


@dataclass(frozen=True, slots=True)
class DrawnTrueFalse(DrawnAnswer):
    """Whether the statement holds in this draw."""

    holds: bool

    def right_response(self) -> str:
        """A response that is right."""
        return "true" if self.holds else "false"

    def space(self) -> Space:
        return Words(("true", "false"))

    def key_tree(self) -> Node:
        """The key as it is printed."""
        return Text("true" if self.holds else "false")

    def closeness(self) -> str:
        """How it is counted, in words."""
        return "true or false"

    def check(self, response: Any) -> Verdict:
        """The verdict for true or false."""
        if is_blank(response):
            return NOTHING
        # as a word is written in line maths, it stands in quotes
        text = str(response).strip().lower().removesuffix(".").strip('"“”')
        if text not in TRUE | FALSE:
            return unread(Unreadable("Answer with true or false."))
        said = text in TRUE
        outcome, certainty = (RIGHT, PROVED) if said == self.holds else (WRONG, REFUTED)
        share = Fraction(outcome == RIGHT)
        shown = Text("true" if said else "false")
        return Verdict(outcome, share, shown.text, (), "true or false", certainty, tree=shown)
