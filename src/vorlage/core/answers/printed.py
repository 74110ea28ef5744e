"""Keys as they are printed: what drawn values left to be worked out is worked out, and nothing else is changed."""

from __future__ import annotations

from fractions import Fraction
from math import gcd, isqrt

from flint import fmpq

from ..algebra import ANGULAR, Compiled, EvaluationError, to_fraction
from ..notation import (
    Call,
    Collection,
    Constant,
    Matrix,
    Mixed,
    Neg,
    Node,
    Number,
    Postfix,
    Power,
    Product,
    Quotient,
    Sum,
    fraction,
    literal,
    names_in,
    plain_value,
    read,
    rebuild,
    walk,
)

# Sines of the angles, in degrees, whose sine can be written with one root.
SINES = {0: "0", 30: "1/2", 45: "sqrt(2)/2", 60: "sqrt(3)/2", 90: "1"}
TANGENTS = {0: "0", 30: "sqrt(3)/3", 45: "1", 60: "sqrt(3)"}
LARGEST_ROOT = 1_000_000
ONE = Number(Fraction(1))
# Functions that nobody leaves standing of numbers.
WORKED = frozenset(
    "mean median variance quantile gcd lcm mod binomial choose round floor ceil min max abs sgn if".split()
)
# What stands for itself though its value could be worked out.
KEPT = (Number, Mixed, Constant, Call, Collection, Matrix)


def folded(tree: Node) -> Node:
    """The tree with its numbers worked out, its shape kept.

    >>> from vorlage.core.notation import line
    >>> [line(folded(read(text))) for text in ("vec(4 + 3, 1 - 2)", "6x^3/3", "(x - 2)(x + 1 + 3)", "4*sqrt(2)/2")]
    ['vec(7, -1)', '2 x^3', '(x - 2) (x + 4)', '2 sqrt(2)']
    """
    inner = rebuild(tree, folded)
    if isinstance(inner, Call) and inner.function == "value":
        return inner.arguments[0]
    if isinstance(inner, Call) and inner.function in WORKED and not names_in(inner):
        value = rational_value(inner)
        return inner if value is None else plain(value, inner)
    if isinstance(inner, KEPT) or (isinstance(inner, Postfix) and inner.sign != "!"):
        return inner
    if not names_in(inner):
        value = rational_value(inner)
        if value is not None:
            return plain(value, inner)
    if isinstance(inner, Sum):
        return folded_sum(inner)
    if isinstance(inner, Product | Quotient):
        return folded_product(inner)
    if isinstance(inner, Power):
        exponent = plain_value(inner.exponent)
        return inner.base if exponent == 1 else ONE if exponent == 0 else inner
    return inner


def rational_value(tree: Node) -> Fraction | None:
    """The value of a formula without letters, where it is rational."""
    try:
        value = Compiled(tree).value({})
    except EvaluationError:
        return None
    return to_fraction(value) if isinstance(value, fmpq) else None


def plain(value: Fraction, written: Node) -> Node:
    """A number in figures: as a fraction where only whole numbers were written, else as a decimal that ends."""
    if isinstance(written, Neg) and isinstance(written.operand, KEPT):
        return written
    decimal = any(isinstance(piece, Number) and piece.form != "integer" for piece in walk(written))
    return literal(value) if decimal else fraction(value)


def folded_sum(tree: Sum) -> Node:
    """A sum in which all that is a number is one term, where the first of them stood."""
    numbers = [(k, value) for k, term in enumerate(tree.terms) if (value := plain_value(term)) is not None]
    if len(numbers) < 2 and all(value for _, value in numbers):
        return tree
    total = sum((value for _, value in numbers), Fraction(0))
    first = numbers[0][0]
    places = {k for k, _ in numbers}
    terms = [
        plain(total, tree) if k == first else term
        for k, term in enumerate(tree.terms)
        if k not in places or (k == first and total)
    ]
    return (terms[0] if len(terms) == 1 else Sum(tuple(terms))) if terms else Number(Fraction(0))


def folded_product(tree: Node) -> Node:
    """A product or quotient with one number in front of what is left, in lowest terms."""
    top: list[Node] = []
    bottom: list[Node] = []
    # the numbers above and below the line
    numbers: list[Fraction] = []
    below: list[Fraction] = []

    def take(node: Node, over: bool) -> None:
        value = plain_value(node)
        if isinstance(node, Product):
            for factor in node.factors:
                take(factor, over)
        elif isinstance(node, Quotient):
            take(node.numerator, over)
            take(node.denominator, not over)
        elif isinstance(node, Neg):
            numbers.append(Fraction(-1))
            take(node.operand, over)
        elif value is not None:
            (below if over else numbers).append(value)
        else:
            (bottom if over else top).append(node)

    take(tree, False)
    if any(value == 0 for value in below):
        return tree
    whole = all(value.denominator == 1 for value in (*numbers, *below))
    reducible = whole and any(gcd(int(a), int(b)) > 1 for a in numbers for b in below)
    sizes = [abs(value) for value in numbers if value != -1]
    if len(numbers) < 2 and len(below) < 2 and not reducible and 0 not in sizes and 1 not in (*sizes, *below):
        return side_by_side(tree)
    coefficient = Fraction(1)
    for value in numbers:
        coefficient *= value
    for value in below:
        coefficient /= value
    if not coefficient:
        return Number(Fraction(0))
    shown = plain(abs(coefficient), tree)
    over, under = (shown.numerator, shown.denominator) if isinstance(shown, Quotient) else (shown, ONE)
    upper = joined([*([over] if over != ONE or not top else []), *top])
    lower = joined([*([under] if under != ONE else []), *bottom])
    result = Quotient(upper, lower) if lower != ONE else upper
    return Neg(result) if coefficient < 0 else result


def joined(factors: list[Node]) -> Node:
    if not factors:
        return ONE
    return factors[0] if len(factors) == 1 else Product(tuple(factors), ("",) * (len(factors) - 1))


def side_by_side(tree: Node) -> Node:
    """``3 * x`` as ``3 x``: a sign between a number and a letter says nothing."""
    if isinstance(tree, Quotient):
        return Quotient(side_by_side(tree.numerator), side_by_side(tree.denominator))
    if not isinstance(tree, Product):
        return tree
    signs = [
        "" if isinstance(left, Number) and (names_in(right) or isinstance(right, Call)) else sign
        for left, sign, right in zip(tree.factors, tree.signs, tree.factors[1:])
    ]
    return Product(tree.factors, tuple(signs))


def exact_key(tree: Node, angle: str) -> Node:
    """An exact key that is no rational number: special angles and roots worked out, degrees written, numbers folded."""

    def angles(node: Node) -> Node:
        inner = rebuild(node, angles)
        if isinstance(inner, Call) and inner.function == "sqrt":
            return simple_root(inner)
        if not isinstance(inner, Call) or inner.function not in ANGULAR or inner.function.startswith("a"):
            return inner
        degrees = degrees_of(inner.arguments[0], angle)
        known = special_value(inner.function, degrees) if degrees is not None else None
        if known is not None:
            return known
        if angle == "radians" or isinstance(inner.arguments[0], Postfix):
            return inner
        return Call(inner.function, (Postfix("°", inner.arguments[0]),))

    return folded(angles(tree))


def simple_root(root: Call) -> Node:
    """``sqrt(12)`` as ``2 sqrt(3)``, for whole numbers that can be looked through."""
    value = rational_value(root.arguments[0])
    if value is None or value.denominator != 1 or not 0 < value <= LARGEST_ROOT:
        return root
    number = int(value)
    outside = next(k for k in range(isqrt(number), 0, -1) if number % (k * k) == 0)
    inside = Call("sqrt", (Number(Fraction(number // outside**2)),))
    return inside if outside == 1 else Product((Number(Fraction(outside)), inside), ("",))


def degrees_of(tree: Node, angle: str) -> Fraction | None:
    """An angle in degrees where it is a rational number of them."""
    if isinstance(tree, Postfix) and tree.sign == "°":
        return rational_value(tree.operand)
    if angle == "degrees":
        return rational_value(tree)
    over_pi = rational_value(folded(Quotient(tree, Constant("pi"))))
    return None if over_pi is None else over_pi * 180


def special_value(function: str, degrees: Fraction) -> Node | None:
    """The exact value of a sine, cosine or tangent of a multiple of 30° or 45°; None for any other.

    >>> from vorlage.core.notation import line
    >>> line(special_value("cos", Fraction(120))), line(special_value("tan", Fraction(-45)))
    ('-1/2', '-1')
    """
    if degrees.denominator != 1 or function not in {"sin", "cos", "tan"}:
        return None
    turn = int(degrees + 90 if function == "cos" else degrees) % 360
    half, period = turn % 180, function == "tan"
    negative = half > 90 if period else turn > 180
    known = (TANGENTS if period else SINES).get(min(half, 180 - half))
    if known is None:
        return None
    value = read(known)
    return Neg(value) if negative and known != "0" else value


Gaussian = tuple[Fraction, Fraction]


def gaussian(tree: Node) -> Gaussian | None:
    """The real and imaginary part of a formula where both are rational; None where they are not seen to be."""
    if isinstance(tree, Number):
        return tree.value, Fraction(0)
    if tree == Constant("i"):
        return Fraction(0), Fraction(1)
    if isinstance(tree, Neg):
        return times(gaussian(tree.operand), (Fraction(-1), Fraction(0)))
    if isinstance(tree, Sum):
        parts = [gaussian(term) for term in tree.terms]
        if any(part is None for part in parts):
            return None
        return sum((part[0] for part in parts if part), Fraction(0)), sum((p[1] for p in parts if p), Fraction(0))
    if isinstance(tree, Product):
        found: Gaussian | None = (Fraction(1), Fraction(0))
        for factor in tree.factors:
            found = times(found, gaussian(factor))
        return found
    if isinstance(tree, Quotient):
        below = gaussian(tree.denominator)
        size = below[0] ** 2 + below[1] ** 2 if below else Fraction(0)
        return times(gaussian(tree.numerator), (below[0] / size, -below[1] / size)) if below and size else None
    if isinstance(tree, Power):
        exponent = plain_value(tree.exponent)
        if exponent is None or exponent.denominator != 1 or not 0 <= exponent <= 20:
            return None
        found = (Fraction(1), Fraction(0))
        for _ in range(int(exponent)):
            found = times(found, gaussian(tree.base))
        return found
    return None


def times(one: Gaussian | None, other: Gaussian | None) -> Gaussian | None:
    if one is None or other is None:
        return None
    return one[0] * other[0] - one[1] * other[1], one[0] * other[1] + one[1] * other[0]


def complex_key(tree: Node) -> Node:
    """A complex number as ``a + b i`` where both parts are rational, else as it was given."""
    found = gaussian(tree)
    if found is None:
        return folded(tree)
    real, imaginary = found
    size = plain(abs(imaginary), tree)
    i = Constant("i")
    multiple = i if abs(imaginary) == 1 else Product((size, i), ("",))
    if not imaginary:
        return plain(real, tree)
    turned = Neg(multiple) if imaginary < 0 else multiple
    return Sum((plain(real, tree), turned)) if real else turned
