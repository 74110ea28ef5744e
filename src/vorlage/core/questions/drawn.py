"""A question with the values of one draw: its answers, what stands in its texts, and what a response is worth."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from math import isclose
from typing import Any

from flint import fmpq

from ..algebra import EvaluationError, Real, Value, approximate
from ..answers import LINE, DrawnAnswer, Offering, Space, Verdict, carried_on
from ..budget import at
from ..draws import (
    Draw,
    Shown,
    Stream,
    readable,
    shown_value,
    to_decimals,
)
from ..figures import DrawnFigure
from ..notation import (
    Call,
    Drawn,
    Logic,
    Name,
    Node,
    Number,
    Quantity,
    Relation,
    line,
    names_in,
    rebuild,
    substitute,
    tidy,
    told,
    unsigned,
)
from ..text import WORKED_OUT, QuestionText
from .question import CompiledQuestion


@dataclass
class DrawnQuestion:
    """A question with the values of one draw."""

    question: CompiledQuestion
    draw: Draw
    # what the order of options is drawn with
    key: bytes = b""
    # the orders of options, by what they were drawn as: drawn when first asked for
    orders: dict[str, tuple[int, ...]] = field(default_factory=dict)
    # why a part's key has no value in this draw
    failures: dict[int, str] = field(default_factory=dict)
    # the answers that later parts use, by their names
    worked: dict[str, Value] = field(default_factory=dict)
    # what stands in the texts to be worked out, worked out, and why it cannot be
    computations: dict[Node, Value | EvaluationError] = field(default_factory=dict)
    # spans with the values in them, by the tree's identity, which stays as long as the question
    spans: dict[tuple[int, int | None], Node] = field(default_factory=dict)

    @property
    def values(self) -> Mapping[str, Value]:
        return self.draw.values

    @cached_property
    def shown_values(self) -> dict[str, Node]:
        """The tree that shows each parameter, as its row asks."""
        shown = self.question.shown
        return {name: shown_value(value, shown.get(name, Shown())) for name, value in self.values.items()}

    @cached_property
    def told_apart(self) -> dict[str, object]:
        """What tells each value from others; to compare rationals takes longer than their digits."""
        return {name: str(value) if isinstance(value, fmpq) else (value,) for name, value in self.values.items()}

    @cached_property
    def answers(self) -> list[DrawnAnswer | None]:
        """The answer of each part; None, with the reason in ``failures``, where it has no value."""
        drawn: list[DrawnAnswer | None] = []
        for k, checker in enumerate(self.question.checkers):
            at("parts", k, "answer", "key")
            try:
                answer = None if checker is None else checker.drawn({**self.values, **self.worked})
            except EvaluationError as problem:
                self.failures[k] = problem.message
                answer = None
            if answer is not None and answer.offerings:
                offerings = answer.offerings.items()
                answer = answer.shown_in({name: self.order_of(f"options {k}{name}", each) for name, each in offerings})
            drawn.append(answer)
            name = self.question.given[k]
            if name and answer is not None and answer.worth is not None:
                self.worked[name] = answer.worth
        return drawn

    @property
    def all_orders(self) -> Mapping[str, tuple[int, ...]]:
        """The order of everything that is offered, by what it was drawn as; orders are drawn with the answers."""
        return self.orders if self.answers else {}

    def order_of(self, name: str, offering: Offering) -> tuple[int, ...]:
        """The order in which options, right sides or items are shown in this draw, the same for ever."""
        if name not in self.orders:
            self.orders[name] = self.drawn_order(name, offering)
        return self.orders[name]

    def drawn_order(self, name: str, offering: Offering) -> tuple[int, ...]:
        if not offering.shuffled:
            return tuple(range(offering.count))
        stream = Stream(self.key, self.draw.number, name)
        free = [k for k in range(offering.count) if k not in offering.fixed]
        mixed = list(free)
        for last in range(len(mixed) - 1, 0, -1):
            other = stream.below(last + 1)
            mixed[last], mixed[other] = mixed[other], mixed[last]
        if offering.never_as_written and mixed == free:
            mixed = [*mixed[1:], mixed[0]]
        places = dict(zip(free, mixed))
        return tuple(places.get(k, k) for k in range(offering.count))

    def laid(self, part: int) -> Space | None:
        """As ``space``, without the answer's value where a line is laid in every draw: printing a thousand papers needs
        no key."""
        return LINE if self.question.document.parts[part].answer.on_a_line else self.space(part)

    def space(self, part: int) -> Space | None:
        """What is laid before the student for a part; None where its answer has no value in this draw."""
        answer = self.answers[part]
        return None if answer is None else answer.space()

    def offered(self, part: int) -> list[tuple[str, QuestionText]]:
        """What a part offers, as it is shown: options and items with their letters; of pairs the left sides
        with their numbers, then the right sides with their letters."""
        space, texts = self.laid(part), self.question.options[part]
        return [(label, texts[place]) for label, place in (space.entries if space is not None else ())]

    def in_gaps(self, part: int) -> list[list[QuestionText]]:
        """What can be chosen in each gap of a part's text, in the order shown; nothing where one types."""
        if self.question.document.parts[part].answer.gaps_in_text is None:
            return []
        answer, texts = self.answers[part], self.question.options[part]
        return [[texts[place] for _, place in gap] for gap in answer.in_gaps()] if answer is not None else []

    def check(self, responses: Sequence[Any]) -> list[Verdict | None]:
        """The verdict for each part, in order; None for a part whose key has no value in this draw."""
        verdicts: list[Verdict | None] = []
        typed: dict[str, Value] = {}
        for k, response in enumerate(responses):
            verdict = self.verdict(k, response, typed)
            verdicts.append(verdict)
            name = self.question.given[k]
            if name and verdict is not None and verdict.value is not None:
                typed[name] = verdict.value
        return verdicts

    def verdict(self, part: int, response: Any, earlier: Mapping[str, Value] | None = None) -> Verdict | None:
        """The verdict for a part, with what its author says to everybody with that outcome; None where its key has no
        value in this draw.

        A part that uses the answer of an earlier one is checked against its key and against the key that the student's
        own earlier answers (``earlier``, by the names that they give) lead to; the better one counts.
        """
        answer, checker = self.answer_as_typed(part), self.question.checkers_as_typed[part]
        if answer is None or checker is None:
            return None
        verdict = answer.check(response)
        if earlier and self.question.uses[part] & earlier.keys():
            verdict = carried_on(verdict, checker, {**self.values, **self.worked, **earlier}, response)
        habits = self.question.habits
        if habits.rewrites:
            feedback = tuple(told(each, habits) for each in verdict.feedback)
            because, ambiguity = told(verdict.because, habits), told(verdict.ambiguity, habits)
            verdict = replace(verdict, feedback=feedback, because=because, ambiguity=ambiguity)
        said = self.question.document.parts[part].feedback.of(verdict.outcome)
        return replace(verdict, feedback=(*verdict.feedback, said)) if said else verdict

    def answer_as_typed(self, part: int) -> DrawnAnswer | None:
        """The answer of a part, which reads what is typed by the habits of the question's readers."""
        answer, checker = self.answers[part], self.question.checkers_as_typed[part]
        if answer is None or checker is self.question.checkers[part] or checker is None:
            return answer
        typed = checker.drawn({**self.values, **self.worked})
        if typed.offerings:
            offerings = typed.offerings.items()
            typed = typed.shown_in({name: self.order_of(f"options {part}{name}", each) for name, each in offerings})
        return typed

    def key_tree(self, part: int) -> Node | None:
        """The key of a part as it is printed."""
        answer = self.answers[part]
        return None if answer is None else answer.key_tree()

    def shown(self, tree: Node, solves: int | None = None) -> Node:
        """A maths span with this draw's values in it; in the solution of a part, ``solves``, earlier answers are
        values as well.

        A parameter that stands alone brings its unit; what only authors write is worked out.
        """
        if (id(tree), solves) not in self.spans:
            self.spans[id(tree), solves] = self.with_values(tree, solves)
        return self.spans[id(tree), solves]

    def with_values(self, tree: Node, solves: int | None) -> Node:
        values = self.shown_values if solves is None else self.known_before(solves)
        if isinstance(tree, Name) and self.question.units.get(tree.name) and tree.name in values:
            return Quantity(Drawn(values[tree.name], tree.name), self.question.units[tree.name])
        if solves is not None:
            tree = self.about(tree, solves)
        return tidy(substitute(self.computed(tree, solves), values, mark=True))

    def about(self, tree: Node, solves: int) -> Node:
        """A span of a worked solution in which what is only about equal does not stand as equal: a value worked out
        there that is printed rounded."""
        if isinstance(tree, Logic):
            return rebuild(tree, lambda term: self.about(term, solves))
        if not isinstance(tree, Relation):
            return tree
        signs = tuple(
            "≈" if sign == "=" and self.is_rounded(term, solves) else sign
            for sign, term in zip(tree.signs, tree.terms[1:])
        )
        return tree if signs == tree.signs else replace(tree, signs=signs)

    def is_rounded(self, term: Node, solves: int) -> bool:
        """Whether a term is worked out and printed with fewer figures than it has."""
        if not isinstance(term, Call) or term.function != "value":
            return False
        inner = term.arguments[0]
        value, printed = self.computation(inner), unsigned(self.worth(inner, solves))
        if isinstance(value, str | Node | EvaluationError) or not isinstance(printed, Number):
            return False
        size = abs(value) if isinstance(value, fmpq) else None
        return size is None or (int(size.p), int(size.q)) != printed.value.as_integer_ratio()

    def known_before(self, part: int) -> dict[str, Node]:
        """What stands for each name in the solution of a part: parameters, and the answers of the parts before."""
        earlier = [(name, self.key_tree(k)) for k, name in enumerate(self.question.given[: part + 1]) if name]
        found = {name: tree.amount if isinstance(tree, Quantity) else tree for name, tree in earlier if tree}
        return {**self.shown_values, **found}

    def computed(self, node: Node, solves: int | None = None) -> Node:
        """The tree with everything worked out that only authors write: ``value(…)``, ``expand(…)``, ``mean(…)``."""
        if isinstance(node, Call) and node.function in WORKED_OUT:
            inner = node.arguments[0] if node.function == "value" else node
            return Drawn(self.worth(inner, solves), node.function)
        if isinstance(node, Call) and node.function == "if" and names_in(node) <= self.values.keys():
            return Drawn(self.worth(node, solves), node.function)
        return rebuild(node, lambda inner: self.computed(inner, solves))

    def worth(self, tree: Node, solves: int | None = None) -> Node:
        """What shows the value of a formula; the formula itself where it has none."""
        if isinstance(tree, Name) and tree.name in self.shown_values:
            return self.shown_values[tree.name]
        value = self.computation(tree)
        if isinstance(value, EvaluationError):
            return tree
        return readable(value) if solves is None else self.worked_value(value, solves)

    def computation(self, tree: Node) -> Value | EvaluationError:
        """The value of a formula in this draw, or why it has none."""
        if tree not in self.computations:
            known: Mapping[str, Value] = self.values
            if any(self.question.given) and self.answers:
                known = {**self.values, **self.worked}
            try:
                found: Value | EvaluationError = self.question.computation(tree).value(known)
            except EvaluationError as problem:
                found = problem
            self.computations[tree] = found
        return self.computations[tree]

    def not_worked_out(self, text: QuestionText) -> list[tuple[str, str]]:
        """What stands in a text to be worked out and cannot be in this draw: the formula, and why."""
        found = []
        at(*self.question.paths.get(id(text), ()))
        for node in text.to_be_worked_out:
            worth = self.computation(node.arguments[0] if node.function == "value" else node)
            if isinstance(worth, EvaluationError):
                found.append((line(node), worth.message))
        return found

    def worked_value(self, value: Value, part: int) -> Node:
        """A value in the worked solution of a part: the key as the key is printed, another number with a figure more
        than the key has where the key is rounded."""
        answer = self.answers[part]
        number = None if answer is None else answer.number
        if number is None or isinstance(value, str | Node):
            return readable(value)
        key = number.key_tree()
        if is_the_same(value, number.key):
            return key
        figures = unsigned(key)
        if isinstance(figures, Number) and number.tolerance.mode != "exact":
            return to_decimals(value, 1 + figures.significant_figures)
        return readable(value)

    @cached_property
    def figures(self) -> dict[str, DrawnFigure | EvaluationError]:
        """Every figure with this draw's values, or why it cannot be drawn."""
        drawn: dict[str, DrawnFigure | EvaluationError] = {}
        for k, (name, figure) in enumerate(self.question.figures.items()):
            at("figures", k, "lines")
            try:
                drawn[name] = figure.drawn(self.values, self.shown, self.question.style)
            except EvaluationError as problem:
                drawn[name] = problem
        return drawn


def is_the_same(one: fmpq | Real, other: fmpq | Real) -> bool:
    """Whether two values are one, as far as anybody reads them."""
    if isinstance(one, fmpq) and isinstance(other, fmpq):
        return bool(one == other)
    return isclose(approximate(one), approximate(other), rel_tol=1e-12)
