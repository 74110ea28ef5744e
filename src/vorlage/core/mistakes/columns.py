"""Formulas worked out for a whole class at once: a column of floats, a place for each answer. Nothing is decided by
them but which formulas are worth a claim."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from time import thread_time
from typing import Any, TypeAlias

import numpy as np
from numpy.typing import NDArray

from ..algebra import Compiled, EvaluationError, Value, approximate
from ..budget import OutOfBudget, budgeted
from ..notation import Call, Constant, Name, Neg, Node, Number, Postfix, Power, Product, Quotient, Sum
from .observed import Observed

Column: TypeAlias = NDArray[np.float64]
# What the formulas of one class may take that have no quick column: seconds of the processor altogether, and steps of
# one of them.
EXACT_SECONDS, EXACT_STEPS = 1.0, 1_000_000


class NoColumn(Exception):
    """The formula holds something that has no quick column."""


def half_up(number: Column, places: Column | float = 0.0) -> Column:
    scale = 10.0 ** np.asarray(places)
    found: Column = np.sign(number) * np.floor(np.abs(number) * scale * (1 + 1e-14) + 0.5) / scale
    return found


QUICK: dict[str, Callable[..., Any]] = {
    "sqrt": np.sqrt, "abs": np.abs, "exp": np.exp, "ln": np.log, "log": np.log10, "lg": np.log10,
    "sinh": np.sinh, "cosh": np.cosh, "tanh": np.tanh, "floor": np.floor, "ceil": np.ceil, "round": half_up,
    "min": np.minimum, "max": np.maximum,
}  # fmt: skip
CIRCULAR: dict[str, Callable[..., Any]] = {"sin": np.sin, "cos": np.cos, "tan": np.tan}
INVERSE: dict[str, Callable[..., Any]] = {"asin": np.arcsin, "acos": np.arccos, "atan": np.arctan}


class Columns:
    """The draws of a class, and formulas of their values; where one has no value it is not a number.

    >>> from flint import fmpq
    >>> from vorlage.core.notation import read
    >>> rows = [Observed({"m": fmpq(k)}, 0, 0, 0) for k in (2, 3)]
    >>> Columns(rows, "radians").of(read("m^2/2")).tolist()
    [2.0, 4.5]
    """

    def __init__(self, rows: Sequence[Observed], angle: str) -> None:
        self.rows, self.angle = rows, angle
        self.turn = math.pi / 180 if angle == "degrees" else 1.0
        names = sorted({name for row in rows for name in row.values})
        found = {name: np.array([as_float(row.values.get(name)) for row in rows]) for name in names}
        # those that stand for a number in every draw
        self.named = {name: column for name, column in found.items() if not np.isnan(column).any()}
        self.known: dict[Node, Column] = {}
        self.exact_seconds = EXACT_SECONDS

    def of(self, node: Node) -> Column:
        """The column of a formula."""
        held = self.known.get(node)
        if held is None:
            try:
                held = self.worked(node)
            except NoColumn:
                held = self.exactly(node)
            self.known[node] = held
        return held

    def worked(self, node: Node) -> Column:
        with np.errstate(all="ignore"):
            if isinstance(node, Number):
                return np.full(len(self.rows), float(node.value))
            if isinstance(node, Constant) and node.name in {"pi", "e"}:
                return np.full(len(self.rows), math.pi if node.name == "pi" else math.e)
            if isinstance(node, Name) and node.name in self.named:
                return self.named[node.name]
            if isinstance(node, Neg):
                return -self.of(node.operand)
            if isinstance(node, Sum):
                return np.asarray(np.sum([self.of(term) for term in node.terms], axis=0))
            if isinstance(node, Product):
                return np.asarray(np.prod([self.of(factor) for factor in node.factors], axis=0))
            if isinstance(node, Quotient):
                return self.of(node.numerator) / self.of(node.denominator)
            if isinstance(node, Power):
                return self.of(node.base) ** self.of(node.exponent)
            if isinstance(node, Postfix) and node.sign in {"%", "°"}:
                share = 0.01 if node.sign == "%" else 1.0 if self.angle == "degrees" else math.pi / 180
                return self.of(node.operand) * share
            if isinstance(node, Call):
                return self.called(node)
        raise NoColumn

    def called(self, node: Call) -> Column:
        arguments = [self.of(each) for each in node.arguments]
        if node.function in CIRCULAR and len(arguments) == 1:
            found = CIRCULAR[node.function](arguments[0] * self.turn)
        elif node.function in INVERSE and len(arguments) == 1:
            found = INVERSE[node.function](arguments[0]) / self.turn
        elif node.function in QUICK and len(arguments) <= 2:
            found = QUICK[node.function](*arguments)
        else:
            raise NoColumn
        return np.asarray(found, dtype=float)

    def exactly(self, node: Node) -> Column:
        """As the exact algebra has it, draw by draw, for what is not in the tables above."""
        nothing = np.full(len(self.rows), np.nan)
        if self.exact_seconds <= 0:
            return nothing
        begun = thread_time()
        try:
            with budgeted(EXACT_STEPS, self.exact_seconds):
                program = Compiled(node, self.angle)
                return np.array([value_in(program, row.values) for row in self.rows])
        except (EvaluationError, OutOfBudget):
            return nothing
        finally:
            self.exact_seconds -= thread_time() - begun


def value_in(program: Compiled, values: Mapping[str, Value]) -> float:
    try:
        return approximate(program.value(values))
    except (EvaluationError, OverflowError, KeyError):
        return math.nan


def as_float(value: Value | None) -> float:
    if value is None or isinstance(value, str | Node):
        return math.nan
    try:
        return approximate(value)
    except (EvaluationError, OverflowError):
        return math.nan
