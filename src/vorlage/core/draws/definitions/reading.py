"""Reading numbers and lists inside a definition line."""

from __future__ import annotations

from flint import fmpq

from ...algebra import Compiled, EvaluationError, Exact, Value
from ...notation import Collection, Node, NotationError, Number, Settings, Text, names_in, read
from ..errors import DrawError


def constant(text: str, start: int, end: int, settings: Settings, what: str) -> fmpq:
    """The rational number that stands in part of a line."""
    piece = text[start:end]
    lead = len(piece) - len(piece.lstrip())
    try:
        value: Exact = Compiled(read(piece.strip(), settings)).value({})
    except NotationError as problem:
        raise NotationError(problem.code, problem.message, start + lead + problem.place, problem.length) from problem
    except EvaluationError as problem:
        raise DrawError("limit", f"{what} has to be a number: {problem.message}", place=start + lead,
                        length=len(piece.strip())) from problem  # fmt: skip
    if not isinstance(value, fmpq):
        raise DrawError("limit", f"{what} has to be a rational number.", place=start + lead, length=len(piece.strip()))
    return value


def listed(text: str, start: int, settings: Settings) -> tuple[Value, ...]:
    """The values of a list that stands in the rest of a line."""
    rest = text[start:]
    if not rest.strip():
        return ()
    lists = Settings(settings.decimal_mark, settings.angle, settings.complex, settings.names, lists=True)
    lead = len(rest) - len(rest.lstrip())
    try:
        tree = read(rest.strip(), lists)
    except NotationError as problem:
        raise NotationError(problem.code, problem.message, start + lead + problem.place, problem.length) from problem
    items = tree.items if isinstance(tree, Collection) and tree.kind == "list" else (tree,)
    return tuple(listed_value(item, start, len(rest)) for item in items)


def listed_value(item: Node, start: int, length: int) -> Value:
    if isinstance(item, Text):
        return item.text
    if isinstance(item, Number):
        return fmpq(item.value.numerator, item.value.denominator)
    if names_in(item):
        return item
    try:
        return Compiled(item).value({})
    except EvaluationError as problem:
        raise DrawError("value", problem.message, place=start, length=length) from problem
