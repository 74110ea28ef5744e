"""Deciding whether numbers made of roots are equal: by a bound below which no such number but 0 can lie.

For a number E made of whole numbers by arithmetic and roots, Burnikel, Funke, Mehlhorn, Schirra and Schmitt (2001) give
u and l by rules over its tree and the degree D, the product of the orders of its different roots, such that E = 0 or
|E| ≥ 1/(u^(D−1)·l). An enclosure of E that holds 0 and is narrower than this bound is a proof that E is 0.
Sines and cosines of rational multiples of π are halves of algebraic integers whose conjugates are at most 2 in size.
"""

from __future__ import annotations

from fractions import Fraction
from math import isqrt

from flint import arb

from ..notation import Call, Constant, Drawn, Mixed, Neg, Node, Number, Postfix, Power, Product, Quotient, Sum
from .balls import ball, rational_constant
from .errors import EvaluationError
from .steps import OutOfSteps

MAXIMUM_BITS = 60_000
MAXIMUM_DEGREE = 2_000
SMALL_PRIMES = (2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37)

# The logarithms to base 2 of u and l.
Bound = tuple[float, float]


class NotAlgebraic(Exception):
    """The number is not made of roots, or the bound asks for too many digits."""


def same_number(left: Node, right: Node, angle: str) -> bool | None:
    """Whether two numbers without letters are equal; None where this method cannot tell.

    >>> from vorlage.core.notation import read
    >>> same_number(read("sqrt(5 + 2 sqrt 6)"), read("sqrt 2 + sqrt 3"), "radians")
    True
    """
    difference = Sum((left, Neg(right)))
    try:
        bounds = Bounds(angle)
        high, low = bounds.of(difference)
        if bounds.degree > MAXIMUM_DEGREE:
            raise NotAlgebraic
        wanted = high * (bounds.degree - 1) + low
        if wanted > MAXIMUM_BITS:
            raise NotAlgebraic
        bits = int(wanted) + 64
        for more in (1, 2):
            value = ball(difference, {}, bits * more, angle)
            if not value.contains(0):
                return False
            if value.abs_upper() < arb(2) ** -(int(wanted) + 2):
                return True
    except (NotAlgebraic, EvaluationError, OutOfSteps):
        return None
    return None


class Bounds:
    """The bounds of a number, and the degree of the field of its roots."""

    def __init__(self, angle: str) -> None:
        self.degrees = angle == "degrees"
        self.degree = 1
        # the primes whose square roots are in the field already
        self.primes: set[int] = set()
        self.known: dict[Node, Bound] = {}

    def of(self, node: Node) -> Bound:
        found = self.known.get(node)
        if found is None:
            found = self.known[node] = self.bound(node)
        return found

    def bound(self, node: Node) -> Bound:
        if isinstance(node, Number):
            return bits(node.value.numerator), bits(node.value.denominator)
        if isinstance(node, Mixed):
            return self.of(Sum((node.whole, Quotient(node.numerator, node.denominator))))
        if isinstance(node, Drawn):
            return self.of(node.value)
        if isinstance(node, Neg):
            return self.of(node.operand)
        if isinstance(node, Sum):
            total = self.of(node.terms[0])
            for term in node.terms[1:]:
                u, low = self.of(term)
                total = max(total[0] + low, total[1] + u) + 1, total[1] + low
            return total
        if isinstance(node, Product):
            parts = [self.of(factor) for factor in node.factors]
            return sum(u for u, _ in parts), sum(low for _, low in parts)
        if isinstance(node, Quotient):
            (u, low), (below, lowest) = self.of(node.numerator), self.of(node.denominator)
            return u + lowest, low + below
        if isinstance(node, Power):
            return self.power(node)
        if isinstance(node, Postfix) and node.sign == "%":
            u, low = self.of(node.operand)
            return u, low + bits(100)
        if isinstance(node, Call):
            return self.call(node)
        raise NotAlgebraic

    def power(self, node: Power) -> Bound:
        exponent = rational_constant(node.exponent)
        if exponent is None or abs(exponent.p) > 1000:
            raise NotAlgebraic
        u, low = self.of(node.base)
        if exponent.q != 1:
            u, low = self.root(u, low, int(exponent.q))
        times = abs(int(exponent.p))
        return (u * times, low * times) if exponent >= 0 else (low * times, u * times)

    def square_root(self, value: Fraction) -> None:
        """The degree that the square root of a rational number adds: the roots of its primes are shared."""
        rest = value.numerator * value.denominator
        for prime in SMALL_PRIMES:
            odd = False
            while rest % prime == 0:
                rest, odd = rest // prime, not odd
            if odd and prime not in self.primes:
                self.primes.add(prime)
                self.degree *= 2
        if rest != 1 and isqrt(rest) ** 2 != rest and rest not in self.primes:
            self.primes.add(rest)
            self.degree *= 2

    def root(self, u: float, low: float, order: int) -> Bound:
        """By the sharper of the two rules."""
        self.degree *= order
        if self.degree > MAXIMUM_DEGREE:
            raise NotAlgebraic
        if u >= low:
            return (u + (order - 1) * low) / order, low
        return u, ((order - 1) * u + low) / order

    def call(self, node: Call) -> Bound:
        if node.function in {"sqrt", "root"}:
            order = 2 if node.function == "sqrt" else rational_constant(node.arguments[0])
            if order is None or order < 1 or int(order) != order:
                raise NotAlgebraic
            value = rational_constant(node.arguments[-1])
            if order == 2 and value is not None and value > 0:
                self.square_root(Fraction(int(value.p), int(value.q)))
                self.degree, kept = 1, self.degree
                u, low = self.root(*self.of(node.arguments[-1]), 2)
                self.degree = kept
                return u, low
            return self.root(*self.of(node.arguments[-1]), int(order))
        if node.function == "abs":
            return self.of(node.arguments[0])
        if node.function in {"sin", "cos"}:
            turn = self.half_turns(node.arguments[0])
            # cos(π p/q) lies in the field of the roots of unity of order 2q, and the sine in that of order 4q
            self.degree *= totient(4 * turn.denominator)
            if self.degree > MAXIMUM_DEGREE:
                raise NotAlgebraic
            return 1.0, 1.0
        raise NotAlgebraic

    def half_turns(self, node: Node) -> Fraction:
        """How many times π an angle is."""
        if self.degrees:
            value = rational_constant(node.operand if isinstance(node, Postfix) and node.sign == "°" else node)
            if value is None:
                raise NotAlgebraic
            return Fraction(int(value.p), int(value.q)) / 180
        found = multiple_of_pi(node)
        if found is None:
            raise NotAlgebraic
        return found


def bits(value: int) -> float:
    return float(abs(value).bit_length())


def totient(value: int) -> int:
    """How many numbers below have no divisor in common with a number."""
    result, rest, prime = value, value, 2
    while prime * prime <= rest:
        if rest % prime == 0:
            result -= result // prime
            while rest % prime == 0:
                rest //= prime
        prime += 1
    return result - result // rest if rest > 1 else result


def multiple_of_pi(node: Node) -> Fraction | None:
    """q for a formula that is plainly q·π."""
    if isinstance(node, Constant) and node.name == "pi":
        return Fraction(1)
    if isinstance(node, Neg):
        inner = multiple_of_pi(node.operand)
        return None if inner is None else -inner
    if isinstance(node, Postfix) and node.sign == "°":
        value = rational_constant(node.operand)
        return None if value is None else Fraction(int(value.p), int(value.q)) / 180
    if isinstance(node, Quotient):
        top, bottom = multiple_of_pi(node.numerator), rational_constant(node.denominator)
        return None if top is None or not bottom else top / Fraction(int(bottom.p), int(bottom.q))
    if isinstance(node, Product):
        total, found = Fraction(1), False
        for factor in node.factors:
            value = rational_constant(factor)
            if value is not None:
                total *= Fraction(int(value.p), int(value.q))
                continue
            inner = None if found else multiple_of_pi(factor)
            if inner is None:
                return None
            total, found = total * inner, True
        return total if found else None
    return None
