"""Exact values: rationals as they are, other reals as formulas that can be enclosed as closely as asked.

No binary floating point takes part in a comparison. A rational is a FLINT ``fmpq``; any other real
is a ``Real``, a formula without names whose value is enclosed in a ball of any wanted precision.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from math import gcd, lcm
from typing import TypeAlias

from flint import arb, ctx, fmpq

from ..notation import Node
from .balls import Undefined, ball
from .errors import EvaluationError

BITS = (64, 128, 256, 512, 1024, 2048)


@dataclass(frozen=True, slots=True)
class Real:
    """A real number given by a formula without names."""

    tree: Node
    angle: str = "radians"

    def ball(self, bits: int) -> arb:
        """An interval that surely holds the value, about ``bits`` bits wide of it."""
        return ball(self.tree, {}, bits, self.angle)


Exact: TypeAlias = fmpq | Real


def rational(value: Fraction | int) -> fmpq:
    """A FLINT rational from Python's."""
    return fmpq(value.numerator, value.denominator)


def to_fraction(value: fmpq) -> Fraction:
    """Python's rational from FLINT's."""
    return Fraction(int(value.p), int(value.q))


def enclosure(value: Exact, bits: int) -> arb:
    """An interval that surely holds the value, at the working precision asked for."""
    if not isinstance(value, fmpq):
        return value.ball(bits)
    with ctx.workprec(bits):
        return arb(value)


def enclosures(*values: Exact) -> Iterator[tuple[arb, ...]]:
    """Intervals for the values, ever closer, at the working precision that they were made with.

    A precision that cannot tell whether there is a value is passed over; ``Undefined`` when none can.
    """
    failure: Undefined | None = None
    for bits in BITS:
        try:
            found = tuple(enclosure(value, bits) for value in values)
        except Undefined as problem:
            failure = problem
            continue
        failure = None
        with ctx.workprec(bits):
            yield found
    if failure is not None:
        raise failure


def sign(value: Exact) -> int:
    """-1, 0 or 1. A value that no precision up to the bound can tell from zero counts as zero."""
    if isinstance(value, fmpq):
        return int(value > 0) - int(value < 0)
    for (enclosed,) in enclosures(value):
        if enclosed > 0:
            return 1
        if enclosed < 0:
            return -1
    return 0


def compare(left: Exact, right: Exact) -> int:
    """The sign of left − right, by balls of growing precision when one is not rational."""
    if isinstance(left, fmpq) and isinstance(right, fmpq):
        return int(left > right) - int(left < right)
    for a, b in enclosures(left, right):
        if a > b:
            return 1
        if a < b:
            return -1
    return 0


def common_divisor(first: Fraction, second: Fraction) -> Fraction:
    """The greatest common divisor of two numbers that are not 0.

    >>> common_divisor(Fraction(3, 2), Fraction(1))
    Fraction(1, 2)
    """
    below = lcm(first.denominator, second.denominator)
    return Fraction(gcd(int(first * below), int(second * below)), below)


def floor(value: fmpq) -> int:
    return int(value.p // value.q)


def round_half_away(value: fmpq) -> int:
    """The nearest whole number; a half goes away from zero, as schools teach it.

    >>> round_half_away(fmpq(5, 2)), round_half_away(fmpq(-5, 2))
    (3, -3)
    """
    return floor(value + fmpq(1, 2)) if value >= 0 else -floor(-value + fmpq(1, 2))


def rounded(value: Exact, places: int) -> fmpq:
    """The value rounded half away from zero to so many decimal places (negative: tens, hundreds)."""
    if isinstance(value, fmpq):
        scale = fmpq(10) ** places
        return fmpq(round_half_away(value * scale)) / scale
    first = second = fmpq(0)
    for (enclosed,) in enclosures(value):
        low, high = rational_ends(enclosed)
        first, second = rounded(low, places), rounded(high, places)
        if first == second:
            return first
    # As near to a half as any bound can tell: it is the half, and goes away from zero.
    return first if abs(first) > abs(second) else second


def rational_ends(enclosed: arb) -> tuple[fmpq, fmpq]:
    """The two ends of a ball as rationals."""
    ends = []
    for end in (enclosed.lower(), enclosed.upper()):
        mantissa, exponent = end.man_exp()
        ends.append(fmpq(mantissa) * fmpq(2) ** int(exponent))
    return ends[0], ends[1]


def magnitude(value: Exact) -> int:
    """The exponent of ten of the first significant figure: 0 for 1 to 9.99…, -1 for 0.1 to 0.99….

    Zero has magnitude 0.
    """
    if isinstance(value, Real):
        low, high = rational_ends(value.ball(256))
        value = low if abs(low) > abs(high) else high
    if value == 0:
        return 0
    size = abs(value)
    # a bit is worth 0.30103 of a decimal digit; the guess is out by one at the most
    guess = (int(size.p).bit_length() - int(size.q).bit_length()) * 30103 // 100_000
    while size < fmpq(10) ** guess:
        guess -= 1
    while size >= fmpq(10) ** (guess + 1):
        guess += 1
    return guess


def rounded_significant(value: Exact, figures: int) -> fmpq:
    """The value rounded half away from zero to so many significant figures.

    >>> rounded_significant(fmpq(21952, 1000), 3)
    22
    """
    return rounded(value, figures - 1 - magnitude(value))


def approximate(value: Exact) -> float:
    """A float, for drawing and for display only."""
    if isinstance(value, fmpq):
        try:
            return int(value.p) / int(value.q)
        except OverflowError:
            return float("inf") if value > 0 else float("-inf")
    try:
        return float(value.ball(64).mid())
    except Undefined as problem:
        raise EvaluationError("undefined", problem.message) from problem
