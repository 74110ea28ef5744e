"""Real solutions of an equation in one letter, each in a narrow enclosure, and what another equation is there.

The zeros of rational functions come from their polynomials (FLINT isolates them). Those of anything else are looked for
by floats: where a value changes its sign, touches zero or begins to exist. A solution is *sure* where it is exact, or
where ball arithmetic shows a change of sign over an interval on which everything has a value: in between lies a zero,
by the intermediate value theorem. Only sure ones refute anything.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from itertools import pairwise

from flint import arb, ctx, fmpq, fmpz_poly

from ..notation import Neg, Node, Number, Relation, Sum, literal, names_in, substitute
from .algebraic import same_number
from .balls import Undefined, ball
from .breaks import breaks_of, edge, factors, grid, spend_on_roots, touching, valued
from .errors import EvaluationError
from .rationals import NotRational, RationalReader, univariate
from .trials import scales_of
from .values import to_fraction

# The working precision, and that for the smallest values at the places that are looked at.
BITS, MANY_BITS = 256, 28_000
ZERO = Number(Fraction(0))
# Half the width of an enclosure, and what a difference is at most where two sides are taken to be equal.
NARROW, CLOSE = fmpq(1, 1 << 100), arb(2) ** -60
# Signs are looked for in steps of a fourth up to here on both sides, besides at the places of ``grid``.
REACH, LARGEST = 20, 10**9
MAXIMUM_ROOTS = 16
FIGURES = 30
MAXIMUM_DENOMINATOR = 720
STEPS_OF_A_SECANT = 12


@dataclass(frozen=True, slots=True)
class Root:
    """A solution: its enclosure, its exact value where it is rational and known to be, and whether there surely is one
    in the enclosure."""

    place: arb
    exact: fmpq | None
    sure: bool

    @property
    def middle(self) -> fmpq:
        if self.exact is not None:
            return self.exact
        mantissa, exponent = self.place.mid().man_exp()
        return fmpq(mantissa) * fmpq(2) ** int(exponent)

    @property
    def at(self) -> fmpq | arb:
        return self.place if self.exact is None else self.exact


def real_roots(polynomial: fmpz_poly) -> list[arb]:
    """The real zeros of a polynomial, rational ones exactly."""
    return [root.place for root in polynomial_roots(polynomial)]


def polynomial_roots(polynomial: fmpz_poly) -> Iterator[Root]:
    spend_on_roots(polynomial)
    for factor, _ in polynomial.factor()[1]:
        if factor.degree() == 1:
            value = fmpq(-int(factor[0]), int(factor[1]))
            yield Root(arb(value), value, True)
        elif factor.degree() > 1:
            yield from (Root(root.real, None, True) for root, _ in factor.complex_roots() if root.imag.is_zero())


def roots_of(equation: Relation, name: str, angle: str) -> list[Root]:
    """The solutions of an equation in the one letter ``name`` that are found, those nearest to 0 first."""
    left, right = equation.terms
    to_zero = isinstance(right, Number) and not right.value
    side = left if to_zero else Sum((left, Neg(right)))
    simpler = list(dict.fromkeys(factors(side))) if to_zero else []
    if len(simpler) > 1 or (simpler and simpler[0] != side):
        # what is zero is one of the factors, or has a pole there and is not
        zero = [Relation((each, ZERO), ("=",)) for each in simpler if name in names_in(each)]
        found = [root for each in zero for root in roots_of(each, name, angle)]
        return [root for root in found if holds(equation, name, root, angle) is not False]
    with ctx.workprec(BITS):
        try:
            top = univariate(RationalReader([name]).of(side).reduced().top)
        except NotRational:
            found = sought(equation, side, name, angle)
        except EvaluationError:
            # too large, or divided by nothing
            return []
        else:
            found = [] if top is None else list(polynomial_roots(top))
        # what stands below a line is cancelled from a polynomial, and has to have a value all the same
        verdicts = ((root, holds(equation, name, root, angle)) for root in found)
        return [root for root, met in verdicts if met or (root.sure and met is None)]


def sought(equation: Relation, side: Node, name: str, angle: str) -> list[Root]:
    """The zeros of what is no rational function, by a wide search."""
    value = valued(side, name, angle)
    scales = scales_of([side], [name], name, angle)
    places = set(grid(scales)) | {k / 4 for k in range(-4 * REACH, 4 * REACH + 1)}
    breaks = breaks_of([side], name, scales, angle).places
    places |= {float(to_fraction(place)) for place in breaks if abs(place) < LARGEST}
    ordered = sorted(places)
    values = [value(place) for place in ordered]
    signs = [None if each is None else (each > 0) - (each < 0) for each in values]
    likely: list[float] = [place for place, each in zip(ordered, signs) if each == 0]
    for (low, before), (high, after) in pairwise(zip(ordered, signs)):
        if before != after and before != 0 != after:
            likely.append(edge(lambda place: sign_of(value(place)), low, high, before))
    likely += touching(value, ordered, values)
    found: list[Root] = []
    for place in sorted(likely, key=abs):
        root = refined(equation, side, place, name, angle)
        if root is not None and not any(root.place.overlaps(known.place) for known in found):
            found.append(root)
        if len(found) == MAXIMUM_ROOTS:
            break
    return found


def sign_of(value: float | None) -> int | None:
    return None if value is None else (value > 0) - (value < 0)


def refined(equation: Relation, side: Node, place: float, name: str, angle: str) -> Root | None:
    """The zero close to a place, exactly or in a narrow enclosure; None where there is none."""
    guess = Fraction(place).limit_denominator(MAXIMUM_DENOMINATOR)
    if abs(guess - Fraction(place)) <= Fraction(1, 10**7) * (1 + abs(guess)):
        exact = fmpq(guess.numerator, guess.denominator)
        root = Root(arb(exact), exact, False)
        if holds(equation, name, root, angle):
            left, right = (substitute(term, {name: literal(guess)}) for term in equation.terms)
            if same_number(left, right, angle) or changes_sign(side, exact, name, angle):
                return Root(root.place, exact, True) if same_number(left, right, angle) else around(exact)
            # what is all but 0 far out, as 2^x is, is told from what is 0 by many digits
            return root if holds(equation, name, root, angle, MANY_BITS) else None
    middle = by_secants(side, fmpq(*place.as_integer_ratio()), name, angle)
    if middle is not None and changes_sign(side, middle, name, angle):
        return around(middle)
    return None


def around(middle: fmpq) -> Root:
    return Root(arb(middle, arb(width(middle))), None, True)


def width(middle: fmpq) -> fmpq:
    return NARROW * (1 + abs(middle))


def changes_sign(side: Node, middle: fmpq, name: str, angle: str) -> bool:
    """Whether a formula surely changes its sign close around a place, and has a value everywhere between."""
    try:
        whole = ball(side, {name: arb(middle, arb(width(middle)))}, BITS, angle)
        low, high = (ball(side, {name: middle + step}, BITS, angle) for step in (-width(middle), width(middle)))
    except EvaluationError:
        return False
    return bool(whole.is_finite()) and bool((low < 0 and high > 0) or (low > 0 and high < 0))


def by_secants(side: Node, start: fmpq, name: str, angle: str) -> fmpq | None:
    """A zero close to a place to many digits, by the secant method."""
    step = fmpq(1, 10**9) * (1 + abs(start))
    before, here = start - step, start + step
    try:
        first, second = (ball(side, {name: place}, BITS, angle).mid() for place in (before, here))
        for _ in range(STEPS_OF_A_SECANT):
            slope = second - first
            if slope == 0 or second == 0:
                break
            moved = Root((arb(here) - second * arb(here - before) / slope).mid(), None, False).middle
            before, here, first = here, moved, second
            second = ball(side, {name: here}, BITS, angle).mid()
            if abs(here - before) < NARROW * NARROW:
                break
    except EvaluationError:
        return None
    return here


def holds(equation: Relation, name: str, root: Root, angle: str, bits: int = BITS) -> bool | None:
    """Whether an equation holds at a solution of another: False where it surely does not, or surely has no value
    there; None where this precision cannot tell."""
    try:
        left, right = (ball(term, {name: root.at}, bits, angle) for term in equation.terms)
    except Undefined:
        return None if root.exact is None and has_value(equation, name, root.middle, angle) else False
    except EvaluationError:
        return None
    if not left.overlaps(right):
        return False
    with ctx.workprec(bits):
        gap = left - right
    return True if gap.rad() <= CLOSE * (1 + abs(left.mid())) else None


def has_value(equation: Relation, name: str, place: fmpq, angle: str) -> bool:
    try:
        for term in equation.terms:
            ball(term, {name: place}, BITS, angle)
    except EvaluationError:
        return False
    return True


def fraction_of(root: Root) -> Fraction:
    """The solution as a witness has it: exactly, or to thirty figures."""
    if root.exact is not None:
        return to_fraction(root.exact)
    value = to_fraction(root.middle)
    whole = len(str(abs(value.numerator))) - len(str(value.denominator))
    places = max(0, FIGURES - whole)
    return Fraction(round(value * 10**places), 10**places)
