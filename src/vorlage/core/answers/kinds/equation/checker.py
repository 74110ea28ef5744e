"""Answers that are an equation."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING

from ....algebra import (
    Certainty,
    EvaluationError,
    Values,
    equations_of,
    everywhere_or_nowhere,
    same_solutions,
    with_values,
)
from ....notation import (
    Name,
    Node,
    NotationError,
    Number,
    Relation,
    Settings,
    Sum,
    line,
    names_in,
    read,
    read_authored,
    walk,
)
from ...answer import DrawnAnswer, Less, of_field
from ...checking import checked
from ...printed import folded
from ...shape import factors_of, terms_of
from ...typed import answerable, plain_answer, with_letters
from ...verdict import NOTHING, PARTLY, RIGHT, UNDECIDED, WRONG, Verdict, of_share, unread

if TYPE_CHECKING:
    from .document import EquationAnswer

PROVED = Certainty("proved")


def read_equation(text: str, settings: Settings, authored: bool = False) -> Node:
    """An equation, or several with “or” between them."""
    tree = read_authored(text, settings) if authored else read(text, settings)
    if equations_of(tree) is None:
        raise NotationError("no_equation", "An equation is asked for here: two sides with = between them.")
    return tree


class EquationChecker:
    """An equation answer, its formulas read once."""

    def __init__(self, answer: EquationAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings
        with of_field("key"):
            self.key = read_equation(answer.key, settings, authored=True)
        with of_field("where"):
            self.where = [read_authored(relation, settings) for relation in answer.where]
        with of_field("slips"):
            self.slips = [read_equation(slip.key, settings, authored=True) for slip in answer.slips]

    def drawn(self, values: Values) -> DrawnEquation:
        """The answer for one draw. Raises ``EvaluationError`` when its key holds everywhere or nowhere: then every
        other such line would be right."""
        key = with_values(self.key, values)
        found = everywhere_or_nowhere(key, self.settings.angle, self.settings.complex)
        if found:
            holds = "for every value" if found == "everywhere" else "for no real value"
            raise EvaluationError("no_key", f"{line(key)} holds {holds}: it cannot be a key.")
        return DrawnEquation(
            self,
            key,
            tuple(with_values(relation, values) for relation in self.where),
            tuple(with_values(slip, values) for slip in self.slips),
        )


@dataclass(frozen=True, slots=True)
class DrawnEquation(DrawnAnswer):
    """An equation answer with the values of one draw."""

    checker: EquationChecker
    key: Node
    where: tuple[Node, ...]
    slips: tuple[Node, ...]

    def key_tree(self) -> Node:
        """The key as it is printed."""
        return folded(self.key)

    def closeness(self) -> str:
        """What else counts as the key, in words."""
        return "every equation with the same solutions"

    def earning_less(self) -> Sequence[Less]:
        slips = zip(self.checker.answer.slips, self.slips)
        return [Less(slip.share, folded(tree), slip.feedback) for slip, tree in slips]

    @checked
    def check(self, response: str) -> Verdict:
        """The verdict for what was typed."""
        if not response.strip():
            return NOTHING
        try:
            tree = answerable(read_equation(plain_answer(response), with_letters(self.checker.settings, self.key)))
        except NotationError as problem:
            return unread(problem)
        reading = line(tree)
        answer = self.checker.answer
        certainty = same_solutions(self.key, tree, self.where, self.checker.settings.angle)
        if certainty.holds:
            lacking = self.lacking(tree)
            if lacking is None:
                return Verdict(RIGHT, Fraction(1), reading, (), "the same solutions", certainty, tree=tree)
            outcome = PARTLY if 0 < answer.share < 1 else of_share(answer.share)
            return Verdict(
                outcome, answer.share, reading, (lacking,), "the form asked for", certainty, "form", tree=tree
            )
        for slip, slip_tree in sorted(zip(answer.slips, self.slips), key=lambda pair: -pair[0].share):
            if same_solutions(slip_tree, tree, self.where, self.checker.settings.angle).holds:
                told = (slip.feedback,) if slip.feedback else ()
                return Verdict(
                    of_share(slip.share), slip.share, reading, told, f"slip {slip.key}", PROVED, "slip", tree=tree
                )
        if certainty.kind == "undecided":
            return replace(UNDECIDED, reading=reading, tree=tree)
        strange = sorted(names_in(tree) - names_in(self.key))
        told = (f"The letter {strange[0]} does not belong in this equation.",) if strange else ()
        return Verdict(WRONG, Fraction(0), reading, told, "other solutions", certainty, tree=tree)

    def lacking(self, tree: Node) -> str | None:
        """What is missing to be in the form asked for."""
        answer = self.checker.answer
        if not isinstance(tree, Relation):
            plain = not answer.subject and answer.form == "any"
            return None if plain else "These are the right solutions, but one equation is asked for."
        if answer.subject and not has_subject(tree, answer.subject):
            return f"These are the right solutions, but {answer.subject} does not stand alone on one side."
        if answer.form == "slope_intercept" and not is_slope_intercept(tree):
            return "These are the right solutions, but not in the form y = m x + c."
        if answer.form == "standard" and not is_standard(tree):
            return "These are the right solutions, but not in the form a x + b y = c with whole numbers."
        return None


def has_subject(tree: Relation, subject: str) -> bool:
    left, right = tree.terms
    alone = Name(subject)
    return (left == alone and subject not in names_in(right)) or (right == alone and subject not in names_in(left))


def is_slope_intercept(tree: Relation) -> bool:
    left, right = tree.terms
    if not isinstance(left, Name) or left.name in names_in(right):
        return False
    terms = terms_of(right)
    return len(terms) <= 2 and not any(isinstance(node, Sum) for term in terms for node in walk(term))


def is_standard(tree: Relation) -> bool:
    """a x + b y = c (or = 0), whole numbers, each letter once."""
    left, right = tree.terms
    if names_in(right):
        return False
    seen: set[str] = set()
    for term in terms_of(left):
        for factor in factors_of(term):
            if isinstance(factor, Number):
                if factor.form != "integer":
                    return False
            elif isinstance(factor, Name) and factor.name not in seen:
                seen.add(factor.name)
            else:
                return False
    return bool(seen)
