"""Classes as JSON: the answers of a class to one question give the mistakes that explain them."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from typing import Any

from ..algebra import EvaluationError, Value
from ..answers import Checker, batch_checker, case_values
from ..errors import CoreError
from ..notation import Node, NotationError, Settings, read_authored
from .finding import Claim, find_mistakes
from .observed import Observed, observed

# After so many draws in which the key has no value it is not looked for any more.
MOST_WITHOUT_KEY = 3
# Near enough to be right where nothing is said of a tolerance.
RIGHT_WITHIN = "0.1%"


class ClassError(CoreError, ValueError):
    """A line of a batch that is not a class."""

    def __init__(self, message: str) -> None:
        super().__init__("no_class", message)


def class_mistakes(given: Any) -> list[Claim]:
    """The claims for one class, as ``vorlage mistakes`` reads it: ``key`` in line maths, ``unit`` if it has one,
    ``settings``, and ``answers``, each with the ``values`` of its draw (of a row of a table an object) and the
    ``response``. Right answers and what is no number are passed over.

    Raises ``ClassError`` where it is none.
    """
    if not isinstance(given, dict) or not isinstance(given.get("key"), str):
        raise ClassError("A class is an object with a key and answers.")
    answers = given.get("answers")
    if not isinstance(answers, list) or not all(isinstance(each, dict) for each in answers):
        raise ClassError("answers is a list of objects with values and a response.")
    drawn = [flattened(each.get("values")) for each in answers]
    settings = settings_of(given.get("settings"), frozenset(name for values in drawn for name in values))
    tree, checker = checker_of(given["key"], given.get("unit") or "", settings)
    known = [values_of(values, settings) for values in drawn]
    rows, numbers, without = list[Observed](), list[int](), 0
    for number, (values, each) in enumerate(zip(known, answers)):
        try:
            drawn_key = checker.drawn(values)
        except EvaluationError:
            without += 1
            if without == MOST_WITHOUT_KEY and not rows:
                # looking for the value of such a key may take seconds each time
                break
            continue
        row = observed(values, drawn_key, drawn_key.check(str(each.get("response"))))
        if row is not None:
            rows.append(row)
            numbers.append(number)
    claims = find_mistakes(tree, settings.angle, rows, known)
    return [Claim(each.formula, tuple(numbers[k] for k in each.explains), each.because) for each in claims]


def flattened(values: Any) -> dict[str, str]:
    """The values of a draw by name; those of a row of a table by its name, a dot and the column's."""
    if not isinstance(values, dict):
        raise ClassError("values is an object of names and values.")
    return dict(pairs_of(values))


def pairs_of(values: Mapping[str, Any]) -> Iterator[tuple[str, str]]:
    for name, value in values.items():
        if isinstance(value, dict):
            yield from ((f"{name}.{column}", str(cell)) for column, cell in value.items())
        else:
            yield name, str(value)


def settings_of(given: Any, names: frozenset[str]) -> Settings:
    given = given if isinstance(given, dict) else {}
    mark, angle = given.get("decimal_mark", "point"), given.get("angle", "radians")
    if mark not in {"point", "comma"} or angle not in {"radians", "degrees"}:
        raise ClassError("decimal_mark is point or comma; angle is radians or degrees.")
    return Settings(mark, angle, False, names)


def checker_of(key: str, unit: str, settings: Settings) -> tuple[Node, Checker]:
    """The formula of the key, and what reads the answers to it."""
    answer: dict[str, Any] = {"kind": "quantity" if unit else "number", "key": key} | ({"unit": unit} if unit else {})
    answer |= {"tolerance": {"mode": "relative", "value": RIGHT_WITHIN}}
    try:
        return read_authored(key, settings), batch_checker(json.dumps(answer), settings)[1]
    except NotationError as problem:
        raise ClassError(f"key: {problem.message}") from problem


def values_of(values: Mapping[str, str], settings: Settings) -> dict[str, Value]:
    """The values of a draw; words in a table stay words."""
    known: dict[str, Value] = {}
    for name, text in values.items():
        try:
            known[name] = case_values({name: text}, settings)[name]
        except (NotationError, EvaluationError):
            known[name] = text
    return known
