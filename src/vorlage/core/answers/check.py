"""The door to the kinds of answer: from a specification to a verdict."""

from __future__ import annotations

import json
from functools import lru_cache
from typing import Any

from pydantic import TypeAdapter, ValidationError

from ..algebra import Compiled, EvaluationError, Value, Values, rational
from ..notation import NotationError, Settings, names_in, read
from .chemical import ChemicalChecker
from .collection import CollectionChecker
from .complex_number import ComplexChecker
from .equation import EquationChecker
from .formula import DrawnFormula, FormulaChecker
from .inequality import InequalityChecker
from .number import DrawnNumber, NumberChecker
from .quantity import QuantityChecker
from .specification import (
    AnyAnswer,
    ChemicalAnswer,
    CollectionAnswer,
    EquationAnswer,
    FormulaAnswer,
    InequalityAnswer,
    NumberAnswer,
    QuantityAnswer,
    Strict,
    TextAnswer,
)
from .verdict import Verdict
from .words import TextChecker

# What a question document holds so far.
Checker = NumberChecker | FormulaChecker
DrawnAnswer = DrawnNumber | DrawnFormula
ADAPTER: TypeAdapter[Any] = TypeAdapter(AnyAnswer)


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
    ChemicalAnswer: ChemicalChecker,
    TextAnswer: TextChecker,
}


def checker_for(answer: NumberAnswer | FormulaAnswer, settings: Settings) -> Checker:
    """The checker of an answer specification.

    Raises ``NotationError`` or ``EvaluationError`` when one of its formulas cannot be used.
    """
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
        settings = case_settings(case.get("settings") or {}, case.get("parameters") or {})
        values = case_values(case.get("parameters") or {}, settings)
        drawn = batch_checker(json.dumps(case["answer"], sort_keys=True), settings).drawn(values)
    except ValidationError as problem:
        first = problem.errors()[0]
        place = ".".join(str(step) for step in first["loc"])
        raise CaseError(f"answer: {place}: {first['msg']}") from problem
    except (NotationError, EvaluationError) as problem:
        raise CaseError(problem.message) from problem
    if not isinstance(case["response"], str):
        raise CaseError("The response to this kind of answer is a string.")
    verdict: Verdict = drawn.check(case["response"])
    return verdict


def case_settings(given: Any, parameters: Any) -> Settings:
    if not isinstance(given, dict) or not isinstance(parameters, dict):
        raise CaseError("settings and parameters are objects.")
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
        tree = read(str(text), settings)
        values[name] = tree if names_in(tree) else Compiled(tree, settings.angle).value({})
    return values
