"""Answers that have to meet conditions: any number, or any few numbers, for which the relations hold.

A relation speaks of ``r``, which is each number that was typed, or of ``r1``, ``r2``, …, which are the numbers in
whatever order meets most.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from itertools import permutations
from typing import TYPE_CHECKING

from ....algebra import (
    Certainty,
    Compiled,
    Condition,
    EvaluationError,
    Exact,
    Value,
    Values,
    compare,
    value_tree,
)
from ....notation import (
    Collection,
    Logic,
    Neg,
    Node,
    NotationError,
    Product,
    Relation,
    Settings,
    Sum,
    authored,
    line,
    names_in,
    read,
    read_authored,
    rebuild,
    substitute,
    tidy,
)
from ...answer import DrawnAnswer, of_field
from ...checking import checked
from ...shape import shape
from ...typed import answerable, plain_number, without_name
from ...verdict import NOTHING, PARTLY, RIGHT, WRONG, Verdict, unread
from ..collection import worked_out

if TYPE_CHECKING:
    from .document import ConditionsAnswer

PROVED, REFUTED = Certainty("proved"), Certainty("refuted")
EACH = "r"
REMAINDER = re.compile(r"mod\(([^(),]+), ([^(),]+)\)")
SHAPES: dict[str, type[Node]] = {"product": Product, "sum": Sum}


class ConditionsChecker:
    """An answer that has to meet conditions, its relations read once."""

    def __init__(self, answer: ConditionsAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings
        self.numbered = [f"{EACH}_{k}" for k in range(1, answer.count + 1)]
        asked = replace(authored(settings), names=settings.names | {EACH, *self.numbered})
        with of_field("relations"):
            self.relations = self.read_relations(asked)
        with of_field("key"):
            self.example = read_items(answer.key, authored(settings))

    def read_relations(self, asked: Settings) -> list[Node]:
        """The relations, each of which compares two things and speaks of nothing unknown."""
        answer, settings = self.answer, self.settings
        relations = [read_authored(each.relation, asked) for each in answer.relations]
        for each, tree in zip(answer.relations, relations):
            if not isinstance(tree, Relation | Logic):
                message = "A condition compares two things, such as r mod 7 = 0 or 20 < r < 40."
                raise NotationError("no_relation", message, 0, len(each.relation))
            strange = sorted(names_in(tree) - settings.names - {EACH, *self.numbered})
            if strange:
                raise NotationError("unknown_name", f"{strange[0]} is no parameter: the answer is called {EACH} here.")
        return relations

    def drawn(self, values: Values) -> DrawnConditions:
        """The answer for one draw. Raises ``EvaluationError`` when the example does not meet the conditions."""
        named = {name: value_tree(value) for name, value in values.items()}
        drawn = DrawnConditions(self, values, tuple(worked_pieces(substitute(tree, named)) for tree in self.example))
        items = [Compiled(tree, self.settings.angle).value({}) for tree in drawn.example]
        verdict = drawn.judged(drawn.example, items)
        if verdict.outcome != RIGHT:
            unmet = verdict.feedback[0] if verdict.feedback else "It does not meet the conditions."
            raise EvaluationError("no_key", f"The example {line(drawn.key_tree())} is no answer here. {unmet}")
        return drawn


def read_items(text: str, settings: Settings) -> tuple[Node, ...]:
    """The numbers of an answer, one or a list of them."""
    tree = without_name(answerable(read(plain_number(text, settings), replace(settings, lists=True))))
    if isinstance(tree, Collection) and tree.kind in {"list", "set", "point"}:
        return tree.items
    if isinstance(tree, Logic):
        return tree.terms
    return (tree,)


@dataclass(frozen=True, slots=True)
class DrawnConditions(DrawnAnswer):
    """The conditions with the values of one draw."""

    takes_numbers = True

    checker: ConditionsChecker
    values: Values
    example: tuple[Node, ...]

    def key_tree(self) -> Node:
        """An example of what meets the conditions."""
        shown = self.example
        if self.checker.answer.form == "any":
            shown = tuple(map(worked_out, shown))
        return shown[0] if len(shown) == 1 else Collection("list", shown)

    def closeness(self) -> str:
        """The conditions, in words."""
        answer = self.checker.answer
        asked = "any answer"
        if answer.count > 1:
            values = "values" if answer.form == "any" else f"{answer.form}s"
            asked = f"any {answer.count} {'different ' if answer.different else ''}{values}"
        elif answer.form != "any":
            asked = f"any {answer.form}"
        return f"{asked} with " + "; ".join(map(self.said, self.checker.relations))

    def said(self, relation: Node) -> str:
        """A relation with the values of the draw, as it was typed: ``r mod 7 = 0``, ``r1 < 5``."""
        named = {name: value_tree(value) for name, value in self.values.items()}
        text = line(tidy(substitute(relation, named))).replace(f"{EACH}_", EACH)
        return REMAINDER.sub(r"\1 mod \2", text)

    @checked
    def check(self, response: str) -> Verdict:
        """The verdict for what was typed."""
        if not response.strip():
            return NOTHING
        settings, answer = self.checker.settings, self.checker.answer
        try:
            items = read_items(response, settings)
            if len(items) > answer.count:
                asked = "One value is" if answer.count == 1 else f"{answer.count} values are"
                raise NotationError("too_many", f"{asked} asked for here.")
            values = [Compiled(tree, settings.angle).value({}) for tree in items]
        except (NotationError, EvaluationError) as problem:
            return unread(problem)
        tree = items[0] if len(items) == 1 else Collection("list", items)
        return replace(self.judged(items, values), reading=line(tree), tree=tree)

    def judged(self, items: Sequence[Node], values: Sequence[Exact]) -> Verdict:
        """What numbers earn, by the relations that they meet or, of several numbers, each by itself."""
        answer = self.checker.answer
        joint = [k for k, tree in enumerate(self.checker.relations) if names_in(tree) & set(self.checker.numbered)]
        told: list[str] = []
        good = [self.is_good(k, items, values, told) for k in range(len(items))]
        if answer.count > 1 and not joint:
            share = Fraction(sum(good), answer.count)
        else:
            met = self.met(values)
            for each, holds in zip(answer.relations, met):
                if not holds and each.feedback:
                    told.append(each.feedback)
            shares = answer.shares
            share = sum((part for part, holds in zip(shares, met) if holds), Fraction(0))
            if not all(good) or len(items) < answer.count:
                share = min(
                    share, Fraction(sum(self.well_written(k, items, values) for k in range(len(items))), answer.count)
                )
        if len(items) < answer.count:
            told.append(f"{answer.count} values are asked for.")
        told += [self.unmet(values)] if share < 1 and not told else []
        outcome = RIGHT if share == 1 else PARTLY if share > 0 else WRONG
        certainty = PROVED if share == 1 else REFUTED
        return Verdict(outcome, share, "", tuple(dict.fromkeys(told)), "the conditions that are met", certainty)

    def is_good(self, place: int, items: Sequence[Node], values: Sequence[Exact], told: list[str]) -> bool:
        """Whether one number meets every condition that speaks of it alone, is written as asked, and is new."""
        answer = self.checker.answer
        good = self.well_written(place, items, values)
        if not self.has_form(items[place]):
            told.append(f"Each value is asked for as a {answer.form}.")
        elif not good:
            told.append("The same answer stands here twice.")
        for each, tree in zip(answer.relations, self.checker.relations):
            if names_in(tree) & set(self.checker.numbered):
                continue
            if not self.holds(tree, {EACH: values[place]}):
                good = False
                if each.feedback and answer.count > 1:
                    told.append(each.feedback)
        return good

    def well_written(self, place: int, items: Sequence[Node], values: Sequence[Exact]) -> bool:
        answer = self.checker.answer
        if not self.has_form(items[place]):
            return False
        return not answer.different or not any(self.alike(place, k, items, values) for k in range(place))

    def has_form(self, item: Node) -> bool:
        """Whether a number is written as asked, a sign before it apart."""
        return isinstance(item.operand if isinstance(item, Neg) else item, SHAPES.get(self.checker.answer.form, Node))

    def alike(self, place: int, other: int, items: Sequence[Node], values: Sequence[Exact]) -> bool:
        """Whether two numbers are one answer: the same value, or of products and sums the same up to order."""
        if self.checker.answer.form == "any":
            return compare(values[place], values[other]) == 0
        return shape(items[place]) == shape(items[other])

    def met(self, values: Sequence[Exact]) -> list[bool]:
        """Which relations hold, the numbers being in the order in which they earn most."""
        numbered = self.checker.numbered
        shares = self.checker.answer.shares
        best: list[bool] = []
        for order in permutations(values) if any(map(self.is_joint, self.checker.relations)) else [tuple(values)]:
            named: dict[str, Value] = dict(zip(numbered, order))
            found = []
            for tree in self.checker.relations:
                if self.is_joint(tree):
                    found.append(names_in(tree) & set(numbered) <= named.keys() and self.holds(tree, named))
                else:
                    found.append(all(self.holds(tree, {EACH: value}) for value in values))
            worth = sum((share for share, holds in zip(shares, found) if holds), Fraction(0))
            if not best or worth > sum((share for share, holds in zip(shares, best) if holds), Fraction(0)):
                best = found
        return best

    def is_joint(self, tree: Node) -> bool:
        return bool(names_in(tree) & set(self.checker.numbered))

    def unmet(self, values: Sequence[Exact]) -> str:
        """The first condition that is not met, in signs."""
        for tree, holds in zip(self.checker.relations, self.met(values)):
            if not holds:
                return f"This has to hold: {self.said(tree)}."
        return "Not every condition is met."

    def holds(self, tree: Node, named: dict[str, Value]) -> bool:
        try:
            return Condition(tree, self.checker.settings.angle).holds({**self.values, **named})
        except EvaluationError:
            # a value for which the condition says nothing, such as a remainder of a fraction
            return False


def worked_pieces(tree: Node) -> Node:
    """An example with its factors, or its terms, as figures: ``2*(6k)`` is written 2*12 where k is 2."""
    return rebuild(tree, worked_out) if isinstance(tree, Product | Sum) else tree
