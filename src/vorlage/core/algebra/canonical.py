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
from math import lcm

from flint import fmpz, fmpz_mpoly

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
from .rationals import MAXIMUM_TERMS, Ratio, TooComplex, ring

# A kernel's identity: its kind and what it is taken of.
Key = tuple[object, ...]
# A polynomial free of any ring: ((kernel, exponent), …) and coefficient, sorted.
Terms = tuple[tuple[tuple[tuple[Key, Fraction], ...], int], ...]

PI: Key = ("pi",)
MAXIMUM_MULTIPLE = 24
MAXIMUM_KERNELS = 24


class NoCanonicalForm(Exception):
    """The formula holds something that has no canonical form here."""


@dataclass(frozen=True, slots=True)
class Plan:
    """A formula over kernels, not yet in any ring.

    ``kind`` is ``number`` (value), ``kernel`` (key, exponent), ``sum``, ``product``, ``power`` (exponent)
    or ``quotient``.
    """

    kind: str
    parts: tuple[Plan, ...] = ()
    value: Fraction = Fraction(0)
    key: Key = ()


def number(value: Fraction | int) -> Plan:
    return Plan("number", value=Fraction(value))


def total(*parts: Plan) -> Plan:
    return parts[0] if len(parts) == 1 else Plan("sum", parts) if parts else number(0)


def times(*parts: Plan) -> Plan:
    return parts[0] if len(parts) == 1 else Plan("product", parts) if parts else number(1)


def raised(base: Plan, exponent: int) -> Plan:
    return Plan("power", (base,), Fraction(exponent))


def over(top: Plan, bottom: Plan) -> Plan:
    return Plan("quotient", (top, bottom))


ONE, MINUS_ONE, TWO = number(1), number(-1), number(2)
HALF = Fraction(1, 2)


@dataclass
class Kernels:
    """The kernels in use and the relations they obey."""

    # the kernels in the order in which they were met: relations speak of earlier ones only
    known: dict[Key, None] = field(default_factory=dict)
    # kernel -> what the kernel itself equals, as a plan over earlier kernels (roots: the radicand)
    radicands: dict[Key, Plan] = field(default_factory=dict)
    # kernel -> what its square equals (absolute values, sines, the imaginary unit)
    squares: dict[Key, Plan] = field(default_factory=dict)
    # polynomials that are not negative wherever the formulas are defined
    not_negative: set[Terms] = field(default_factory=set)
    # what bounds the domain: ("even root" | "logarithm" | …, polynomial)
    restrictions: set[tuple[object, ...]] = field(default_factory=set)
    # exponential kernel -> what it is the exponential of
    exponents: dict[Key, Plan] = field(default_factory=dict)
    # base angle -> the common denominator of its multiples
    angle_orders: dict[Key, int] = field(default_factory=dict)
    # kernel -> the letters it depends on
    letters: dict[Key, frozenset[str]] = field(default_factory=dict)

    def use(self, key: Key, exponent: Fraction = Fraction(1), letters: frozenset[str] = frozenset()) -> Plan:
        self.known.setdefault(key)
        self.letters.setdefault(key, letters)
        if len(self.known) > MAXIMUM_KERNELS:
            raise TooComplex
        return Plan("kernel", value=exponent, key=key)


class Rewriter:
    """Rewrites trees over one shared set of kernels."""

    def __init__(self, kernels: Kernels, angle: str) -> None:
        self.kernels = kernels
        self.degrees = angle == "degrees"

    def of(self, node: Node) -> Plan:
        method = getattr(self, f"of_{type(node).__name__}", None)
        if method is None:
            raise NoCanonicalForm
        plan: Plan = method(node)
        return plan

    def of_Number(self, node: Number) -> Plan:
        return number(node.value)

    def of_Mixed(self, node: Mixed) -> Plan:
        return number(node.whole.value + node.numerator.value / node.denominator.value)

    def of_Name(self, node: Name) -> Plan:
        return self.kernels.use(("letter", node.name), letters=frozenset([node.name]))

    def of_Constant(self, node: Constant) -> Plan:
        if node.name == "pi":
            return self.kernels.use(PI)
        if node.name == "e":
            return self.exponential(ONE)
        raise NoCanonicalForm

    def of_Sum(self, node: Sum) -> Plan:
        return total(*map(self.of, node.terms))

    def of_Neg(self, node: Neg) -> Plan:
        return times(MINUS_ONE, self.of(node.operand))

    def of_Product(self, node: Product) -> Plan:
        return times(*map(self.of, node.factors))

    def of_Quotient(self, node: Quotient) -> Plan:
        return over(self.of(node.numerator), self.of(node.denominator))

    def of_Drawn(self, node: Drawn) -> Plan:
        return self.of(node.value)

    def of_Postfix(self, node: Postfix) -> Plan:
        inner = self.of(node.operand)
        if node.sign == "%":
            return over(inner, number(100))
        if node.sign == "°":
            return inner if self.degrees else times(inner, self.kernels.use(PI), number(Fraction(1, 180)))
        ratio = self.ratio(inner)
        return self.opaque("factorial", (ratio,))

    def of_Power(self, node: Power) -> Plan:
        exponent = self.ratio(self.of(node.exponent))
        value = exponent.constant()
        if value is not None:
            base = self.of(node.base)
            return raised(base, int(value)) if value.denominator == 1 else self.root_power(base, value)
        if isinstance(node.base, Constant) and node.base.name == "e":
            return self.exponential(self.of(node.exponent))
        return self.exponential(times(self.of(node.exponent), self.logarithm(self.of(node.base))))

    def of_Call(self, node: Call) -> Plan:
        method = getattr(self, f"call_{node.function}", None)
        if method is not None:
            plan: Plan = method(*map(self.of, node.arguments))
            return plan
        if node.function in {"floor", "ceil", "acosh", "asinh", "atanh", "acot", "sgn", "min", "max"}:
            return self.opaque(node.function, tuple(self.ratio(self.of(argument)) for argument in node.arguments))
        raise NoCanonicalForm

    # roots, absolute values, logarithms

    def call_sqrt(self, inner: Plan) -> Plan:
        return self.root_power(inner, Fraction(1, 2))

    def call_root(self, order: Plan, inner: Plan) -> Plan:
        value = self.ratio(order).constant()
        if value is None or value.denominator != 1 or value < 1:
            raise NoCanonicalForm
        return self.root_power(inner, 1 / value)

    def root_power(self, base: Plan, exponent: Fraction) -> Plan:
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

    def restrict(self, sign: int, factors: list[tuple[Factor, Fraction]]) -> None:
        """Note that the product of these factors is not negative where the formula is defined.

        Isolated zeros do not matter, so only factors that change sign count. When one alone does, the
        domain says which sign it has.
        """
        changing = [factor for factor, multiplicity in factors if changes_sign(factor, multiplicity)]
        if not changing:
            if sign < 0:
                raise NoCanonicalForm
            return
        self.kernels.restrictions.add(("not negative", sign, frozenset(factor.terms for factor in changing)))
        if len(changing) == 1:
            self.kernels.not_negative.add(changing[0].terms if sign > 0 else opposite(changing[0].terms))

    def factor_power(self, factor: Factor, exponent: Fraction, positive: bool) -> Plan:
        """p^q, or |p|^q when ``positive`` and the sign of p is not known."""
        if factor.prime:
            return self.rooted(("root", factor.terms), number(factor.prime), exponent, frozenset())
        if positive and factor.terms not in self.kernels.not_negative:
            if opposite(factor.terms) in self.kernels.not_negative:
                turned = times(MINUS_ONE, factor.plan)
                return self.rooted(("root", opposite(factor.terms)), turned, exponent, factor.letters)
            return self.rooted(("root of size", factor.terms), self.absolute(factor), exponent, factor.letters)
        if factor.kernel is not None:
            return self.kernels.use(factor.kernel, exponent, factor.letters)
        return self.rooted(("root", factor.terms), factor.plan, exponent, factor.letters)

    def rooted(self, key: Key, radicand: Plan, exponent: Fraction, letters: frozenset[str]) -> Plan:
        if exponent.denominator == 1:
            return raised(radicand, int(exponent))
        self.kernels.radicands.setdefault(key, radicand)
        return self.kernels.use(key, exponent, letters)

    def absolute(self, factor: Factor) -> Plan:
        """|p| for a factor whose sign is not known."""
        if factor.prime:
            return number(factor.prime)
        if factor.terms in self.kernels.not_negative:
            return factor.plan
        if opposite(factor.terms) in self.kernels.not_negative:
            return times(MINUS_ONE, factor.plan)
        key: Key = ("abs", factor.terms)
        self.kernels.squares.setdefault(key, raised(factor.plan, 2))
        return self.kernels.use(key, letters=factor.letters)

    def call_abs(self, inner: Plan) -> Plan:
        ratio = self.ratio(inner)
        if ratio.is_zero():
            return number(0)
        pieces = []
        for factor, multiplicity in ratio.factors()[1]:
            if not changes_sign(factor, multiplicity):
                pieces.append(self.factor_power(factor, multiplicity, False))
                continue
            pieces.append(raised(factor.plan, int(multiplicity) - 1))
            pieces.append(self.absolute(factor))
        return times(*pieces)

    def call_ln(self, inner: Plan) -> Plan:
        return self.logarithm(inner)

    def call_log(self, inner: Plan, base: Plan = number(10)) -> Plan:  # noqa: B008 (frozen)
        return over(self.call_ln(inner), self.call_ln(base))

    def logarithm(self, inner: Plan) -> Plan:
        ratio = self.ratio(inner)
        if ratio.is_zero():
            raise NoCanonicalForm
        sign, factors = ratio.factors()
        self.restrict(sign, factors)
        pieces = []
        for factor, multiplicity in factors:
            terms = factor.terms
            if factor.kernel is not None and factor.kernel[0] == "exp":
                logarithm = self.kernels.exponents[factor.kernel]
            else:
                while (inner_key := single_kernel(terms)) and inner_key[0][0] in {
                    "abs",
                    "root",
                    "root of size",
                }:
                    (_, terms), exponent = inner_key  # type: ignore[assignment]
                    multiplicity *= exponent
                logarithm = self.kernels.use(("ln", terms), letters=factor.letters)
            pieces.append(times(number(multiplicity), logarithm))
        return total(*pieces)

    # exponentials

    def call_exp(self, inner: Plan) -> Plan:
        return self.exponential(inner)

    def exponential(self, inner: Plan) -> Plan:
        pieces = []
        for share, base in self.linear(inner):
            logarithm = base.is_logarithm()
            if logarithm is not None:
                pieces.append(self.exponential_of_logarithm(share, logarithm))
                continue
            key: Key = ("exp", base.key)
            self.kernels.exponents.setdefault(key, base.plan)
            pieces.append(self.kernels.use(key, share, base.letters))
        return times(*pieces)

    def exponential_of_logarithm(self, share: Fraction, terms: Terms) -> Plan:
        """exp(q ln|p|) = |p|^q."""
        factor = Factor.of_terms(terms, self.kernels)
        if share.denominator == 1:
            return raised(self.absolute(factor), int(share))
        return self.factor_power(factor, share, True)

    def call_sinh(self, inner: Plan) -> Plan:
        up, down = self.exponential(inner), self.exponential(times(MINUS_ONE, inner))
        return over(total(up, times(MINUS_ONE, down)), TWO)

    def call_cosh(self, inner: Plan) -> Plan:
        return over(total(self.exponential(inner), self.exponential(times(MINUS_ONE, inner))), TWO)

    def call_tanh(self, inner: Plan) -> Plan:
        return over(self.call_sinh(inner), self.call_cosh(inner))

    def call_sech(self, inner: Plan) -> Plan:
        return over(ONE, self.call_cosh(inner))

    def call_csch(self, inner: Plan) -> Plan:
        return over(ONE, self.call_sinh(inner))

    def call_coth(self, inner: Plan) -> Plan:
        return over(self.call_cosh(inner), self.call_sinh(inner))

    # angles

    def call_sin(self, inner: Plan) -> Plan:
        return self.turn(inner)[1]

    def call_cos(self, inner: Plan) -> Plan:
        return self.turn(inner)[0]

    def call_tan(self, inner: Plan) -> Plan:
        cosine, sine = self.turn(inner)
        return over(sine, cosine)

    def call_cot(self, inner: Plan) -> Plan:
        cosine, sine = self.turn(inner)
        return over(cosine, sine)

    def call_sec(self, inner: Plan) -> Plan:
        return over(ONE, self.turn(inner)[0])

    def call_csc(self, inner: Plan) -> Plan:
        return over(ONE, self.turn(inner)[1])

    def turn(self, angle: Plan) -> tuple[Plan, Plan]:
        """(cos, sin) of an angle, by the addition theorems over base angles."""
        if self.degrees:
            angle = times(angle, self.kernels.use(PI), number(Fraction(1, 180)))
        cosine, sine = ONE, number(0)
        for share, base in self.linear(angle):
            if base.is_pi and (share * 12).denominator == 1:
                c, s = self.special_angle(int(share * 12) % 24)
            else:
                c, s = self.multiple(share, base)
            cosine, sine = (
                total(times(cosine, c), times(MINUS_ONE, sine, s)),
                total(times(sine, c), times(cosine, s)),
            )
        return cosine, sine

    def special_angle(self, twelfths: int) -> tuple[Plan, Plan]:
        """(cos, sin) of a multiple of π/12."""
        return self.special_cosine(twelfths), self.special_cosine((6 - twelfths) % 24)

    def special_cosine(self, twelfths: int) -> Plan:
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

    def multiple(self, share: Fraction, base: Base) -> tuple[Plan, Plan]:
        """(cos, sin) of share·base, over the cosine and sine of base/D, D being fixed in the end.

        Only the numerator is expanded here; the denominator becomes part of the base angle.
        """
        count = abs(share.numerator)
        if count > MAXIMUM_MULTIPLE:
            raise NoCanonicalForm
        order = share.denominator
        common = self.common_order(base.key, order)
        count = count * (common // order)
        if count > MAXIMUM_MULTIPLE:
            raise NoCanonicalForm
        key: Key = (base.key, common)
        cos_key, sin_key = ("cos", key), ("sin", key)
        cosine = self.kernels.use(cos_key, letters=base.letters)
        sine = self.kernels.use(sin_key, letters=base.letters)
        self.kernels.squares.setdefault(sin_key, total(ONE, times(MINUS_ONE, raised(cosine, 2))))
        c, s = cosine, sine
        for _ in range(count - 1):
            c, s = (
                total(times(c, cosine), times(MINUS_ONE, s, sine)),
                total(times(s, cosine), times(c, sine)),
            )
        return c, (times(MINUS_ONE, s) if share < 0 else s)

    def common_order(self, base: Key, order: int) -> int:
        orders = self.kernels.angle_orders
        orders[base] = lcm(orders.get(base, 1), order)
        return orders[base]

    def inverse(self, name: str, inner: Plan, odd: bool) -> Plan:
        """An inverse function as a kernel of its own; odd ones carry the sign outside."""
        ratio = self.ratio(inner)
        if ratio.is_zero() and odd:
            return number(0)
        if odd and ratio.ratio.top.leading_coefficient() < 0:
            return times(MINUS_ONE, self.inverse(name, times(MINUS_ONE, inner), odd))
        plan = self.opaque(name, (ratio,))
        if self.degrees:
            return over(times(plan, number(180)), self.kernels.use(PI))
        return plan

    def call_asin(self, inner: Plan) -> Plan:
        return self.inverse("asin", inner, True)

    def call_acos(self, inner: Plan) -> Plan:
        right_angle = number(90) if self.degrees else over(self.kernels.use(PI), TWO)
        return total(right_angle, times(MINUS_ONE, self.call_asin(inner)))

    def call_atan(self, inner: Plan) -> Plan:
        return self.inverse("atan", inner, True)

    def opaque(self, name: str, arguments: tuple[Reduced, ...]) -> Plan:
        keys = tuple(argument.key() for argument in arguments)
        letters = frozenset[str]().union(*(argument.letters() for argument in arguments))
        if letters:
            self.kernels.restrictions.add((name, keys))
        return self.kernels.use((name, keys), letters=letters)

    # inner arguments

    def ratio(self, plan: Plan) -> Reduced:
        return reduced(plan, self.kernels)

    def linear(self, plan: Plan) -> list[tuple[Fraction, Base]]:
        """The argument as Σ share·base, each base primitive, so that multiples share a base."""
        return self.ratio(plan).pieces()


@dataclass(frozen=True, slots=True)
class Base:
    """A primitive piece of an argument: what exp, sin and cos are taken of."""

    key: Key
    plan: Plan
    letters: frozenset[str]
    is_pi: bool = False

    def is_logarithm(self) -> Terms | None:
        """The p of a base that is ln|p| and nothing else."""
        if self.plan.kind == "kernel" and self.plan.value == 1 and self.plan.key[0] == "ln":
            terms: Terms = self.plan.key[1]  # type: ignore[assignment]
            return terms
        return None


@dataclass(frozen=True, slots=True)
class Factor:
    """An irreducible factor, leading coefficient positive, or a prime number."""

    terms: Terms
    plan: Plan
    letters: frozenset[str]
    prime: int = 0
    # the kernel, when the factor is one kernel whose fractional powers need no relation
    kernel: Key | None = None

    @staticmethod
    def of_prime(prime: int) -> Factor:
        return Factor((((), prime),), number(prime), frozenset(), prime)

    @staticmethod
    def of_terms(terms: Terms, kernels: Kernels) -> Factor:
        if len(terms) == 1 and not terms[0][0]:
            return Factor.of_prime(terms[0][1])
        letters = frozenset[str]().union(*(kernels.letters[key] for monomial, _ in terms for key, _ in monomial))
        single = single_kernel(terms)
        return Factor(terms, plan_of(terms), letters, kernel=free_kernel(single[0]) if single else None)


# Kernels that are never negative wherever they are defined.
POSITIVE_KINDS = frozenset({"abs", "exp", "pi", "root of size"})


def single_kernel(terms: Terms) -> tuple[Key, Fraction] | None:
    """The kernel and its exponent, when the polynomial is one power of one kernel."""
    if len(terms) == 1 and len(terms[0][0]) == 1 and terms[0][1] == 1:
        return terms[0][0][0]
    return None


def free_kernel(key: Key | None) -> Key | None:
    return key if key and key[0] in {"letter", "exp", "pi", "ln"} else None


def changes_sign(factor: Factor, multiplicity: Fraction) -> bool:
    """Whether this power of the factor can be negative."""
    if factor.prime or multiplicity.denominator != 1 or multiplicity % 2 == 0:
        return False
    return not (len(factor.terms) == 1 and all(key[0] in POSITIVE_KINDS for key, _ in factor.terms[0][0]))


def plan_of(terms: Terms) -> Plan:
    """A plan for a polynomial that is free of any ring."""
    return total(
        *(
            times(number(coefficient), *(Plan("kernel", value=exponent, key=key) for key, exponent in monomial))
            for monomial, coefficient in terms
        )
    )


def opposite(terms: Terms) -> Terms:
    return tuple((monomial, -coefficient) for monomial, coefficient in terms)


@dataclass
class Reduced:
    """A rational function in a ring of kernels, reduced by their relations and to lowest terms."""

    ratio: Ratio
    # the kernel and the order of each generator of the ring
    generators: list[tuple[Key, int]]
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

    def terms(self, polynomial: fmpz_mpoly) -> Terms:
        found = []
        for exponents, coefficient in polynomial.to_dict().items():
            monomial = tuple(
                (key, Fraction(int(exponent), order))
                for (key, order), exponent in zip(self.generators, exponents)
                if exponent
            )
            found.append((tuple(sorted(monomial, key=repr)), int(coefficient)))
        return tuple(sorted(found, key=repr))

    def key(self) -> Key:
        return (self.terms(self.ratio.top), self.terms(self.ratio.bottom))

    def letters(self) -> frozenset[str]:
        unused = set(self.ratio.top.unused_gens()) & set(self.ratio.bottom.unused_gens())
        names = self.ratio.top.context().names()
        kept = [key for (key, _), name in zip(self.generators, names) if name not in unused]
        return frozenset[str]().union(*(self.kernels.letters[key] for key in kept))

    def letters_of(self, terms: Terms) -> frozenset[str]:
        return frozenset[str]().union(*(self.kernels.letters[key] for monomial, _ in terms for key, _ in monomial))

    def factors(self) -> tuple[int, list[tuple[Factor, Fraction]]]:
        """The sign, and the irreducible factors with their multiplicities (negative below the line)."""
        sign = 1
        found: list[tuple[Factor, Fraction]] = []
        for polynomial, side in ((self.ratio.top, 1), (self.ratio.bottom, -1)):
            content, factors = polynomial.factor()
            if content < 0:
                sign = -sign
            if abs(content) > 10**30:
                raise TooComplex
            found.extend(
                (Factor.of_prime(int(prime)), Fraction(side * int(count)))
                for prime, count in fmpz(abs(content)).factor()
            )
            for factor, multiplicity in factors:
                if factor.leading_coefficient() < 0:
                    factor = -factor
                    sign = -sign if multiplicity % 2 else sign
                irreducible, share = self.factor(factor)
                found.append((irreducible, side * int(multiplicity) * share))
        return sign, found

    def factor(self, polynomial: fmpz_mpoly) -> tuple[Factor, Fraction]:
        """The factor, and to what power: a generator may be a root of its kernel."""
        terms = self.terms(polynomial)
        share = Fraction(1)
        single = single_kernel(terms)
        if single and free_kernel(single[0]):
            share = single[1]
            terms = ((((single[0], Fraction(1)),), 1),)
        return Factor.of_terms(terms, self.kernels), share

    def pieces(self) -> list[tuple[Fraction, Base]]:
        if self.ratio.bottom.is_constant():
            divisor = int(self.ratio.bottom.leading_coefficient())
            return [
                (Fraction(coefficient, divisor), self.base(((monomial, 1),)))
                for monomial, coefficient in self.terms(self.ratio.top)
            ]
        content = self.ratio.top.content()
        if self.ratio.top.leading_coefficient() < 0:
            content = -content
        below = self.ratio.bottom.content()
        top, bottom = self.ratio.top / content, self.ratio.bottom / below
        key = (self.terms(top), self.terms(bottom))
        base = Base(key, over(plan_of(key[0]), plan_of(key[1])), self.letters_of(key[0]) | self.letters_of(key[1]))
        return [(Fraction(int(content), int(below)), base)]

    def base(self, terms: Terms) -> Base:
        monomial = terms[0][0]
        is_pi = monomial == ((PI, Fraction(1)),)
        plan = times(*(Plan("kernel", value=exponent, key=key) for key, exponent in monomial))
        return Base((terms,), plan, self.letters_of(terms), is_pi)


def reduced(plan: Plan, kernels: Kernels) -> Reduced:
    """The plan in a ring of the kernels it needs, as a reduced ratio."""
    builder = Builder([plan], kernels)
    ratio = builder.reduce(builder.of(plan))
    return Reduced(ratio.reduced(), builder.generators, kernels)


def needed_kernels(plans: Iterable[Plan], kernels: Kernels) -> dict[Key, int]:
    """The kernels that the plans and their relations speak of, the latest first, each with its order.

    The order D is the common denominator of the exponents: the generator is the kernel to the 1/D.
    """
    waiting = list(plans)
    found: dict[Key, int] = {}
    while waiting:
        plan = waiting.pop()
        waiting.extend(plan.parts)
        if plan.kind != "kernel":
            continue
        if plan.key not in found:
            waiting.extend(
                relation[plan.key] for relation in (kernels.radicands, kernels.squares) if plan.key in relation
            )
        found[plan.key] = lcm(found.get(plan.key, 1), plan.value.denominator)
    return {key: found[key] for key in reversed(kernels.known) if key in found}


class Builder:
    """Evaluates plans in the polynomial ring of the kernels they need."""

    def __init__(self, plans: Iterable[Plan], kernels: Kernels) -> None:
        self.kernels = kernels
        self.orders = needed_kernels(plans, kernels)
        self.generators = list(self.orders.items())
        self.ring = ring([f"k{number}" for number in range(len(self.orders))])
        self.one = self.ring.constant(1)
        self.gens = dict(zip(self.orders, self.ring.gens()))
        self.relations: list[fmpz_mpoly] = []
        for key, order in self.generators:
            if key in kernels.radicands:
                self.relate(self.gens[key] ** order, kernels.radicands[key])
            elif key in kernels.squares:
                self.relate(self.gens[key] ** 2, kernels.squares[key])

    def relate(self, power: fmpz_mpoly, plan: Plan) -> None:
        value = self.of(plan)
        if value.bottom.is_one():
            self.relations.append(power - value.top)

    def of(self, plan: Plan) -> Ratio:
        if plan.kind == "number":
            return Ratio(self.ring.constant(plan.value.numerator), self.ring.constant(plan.value.denominator))
        if plan.kind == "kernel":
            exponent = plan.value * self.orders[plan.key]
            if exponent.denominator != 1 or abs(exponent) > 10_000:
                raise TooComplex
            return Ratio(self.gens[plan.key], self.one).power(int(exponent))
        if plan.kind == "quotient":
            return self.of(plan.parts[0]) / self.of(plan.parts[1])
        if plan.kind == "power":
            return self.tamed(self.of(plan.parts[0]).power(int(plan.value)))
        result = self.of(plan.parts[0])
        for part in plan.parts[1:]:
            result = result + self.of(part) if plan.kind == "sum" else self.tamed(result * self.of(part))
        return result

    def tamed(self, ratio: Ratio) -> Ratio:
        """Keep intermediate results small: reduce whenever they have grown."""
        return self.reduce(ratio) if len(ratio.top) + len(ratio.bottom) > 60 else ratio

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
    # What one side says of the domain helps to simplify the other: rewrite until nothing is learnt.
    for _ in range(4):
        known = len(kernels.not_negative), dict(kernels.angle_orders)
        kernels.restrictions = set()
        first = rewriter.of(left)
        of_left = frozenset(kernels.restrictions)
        kernels.restrictions = set()
        second = rewriter.of(right)
        of_right = frozenset(kernels.restrictions)
        if known == (len(kernels.not_negative), kernels.angle_orders):
            break
    builder = Builder([first, second], kernels)
    a, b = builder.reduce(builder.of(first)), builder.reduce(builder.of(second))
    return Difference(a, b, builder, of_right <= of_left)


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
