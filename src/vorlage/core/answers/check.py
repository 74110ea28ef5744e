"""Cases of a batch: an answer, the values of a draw and a response give a verdict."""

from __future__ import annotations

import json
from fractions import Fraction
from functools import lru_cache
from typing import Any

from pydantic import TypeAdapter, ValidationError

from ..algebra import Compiled, EvaluationError, Value, Values, rational
from ..errors import CoreError
from ..notation import NotationError, Settings, names_in, read_authored
from .answer import Answer, Checker
from .kinds import AnyAnswer
from .marking import after_retries, carried_on
from .records import to_share
from .verdict import Verdict

ADAPTER: TypeAdapter[Answer] = TypeAdapter(AnyAnswer)


@lru_cache(maxsize=256)
def batch_checker(answer: str, settings: Settings) -> tuple[Answer, Checker]:
    """An answer given as JSON, and its checker; a batch asks for the same few again and again."""
    found = ADAPTER.validate_json(answer)
    return found, found.checker(settings)


class CaseError(CoreError, ValueError):
    """A line of a batch that is not a case."""

    def __init__(self, message: str, code: str = "no_case") -> None:
        super().__init__(code, message)


def check_case(case: Any) -> Verdict:
    """The verdict for one case of a batch, as ``vorlage check`` reads them.

    Raises ``CaseError`` when it is not a case.
    """
    if not isinstance(case, dict) or "answer" not in case or "response" not in case:
        raise CaseError("A case is an object with an answer and a response.")
    try:
        settings = case_settings(case.get("settings") or {}, case.get("parameters") or {}, case.get("carried") or {})
        values = case_values(case.get("parameters") or {}, settings)
        answer, checker = batch_checker(json.dumps(case["answer"], sort_keys=True), settings)
        drawn = checker.drawn(values)
        carried = case_values(case.get("carried") or {}, settings)
        attempt, cost = case_retries(case)
    except ValidationError as problem:
        first = problem.errors()[0]
        place = ".".join(str(step) for step in first["loc"])
        raise CaseError(f"answer: {place}: {first['msg']}") from problem
    except (NotationError, EvaluationError) as problem:
        raise CaseError(problem.message, problem.code) from problem
    if answer.typed and not isinstance(case["response"], str):
        raise CaseError("The response to this kind of answer is a string.")
    verdict = drawn.check(case["response"])
    if carried:
        verdict = carried_on(verdict, checker, {**values, **carried}, case["response"])
    return after_retries(verdict, attempt, cost)


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
