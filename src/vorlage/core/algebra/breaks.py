"""The breaks of formulas in one letter: where they may stop being analytic, or start or stop having a value.

Breaks are the zeros of what stands in bars, under roots and lines, in logarithms and between the relations of cases,
and the jumps of what is rounded. The zeros of polynomials are found exactly (FLINT isolates the roots of their
irreducible factors); those of anything else by their changes of sign and their least sizes over a wide range, by balls.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from itertools import pairwise
from math import floor

from flint import arb, ctx, fmpq, fmpz_poly

from ..notation import (
    Call,
    Logic,
    Neg,
    Node,
    Number,
    Postfix,
    Power,
    Product,
    Quotient,
    Relation,
    Sum,
    children,
    names_in,
    rebuild,
    walk,
)
from .balls import ball, rational_constant, spread
from .errors import EvaluationError
from .floats import NoFloats, quick
from .rationals import NotRational, RationalReader, univariate
from .steps import spend
from .values import to_fraction

# Functions that take whole numbers only.
WHOLE_ONLY = frozenset(["binomial", "choose", "gcd", "lcm", "binomial_pmf"])
MAXIMUM_DEGREE = 80
ROOT_BITS = 192
# How many neighbouring jumps of a rounded argument are looked at on each side.
CELLS = 4
# Bisections of an interval, and how near to zero the least size of a touching zero comes.
MAXIMUM_SOUGHT = 12
HALVINGS = 40
TOUCHING = 1e-5
SHIFT = 1 / 3571
# Beyond what floats reach only the sign is asked for.
LARGEST = 1e300
ONE, HALF = Number(Fraction(1)), Number(Fraction(1, 2))


@dataclass
class Breaks:
    """The breaks as dyadic numbers near them, in their order; ``exact`` when all zeros were those of polynomials."""

    places: list[fmpq] = field(default_factory=list)
    exact: bool = True


def is_whole_only(tree: Node) -> bool:
    """Whether a formula has values at whole numbers only."""
    for node in walk(tree):
        if isinstance(node, Call) and node.function in WHOLE_ONLY and any(map(names_in, node.arguments)):
            return True
        if isinstance(node, Postfix) and node.sign == "!" and names_in(node.operand):
            return True
        if isinstance(node, Power) and names_in(node.exponent):
            # (-1)^n is a sequence, and (-e)^x a formula gone wrong
            base = rational_constant(node.base)
            if base is not None and base < 0:
                return True
    return False


def difference(left: Node, right: Node) -> Node:
    return Sum((left, Neg(right)))


def sides(tree: Node) -> Iterator[Node]:
    """left − right for every comparison in a condition."""
    for node in walk(tree):
        if isinstance(node, Relation):
            for left, right in pairwise(node.terms):
                yield left if isinstance(right, Number) and not right.value else difference(left, right)


def zero_of(node: Node, inside: bool) -> Iterator[Node]:
    """What is zero where this node (not those within it) may break. ``inside`` says whether a function is taken of it:
    a pole by itself is no break."""
    if isinstance(node, Quotient):
        yield node.denominator
    elif isinstance(node, Power):
        exponent = rational_constant(node.exponent)
        if exponent is None or exponent.q != 1 or exponent < 0:
            yield node.base
    elif isinstance(node, Call):
        name, arguments = node.function, node.arguments
        if name in {"abs", "sgn", "sqrt", "ln"}:
            yield arguments[0]
        elif name == "root":
            yield arguments[-1]
        elif name == "log":
            yield from arguments
        elif name in {"asin", "acos", "asec", "acsc", "atanh"}:
            yield difference(arguments[0], ONE)
            yield Sum((arguments[0], ONE))
            if name in {"asec", "acsc"}:
                yield arguments[0]
        elif name == "acosh":
            yield difference(arguments[0], ONE)
        elif name in {"min", "max", "median"}:
            values = spread(node)
            pairs = (
                pairwise(values)
                if len(values) > 5
                else ((a, b) for place, a in enumerate(values) for b in values[place + 1 :])
            )
            for left, right in pairs:
                yield difference(left, right)
        elif name == "if":
            yield from sides(arguments[0])
        elif inside and name in {"tan", "sec"}:
            yield Call("cos", arguments)
        elif inside and name in {"cot", "csc"}:
            yield Call("sin", arguments)
        elif name in {"csch", "coth"}:
            yield arguments[0]


def factors(tree: Node) -> Iterator[Node]:
    """The simpler formulas among whose zeros and poles those of a formula are."""
    if isinstance(tree, Product):
        for factor in tree.factors:
            yield from factors(factor)
    elif isinstance(tree, Quotient):
        yield from factors(tree.numerator)
        yield from factors(tree.denominator)
    elif isinstance(tree, Neg):
        yield from factors(tree.operand)
    elif isinstance(tree, Power) and not names_in(tree.exponent):
        yield from factors(tree.base)
    elif isinstance(tree, Call) and tree.function in {"sqrt", "root", "abs"}:
        yield from factors(tree.arguments[-1])
    else:
        yield tree


def with_numbers(tree: Node, angle: str) -> Node:
    """The tree with what holds no letter, such as 2π, as a number that is very close to it."""
    if isinstance(tree, Number):
        return tree
    if names_in(tree):
        return rebuild(tree, lambda inner: with_numbers(inner, angle))
    try:
        value = dyadic(ball(tree, {}, ROOT_BITS, angle))
    except EvaluationError:
        return tree
    return signed(to_fraction(value))


def step_of(node: Node) -> Node | None:
    """What is a whole number where this node jumps."""
    if not isinstance(node, Call):
        return None
    first, *more = node.arguments
    if node.function in {"floor", "ceil"}:
        return first
    if node.function == "mod":
        return Quotient(first, more[0])
    if node.function == "round":
        places = rational_constant(more[0]) if more else fmpq(0)
        if places is None or abs(places) > 300:
            return None
        return Sum((Product((first, Power(Number(Fraction(10)), signed(int(places.p)))), ("*",)), HALF))
    return None


def signed(value: int | Fraction) -> Node:
    return Neg(Number(Fraction(-value))) if value < 0 else Number(Fraction(value))


def candidates(tree: Node, name: str, inside: bool = False) -> Iterator[tuple[Node, bool]]:
    """What is zero, or a whole number (True), at the breaks of a formula."""
    if name not in names_in(tree):
        return
    if isinstance(tree, Relation | Logic):
        for side in sides(tree):
            for factor in factors(side):
                yield factor, False
    for node in zero_of(tree, inside):
        for factor in factors(node):
            yield factor, False
    step = step_of(tree)
    if step is not None:
        yield step, True
    for child in children(tree):
        yield from candidates(child, name, inside or isinstance(tree, Call))


def breaks_of(trees: Sequence[Node], name: str, scales: Sequence[fmpq], angle: str) -> Breaks:
    """The breaks of formulas in the one letter ``name``; ``scales`` are the lengths over which they change."""
    found = Breaks()
    seen: set[tuple[Node, bool]] = set()
    exact: list[fmpq] = []
    sought: list[fmpq] = []
    for tree in trees:
        for candidate in candidates(tree, name):
            if candidate in seen or name not in names_in(candidate[0]):
                continue
            seen.add(candidate)
            places = polynomial_places(*candidate, name)
            if places is not None:
                exact += places
                found.exact = found.exact and not candidate[1]
                continue
            found.exact = False
            places = polynomial_places(with_numbers(candidate[0], angle), candidate[1], name)
            sought += sought_places(*candidate, name, scales, angle) if places is None else places
    found.places = distinct(exact, sought)
    return found


def distinct(exact: list[fmpq], sought: list[fmpq]) -> list[fmpq]:
    """All places in their order; those that were sought only where nothing else lies close."""
    places = sorted(set(exact))
    for place in sorted(sought):
        if all(abs(place - other) > fmpq(1, 10**7) * (abs(place) + fmpq(1, 10**6)) for other in places):
            places.append(place)
    return sorted(places)


def polynomial_places(tree: Node, steps: bool, name: str) -> list[fmpq] | None:
    """The zeros (or the jumps nearest to 0) of a rational function; None for anything else."""
    try:
        ratio = RationalReader([name]).of(tree).reduced()
    except (NotRational, EvaluationError):
        return None
    top, bottom = univariate(ratio.top), univariate(ratio.bottom)
    if top is None or bottom is None or max(top.degree(), bottom.degree()) > MAXIMUM_DEGREE:
        return None
    places = zeros_of(bottom)
    if not steps:
        return places + zeros_of(top)
    at_zero = fmpq(int(top[0]), int(bottom[0])) if bottom[0] != 0 else fmpq(0)
    nearest = int(at_zero.floor())
    for value in range(nearest - CELLS, nearest + CELLS + 1):
        places += zeros_of(top - value * bottom)
    return places


def zeros_of(polynomial: fmpz_poly) -> list[fmpq]:
    """Dyadic numbers close to the real zeros of a polynomial."""
    if polynomial.degree() < 1:
        return []
    spend_on_roots(polynomial)
    found: list[fmpq] = []
    with ctx.workprec(ROOT_BITS):
        for factor, _ in polynomial.factor()[1]:
            if factor.degree() == 1:
                found.append(fmpq(-int(factor[0]), int(factor[1])))
            else:
                found += [dyadic(root.real) for root, _ in factor.complex_roots() if root.imag.is_zero()]
    return found


def spend_on_roots(polynomial: fmpz_poly) -> None:
    """Count what isolating the zeros of a polynomial takes, where there is a bound on it."""
    degree = max(0, int(polynomial.degree()))
    size = max((int(abs(coefficient)).bit_length() for coefficient in polynomial.coeffs()), default=0)
    spend(20 + degree * degree * (8 + size // 16))


def dyadic(value: arb) -> fmpq:
    mantissa, exponent = value.mid().man_exp()
    return fmpq(mantissa) * fmpq(2) ** int(exponent)


def sought_places(tree: Node, steps: bool, name: str, scales: Sequence[fmpq], angle: str) -> list[fmpq]:
    """The zeros or jumps that a wide search finds, those nearest to 0 first."""
    value = valued(tree, name, angle)
    places = grid(scales)
    values = [value(place) for place in places]
    kind = cell if steps else sign
    kinds = [kind(each) for each in values]
    changes = [
        (low, high, before)
        for (low, before), (high, after) in pairwise(zip(places, kinds))
        if before != after and (steps or (before != 0 and after != 0))
    ]
    changes.sort(key=lambda change: abs(change[0]))
    found = [edge(lambda place: kind(value(place)), *change) for change in changes[:MAXIMUM_SOUGHT]]
    if not steps:
        found += [place for place, each in zip(places, kinds) if each == 0][:MAXIMUM_SOUGHT]
        found += touching(value, places, values)
    return [fmpq(*place.as_integer_ratio()) for place in found]


def valued(tree: Node, name: str, angle: str) -> Callable[[float], float | None]:
    """A formula as a function of floats, by balls wherever floats have no value for it."""
    try:
        rough = quick(tree, angle)
    except NoFloats:
        rough = None

    def value(place: float) -> float | None:
        found = rough(place) if rough is not None else None
        if found is not None:
            return found
        try:
            middle = ball(tree, {name: fmpq(*place.as_integer_ratio())}, 64, angle)
        except EvaluationError:
            return None
        return max(-LARGEST, min(LARGEST, float(middle.mid())))

    return value


def grid(scales: Sequence[fmpq]) -> list[float]:
    """Where a search looks: sizes from 2^-14 to 2^14 on both sides, and even steps over some lengths of each scale."""
    places = {side * 2.0**power * part for side in (1, -1) for power in range(-14, 15) for part in (1.0, 1.25, 1.5)}
    for scale in scales:
        length = 2.0 ** max(-900, min(900, int(scale.p).bit_length() - int(scale.q).bit_length()))
        # an odd shift, so that no place is a zero by design
        places |= {length * (k / 5 + SHIFT) for k in range(-40, 41)}
    return sorted(places)


def sign(value: float | None) -> int | None:
    return None if value is None else (value > 0) - (value < 0)


def cell(value: float | None) -> int | None:
    """The whole number below a value."""
    return None if value is None else floor(value)


def edge(kind: Callable[[float], int | None], low: float, high: float, before: int | None) -> float:
    """The place between two at which a kind ends, by halving."""
    for _ in range(HALVINGS):
        middle = (low + high) / 2
        if kind(middle) == before:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def touching(value: Callable[[float], float | None], places: list[float], values: list[float | None]) -> list[float]:
    """Where a value comes to zero without changing its sign."""
    found: list[float] = []
    inner = sorted(range(1, len(places) - 1), key=lambda k: abs(places[k]))
    for k in inner:
        a, b, c = values[k - 1 : k + 2]
        if a is None or b is None or c is None or not (a * b > 0 < b * c) or abs(b) > min(abs(a), abs(c)):
            continue
        if abs(b) < max(abs(a), abs(c)):
            place = least(value, places[k - 1], places[k + 1])
            if place is not None:
                found.append(place)
                if len(found) == MAXIMUM_SOUGHT:
                    break
    return found


def least(value: Callable[[float], float | None], low: float, high: float) -> float | None:
    """Where the size of a value is least between two places, when it is all but zero there."""
    start = value(low)
    for _ in range(HALVINGS):
        third = (high - low) / 3
        a, b = value(low + third), value(high - third)
        if a is None or b is None:
            return None
        low, high = (low, high - third) if abs(a) < abs(b) else (low + third, high)
    end = value((low + high) / 2)
    if end is None or start is None or abs(end) > abs(start) * TOUCHING:
        return None
    return (low + high) / 2
