"""The door to the kinds of answer: from a specification to a verdict."""

from __future__ import annotations

import json
from fractions import Fraction
from functools import lru_cache
from typing import Any, Protocol

from pydantic import TypeAdapter, ValidationError

from ..algebra import Compiled, EvaluationError, Value, Values, rational
from ..notation import Node, NotationError, Settings, names_in, read_authored
from .blanks import BlanksChecker
from .chemical import ChemicalChecker
from .choices import ChoiceChecker, MatchChecker, NoMarksChecker, OrderChecker, TrueFalseChecker
from .collection import CollectionChecker
from .complex_number import ComplexChecker
from .conditions import ConditionsChecker
from .equation import EquationChecker
from .formula import FormulaChecker
from .hotspot import HotspotChecker
from .inequality import InequalityChecker
from .limits import check_limits
from .marking import after_retries, better
from .number import NumberChecker
from .quantity import QuantityChecker
from .specification import (
    Answer,
    BlanksAnswer,
    ChemicalAnswer,
    ChoiceAnswer,
    CollectionAnswer,
    ConditionsAnswer,
    EquationAnswer,
    EssayAnswer,
    FormulaAnswer,
    HotspotAnswer,
    InequalityAnswer,
    MatchAnswer,
    NoAnswer,
    NumberAnswer,
    OrderAnswer,
    QuantityAnswer,
    ScaleAnswer,
    Strict,
    TextAnswer,
    TrueFalseAnswer,
    to_share,
)
from .verdict import Verdict
from .words import TextChecker


class DrawnAnswer(Protocol):
    """An answer with the values of one draw."""

    def key_tree(self) -> Node:
        """The key as it is printed."""

    def closeness(self) -> str:
        """What else counts as the key, in words."""

    def check(self, response: Any) -> Verdict:
        """The verdict for what was typed or chosen."""


class Checker(Protocol):
    """An answer specification, its formulas read once."""

    def drawn(self, values: Values) -> DrawnAnswer:
        """The answer for one draw. Raises ``EvaluationError`` when its key has no value there."""


ADAPTER: TypeAdapter[Any] = TypeAdapter(Answer)


def number_checker(answer: NumberAnswer, settings: Settings) -> NumberChecker | ComplexChecker:
    """Numbers are real unless the question says "complex"."""
    return ComplexChecker(answer, settings) if settings.complex else NumberChecker(answer, settings)


# The register: each kind of answer and what checks it.
CHECKERS: dict[type[Strict], Any] = {
    NumberAnswer: number_checker,
    FormulaAnswer: FormulaChecker,
    QuantityAnswer: QuantityChecker,
    EquationAnswer: EquationChecker,
    InequalityAnswer: InequalityChecker,
    CollectionAnswer: CollectionChecker,
    ConditionsAnswer: ConditionsChecker,
    ChemicalAnswer: ChemicalChecker,
    TextAnswer: TextChecker,
    ChoiceAnswer: ChoiceChecker,
    TrueFalseAnswer: TrueFalseChecker,
    MatchAnswer: MatchChecker,
    OrderAnswer: OrderChecker,
    HotspotAnswer: HotspotChecker,
    BlanksAnswer: lambda answer, settings: BlanksChecker(answer, settings, checker_for),
    EssayAnswer: NoMarksChecker,
    ScaleAnswer: NoMarksChecker,
    NoAnswer: NoMarksChecker,
}
# Kinds whose response is not typed.
CHOSEN = frozenset(["choice", "true_false", "match", "order", "blanks", "hotspot"])


def checker_for(answer: Strict, settings: Settings) -> Checker:
    """The checker of an answer specification.

    Raises ``NotationError`` or ``EvaluationError`` when one of its formulas cannot be used.
    """
    check_limits(getattr(answer, "limits", ()), settings)
    checker: Checker = CHECKERS[type(answer)](answer, settings)
    return checker


@lru_cache(maxsize=256)
def batch_checker(answer: str, settings: Settings) -> Any:
    """The checker of an answer given as JSON; a batch asks for the same few again and again."""
    return checker_for(ADAPTER.validate_json(answer), settings)


class CaseError(ValueError):
    """A line of a batch that is not a case."""


def check_case(case: Any) -> Verdict:
    """The verdict for one case of a batch, as ``vorlage check`` reads them.

    Raises ``CaseError`` when it is not a case.
    """
    if not isinstance(case, dict) or "answer" not in case or "response" not in case:
        raise CaseError("A case is an object with an answer and a response.")
    try:
        settings = case_settings(case.get("settings") or {}, case.get("parameters") or {}, case.get("carried") or {})
        values = case_values(case.get("parameters") or {}, settings)
        checker = batch_checker(json.dumps(case["answer"], sort_keys=True), settings)
        drawn = checker.drawn(values)
        carried = case_values(case.get("carried") or {}, settings)
        attempt, cost = case_retries(case)
    except ValidationError as problem:
        first = problem.errors()[0]
        place = ".".join(str(step) for step in first["loc"])
        raise CaseError(f"answer: {place}: {first['msg']}") from problem
    except (NotationError, EvaluationError) as problem:
        raise CaseError(problem.message) from problem
    chosen = isinstance(case["answer"], dict) and case["answer"].get("kind") in CHOSEN
    if not chosen and not isinstance(case["response"], str):
        raise CaseError("The response to this kind of answer is a string.")
    verdict: Verdict = drawn.check(case["response"])
    if carried and verdict.share < 1:
        verdict = better(verdict, with_carried(checker, {**values, **carried}, case["response"]) or verdict)
    return after_retries(verdict, attempt, cost)


def with_carried(checker: Checker, values: Values, response: Any) -> Verdict | None:
    """The verdict against the key that earlier answers lead to; None where there is no such key."""
    try:
        return checker.drawn(values).check(response)
    except EvaluationError:
        return None


def case_retries(case: dict[str, Any]) -> tuple[int, Fraction]:
    """Which attempt a case is, and what each one before it costs."""
    attempt = case.get("attempt", 1)
    if not isinstance(attempt, int) or attempt < 1:
        raise CaseError("attempt is a whole number from 1.")
    try:
        cost = to_share(case.get("retry_cost", "0"))
    except ValueError:
        cost = Fraction(-1)
    if not 0 <= cost <= 1:
        raise CaseError("retry_cost is a share of the marks, such as 1/4.")
    return attempt, cost


def case_settings(given: Any, parameters: Any, carried: Any) -> Settings:
    if not isinstance(given, dict) or not isinstance(parameters, dict) or not isinstance(carried, dict):
        raise CaseError("settings, parameters and carried are objects.")
    mark, angle = given.get("decimal_mark", "point"), given.get("angle", "radians")
    if mark not in {"point", "comma"} or angle not in {"radians", "degrees"}:
        raise CaseError("decimal_mark is point or comma; angle is radians or degrees.")
    return Settings(mark, angle, bool(given.get("complex")), frozenset(map(str, parameters)))


def case_values(parameters: dict[str, Any], settings: Settings) -> Values:
    values: dict[str, Value] = {}
    for name, text in parameters.items():
        if isinstance(text, int):
            values[name] = rational(text)
            continue
        tree = read_authored(str(text), settings)
        values[name] = tree if names_in(tree) else Compiled(tree, settings.angle).value({})
    return values
