"""Formulas in one letter as quick functions of floats, for finding where to look; nothing is decided by them."""

from __future__ import annotations

import math
from collections.abc import Callable
from fractions import Fraction

from flint import fmpq

from ..notation import (
    Call,
    Drawn,
    Name,
    Neg,
    Node,
    Number,
    Postfix,
    Power,
    Product,
    Quotient,
    Sum,
    names_in,
)
from .balls import ball, rational_constant, spread
from .errors import EvaluationError
from .evaluation import Compiled
from .steps import size, spend

Function = Callable[[float], float]


class NoFloats(Exception):
    """The formula holds something that has no quick function."""


def quick(tree: Node, angle: str) -> Callable[[float], float | None]:
    """A function of the one letter of a formula; None where it has no value. Raises ``NoFloats``.

    >>> from vorlage.core.notation import read
    >>> quick(read("sqrt(t) + 1"), "radians")(9.0), quick(read("sqrt(t)"), "radians")(-1.0)
    (4.0, None)
    """
    function = Builder(angle).of(tree)
    # a sign takes half the time that one of a rational value takes
    signs = size(tree) // 2 + 1

    def value(place: float) -> float | None:
        spend(signs)
        try:
            found = function(place)
        except (ValueError, OverflowError, ZeroDivisionError):
            return None
        return found if isinstance(found, float) and math.isfinite(found) else None

    return value


class Builder:
    """Closures over floats, one for each node."""

    def __init__(self, angle: str) -> None:
        self.turn = math.pi / 180 if angle == "degrees" else 1.0
        self.angle = angle

    def of(self, node: Node) -> Function:
        if not names_in(node):
            try:
                constant = float(ball(node, {}, 64, self.angle).mid())
            except (EvaluationError, OverflowError):
                raise NoFloats from None
            return lambda place: constant
        if isinstance(node, Name):
            return lambda place: place
        if isinstance(node, Drawn):
            return self.of(node.value)
        if isinstance(node, Neg):
            inner = self.of(node.operand)
            return lambda place: -inner(place)
        if isinstance(node, Sum):
            terms = [self.of(term) for term in node.terms]
            if len(terms) == 2:
                first, second = terms
                return lambda place: first(place) + second(place)
            return lambda place: math.fsum(term(place) for term in terms)
        if isinstance(node, Product):
            factors = [self.of(factor) for factor in node.factors]
            if len(factors) == 2:
                one, other = factors
                return lambda place: one(place) * other(place)
            return lambda place: math.prod(factor(place) for factor in factors)
        if isinstance(node, Quotient):
            top, bottom = self.of(node.numerator), self.of(node.denominator)
            return lambda place: top(place) / bottom(place)
        if isinstance(node, Power):
            return self.power(node)
        if isinstance(node, Postfix) and node.sign in {"%", "°"}:
            inner = self.of(node.operand)
            part = 0.01 if node.sign == "%" else 1.0 if self.angle == "degrees" else math.pi / 180
            return lambda place: inner(place) * part
        if isinstance(node, Call):
            return self.call(node)
        raise NoFloats

    def power(self, node: Power) -> Function:
        base, exponent = self.of(node.base), exact_constant(node.exponent)
        if exponent is None:
            raised = self.of(node.exponent)
            return lambda place: positive(base(place)) ** raised(place)
        top, order = int(exponent.p), int(exponent.q)
        if order % 2 == 0:
            return lambda place: math.pow(base(place), top / order)
        # an odd root of a negative number is the real one
        return lambda place: math.pow(math.copysign(abs(base(place)) ** (1 / order), base(place)), top)

    def call(self, node: Call) -> Function:
        name = node.function
        if name == "root":
            return self.power(Power(node.arguments[1], Quotient(Number(Fraction(1)), node.arguments[0])))
        function = FUNCTIONS.get(name)
        if function is None:
            raise NoFloats
        parts = [self.of(argument) for argument in spread(node)]
        turn = self.turn
        if len(parts) == 1 and name not in INVERSE and (name not in CIRCULAR or turn == 1):
            only = parts[0]
            return lambda place: function(only(place))
        if name in CIRCULAR:
            first = parts[0]
            return lambda place: function(first(place) * turn)
        if name in INVERSE:
            first = parts[0]
            return lambda place: function(first(place)) / turn
        return lambda place: function(*[part(place) for part in parts])


def exact_constant(node: Node) -> fmpq | None:
    """The value of an exponent that is a rational number, however it is written."""
    found = rational_constant(node)
    if found is not None or names_in(node):
        return found
    try:
        value = Compiled(node).value({})
    except EvaluationError:
        return None
    return value if isinstance(value, fmpq) else None


def positive(value: float) -> float:
    if value <= 0:
        raise ValueError
    return value


def logarithm(value: float, base: float = 10.0) -> float:
    return math.log(value) / math.log(base)


def away(value: float, places: float = 0.0) -> float:
    scale = 10.0**places
    return math.copysign(math.floor(abs(value) * scale + 0.5) / scale, value)


def middle(*values: float) -> float:
    ordered = sorted(values)
    return (ordered[(len(values) - 1) // 2] + ordered[len(values) // 2]) / 2


CIRCULAR: dict[str, Callable[..., float]] = {
    "sin": math.sin, "cos": math.cos, "tan": math.tan, "sec": lambda x: 1 / math.cos(x),
    "csc": lambda x: 1 / math.sin(x), "cot": lambda x: 1 / math.tan(x),
}  # fmt: skip
INVERSE: dict[str, Callable[..., float]] = {
    "asin": math.asin, "acos": math.acos, "atan": math.atan, "acot": lambda x: math.pi / 2 - math.atan(x),
    "asec": lambda x: math.acos(1 / x), "acsc": lambda x: math.asin(1 / x),
}  # fmt: skip
FUNCTIONS: dict[str, Callable[..., float]] = {
    **CIRCULAR, **INVERSE,
    "sqrt": math.sqrt, "abs": abs, "exp": math.exp, "ln": math.log, "log": logarithm, "sinh": math.sinh,
    "cosh": math.cosh, "tanh": math.tanh, "asinh": math.asinh, "acosh": math.acosh, "atanh": math.atanh,
    "sech": lambda x: 1 / math.cosh(x), "csch": lambda x: 1 / math.sinh(x), "coth": lambda x: 1 / math.tanh(x),
    "floor": lambda x: float(math.floor(x)), "ceil": lambda x: float(math.ceil(x)), "round": away,
    "mod": lambda x, y: x - y * math.floor(x / y), "min": min, "max": max, "median": middle,
    "sgn": lambda x: float((x > 0) - (x < 0)),
}  # fmt: skip
