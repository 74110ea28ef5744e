"""Canonical forms of elementary functions, as rational functions of a few independent kernels.

The method. Every formula is rewritten over *kernels*: letters, π, logarithms of irreducible factors,
roots of irreducible factors, exponentials and sines and cosines of "base" angles. Rules of algebra that
hold wherever the formula is defined over the reals are built into the rewriting:

* ln u = Σ eᵢ ln|pᵢ| over the irreducible factors of u (u > 0 where ln u is defined);
* u^(a/b) = Π pᵢ^(eᵢ a/b), with |pᵢ| for even b unless the formula's domain makes pᵢ ≥ 0;
* exp(Σ qᵢ mᵢ) = Π exp(mᵢ/d)^(qᵢ d), and aᵘ = exp(u ln a);
* sin and cos of sums by the addition theorems, multiples of π/12 exactly;
* sinh, cosh, tanh through exp; tan, cot, sec, csc through sin and cos.

What remains are polynomial relations (gen^B = p, S² = 1 − C², A² = p²), each monic in its own
generator, so that reduction by them in lexicographic order gives a normal form. A difference that
reduces to zero is zero wherever both sides are defined: that is a proof. The converse is not claimed.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cache
from math import factorial, lcm
from typing import Any

from flint import fmpz, fmpz_mpoly, fmpz_mpoly_ctx, fmpz_poly

from ..notation import (
    Call,
    Constant,
    Drawn,
    Mixed,
    Name,
    Neg,
    Node,
    Number,
    Postfix,
    Power,
    Product,
    Quotient,
    Sum,
)
from .balls import rational_constant as exact_constant
from .rationals import MAXIMUM_TERMS, Ratio, TooComplex, checked_product, ring
from .steps import spend
from .values import common_divisor

# A kernel's identity: its kind and what it is taken of.
Key = tuple[Any, ...]
# A whole exponent stays an int: it hashes and compares much faster than a Fraction.
Exponent = int | Fraction
# A polynomial free of any ring: ((kernel's number, exponent), …) and coefficient, sorted.
Terms = tuple[tuple[tuple[tuple[int, Exponent], ...], int], ...]

PI: Key = ("pi",)
# What bounds a domain: its kind, a sign, and the polynomials (or arguments) that it speaks of.
Restriction = tuple[str, int, frozenset[Any]]
Restrictions = frozenset[Restriction]
MAXIMUM_MULTIPLE = 24
MAXIMUM_KERNELS = 24


class NoCanonicalForm(Exception):
    """The formula holds something that has no canonical form here."""


class Recipe:
    """A formula over kernels, not yet in any ring.

    ``kind`` is ``number`` (value), ``kernel`` (its number, exponent), ``sum``, ``product``, ``power``
    (exponent) or ``quotient``.
    """

    # a plain class, never changed once made: a frozen dataclass takes three times as long to make
    __slots__ = ("kernel", "kind", "parts", "value")

    def __init__(self, kind: str, parts: tuple[Recipe, ...] = (), value: Exponent = 0, kernel: int = -1) -> None:
        self.kind = kind
        self.parts = parts
        self.value = value
        self.kernel = kernel


def number(value: Fraction | int) -> Recipe:
    return Recipe("number", (), value)


def total(*parts: Recipe) -> Recipe:
    """A sum; zeros are left out."""
    kept = tuple(part for part in parts if part.kind != "number" or part.value)
    return kept[0] if len(kept) == 1 else Recipe("sum", kept) if kept else ZERO


def times(*parts: Recipe) -> Recipe:
    """A product; ones are left out, and a zero makes it zero."""
    kept = []
    for part in parts:
        if part.kind == "number":
            if not part.value:
                return ZERO
            if part.value == 1:
                continue
        kept.append(part)
    return kept[0] if len(kept) == 1 else Recipe("product", tuple(kept)) if kept else ONE


def raised(base: Recipe, exponent: int) -> Recipe:
    return Recipe("power", (base,), exponent)


def over(top: Recipe, bottom: Recipe) -> Recipe:
    return Recipe("quotient", (top, bottom))


def chebyshev(degree: int, second: bool, letter: Recipe) -> Recipe:
    """Chebyshev's polynomial of the first or second kind, in a kernel."""
    before, current = [1], [0, 2 if second else 1]
    if degree == 0:
        return ONE
    for _ in range(degree - 1):
        doubled = [0, *(2 * coefficient for coefficient in current)]
        padded = before + [0] * (len(doubled) - len(before))
        before, current = current, [a - b for a, b in zip(doubled, padded)]
    terms = [
        times(number(coefficient), raised(letter, power)) for power, coefficient in enumerate(current) if coefficient
    ]
    return total(*terms)


ZERO, ONE, MINUS_ONE, TWO = number(0), number(1), number(-1), number(2)
HALF = Fraction(1, 2)


def plain(exponent: Exponent) -> Exponent:
    """The exponent as an int where it is whole."""
    return exponent.numerator if exponent.denominator == 1 else exponent


@dataclass
class Kernels:
    """The kernels in use, numbered as they were met, and the relations they obey.

    A relation speaks only of kernels with smaller numbers.
    """

    numbers: dict[Key, int] = field(default_factory=dict)
    keys: list[Key] = field(default_factory=list)
    # the letters that each kernel depends on
    letters: list[frozenset[str]] = field(default_factory=list)
    # kernel -> what the kernel itself equals (roots: the radicand)
    radicands: dict[int, Recipe] = field(default_factory=dict)
    # kernel -> what its square equals (absolute values, sines)
    squares: dict[int, Recipe] = field(default_factory=dict)
    # exponential kernel -> what it is the exponential of
    exponents: dict[int, Recipe] = field(default_factory=dict)
    # inverse function -> its name and what it is taken of
    inverse_of: dict[int, tuple[str, Recipe]] = field(default_factory=dict)
    # base angle -> the greatest common divisor of its multiples
    angle_units: dict[Key, Fraction] = field(default_factory=dict)
    # polynomials that are not negative wherever the formulas are defined
    not_negative: set[Terms] = field(default_factory=set)
    # what bounds the domain
    restrictions: set[Restriction] = field(default_factory=set)
    # whether something was learnt that changes what was rewritten before
    stale: bool = False

    def number(self, key: Key, letters: frozenset[str] = frozenset()) -> int:
        """The number of a kernel, new or known."""
        found = self.numbers.get(key)
        if found is None:
            found = self.numbers[key] = len(self.keys)
            self.keys.append(key)
            self.letters.append(letters)
            if found > MAXIMUM_KERNELS:
                raise TooComplex
        return found

    def use(self, key: Key, exponent: Exponent = 1, letters: frozenset[str] = frozenset()) -> Recipe:
        return Recipe("kernel", (), exponent, self.number(key, letters))

    def kind(self, kernel: int) -> object:
        return self.keys[kernel][0]

    def assume_not_negative(self, terms: Terms) -> None:
        if terms not in self.not_negative:
            self.not_negative.add(terms)
            self.stale = True


class Rewriter:
    """Rewrites trees over one shared set of kernels."""

    def __init__(self, kernels: Kernels, angle: str) -> None:
        self.kernels = kernels
        self.degrees = angle == "degrees"

    def of(self, node: Node) -> Recipe:
        method = getattr(self, f"of_{type(node).__name__}", None)
        if method is None:
            raise NoCanonicalForm
        plan: Recipe = method(node)
        return plan

    def of_Number(self, node: Number) -> Recipe:
        return number(node.value)

    def of_Mixed(self, node: Mixed) -> Recipe:
        return number(node.whole.value + node.numerator.value / node.denominator.value)

    def of_Name(self, node: Name) -> Recipe:
        return self.kernels.use(("letter", node.name), letters=frozenset([node.name]))

    def of_Constant(self, node: Constant) -> Recipe:
        if node.name == "pi":
            return self.kernels.use(PI)
        if node.name == "e":
            return self.exponential(ONE)
        if node.name == "i":
            unit = self.kernels.use(("i",))
            self.kernels.squares[unit.kernel] = MINUS_ONE
            return unit
        raise NoCanonicalForm

    def of_Sum(self, node: Sum) -> Recipe:
        return total(*map(self.of, node.terms))

    def of_Neg(self, node: Neg) -> Recipe:
        return times(MINUS_ONE, self.of(node.operand))

    def of_Product(self, node: Product) -> Recipe:
        return times(*map(self.of, node.factors))

    def of_Quotient(self, node: Quotient) -> Recipe:
        return over(self.of(node.numerator), self.of(node.denominator))

    def of_Drawn(self, node: Drawn) -> Recipe:
        return self.of(node.value)

    def of_Postfix(self, node: Postfix) -> Recipe:
        inner = self.of(node.operand)
        if node.sign == "%":
            return over(inner, number(100))
        if node.sign == "°":
            return inner if self.degrees else times(inner, self.kernels.use(PI), number(Fraction(1, 180)))
        return self.factorial(inner)

    def of_Power(self, node: Power) -> Recipe:
        exact = exact_constant(node.exponent)
        value = None if exact is None else Fraction(int(exact.p), int(exact.q))
        if value is None:
            value = self.ratio(self.of(node.exponent)).constant()
        if value is not None:
            base = self.of(node.base)
            return raised(base, int(value)) if value.denominator == 1 else self.root_power(base, value)
        if isinstance(node.base, Constant) and node.base.name == "e":
            return self.exponential(self.of(node.exponent))
        exponent, base = self.of(node.exponent), self.of(node.base)
        constant = self.ratio(base).constant()
        if constant is not None and constant < 0:
            # it has values at whole numbers only
            size = self.exponential(times(exponent, self.logarithm(number(-constant))))
            return times(self.alternating(exponent), size)
        return self.exponential(times(exponent, self.logarithm(base)))

    def alternating(self, exponent: Recipe) -> Recipe:
        """(−1)^u, where all that u is made of is whole."""
        pieces = []
        for share, base in self.linear(exponent):
            if share.denominator != 1:
                raise NoCanonicalForm
            if share % 2 and not base.letters:
                pieces.append(MINUS_ONE)
            elif share % 2:
                kernel = self.kernels.number(("alternating", base.key), base.letters)
                self.kernels.squares.setdefault(kernel, ONE)
                pieces.append(Recipe("kernel", (), 1, kernel))
        return times(*pieces)

    def of_Call(self, node: Call) -> Recipe:
        method = getattr(self, f"call_{node.function}", None)
        if method is not None:
            plan: Recipe = method(*map(self.of, node.arguments))
            return plan
        raise NoCanonicalForm

    def factorial(self, inner: Recipe) -> Recipe:
        """(u + m)! is (u + 1)…(u + m) u!, u having no whole number in it."""
        ratio = self.ratio(inner)
        constant, whole = ratio.constant(), ratio.whole_part()
        if constant is not None:
            if constant != whole or not 0 <= whole <= 1000:
                raise NoCanonicalForm
            return number(factorial(whole))
        if abs(whole) > MAXIMUM_MULTIPLE:
            raise NoCanonicalForm
        base = total(inner, number(-whole))
        kernel = self.opaque("factorial", (self.ratio(base),))
        steps = [total(base, number(step)) for step in range(min(0, whole) + 1, max(0, whole) + 1)]
        return times(kernel, *steps) if whole >= 0 else over(kernel, times(*steps))

    def call_binomial(self, top: Recipe, bottom: Recipe) -> Recipe:
        rest = total(top, times(MINUS_ONE, bottom))
        return over(self.factorial(top), times(self.factorial(bottom), self.factorial(rest)))

    call_choose = call_binomial

    # steps, signs, the larger and the smaller

    def floor(self, inner: Recipe) -> Recipe:
        return self.opaque("floor", (self.ratio(inner),))

    call_floor = floor

    def call_ceil(self, inner: Recipe) -> Recipe:
        return times(MINUS_ONE, self.floor(times(MINUS_ONE, inner)))

    def call_mod(self, inner: Recipe, divisor: Recipe) -> Recipe:
        return total(inner, times(MINUS_ONE, divisor, self.floor(over(inner, divisor))))

    def call_round(self, inner: Recipe, places: Recipe = ZERO) -> Recipe:
        wanted = self.ratio(places).constant()
        if wanted is None or wanted.denominator != 1 or abs(wanted) > MAXIMUM_MULTIPLE:
            raise NoCanonicalForm
        scale = number(Fraction(10) ** int(wanted))
        # at the halves, which are isolated, the one below is not the one away from zero
        return over(self.floor(total(times(inner, scale), number(HALF))), scale)

    def call_sgn(self, inner: Recipe) -> Recipe:
        return over(self.call_abs(inner), inner)

    def call_max(self, *values: Recipe) -> Recipe:
        if len(values) > 6:
            raise NoCanonicalForm
        largest = values[0]
        for value in values[1:]:
            apart = self.call_abs(total(largest, times(MINUS_ONE, value)))
            largest = times(number(HALF), total(largest, value, apart))
        return largest

    def call_min(self, *values: Recipe) -> Recipe:
        return times(MINUS_ONE, self.call_max(*(times(MINUS_ONE, value) for value in values)))

    # roots, absolute values, logarithms

    def call_sqrt(self, inner: Recipe) -> Recipe:
        return self.root_power(inner, Fraction(1, 2))

    def call_root(self, order: Recipe, inner: Recipe) -> Recipe:
        value = self.ratio(order).constant()
        if value is None or value.denominator != 1 or value < 1:
            raise NoCanonicalForm
        return self.root_power(inner, 1 / value)

    def root_power(self, base: Recipe, exponent: Fraction) -> Recipe:
        """A power that is not whole: over the irreducible factors of the base."""
        ratio = self.ratio(base)
        if ratio.is_zero():
            return number(0)
        even = exponent.denominator % 2 == 0
        sign, factors = ratio.factors()
        if even:
            self.restrict(sign, factors)
        pieces = []
        if not even and sign < 0 and exponent.numerator % 2:
            pieces.append(MINUS_ONE)
        for factor, multiplicity in factors:
            pieces.append(self.factor_power(factor, multiplicity * exponent, even))
        return times(*pieces)

    def restrict(self, sign: int, factors: list[tuple[Factor, Exponent]]) -> None:
        """Note that the product of these factors is not negative where the formula is defined.

        Isolated zeros do not matter, so only factors that change sign count. When one alone does, the
        domain says which sign it has.
        """
        changing = [factor for factor, multiplicity in factors if self.changes_sign(factor, multiplicity)]
        if not changing:
            if sign < 0:
                raise NoCanonicalForm
            return
        self.kernels.restrictions.add(("not negative", sign, frozenset(factor.terms for factor in changing)))
        if len(changing) == 1:
            self.kernels.assume_not_negative(changing[0].terms if sign > 0 else opposite(changing[0].terms))

    def changes_sign(self, factor: Factor, multiplicity: Exponent) -> bool:
        """Whether this power of the factor can be negative."""
        if factor.prime or multiplicity.denominator != 1 or multiplicity % 2 == 0:
            return False
        terms = factor.terms
        if is_definite(terms, self.kernels):
            return False
        return len(terms) > 1 or any(self.kernels.kind(kernel) not in POSITIVE_KINDS for kernel, _ in terms[0][0])

    def factor_power(self, factor: Factor, exponent: Exponent, positive: bool) -> Recipe:
        """p^q, or |p|^q when ``positive`` and the sign of p is not known."""
        if factor.prime:
            return self.rooted(("root", factor.terms), number(factor.prime), exponent, frozenset())
        unknown = positive and self.changes_sign(factor, 1)
        if unknown and factor.terms not in self.kernels.not_negative:
            if opposite(factor.terms) in self.kernels.not_negative:
                turned = times(MINUS_ONE, factor.plan)
                return self.rooted(("root", opposite(factor.terms)), turned, exponent, factor.letters)
            return self.rooted(("root of size", factor.terms), self.absolute(factor), exponent, factor.letters)
        if factor.kernel is not None:
            return Recipe("kernel", (), plain(exponent), factor.kernel)
        return self.rooted(("root", factor.terms), factor.plan, exponent, factor.letters)

    def rooted(self, key: Key, radicand: Recipe, exponent: Exponent, letters: frozenset[str]) -> Recipe:
        if exponent.denominator == 1:
            return raised(radicand, int(exponent))
        kernel = self.kernels.number(key, letters)
        self.kernels.radicands.setdefault(kernel, radicand)
        return Recipe("kernel", (), exponent, kernel)

    def absolute(self, factor: Factor) -> Recipe:
        """|p| for a factor whose sign is not known."""
        if factor.prime:
            return number(factor.prime)
        if factor.terms in self.kernels.not_negative or is_definite(factor.terms, self.kernels):
            return factor.plan
        if opposite(factor.terms) in self.kernels.not_negative:
            return times(MINUS_ONE, factor.plan)
        kernel = self.kernels.number(("abs", factor.terms), factor.letters)
        self.kernels.squares.setdefault(kernel, raised(factor.plan, 2))
        return Recipe("kernel", (), 1, kernel)

    def call_abs(self, inner: Recipe) -> Recipe:
        ratio = self.ratio(inner)
        if ratio.is_zero():
            return number(0)
        pieces = []
        for factor, multiplicity in ratio.factors()[1]:
            if not self.changes_sign(factor, multiplicity):
                pieces.append(self.factor_power(factor, multiplicity, False))
                continue
            pieces.append(raised(factor.plan, int(multiplicity) - 1))
            pieces.append(self.absolute(factor))
        return times(*pieces)

    def call_ln(self, inner: Recipe) -> Recipe:
        return self.logarithm(inner)

    def call_log(self, inner: Recipe, base: Recipe = number(10)) -> Recipe:  # noqa: B008 (frozen)
        return over(self.call_ln(inner), self.call_ln(base))

    def logarithm(self, inner: Recipe) -> Recipe:
        ratio = self.ratio(inner)
        if ratio.is_zero():
            raise NoCanonicalForm
        sign, factors = ratio.factors()
        self.restrict(sign, factors)
        pieces = []
        for factor, multiplicity in factors:
            terms = factor.terms
            if factor.kernel is not None and self.kernels.kind(factor.kernel) == "exp":
                logarithm = self.kernels.exponents[factor.kernel]
            else:
                while (single := single_kernel(terms)) and self.kernels.kind(single[0]) in ROOT_KINDS:
                    terms = self.kernels.keys[single[0]][1]
                    multiplicity *= single[1]
                logarithm = self.kernels.use(("ln", terms), letters=factor.letters)
            pieces.append(times(number(multiplicity), logarithm))
        return total(*pieces)

    # exponentials

    def call_exp(self, inner: Recipe) -> Recipe:
        return self.exponential(inner)

    def exponential(self, inner: Recipe) -> Recipe:
        pieces = []
        for share, base in self.linear(inner):
            if base.plan.kind == "kernel" and base.plan.value == 1 and self.kernels.kind(base.plan.kernel) == "ln":
                terms: Terms = self.kernels.keys[base.plan.kernel][1]
                pieces.append(self.exponential_of_logarithm(share, terms))
                continue
            kernel = self.kernels.number(("exp", base.key), base.letters)
            self.kernels.exponents.setdefault(kernel, base.plan)
            pieces.append(Recipe("kernel", (), plain(share), kernel))
        return times(*pieces)

    def exponential_of_logarithm(self, share: Exponent, terms: Terms) -> Recipe:
        """exp(q ln|p|) = |p|^q."""
        factor = Factor.of_terms(terms, self.kernels)
        if share.denominator == 1:
            return raised(self.absolute(factor), int(share))
        return self.factor_power(factor, share, True)

    def call_sinh(self, inner: Recipe) -> Recipe:
        up, down = self.exponential(inner), self.exponential(times(MINUS_ONE, inner))
        return over(total(up, times(MINUS_ONE, down)), TWO)

    def call_cosh(self, inner: Recipe) -> Recipe:
        return over(total(self.exponential(inner), self.exponential(times(MINUS_ONE, inner))), TWO)

    def call_tanh(self, inner: Recipe) -> Recipe:
        return over(self.call_sinh(inner), self.call_cosh(inner))

    def call_sech(self, inner: Recipe) -> Recipe:
        return over(ONE, self.call_cosh(inner))

    def call_csch(self, inner: Recipe) -> Recipe:
        return over(ONE, self.call_sinh(inner))

    def call_coth(self, inner: Recipe) -> Recipe:
        return over(self.call_cosh(inner), self.call_sinh(inner))

    def call_asinh(self, inner: Recipe) -> Recipe:
        return self.logarithm(total(inner, self.root_power(total(raised(inner, 2), ONE), HALF)))

    def call_acosh(self, inner: Recipe) -> Recipe:
        self.opaque("acosh", (self.ratio(inner),))
        return self.logarithm(total(inner, self.root_power(total(raised(inner, 2), MINUS_ONE), HALF)))

    def call_atanh(self, inner: Recipe) -> Recipe:
        above, below = total(ONE, inner), total(ONE, times(MINUS_ONE, inner))
        return times(number(HALF), self.logarithm(over(above, below)))

    # angles

    def call_sin(self, inner: Recipe) -> Recipe:
        return self.turn(inner)[1]

    def call_cos(self, inner: Recipe) -> Recipe:
        return self.turn(inner)[0]

    def call_tan(self, inner: Recipe) -> Recipe:
        cosine, sine = self.turn(inner)
        return over(sine, cosine)

    def call_cot(self, inner: Recipe) -> Recipe:
        cosine, sine = self.turn(inner)
        return over(cosine, sine)

    def call_sec(self, inner: Recipe) -> Recipe:
        return over(ONE, self.turn(inner)[0])

    def call_csc(self, inner: Recipe) -> Recipe:
        return over(ONE, self.turn(inner)[1])

    def turn(self, angle: Recipe) -> tuple[Recipe, Recipe]:
        """(cos, sin) of an angle, by the addition theorems over base angles."""
        if self.degrees:
            angle = times(angle, self.kernels.use(PI), number(Fraction(1, 180)))
        cosine, sine = ONE, ZERO
        for share, base in self.linear(angle):
            if base.is_pi and (share * 12).denominator == 1:
                c, s = self.special_angle(int(share * 12) % 24)
            elif base.plan.kind == "kernel" and base.plan.kernel in self.kernels.inverse_of and share.denominator == 1:
                c, s = self.turned_back(int(share), *self.kernels.inverse_of[base.plan.kernel])
            else:
                c, s = self.multiple(share, base)
            cosine, sine = (
                total(times(cosine, c), times(MINUS_ONE, sine, s)),
                total(times(sine, c), times(cosine, s)),
            )
        return cosine, sine

    def turned_back(self, share: int, name: str, inner: Recipe) -> tuple[Recipe, Recipe]:
        """(cos, sin) of a multiple of asin u or atan u, through u itself."""
        square = raised(inner, 2)
        if name == "asin":
            # cos is not negative there
            cosine, sine = self.root_power(total(ONE, times(MINUS_ONE, square)), HALF), inner
        else:
            hypotenuse = self.root_power(total(ONE, square), HALF)
            cosine, sine = over(ONE, hypotenuse), over(inner, hypotenuse)
        count = abs(share)
        if count > MAXIMUM_MULTIPLE:
            raise NoCanonicalForm
        turned = times(sine, chebyshev(count - 1, second=True, letter=cosine))
        return chebyshev(count, second=False, letter=cosine), (times(MINUS_ONE, turned) if share < 0 else turned)

    def special_angle(self, twelfths: int) -> tuple[Recipe, Recipe]:
        """(cos, sin) of a multiple of π/12."""
        return self.special_cosine(twelfths), self.special_cosine((6 - twelfths) % 24)

    def special_cosine(self, twelfths: int) -> Recipe:
        twelfths = min(twelfths, 24 - twelfths)
        if twelfths > 6:
            return times(MINUS_ONE, self.special_cosine(12 - twelfths))
        if twelfths == 0:
            return ONE
        if twelfths == 6:
            return number(0)
        if twelfths == 4:
            return number(Fraction(1, 2))
        if twelfths == 3:
            return over(self.root_power(TWO, HALF), TWO)
        if twelfths == 2:
            return over(self.root_power(number(3), HALF), TWO)
        sign = ONE if twelfths == 1 else MINUS_ONE
        return over(times(self.root_power(TWO, HALF), total(self.root_power(number(3), HALF), sign)), number(4))

    def multiple(self, share: Exponent, base: Base) -> tuple[Recipe, Recipe]:
        """(cos, sin) of share·base, over the cosine and sine of a part of the base that is fixed in the end.

        The multiples are those of the greatest common divisor of the shares that were met.
        """
        size = abs(Fraction(share))
        unit = self.common_unit(base.key, size)
        count = int(size / unit)
        if count > MAXIMUM_MULTIPLE:
            raise NoCanonicalForm
        cosine = self.kernels.use(("cos", base.key, unit), letters=base.letters)
        sine = self.kernels.use(("sin", base.key, unit), letters=base.letters)
        if sine.kernel not in self.kernels.squares:
            self.kernels.squares[sine.kernel] = total(ONE, times(MINUS_ONE, raised(cosine, 2)))
        # cos nθ = Tₙ(cos θ) and sin nθ = sin θ·Uₙ₋₁(cos θ), Chebyshev's polynomials
        turned = times(sine, chebyshev(count - 1, second=True, letter=cosine))
        return chebyshev(count, second=False, letter=cosine), (times(MINUS_ONE, turned) if share < 0 else turned)

    def common_unit(self, base: Key, share: Fraction) -> Fraction:
        units = self.kernels.angle_units
        known = units.get(base)
        if known is None:
            units[base] = share
        elif (share / known).denominator != 1:
            units[base] = common_divisor(known, share)
            self.kernels.stale = True
        return units[base]

    def inverse(self, name: str, inner: Recipe, odd: bool) -> Recipe:
        """An inverse function as a kernel of its own; odd ones carry the sign outside."""
        ratio = self.ratio(inner)
        if ratio.is_zero() and odd:
            return number(0)
        if odd and ratio.ratio.top.leading_coefficient() < 0:
            return times(MINUS_ONE, self.inverse(name, times(MINUS_ONE, inner), odd))
        plan = self.known_angle(name, inner) if not ratio.letters() else None
        if plan is None:
            plan = self.opaque(name, (ratio,))
            self.kernels.inverse_of.setdefault(plan.kernel, (name, inner))
        if self.degrees:
            return over(times(plan, number(180)), self.kernels.use(PI))
        return plan

    def known_angle(self, name: str, inner: Recipe) -> Recipe | None:
        """The multiple of π/12 whose sine or tangent this positive number is."""
        for twelfths in range(1, 7 if name == "asin" else 6):
            cosine, sine = self.special_angle(twelfths)
            value = sine if name == "asin" else over(sine, cosine)
            if self.ratio(total(value, times(MINUS_ONE, inner))).is_zero():
                return times(number(Fraction(twelfths, 12)), self.kernels.use(PI))
        return None

    def call_asin(self, inner: Recipe) -> Recipe:
        return self.inverse("asin", inner, True)

    def call_acos(self, inner: Recipe) -> Recipe:
        right_angle = number(90) if self.degrees else over(self.kernels.use(PI), TWO)
        return total(right_angle, times(MINUS_ONE, self.call_asin(inner)))

    def call_atan(self, inner: Recipe) -> Recipe:
        return self.inverse("atan", inner, True)

    def call_acot(self, inner: Recipe) -> Recipe:
        right_angle = number(90) if self.degrees else over(self.kernels.use(PI), TWO)
        return total(right_angle, times(MINUS_ONE, self.call_atan(inner)))

    def opaque(self, name: str, arguments: tuple[Reduced, ...]) -> Recipe:
        keys = tuple(argument.key() for argument in arguments)
        letters = frozenset[str]().union(*(argument.letters() for argument in arguments))
        if letters and name in BOUNDED:
            self.kernels.restrictions.add((name, 1, frozenset(keys)))
        return self.kernels.use((name, keys), letters=letters)

    # inner arguments

    def ratio(self, plan: Recipe) -> Reduced:
        return reduced(plan, self.kernels)

    def linear(self, plan: Recipe) -> list[tuple[Exponent, Base]]:
        """The argument as Σ share·base, each base primitive, so that multiples share a base."""
        return self.plainly_linear(plan) or self.ratio(plan).pieces()

    def plainly_linear(self, plan: Recipe) -> list[tuple[Exponent, Base]] | None:
        """The same for a sum of multiples of letters, which needs no ring; None for anything else."""
        found: dict[int, Exponent] = {}
        for term in plan.parts if plan.kind == "sum" else (plan,):
            share: Exponent = 1
            if term.kind == "product" and len(term.parts) == 2 and term.parts[0].kind == "number":
                share, term = term.parts[0].value, term.parts[1]
            if term.kind != "kernel" or term.value != 1 or self.kernels.kind(term.kernel) not in {"letter", "pi"}:
                return None
            found[term.kernel] = found.get(term.kernel, 0) + share
        return [(share, base_of(((((kernel, 1),), 1),), self.kernels)) for kernel, share in found.items() if share]


@dataclass(frozen=True, slots=True)
class Base:
    """A primitive piece of an argument: what exp, sin and cos are taken of."""

    key: Key
    plan: Recipe
    letters: frozenset[str]
    is_pi: bool = False


@dataclass(frozen=True, slots=True)
class Factor:
    """An irreducible factor, leading coefficient positive, or a prime number."""

    terms: Terms
    plan: Recipe
    letters: frozenset[str]
    prime: int = 0
    # the kernel, when the factor is one kernel whose fractional powers need no relation
    kernel: int | None = None

    @staticmethod
    def of_prime(prime: int) -> Factor:
        return Factor((((), prime),), number(prime), frozenset(), prime)

    @staticmethod
    def of_terms(terms: Terms, kernels: Kernels) -> Factor:
        if len(terms) == 1 and not terms[0][0]:
            return Factor.of_prime(terms[0][1])
        single = single_kernel(terms)
        free = single[0] if single and kernels.kind(single[0]) in FREE_KINDS else None
        return Factor(terms, plan_of(terms), letters_of(terms, kernels), kernel=free)


# Kernels that are never negative wherever they are defined.
POSITIVE_KINDS = frozenset({"abs", "exp", "pi", "root of size"})
# Kernels whose fractional powers need no relation.
FREE_KINDS = frozenset({"letter", "exp", "pi", "ln"})
# Inverse functions that are real in a part of the line only.
BOUNDED = frozenset({"asin", "acosh", "atanh"})
# Kernels whose logarithm is that of what they are taken of.
ROOT_KINDS = frozenset({"abs", "root", "root of size"})


def letters_of(terms: Terms, kernels: Kernels) -> frozenset[str]:
    """The letters that a polynomial depends on."""
    return frozenset[str]().union(*(kernels.letters[kernel] for monomial, _ in terms for kernel, _ in monomial))


def single_kernel(terms: Terms) -> tuple[int, Exponent] | None:
    """The kernel and its exponent, when the polynomial is one power of one kernel."""
    if len(terms) == 1 and len(terms[0][0]) == 1 and terms[0][1] == 1:
        return terms[0][0][0]
    return None


def one_less(terms: Terms) -> int | None:
    """The kernel k of a polynomial k − 1."""
    if len(terms) == 2 and terms[0] == ((), -1) and terms[1][1] == 1 and len(terms[1][0]) == 1:
        kernel, exponent = terms[1][0][0]
        return kernel if exponent == 1 else None
    return None


def plan_of(terms: Terms) -> Recipe:
    """A plan for a polynomial that is free of any ring."""
    return total(
        *(
            times(number(coefficient), *(Recipe("kernel", (), exponent, kernel) for kernel, exponent in monomial))
            for monomial, coefficient in terms
        )
    )


def is_definite(terms: Terms, kernels: Kernels) -> bool:
    """Whether a polynomial is never negative for a reason that its form shows: all its terms are positive and of
    even powers or kernels that are positive, or it is a polynomial without real zeros in one kernel."""
    if not terms or any(exponent.denominator != 1 for monomial, _ in terms for _, exponent in monomial):
        return False
    if len(terms) > 1 and all(
        coefficient > 0
        and all(exponent % 2 == 0 or kernels.kind(kernel) in POSITIVE_KINDS for kernel, exponent in monomial)
        for monomial, coefficient in terms
    ):
        return True
    used = {kernel for monomial, _ in terms for kernel, _ in monomial}
    if len(used) != 1 or kernels.kind(next(iter(used))) == "i":
        return False
    powers = {int(monomial[0][1]) if monomial else 0: coefficient for monomial, coefficient in terms}
    degree = max(powers)
    if degree % 2 or degree > MAXIMUM_MULTIPLE or powers[degree] < 0:
        return False
    polynomial = fmpz_poly([powers.get(power, 0) for power in range(degree + 1)])
    spend(20 + 10 * degree * degree)
    return not any(root.imag.is_zero() for root, _ in polynomial.complex_roots())


def opposite(terms: Terms) -> Terms:
    return tuple((monomial, -coefficient) for monomial, coefficient in terms)


@dataclass
class Reduced:
    """A rational function in a ring of kernels, reduced by their relations and to lowest terms."""

    ratio: Ratio
    # the kernel and the order of each generator of the ring
    generators: list[tuple[int, int]]
    kernels: Kernels

    def is_zero(self) -> bool:
        return bool(self.ratio.top.is_zero())

    def constant(self) -> Fraction | None:
        """The value when it is a rational number."""
        if not self.ratio.top.is_constant() or not self.ratio.bottom.is_constant():
            return None
        if self.ratio.top.is_zero():
            return Fraction(0)
        return Fraction(int(self.ratio.top.leading_coefficient()), int(self.ratio.bottom.leading_coefficient()))

    def whole_part(self) -> int:
        """The whole number in a polynomial's constant term; 0 for other formulas."""
        if not self.ratio.bottom.is_constant():
            return 0
        constant = next((value for powers, value in self.ratio.top.to_dict().items() if not any(powers)), 0)
        return int(constant) // int(self.ratio.bottom.leading_coefficient())

    def terms(self, polynomial: fmpz_mpoly) -> Terms:
        """The polynomial free of the ring, its monomials in a fixed order."""
        found = []
        for exponents, coefficient in polynomial.to_dict().items():
            monomial = tuple(
                (kernel, int(exponent) if order == 1 else plain(Fraction(int(exponent), order)))
                for (kernel, order), exponent in zip(self.generators, exponents)
                if exponent
            )
            found.append((monomial, int(coefficient)))
        found.sort()
        return tuple(found)

    def key(self) -> Key:
        return (self.terms(self.ratio.top), self.terms(self.ratio.bottom))

    def letters(self) -> frozenset[str]:
        unused = set(self.ratio.top.unused_gens()) & set(self.ratio.bottom.unused_gens())
        names = self.ratio.top.context().names()
        kept = [kernel for (kernel, _), name in zip(self.generators, names) if name not in unused]
        return frozenset[str]().union(*(self.kernels.letters[kernel] for kernel in kept))

    def factors(self) -> tuple[int, list[tuple[Factor, Exponent]]]:
        """The sign, and the irreducible factors with their multiplicities (negative below the line)."""
        sign = 1
        found: list[tuple[Factor, Exponent]] = []
        for polynomial, side in ((self.ratio.top, 1), (self.ratio.bottom, -1)):
            content, factors = polynomial.factor()
            if content < 0:
                sign = -sign
            if abs(content) > 10**30:
                raise TooComplex
            found.extend(
                (Factor.of_prime(int(prime)), side * int(count)) for prime, count in fmpz(abs(content)).factor()
            )
            for factor, multiplicity in factors:
                if factor.leading_coefficient() < 0:
                    factor = -factor
                    sign = -sign if multiplicity % 2 else sign
                irreducible, share = self.factor(factor)
                found.append((irreducible, side * int(multiplicity) * share))
        return self.with_sines(sign, found)

    def with_sines(self, sign: int, found: list[tuple[Factor, Exponent]]) -> tuple[int, list[tuple[Factor, Exponent]]]:
        """(cos u − 1)(cos u + 1) is −sin² u: the two come as one, so that its root is the size of the sine."""
        placed = {factor.terms: place for place, (factor, _) in enumerate(found)}
        for factor, multiplicity in list(found):
            cosine = one_less(factor.terms)
            if cosine is None or self.kernels.kind(cosine) != "cos":
                continue
            other = placed.get((((), 1), (((cosine, 1),), 1)))
            _, base, unit = self.kernels.keys[cosine]
            sine = self.kernels.numbers.get(("sin", base, unit))
            if other is None or sine is None or found[other][1] != multiplicity or multiplicity.denominator != 1:
                continue
            pair = Factor.of_terms(((((sine, 1),), 1),), self.kernels)
            kept = [each for place, each in enumerate(found) if place not in {other, placed[factor.terms]}]
            turned = -sign if multiplicity % 2 else sign
            return Reduced.with_sines(self, turned, [*kept, (pair, 2 * multiplicity)])
        return sign, found

    def factor(self, polynomial: fmpz_mpoly) -> tuple[Factor, Exponent]:
        """The factor, and to what power: a generator may be a root of its kernel."""
        terms = self.terms(polynomial)
        share: Exponent = 1
        single = single_kernel(terms)
        if single and self.kernels.kind(single[0]) in FREE_KINDS:
            share = single[1]
            terms = ((((single[0], 1),), 1),)
        return Factor.of_terms(terms, self.kernels), share

    def pieces(self) -> list[tuple[Exponent, Base]]:
        if self.ratio.bottom.is_constant():
            divisor = int(self.ratio.bottom.leading_coefficient())
            return [
                (Fraction(coefficient, divisor), base_of(((monomial, 1),), self.kernels))
                for monomial, coefficient in self.terms(self.ratio.top)
            ]
        content = self.ratio.top.content()
        if self.ratio.top.leading_coefficient() < 0:
            content = -content
        below = self.ratio.bottom.content()
        top, bottom = self.ratio.top / content, self.ratio.bottom / below
        key = (self.terms(top), self.terms(bottom))
        base = Base(
            key,
            over(plan_of(key[0]), plan_of(key[1])),
            letters_of(key[0], self.kernels) | letters_of(key[1], self.kernels),
        )
        return [(Fraction(int(content), int(below)), base)]


def base_of(terms: Terms, kernels: Kernels) -> Base:
    """The base that is one monomial."""
    monomial = terms[0][0]
    is_pi = len(monomial) == 1 and monomial[0][1] == 1 and kernels.kind(monomial[0][0]) == "pi"
    plan = times(*(Recipe("kernel", (), exponent, kernel) for kernel, exponent in monomial))
    return Base((terms,), plan, letters_of(terms, kernels), is_pi)


def reduced(plan: Recipe, kernels: Kernels) -> Reduced:
    """The plan in a ring of the kernels it needs, as a reduced ratio."""
    builder = Builder([plan], kernels)
    ratio = builder.rationalised(builder.reduce(builder.of(plan)))
    return Reduced(ratio.reduced(), builder.generators, kernels)


def needed_kernels(plans: Iterable[Recipe], kernels: Kernels) -> dict[int, int]:
    """The kernels that the plans and their relations speak of, the latest first, each with its order.

    The order D is the common denominator of the exponents: the generator is the kernel to the 1/D.
    """
    waiting = list(plans)
    found: dict[int, int] = {}
    while waiting:
        plan = waiting.pop()
        if plan.kind != "kernel":
            waiting.extend(plan.parts)
            continue
        kernel = plan.kernel
        known = found.get(kernel)
        if known is None:
            found[kernel] = plan.value.denominator
            relation = kernels.radicands.get(kernel) or kernels.squares.get(kernel)
            if relation is not None:
                waiting.append(relation)
        elif known % plan.value.denominator:
            found[kernel] = lcm(known, plan.value.denominator)
    return {kernel: found[kernel] for kernel in sorted(found, reverse=True)}


@cache
def kernel_ring(count: int) -> tuple[fmpz_mpoly_ctx, tuple[fmpz_mpoly, ...]]:
    """A ring with so many generators."""
    made = ring([f"k{number}" for number in range(count)])
    return made, made.gens()


class Builder:
    """Evaluates plans in the polynomial ring of the kernels they need."""

    def __init__(self, plans: Iterable[Recipe], kernels: Kernels) -> None:
        self.kernels = kernels
        self.orders = needed_kernels(plans, kernels)
        self.generators = list(self.orders.items())
        self.ring, gens = kernel_ring(len(self.orders))
        self.one = self.ring.constant(1)
        self.gens = dict(zip(self.orders, gens))
        self.units = {kernel: Ratio(gen, self.one) for kernel, gen in self.gens.items()}
        self.relations: list[fmpz_mpoly] = []
        for kernel, order in self.generators:
            if kernel in kernels.radicands:
                self.relate(self.gens[kernel] ** order, kernels.radicands[kernel])
            elif kernel in kernels.squares:
                self.relate(self.gens[kernel] ** 2, kernels.squares[kernel])

    def relate(self, power: fmpz_mpoly, plan: Recipe) -> None:
        value = self.of(plan)
        if value.bottom.is_one():
            self.relations.append(power - value.top)

    def of(self, plan: Recipe) -> Ratio:
        kind = plan.kind
        if kind == "kernel":
            exponent: Exponent = plan.value * self.orders[plan.kernel]
            if exponent == 1:
                return self.units[plan.kernel]
            if exponent.denominator != 1 or not -10_000 < exponent.numerator < 10_000:
                raise TooComplex
            return Ratio(self.gens[plan.kernel], self.one).power(int(exponent))
        if kind == "number":
            value = plan.value
            bottom = self.one if value.denominator == 1 else self.ring.constant(value.denominator)
            return Ratio(self.ring.constant(value.numerator), bottom)
        if kind == "quotient":
            return self.of(plan.parts[0]) / self.of(plan.parts[1])
        if kind == "power":
            return self.tamed(self.of(plan.parts[0]).power(int(plan.value)))
        result = self.of(plan.parts[0])
        for part in plan.parts[1:]:
            result = result + self.of(part) if kind == "sum" else self.tamed(result * self.of(part))
        return result

    def tamed(self, ratio: Ratio) -> Ratio:
        """Keep intermediate results small: reduce whenever they have grown."""
        return self.reduce(ratio) if len(ratio.top) + len(ratio.bottom) > 60 else ratio

    def rationalised(self, ratio: Ratio) -> Ratio:
        """Without square roots of numbers below the line, so that 1/(1 + √2) and √2 − 1 are one."""
        top, bottom = ratio.top, ratio.bottom
        if bottom.is_constant():
            return ratio
        for kernel, order in self.generators:
            generator = self.gens[kernel]
            place = list(self.gens).index(kernel)
            if order != 2 or kernel not in self.kernels.radicands or self.kernels.letters[kernel]:
                continue
            if not bottom.degrees()[place]:
                continue
            # p + q g times p − q g has no g
            other = bottom.compose(*(-gen if gen is generator else gen for gen in self.gens.values()))
            top, bottom = self.normal(checked_product(top, other)), self.normal(checked_product(bottom, other))
        return Ratio(top, bottom)

    def reduce(self, ratio: Ratio) -> Ratio:
        top, bottom = self.normal(ratio.top), self.normal(ratio.bottom)
        if bottom.is_zero():
            raise NoCanonicalForm
        return Ratio(top, bottom)

    def normal(self, polynomial: fmpz_mpoly) -> fmpz_mpoly:
        for relation in self.relations:
            if len(polynomial) > MAXIMUM_TERMS:
                raise TooComplex
            polynomial = divmod(polynomial, relation)[1]
        return polynomial


def canonical_difference(left: Node, right: Node, positive: Iterable[Node], angle: str) -> Difference:
    """left − right over shared kernels.

    ``positive`` holds formulas that are known not to be negative. Raises ``NoCanonicalForm``,
    ``TooComplex`` or ``EvaluationError`` where there is none.
    """
    kernels = Kernels()
    rewriter = Rewriter(kernels, angle)
    for formula in positive:
        sign, factors = rewriter.ratio(rewriter.of(formula)).factors()
        rewriter.restrict(sign, factors)
    given = frozenset(kernels.restrictions)
    # the left side's own domain is what it says before the right side is looked at
    for _ in range(4):
        kernels.stale, kernels.restrictions = False, set()
        first = rewriter.of(left)
        of_left = given | kernels.restrictions
        if not kernels.stale:
            break
    kernels.restrictions = set()
    second = rewriter.of(right)
    of_right = frozenset(kernels.restrictions)
    # What one side says of the domain helps to simplify the other: rewrite until nothing is learnt.
    for _ in range(4):
        if not kernels.stale:
            break
        kernels.stale, kernels.restrictions = False, set()
        first = rewriter.of(left)
        kernels.restrictions = set()
        second = rewriter.of(right)
        of_right |= kernels.restrictions
    builder = Builder([first, second], kernels)
    a, b = builder.reduce(builder.of(first)), builder.reduce(builder.of(second))
    return Difference(a, b, builder, implied(of_right, of_left))


def implied(wanted: Restrictions, known: Restrictions) -> bool:
    """Whether every restriction of a domain follows from those known.

    It does when it is one of them, or a product of factors whose signs they give.
    """
    signs: dict[Terms, int] = {}
    # a product of which all signs but one are known gives that one
    for _ in range(len(known)):
        for kind, sign, terms in known:
            open_terms = [each for each in terms if each not in signs]
            if kind == "not negative" and len(open_terms) == 1:
                for each in terms:
                    sign *= signs.get(each, 1)
                signs[open_terms[0]] = sign
    for kind, sign, terms in wanted - known:
        if kind != "not negative" or not terms <= signs.keys():
            return False
        for each in terms:
            sign *= signs[each]
        if sign < 0:
            return False
    return True


@dataclass
class Difference:
    """Two formulas in one ring of kernels."""

    left: Ratio
    right: Ratio
    builder: Builder
    # whether whatever bounds the right side's domain bounds the left side's as well
    domain_contained: bool

    def vanishes(self) -> bool:
        difference = self.left + -self.right
        return bool(self.builder.normal(difference.top).is_zero())

    def depends_on(self, names: frozenset[str], quotient: bool) -> bool:
        """Whether left − right (or left / right) still speaks of any of these letters."""
        ratio = self.left / self.right if quotient else self.left + -self.right
        builder = self.builder
        found = Reduced(builder.reduce(ratio).reduced(), builder.generators, builder.kernels)
        return bool(found.letters() & names)
