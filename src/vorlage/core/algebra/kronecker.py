"""Deciding identities of small rational functions by one exact evaluation (Kronecker substitution).

A polynomial whose integer coefficients are all smaller than N/2 in size is determined by its value at
x = N; with several letters, x₁ = N, x₂ = N^K₁, x₃ = N^(K₁K₂) do the same as long as each degree stays
below its K. So if the numerator of a difference is zero there, and bounds on its coefficients and degrees
hold, the difference is identically zero: a proof, at the cost of some integer arithmetic. The bounds are
carried along with the value: the 1-norm bounds the coefficients of sums and products.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

from ..notation import Drawn, Mixed, Name, Neg, Node, Number, Postfix, Power, Product, Quotient, Sum

BITS = 64
# The powers of 2 that stand for the first, second and third letter, and the degree that each allows.
EXPONENTS = (BITS, BITS * 12, BITS * 12 * 8)
DEGREES = (10_000, 12, 8)
LETTERS = tuple(1 << exponent for exponent in EXPONENTS)
MAXIMUM_POWER = 64
# beyond this the integers grow so long that other ways are quicker
MAXIMUM_DEGREE = 128

# numerator, denominator, their 1-norms, and a bound on the degree in every letter
Bounded = tuple[int, int, int, int, int]


class Beyond(Exception):
    """The formula is not a small rational function of few letters."""


class Substitution:
    """Evaluates trees with integers for their letters; letters are numbered as they are met."""

    __slots__ = ("letters", "point")

    def __init__(self, point: Mapping[str, int] | None = None) -> None:
        self.letters: dict[str, int] = {}
        self.point = point

    def of(self, node: Node) -> Bounded:
        method = METHODS.get(type(node))
        if method is None:
            raise Beyond
        return method(self, node)

    def of_number(self, node: Number) -> Bounded:
        top, bottom = node.value.numerator, node.value.denominator
        return top, bottom, top, bottom, 0

    def of_name(self, node: Name) -> Bounded:
        if self.point is not None:
            return self.point[node.name], 1, 1, 1, 1
        value = self.letters.get(node.name)
        if value is None:
            if len(self.letters) == len(LETTERS):
                raise Beyond
            value = self.letters[node.name] = LETTERS[len(self.letters)]
        return value, 1, 1, 1, 1

    def of_sum(self, node: Sum) -> Bounded:
        p, q, top, bottom, degree = self.of(node.terms[0])
        for term in node.terms[1:]:
            r, s, over, under, more = self.of(term)
            if q == 1 == s:
                p, top = p + r, top + over
                degree = more if more > degree else degree
            else:
                p, q = p * s + r * q, q * s
                top, bottom, degree = top * under + over * bottom, bottom * under, degree + more
        return p, q, top, bottom, degree

    def of_neg(self, node: Neg) -> Bounded:
        p, q, top, bottom, degree = self.of(node.operand)
        return -p, q, top, bottom, degree

    def of_product(self, node: Product) -> Bounded:
        p, q, top, bottom, degree = self.of(node.factors[0])
        for factor in node.factors[1:]:
            r, s, over, under, more = self.of(factor)
            p, q, top, bottom, degree = p * r, q * s, top * over, bottom * under, degree + more
            if degree > MAXIMUM_DEGREE:
                raise Beyond
        return p, q, top, bottom, degree

    def of_quotient(self, node: Quotient) -> Bounded:
        p, q, top, bottom, degree = self.of(node.numerator)
        r, s, over, under, more = self.of(node.denominator)
        if r == 0:
            raise Beyond
        return p * s, q * r, top * under, bottom * over, degree + more

    def of_power(self, node: Power) -> Bounded:
        exponent = whole(node.exponent)
        p, q, top, bottom, degree = self.of(node.base)
        if exponent < 0:
            p, q, top, bottom, exponent = q, p, bottom, top, -exponent
        if exponent * (degree + 1) > MAXIMUM_POWER or q == 0 or (p == 0 and exponent == 0):
            raise Beyond
        return p**exponent, q**exponent, top**exponent, bottom**exponent, degree * exponent

    def of_drawn(self, node: Drawn) -> Bounded:
        return self.of(node.value)

    def of_mixed(self, node: Mixed) -> Bounded:
        whole_part, top, bottom = (int(part.value) for part in (node.whole, node.numerator, node.denominator))
        if bottom == 0:
            raise Beyond
        total = whole_part * bottom + top
        return total, bottom, total, bottom, 0

    def of_postfix(self, node: Postfix) -> Bounded:
        if node.sign != "%":
            raise Beyond
        p, q, top, bottom, degree = self.of(node.operand)
        return p, q * 100, top, bottom * 100, degree


def whole(node: Node) -> int:
    if type(node) is Number and node.value.denominator == 1:
        return node.value.numerator
    if type(node) is Neg:
        return -whole(node.operand)
    raise Beyond


METHODS: dict[type[Node], Callable[..., Bounded]] = {
    Number: Substitution.of_number,
    Name: Substitution.of_name,
    Sum: Substitution.of_sum,
    Neg: Substitution.of_neg,
    Product: Substitution.of_product,
    Quotient: Substitution.of_quotient,
    Power: Substitution.of_power,
    Drawn: Substitution.of_drawn,
    Mixed: Substitution.of_mixed,
    Postfix: Substitution.of_postfix,
}


def identical(left: Node, right: Node) -> bool | None:
    """Whether two formulas are one rational function; None when this method cannot tell.

    >>> from vorlage.core.notation import read
    >>> identical(read("(x + 1)(x - 2)"), read("x^2 - x - 2")), identical(read("x"), read("y"))
    (True, False)
    >>> identical(read("sin(x)"), read("x")) is None
    True
    """
    substitution = Substitution()
    try:
        p, q, top, bottom, degree = substitution.of(left)
        r, s, over, under, more = substitution.of(right)
    except Beyond:
        return None
    if q == 0 or s == 0:
        return None
    count = len(substitution.letters)
    if count > 1 and degree + more >= DEGREES[count - 1]:
        return None
    if p * s != r * q:
        return False
    return True if 2 * (top * under + over * bottom) < 1 << BITS else None


def differing_values(
    left: Node, right: Node, point: Mapping[str, int]
) -> tuple[tuple[int, int], tuple[int, int]] | None:
    """Both values, as numerator and denominator, at a whole-number point where they differ."""
    substitution = Substitution(point)
    try:
        p, q, *_ = substitution.of(left)
        r, s, *_ = substitution.of(right)
    except Beyond:
        return None
    if q == 0 or s == 0 or p * s == r * q:
        return None
    return (p, q), (r, s)
