"""Formulas worked out by mpmath, so that a verdict is looked at by code that has no part in it.

It knows the tree that was read, and nothing of the checker's arithmetic. A value that does not exist over the reals is
None; what all but vanishes, to fifty digits, vanishes.
"""

from __future__ import annotations

import operator
import random
from collections.abc import Callable, Iterator, Mapping
from fractions import Fraction
from typing import Any

import mpmath
from mpmath import mp, mpf

from vorlage.core.algebra import Certainty, equations_of
from vorlage.core.notation import (
    Call,
    Collection,
    Constant,
    Drawn,
    Interval,
    Logic,
    Mixed,
    Name,
    Neg,
    Node,
    Number,
    PlusMinus,
    Postfix,
    Power,
    Product,
    Quotient,
    Relation,
    Sum,
    names_in,
)

# How many digits are worked with, whatever others have set; and for what differs by less than those show.
DIGITS, MANY = 65, 1600
SAME, HOLDS = mpf("1e-50"), mpf("1e-18")
Point = Mapping[str, Fraction]


class NoValue(Exception):
    """Nothing real is there."""


class NotCovered(Exception):
    """This page knows no such function."""


def value(tree: Node, point: Point, degrees: bool = False) -> Any:
    """The value of a formula at a point; None where it has none."""
    try:
        found = Worked(point, degrees).of(tree)
    except (NoValue, ZeroDivisionError, ValueError):
        return None
    return found if mpmath.isfinite(found) else None


def exactly(number: Fraction) -> Any:
    return mpf(number.numerator) / number.denominator


def whole(number: Any) -> int | None:
    near = int(mpmath.nint(number))
    return near if abs(number - near) < SAME else None


def rational(tree: Node) -> Fraction | None:
    if isinstance(tree, Number):
        return tree.value
    if isinstance(tree, Neg):
        inner = rational(tree.operand)
        return None if inner is None else -inner
    if isinstance(tree, Quotient):
        top, bottom = rational(tree.numerator), rational(tree.denominator)
        return top / bottom if top is not None and bottom else None
    return rational(tree.value) if isinstance(tree, Drawn) else None


def power(base: Any, exponent: Any, exact: Fraction | None) -> Any:
    if exact is None:
        near = whole(exponent)
        if base <= 0 and near is None:
            raise NoValue
        return base**near if near is not None and base <= 0 else mpmath.exp(exponent * mpmath.log(base))
    if abs(base) < SAME:
        if exact < 0:
            raise NoValue
        return mpf(1) if exact == 0 else mpf(0)
    if exact.denominator == 1:
        return base**exact.numerator
    if base < 0 and exact.denominator % 2 == 0:
        raise NoValue
    root = mpmath.root(abs(base), exact.denominator) * (1 if base > 0 else -1)
    return root**exact.numerator


class Worked:
    def __init__(self, point: Point, degrees: bool) -> None:
        self.point = point
        self.turn = mp.pi / 180 if degrees else mpf(1)

    def of(self, node: Node) -> Any:
        if isinstance(node, Number):
            return exactly(node.value)
        if isinstance(node, Name):
            if node.name not in self.point:
                raise NotCovered(node.name)
            return exactly(self.point[node.name])
        if isinstance(node, Constant):
            known = {"pi": mp.pi, "e": mp.e}
            if node.name not in known:
                raise NotCovered(node.name)
            return +known[node.name]
        if isinstance(node, Drawn):
            return self.of(node.value)
        if isinstance(node, Mixed):
            return self.of(node.whole) + self.of(node.numerator) / self.of(node.denominator)
        if isinstance(node, Sum):
            return mpmath.fsum(map(self.of, node.terms))
        if isinstance(node, Neg):
            return -self.of(node.operand)
        if isinstance(node, Product):
            return mpmath.fprod(map(self.of, node.factors))
        if isinstance(node, Quotient):
            top, bottom = self.of(node.numerator), self.of(node.denominator)
            if abs(bottom) < SAME * abs(top):
                raise NoValue
            return top / bottom
        if isinstance(node, Power):
            return power(self.of(node.base), self.of(node.exponent), rational(node.exponent))
        if isinstance(node, Postfix):
            return self.postfix(node)
        if isinstance(node, Call):
            return self.call(node)
        raise NotCovered(type(node).__name__)

    def postfix(self, node: Postfix) -> Any:
        inner = self.of(node.operand)
        if node.sign == "%":
            return inner / 100
        if node.sign == "°":
            return inner if self.turn != 1 else inner * mp.pi / 180
        near = whole(inner)
        if near is None or near < 0:
            raise NoValue
        return mpmath.factorial(near)

    def call(self, node: Call) -> Any:
        name, arguments = node.function, node.arguments
        if name == "if":
            return self.of(arguments[1 if self.holds(arguments[0]) else 2])
        if name == "root":
            order = rational(arguments[0])
            if not order:
                raise NoValue
            return power(self.of(arguments[1]), None, 1 / order)
        function = FUNCTIONS.get(name)
        if function is None:
            raise NotCovered(name)
        values = [self.of(argument) for argument in arguments]
        if name in {"sin", "cos", "tan", "cot", "sec", "csc"}:
            values[0] *= self.turn
        found = function(*values)
        if isinstance(found, mpmath.mpc):
            raise NoValue
        return found / self.turn if name in {"asin", "acos", "atan"} else found

    def holds(self, tree: Node) -> bool:
        if isinstance(tree, Logic):
            return (any if tree.word == "or" else all)(map(self.holds, tree.terms))
        if not isinstance(tree, Relation):
            raise NotCovered(type(tree).__name__)
        if tree.signs == ("in",):
            return self.within(self.of(tree.terms[0]), tree.terms[1])
        terms = [self.of(term) for term in tree.terms]
        return all(
            sign in {"=", "≤", "≥"} if abs(a - b) <= SAME * (1 + abs(a)) else SIGNS[sign](a, b)
            for sign, a, b in zip(tree.signs, terms, terms[1:])
        )

    def within(self, at: Any, tree: Node) -> bool:
        if isinstance(tree, Interval):
            low, high = self.end(tree.low), self.end(tree.high)
            return bool(low < at < high or (tree.low_closed and at == low) or (tree.high_closed and at == high))
        if isinstance(tree, Collection) and tree.kind == "point":
            return bool(self.end(tree.items[0]) < at < self.end(tree.items[1]))
        if isinstance(tree, Collection):
            return any(abs(at - self.of(item)) < SAME for item in tree.items)
        raise NotCovered(type(tree).__name__)

    def end(self, tree: Node) -> Any:
        if tree == Constant("infinity"):
            return mp.inf
        if isinstance(tree, Neg) and tree.operand == Constant("infinity"):
            return -mp.inf
        return self.of(tree)


SIGNS: dict[str, Callable[[Any, Any], bool]] = {
    "<": operator.lt, ">": operator.gt, "≤": operator.lt, "≥": operator.gt, "=": operator.eq, "≠": operator.ne,
}  # fmt: skip


def logarithm(number: Any, base: Any = 10) -> Any:
    if number <= 0 or base <= 0:
        raise NoValue
    return mpmath.log(number) / mpmath.log(base)


def square_root(number: Any) -> Any:
    return power(number, None, Fraction(1, 2))


def down(number: Any) -> Any:
    near = whole(number)
    return mpmath.floor(number) if near is None else mpf(near)


def sign(number: Any) -> Any:
    return mpf(0) if abs(number) < SAME else mpmath.sign(number)


def rounded(number: Any, places: Any = 0) -> Any:
    scale = mpf(10) ** int(places)
    return sign(number) * down(abs(number) * scale + mpf("0.5")) / scale


def within(function: Callable[[Any], Any], low: Any, high: Any) -> Callable[[Any], Any]:
    def guarded(number: Any) -> Any:
        if not low <= number <= high:
            raise NoValue
        return function(number)

    return guarded


FUNCTIONS: dict[str, Callable[..., Any]] = {
    "sqrt": square_root, "abs": abs, "exp": mpmath.exp, "ln": lambda x: logarithm(x, mp.e), "log": logarithm,
    "sin": mpmath.sin, "cos": mpmath.cos, "tan": mpmath.tan, "cot": mpmath.cot, "sec": mpmath.sec, "csc": mpmath.csc,
    "asin": within(mpmath.asin, -1, 1), "acos": within(mpmath.acos, -1, 1), "atan": mpmath.atan,
    "sinh": mpmath.sinh, "cosh": mpmath.cosh, "tanh": mpmath.tanh, "asinh": mpmath.asinh,
    "acosh": within(mpmath.acosh, 1, mp.inf), "atanh": within(mpmath.atanh, mpf(-1), mpf(1)),
    "floor": down, "ceil": lambda x: -down(-x), "sgn": sign, "round": rounded,
    "mod": lambda x, y: x - y * down(x / y), "min": min, "max": max,
}  # fmt: skip


@mpmath.workdps(DIGITS)
def fault_of_refutation(kind: str, key: Node, response: Node, found: Certainty, degrees: bool) -> str:
    """What is wrong with the witness of a refutation; empty where it shows what it should."""
    point = dict(found.witness)
    at = ", ".join(f"{name} = {float(number)}" for name, number in point.items())
    if kind == "formula":
        wanted, given = value(key, point, degrees), value(response, point, degrees)
        if wanted is None:
            return f"the key has no value at {at}"
        same = given is not None and abs(wanted - given) <= mpf("1e-30") * (1 + abs(wanted))
        if same:
            with mpmath.workdps(MANY):
                wanted, given = value(key, point, degrees), value(response, point, degrees)
                same = abs(wanted - given) <= mpf(10) ** (100 - MANY) * (1 + abs(wanted))
        return f"both sides are one at {at}" if same else ""
    gaps = [gap(tree, point, degrees, kind) for tree in (key, response)]
    holds, other = gaps if found.key_value == "holds" else gaps[::-1]
    if not holds:
        return f"neither side holds at {at}"
    return f"both sides hold at {at}" if other else ""


def gap(tree: Node, point: Point, degrees: bool, kind: str) -> bool:
    """Whether an equation all but holds at a witness, which has thirty figures; for inequalities, whether it does."""
    worked = Worked(point, degrees)
    if kind == "inequality":
        try:
            if isinstance(tree, Interval | Collection):
                return worked.within(exactly(next(iter(point.values()))), tree)
            return worked.holds(tree)
        except (NoValue, ZeroDivisionError):
            return False
    for equation in equations_of(tree) or ():
        left, right = (value(term, point, degrees) for term in equation.terms)
        if left is None or right is None:
            continue
        if abs(left - right) <= HOLDS * (abs(left) + abs(right) + HOLDS) or crosses(equation, point, degrees):
            return True
    return False


def crosses(equation: Relation, point: Point, degrees: bool) -> bool:
    """Whether an equation has a solution closer to a witness than its last figures: the two sides change places."""
    *_, letter = point
    apart = []
    for step in (-1, 1):
        at = {**point, letter: point[letter] * (1 + Fraction(step, 10**28))}
        left, right = (value(term, at, degrees) for term in equation.terms)
        if left is None or right is None:
            return False
        apart.append(left - right)
    return bool(apart[0] * apart[1] < 0)


def points(letters: frozenset[str], seed: str) -> Iterator[Point]:
    """A hundred points of its own: of several sizes, of either sign, every fifth of whole numbers."""
    chance = random.Random(seed)
    for k in range(100):
        size = chance.choice([1, 3, 10, 50])
        yield {
            name: Fraction(chance.randint(-size, size))
            if k % 5 == 0
            else Fraction(chance.randint(-997, 997) * size, 997)
            for name in sorted(letters)
        }


@mpmath.workdps(DIGITS)
def fault_of_proof(kind: str, key: Node, response: Node, degrees: bool) -> str:
    """A point at which what was proved does not hold; empty where none of a hundred is one."""
    if isinstance(key, PlusMinus) or isinstance(response, PlusMinus):
        raise NotCovered("±")
    letters = names_in(key) | names_in(response)
    for point in points(letters, repr((kind, key, response))):
        if kind == "formula":
            wanted, given = value(key, point, degrees), value(response, point, degrees)
            if wanted is None or given is None:
                # whole domains are looked at by the cases; a hole is forgiven
                continue
            if abs(wanted - given) > mpf("1e-30") * (1 + abs(wanted)):
                return f"{point}: {wanted} and {given}"
        elif kind == "inequality":
            holding = [gap(tree, point, degrees, kind) for tree in (key, response)]
            if holding[0] != holding[1]:
                return f"{point}: {holding}"
        else:
            fault = solution_apart(key, response, point, degrees)
            if fault:
                return fault
    return ""


def solution_apart(key: Node, response: Node, point: Point, degrees: bool) -> str:
    """A solution of one equation, beside a point, that is none of the other."""
    letter = min(point)
    for one, other in ((key, response), (response, key)):
        for equation in equations_of(one) or ():
            place = solved_near(equation, letter, point, degrees)
            if place is None:
                continue
            found = {**point, letter: place}
            sides = [value(term, found, degrees) for each in equations_of(other) or () for term in each.terms]
            pairs = list(zip(sides[::2], sides[1::2]))
            if all(None not in pair for pair in pairs) and not gap(other, found, degrees, "equation"):
                return f"{found} solves one side only"
    return ""


def solved_near(equation: Relation, letter: str, point: Point, degrees: bool) -> Fraction | None:
    """A solution in one letter that the secant method finds from a point."""

    def side(number: Any) -> Any:
        at = Fraction(int(number * 10**60), 10**60)
        left, right = (value(term, {**point, letter: at}, degrees) for term in equation.terms)
        if left is None or right is None:
            raise NoValue
        return left - right

    before = exactly(point[letter])
    here = before + mpf("0.37")
    try:
        first, second = side(before), side(here)
        for _ in range(14):
            if abs(second) < mpf("1e-40"):
                return Fraction(int(here * 10**60), 10**60)
            if second == first:
                return None
            before, here, first = here, here - second * (here - before) / (second - first), second
            if abs(here) > 10**6:
                return None
            second = side(here)
    except (NoValue, OverflowError):
        pass
    return None
