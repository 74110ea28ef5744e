"""Rational functions over the integers, straight from a tree of plain arithmetic (FLINT).

This is the quick road: it serves every formula made of letters, figures, sums, products, quotients
and whole powers, in microseconds. Everything else goes through ``canonical``.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable
from math import comb

from flint import Ordering, fmpz_mpoly, fmpz_mpoly_ctx, fmpz_poly

from ..notation import Drawn, Mixed, Name, Neg, Node, Number, Postfix, Power, Product, Quotient, Sum, walk
from .errors import EvaluationError

MAXIMUM_TERMS = 3_000
MAXIMUM_PRODUCT = 90_000
MAXIMUM_BITS = 40_000
# Powers from here on are not multiplied out where that would be too large.
HIGH_POWER = 24


class NotRational(Exception):
    """The tree holds more than plain arithmetic."""


class TooComplex(EvaluationError):
    """The expansion would be larger than what is worked out for an answer."""

    def __init__(self) -> None:
        super().__init__("too_large", "This formula is too large to be worked out.")


class Ratio:
    """A numerator and a denominator in one polynomial ring; not reduced unless asked for."""

    # a plain class: these are made by the thousand while an answer is checked
    __slots__ = ("bottom", "top")

    def __init__(self, top: fmpz_mpoly, bottom: fmpz_mpoly) -> None:
        self.top = top
        self.bottom = bottom

    def __add__(self, other: Ratio) -> Ratio:
        if self.bottom is other.bottom or self.bottom == other.bottom:
            return Ratio(self.top + other.top, self.bottom)
        check_product(self.top, other.bottom)
        check_product(other.top, self.bottom)
        return Ratio(self.top * other.bottom + other.top * self.bottom, checked_product(self.bottom, other.bottom))

    def __neg__(self) -> Ratio:
        return Ratio(-self.top, self.bottom)

    def __mul__(self, other: Ratio) -> Ratio:
        top = checked_product(self.top, other.top)
        if other.bottom.is_one():
            return Ratio(top, self.bottom)
        if self.bottom.is_one():
            return Ratio(top, other.bottom)
        return Ratio(top, checked_product(self.bottom, other.bottom))

    def __truediv__(self, other: Ratio) -> Ratio:
        if other.top.is_zero():
            raise EvaluationError("division_by_zero", "This divides by 0.")
        top = self.top if other.bottom.is_one() else checked_product(self.top, other.bottom)
        return Ratio(top, other.top if self.bottom.is_one() else checked_product(self.bottom, other.top))

    def power(self, exponent: int) -> Ratio:
        if exponent < 0:
            if self.top.is_zero():
                raise EvaluationError("division_by_zero", "This divides by 0.")
            return Ratio(checked_power(self.bottom, -exponent), checked_power(self.top, -exponent))
        if exponent == 0 and self.top.is_zero():
            raise EvaluationError("division_by_zero", "0 to the power 0 has no value.")
        if self.bottom.is_one():
            return Ratio(checked_power(self.top, exponent), self.bottom)
        return Ratio(checked_power(self.top, exponent), checked_power(self.bottom, exponent))

    def reduced(self) -> Ratio:
        """In lowest terms, the leading coefficient of the denominator positive."""
        common = self.top.gcd(self.bottom)
        top, bottom = (self.top, self.bottom) if common.is_one() else (self.top / common, self.bottom / common)
        return Ratio(-top, -bottom) if bottom.leading_coefficient() < 0 else Ratio(top, bottom)

    def equals(self, other: Ratio) -> bool:
        if self.bottom == other.bottom:
            return bool(self.top == other.top)
        check_product(self.top, other.bottom)
        check_product(other.top, self.bottom)
        return bool(self.top * other.bottom == other.top * self.bottom)


def check_product(left: fmpz_mpoly, right: fmpz_mpoly) -> None:
    if len(left) * len(right) > MAXIMUM_PRODUCT:
        raise TooComplex


def checked_product(left: fmpz_mpoly, right: fmpz_mpoly) -> fmpz_mpoly:
    if len(left) * len(right) > MAXIMUM_PRODUCT:
        raise TooComplex
    return left * right


def checked_power(base: fmpz_mpoly, exponent: int) -> fmpz_mpoly:
    """A power whose size is bounded before it is computed."""
    terms = len(base)
    if exponent <= 1:
        return base**exponent
    if terms == 1 and exponent <= 100 and abs(base.leading_coefficient()) == 1:
        return base**exponent
    if terms > 1:
        if exponent > MAXIMUM_TERMS or comb(exponent + terms - 1, terms - 1) > MAXIMUM_TERMS:
            raise TooComplex
    elif exponent > 1_000_000:
        raise TooComplex
    if terms:
        bits = max(int(abs(coefficient)).bit_length() for coefficient in base.coeffs())
        if bits > 1 and bits * exponent > MAXIMUM_BITS:
            raise TooComplex
    return base**exponent


def ring(names: list[str]) -> fmpz_mpoly_ctx:
    """The polynomial ring over the integers in these names, the first weighing most."""
    return fmpz_mpoly_ctx.get(names or ["_"], Ordering.lex)


class RationalReader:
    """Turns a tree of plain arithmetic into a ratio; raises ``NotRational`` at anything else."""

    def __init__(self, names: list[str]) -> None:
        self.ring = ring(names)
        self.one = self.ring.constant(1)
        self.names = {name: Ratio(gen, self.one) for name, gen in zip(names, self.ring.gens())}

    def of(self, node: Node) -> Ratio:
        method = METHODS.get(type(node))
        if method is None:
            raise NotRational
        return method(self, node)

    def constant(self, top: int, bottom: int = 1) -> Ratio:
        return Ratio(self.ring.constant(top), self.one if bottom == 1 else self.ring.constant(bottom))

    def of_number(self, node: Number) -> Ratio:
        return self.constant(node.value.numerator, node.value.denominator)

    def of_mixed(self, node: Mixed) -> Ratio:
        return self.of(node.whole) + self.of(node.numerator) / self.of(node.denominator)

    def of_name(self, node: Name) -> Ratio:
        return self.names[node.name]

    def of_sum(self, node: Sum) -> Ratio:
        total = self.of(node.terms[0])
        for term in node.terms[1:]:
            total = total + self.of(term)
        return total

    def of_neg(self, node: Neg) -> Ratio:
        return -self.of(node.operand)

    def of_product(self, node: Product) -> Ratio:
        total = self.of(node.factors[0])
        for factor in node.factors[1:]:
            total = total * self.of(factor)
        return total

    def of_quotient(self, node: Quotient) -> Ratio:
        return self.of(node.numerator) / self.of(node.denominator)

    def of_power(self, node: Power) -> Ratio:
        return self.of(node.base).power(whole_exponent(node.exponent))

    def of_postfix(self, node: Postfix) -> Ratio:
        if node.sign != "%":
            raise NotRational
        return self.of(node.operand) / self.constant(100)

    def of_drawn(self, node: Drawn) -> Ratio:
        return self.of(node.value)


class PowerReader(RationalReader):
    """Reads formulas with powers that are too high to be multiplied out: each irreducible factor of what they are
    powers of is a generator of its own, and is taken out of every sum that it divides. Formulas that are equal in this
    ring are equal; the reverse is not claimed."""

    def __init__(self, names: list[str], trees: Iterable[Node]) -> None:
        found = irreducible_bases(names, trees)
        if not found:
            raise TooComplex
        super().__init__([*names, *(f"_p{number}" for number in range(len(found)))])
        gens = self.ring.gens()
        letters = dict(zip(names, gens))
        self.bases = [
            (lifted(factor, [letters[name] for name in names], self.ring), gens[len(names) + place])
            for place, factor in enumerate(found)
        ]

    def of_sum(self, node: Sum) -> Ratio:
        total = super().of_sum(node)
        top, bottom = total.top, total.bottom
        for polynomial, generator in self.bases:
            top, bottom = taken_out(top, polynomial, generator), taken_out(bottom, polynomial, generator)
        return Ratio(top, bottom)


def taken_out(value: fmpz_mpoly, polynomial: fmpz_mpoly, generator: fmpz_mpoly) -> fmpz_mpoly:
    """The value with every factor of a polynomial as a power of its generator."""
    count = 0
    while not value.is_constant() and len(value) >= 2:
        quotient, rest = divmod(value, polynomial)
        if not rest.is_zero():
            break
        value, count = quotient, count + 1
    return value * generator**count


def lifted(polynomial: fmpz_mpoly, letters: list[fmpz_mpoly], into: fmpz_mpoly_ctx) -> fmpz_mpoly:
    """The polynomial in a ring with more generators."""
    total = into.constant(0)
    for powers, coefficient in polynomial.to_dict().items():
        term = into.constant(int(coefficient))
        for letter, power in zip(letters, powers):
            term *= letter ** int(power)
        total += term
    return total


def irreducible_bases(names: list[str], trees: Iterable[Node]) -> list[fmpz_mpoly]:
    """The irreducible factors with several terms of what high powers are taken of, the leading coefficient positive."""
    reader = RationalReader(names)
    found: list[fmpz_mpoly] = []
    for tree in trees:
        for node in walk(tree):
            if not isinstance(node, Power) or abs(whole_exponent(node.exponent)) < HIGH_POWER:
                continue
            base = reader.of(node.base)
            for polynomial in (base.top, base.bottom):
                for factor, _ in polynomial.factor()[1]:
                    factor = -factor if factor.leading_coefficient() < 0 else factor
                    if len(factor) > 1 and factor not in found:
                        found.append(factor)
    if len(found) > 6:
        raise TooComplex
    return found


def equal_powers(left: Node, right: Node, names: list[str]) -> bool:
    """Whether two formulas of plain arithmetic are seen to be equal without multiplying their high powers out."""
    try:
        reader = PowerReader(names, (left, right))
        return reader.of(left).equals(reader.of(right))
    except (NotRational, EvaluationError):
        return False


def whole_exponent(node: Node) -> int:
    if isinstance(node, Number) and node.value.denominator == 1:
        return int(node.value)
    if isinstance(node, Neg):
        return -whole_exponent(node.operand)
    if isinstance(node, Drawn):
        return whole_exponent(node.value)
    raise NotRational


METHODS: dict[type[Node], Callable[..., Ratio]] = {
    Number: RationalReader.of_number,
    Mixed: RationalReader.of_mixed,
    Name: RationalReader.of_name,
    Sum: lambda reader, node: reader.of_sum(node),
    Neg: RationalReader.of_neg,
    Product: RationalReader.of_product,
    Quotient: RationalReader.of_quotient,
    Power: RationalReader.of_power,
    Postfix: RationalReader.of_postfix,
    Drawn: RationalReader.of_drawn,
}


def univariate(polynomial: fmpz_mpoly) -> fmpz_poly | None:
    """The polynomial as one in a single letter, or None when it has several."""
    used = [place for place, degree in enumerate(polynomial.degrees()) if degree > 0]
    if len(used) > 1:
        return None
    place = used[0] if used else 0
    coefficients: dict[int, int] = {}
    for powers, coefficient in polynomial.to_dict().items():
        coefficients[int(powers[place])] = int(coefficient)
    size = max(coefficients, default=0) + 1
    return fmpz_poly([coefficients.get(power, 0) for power in range(size)])
