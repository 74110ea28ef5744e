"""Answers that are a set of real numbers, given by relations or intervals; or one inequality in several letters."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction
from typing import TYPE_CHECKING

from ....algebra import (
    Certainty,
    Described,
    EvaluationError,
    NoRealSet,
    NotRational,
    RationalReader,
    Values,
    described,
    holds_at,
    same_set,
    separating,
    telling_apart,
    with_values,
)
from ....notation import (
    Collection,
    Interval,
    Logic,
    Name,
    Neg,
    Node,
    NotationError,
    Relation,
    Settings,
    Sum,
    line,
    names_in,
    read,
    read_authored,
)
from ...answer import DrawnAnswer, of_field
from ...checking import checked
from ...printed import folded
from ...typed import answerable, in_signs, plain_answer
from ...verdict import NOTHING, RIGHT, UNDECIDED, WRONG, Verdict, of_share, unread

if TYPE_CHECKING:
    from .document import InequalityAnswer

PROVED, REFUTED = Certainty("proved"), Certainty("refuted")
TURNED = {"<": ">", ">": "<", "≤": "≥", "≥": "≤", "≠": "≠", "=": "="}


def read_statement(text: str, settings: Settings, authored: bool = False) -> Node:
    try:
        tree = read_authored(text, settings) if authored else read(text, settings)
    except NotationError as problem:
        if problem.code == "comma":
            raise NotationError("comma", "Join the relations with “and” or “or”.", problem.place) from None
        raise
    if isinstance(tree, Relation | Logic | Interval | Collection):
        return tree
    raise NotationError("no_statement", "An inequality or an interval is asked for here, such as 1 < x <= 3 or (1, 3].")


class InequalityChecker:
    """An inequality or interval answer, its statements read once."""

    def __init__(self, answer: InequalityAnswer, settings: Settings) -> None:
        self.answer = answer
        self.settings = settings
        with of_field("key"):
            self.key = read_statement(answer.key, settings, authored=True)
        with of_field("slips"):
            self.slips = [read_statement(slip.key, settings, authored=True) for slip in answer.slips]

    def drawn(self, values: Values) -> DrawnInequality:
        """The answer for one draw. Raises ``EvaluationError`` when the key's set cannot be worked out."""
        key = with_values(self.key, values)
        several = len(names_in(key)) > 1
        wanted = None if several else described(key, self.settings.angle)
        if several and not same_in_several(key, key):
            raise NoRealSet
        return DrawnInequality(self, key, wanted, tuple(with_values(slip, values) for slip in self.slips))


@dataclass(frozen=True, slots=True)
class DrawnInequality(DrawnAnswer):
    """An inequality answer with the values of one draw."""

    checker: InequalityChecker
    key: Node
    # None when the key speaks of several letters
    wanted: Described | None
    slips: tuple[Node, ...]

    def key_tree(self) -> Node:
        """The key as it is printed."""
        return folded(self.key)

    def closeness(self) -> str:
        """What else counts as the key, in words."""
        return "every way to write the same set"

    @checked
    def check(self, response: str) -> Verdict:
        """The verdict for what was typed."""
        if not response.strip():
            return NOTHING
        try:
            tree = answerable(read_statement(in_signs(plain_answer(response)), self.checker.settings))
        except NotationError as problem:
            return unread(problem)
        reading = line(tree)
        try:
            certainty, feedback = self.compare(tree)
        except EvaluationError as problem:
            return unread(problem, "its set is unknown", reading=reading, tree=tree)
        same = certainty.holds
        if same and self.checker.answer.form == "solved" and not is_solved(tree):
            share = self.checker.answer.share
            lacking = ("This is the same set, but the letter does not stand alone.",)
            return Verdict(of_share(share), share, reading, lacking, "form solved", certainty, "form", tree=tree)
        if same:
            return Verdict(RIGHT, Fraction(1), reading, (), "the same set", certainty, tree=tree)
        for slip, slip_tree in sorted(zip(self.checker.answer.slips, self.slips), key=lambda pair: -pair[0].share):
            matched = self.compare(tree, slip_tree)[0]
            if matched.holds:
                told = (slip.feedback,) if slip.feedback else ()
                return Verdict(
                    of_share(slip.share), slip.share, reading, told, f"slip {slip.key}", matched, "slip", tree=tree
                )
        if certainty.kind == "undecided":
            return replace(UNDECIDED, reading=reading, tree=tree)
        return Verdict(WRONG, Fraction(0), reading, feedback, "another set", certainty, tree=tree)

    def compare(self, tree: Node, key: Node | None = None) -> tuple[Certainty, tuple[str, ...]]:
        """Whether a statement describes the key's set, and what is close."""
        angle = self.checker.settings.angle
        if self.wanted is None:
            if same_in_several(key or self.key, tree):
                return PROVED, ()
            return telling_apart(key or self.key, tree, angle) or Certainty("undecided"), ()
        if isinstance(tree, Relation) and "=" in tree.signs and len(tree.signs) > 1:
            raise NoRealSet
        wanted = self.wanted if key is None else described(key, angle)
        allowed = names_in(self.key)
        if allowed and names_in(tree) - allowed:
            return REFUTED, (f"The letter {sorted(names_in(tree) - allowed)[0]} does not belong in this answer.",)
        given = described(tree, angle)
        exact = wanted.exact and given.exact
        if same_set(wanted.numbers, given.numbers):
            ends = sum((piece.low is not None) + (piece.high is not None) for piece in wanted.numbers)
            return PROVED if exact else Certainty("agrees", ends), ()
        found = separating(wanted.numbers, given.numbers)
        if found is None:
            return Certainty("undecided"), ()
        place, of_key, of_response = found
        name = next(iter(names_in(key or self.key) | names_in(tree)), "x")
        near = same_set(wanted.numbers, given.numbers, ends_matter=False)
        if not exact and not near:
            # what was found by searching counts where the statements themselves confirm it; where the ends are the
            # same and only one of the sets has them, the sets are not one, wherever the ends are exactly
            of_key = holds_at(key or self.key, wanted.numbers, name, place, angle)
            of_response = holds_at(tree, given.numbers, name, place, angle)
        if of_key is of_response:
            return Certainty("undecided"), ()
        told = ("Check whether the ends belong to it.",) if near else ()
        return Certainty("refuted", 0, ((name, place),), *map(words, (of_key, of_response))), told


def words(holds: bool) -> str:
    return "holds" if holds else "does not hold"


def is_solved(tree: Node) -> bool:
    """Whether a letter stands alone in every relation: ``x > 3``, ``2 <= x < 5``, an interval, ``x in [1, 2]``."""
    if isinstance(tree, Logic):
        return all(map(is_solved, tree.terms))
    if isinstance(tree, Relation):
        return all(isinstance(term, Name) or not names_in(term) for term in tree.terms)
    return True


def same_in_several(key: Node, response: Node) -> bool:
    """One inequality in several letters: the same up to a positive factor."""
    if not isinstance(key, Relation) or not isinstance(response, Relation):
        raise NoRealSet("One inequality is asked for here.")
    if len(key.signs) != 1 or len(response.signs) != 1:
        raise NoRealSet("One inequality is asked for here.")
    first, second = (Sum((tree.terms[0], Neg(tree.terms[1]))) for tree in (key, response))
    reader = RationalReader(sorted(names_in(first) | names_in(second)))
    try:
        a, b = reader.of(first).reduced(), reader.of(second).reduced()
    except NotRational:
        raise NoRealSet("In several letters only sums, products and quotients can be compared.") from None
    if not a.bottom.is_constant() or not b.bottom.is_constant() or a.top.is_zero() or b.top.is_zero():
        raise NoRealSet("This holds everywhere or nowhere, or divides by a letter.")
    a_content, b_content = a.top.content(), b.top.content()
    one, other = a.top / a_content, b.top / b_content
    if one == other:
        return key.signs == response.signs
    return bool(one == -other) and (TURNED.get(key.signs[0]),) == response.signs
