"""Answers that are a formula."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING

from ....algebra import Certainty, Comparison, EvaluationError, Values, equal_up_to, equivalent, has_values, with_values
from ....notation import (
    AUTHOR_FUNCTIONS,
    Call,
    Collection,
    Interval,
    Logic,
    Matrix,
    Node,
    NotationError,
    PlusMinus,
    Relation,
    Settings,
    Text,
    line,
    names_in,
    read,
    read_authored,
    walk,
)
from ...answer import DrawnAnswer, Less, of_field
from ...checking import checked
from ...printed import folded
from ...shape import FORMS, lacking_form
from ...typed import answerable, plain_value_answer, with_letters, without_name
from ...verdict import NOTHING, PARTLY, RIGHT, WRONG, Verdict, of_share, unread

if TYPE_CHECKING:
    from .document import FormulaAnswer

NOT_FORMULAS = (Relation, Logic, PlusMinus, Collection, Matrix, Interval, Text)

# A formula by cases is an answer; a derivative still to be taken is none.
WORKED_OUT = AUTHOR_FUNCTIONS - {"if"}

UP_TO_WORDS = {"constant": "an added constant", "multiple": "a factor", "sign": "the sign"}


class FormulaChecker:
    """A formula answer, its formulas read once."""

    def __init__(self, answer: FormulaAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings
        with of_field("key"):
            self.key = read_authored(answer.key, settings)
            if isinstance(self.key, NOT_FORMULAS):
                message = "The key of a formula answer is a single formula."
                raise NotationError("no_formula", message, 0, len(answer.key))
        with of_field("where"):
            self.where = [read_authored(relation, settings) for relation in answer.where]
        with of_field("slips"):
            self.slips = [read_authored(slip.key, settings) for slip in answer.slips]

    def drawn(self, values: Values) -> DrawnFormula:
        """The answer for one draw. Raises ``EvaluationError`` when its key cannot be worked out, or has no value."""
        key = with_values(self.key, values)
        where = tuple(with_values(relation, values) for relation in self.where)
        if not self.settings.complex and not has_values(key, where, self.settings.angle):
            raise EvaluationError("no_key", f"{line(key)} has no real value anywhere: it cannot be a key.")
        return DrawnFormula(
            self,
            key,
            where,
            tuple(with_values(slip, values) for slip in self.slips),
        )


@dataclass(frozen=True, slots=True)
class DrawnFormula(DrawnAnswer):
    """A formula answer with the values of one draw."""

    checker: FormulaChecker
    key: Node
    where: tuple[Node, ...]
    slips: tuple[Node, ...]

    @property
    def worth(self) -> Node:
        return self.key

    def key_tree(self) -> Node:
        """The key as it is printed: its numbers worked out, where it keeps the form asked for."""
        printed, form = folded(self.key), self.checker.answer.form
        return printed if lacking_form(printed, self.key, form) is None else self.key

    def closeness(self) -> str:
        """What else counts as the key, in words."""
        form, up_to = self.checker.answer.form, self.checker.answer.up_to
        words = FORMS[form].said if form in FORMS else "any equal formula"
        if form == "as_key":
            words = "this form, terms in any order"
        return f"{words}, up to {UP_TO_WORDS[up_to]}" if up_to else words

    def earning_less(self) -> Sequence[Less]:
        slips = zip(self.checker.answer.slips, self.slips)
        return [Less(slip.share, folded(tree), slip.feedback) for slip, tree in slips]

    @checked
    def check(self, response: str) -> Verdict:
        """The verdict for what was typed."""
        if not response.strip():
            return NOTHING
        try:
            tree = self.formula(read(plain_value_answer(response), self.letters(response)))
        except NotationError as problem:
            return unread(problem)
        return replace(self.judged(tree), value=tree)

    def letters(self, response: str) -> Settings:
        """How a response is read: the letters of the key are letters of the question."""
        if "_" not in response:
            return self.checker.settings
        return with_letters(self.checker.settings, self.key)

    def formula(self, tree: Node) -> Node:
        """The formula in the response: ``y = 2x + 1`` answers with its right side when y is not in the key."""
        tree = answerable(without_name(tree, self.key))
        if isinstance(tree, NOT_FORMULAS):
            raise NotationError("no_formula", "One formula is asked for here, without a relation sign or a list.")
        for node in walk(tree):
            if isinstance(node, Call) and node.function in WORKED_OUT:
                raise NotationError("not_allowed", f"Work this out: {node.function}(…) cannot be part of an answer.")
        return tree

    def compare(self, key: Node, response: Node) -> Certainty:
        angle, up_to = self.checker.settings.angle, self.checker.answer.up_to
        if up_to is not None:
            return equal_up_to(Comparison(key, response, self.where, angle), up_to)
        return equivalent(key, response, self.where, angle)

    def judged(self, tree: Node) -> Verdict:
        reading = line(tree)
        answer = self.checker.answer
        certainty = self.compare(self.key, tree)
        if certainty.holds:
            lacking = lacking_form(tree, self.key, answer.form)
            if lacking is None:
                return Verdict(RIGHT, Fraction(1), reading, (), "equal to the key", certainty, tree=tree)
            outcome = PARTLY if 0 < answer.share < 1 else of_share(answer.share)
            return Verdict(
                outcome, answer.share, reading, (lacking,), f"form {answer.form}", certainty, "form", tree=tree
            )
        slips = sorted(zip(answer.slips, self.slips), key=lambda pair: -pair[0].share)
        for slip, slip_tree in slips:
            try:
                agreed = self.compare(slip_tree, tree)
            except EvaluationError:
                continue
            if agreed.holds:
                told = (slip.feedback,) if slip.feedback else ()
                return Verdict(
                    of_share(slip.share), slip.share, reading, told, f"slip {slip.key}", agreed, "slip", tree=tree
                )
        return Verdict(
            WRONG,
            Fraction(0),
            reading,
            self.strange_letters(tree),
            "not equal to the key",
            certainty,
            tree=tree,
        )

    def strange_letters(self, tree: Node) -> tuple[str, ...]:
        """Letters that have no business in the answer are named."""
        strange = sorted(names_in(tree) - names_in(self.key))
        if not strange or self.checker.answer.up_to == "constant":
            return ()
        if len(strange) == 1:
            return (f"The letter {strange[0]} does not belong in this answer.",)
        return (f"The letters {', '.join(strange)} do not belong in this answer.",)
