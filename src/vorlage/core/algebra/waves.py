"""Deciding identities between waves and exponentials: one exact test in a field whose kernels are independent.

A formula made of letters, numbers, π, e, arithmetic, and of trigonometric and exponential functions of polynomials is
a rational function of its letters, of e^(g·m) and e^(i·g·m) for the monomials m of its arguments (g the greatest common
divisor of what stands before m, so that sin 100πt and sin 50πt need one kernel), and of one root of unity for the
multiples of π. These kernels are algebraically independent: by the theorem of Ax for monomials with letters, by that of
Lindemann and Weierstrass for numbers. So two such formulas are equal if and only if the cross-multiplied difference is
zero modulo the cyclotomic polynomial; square roots of whole numbers lie in the same field, as Gauss's sums.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction
from functools import cache
from math import isqrt, lcm

from flint import fmpz_mpoly, fmpz_mpoly_ctx, fmpz_poly

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
    names_in,
    rebuild,
    walk,
)
from .balls import rational_constant
from .errors import EvaluationError
from .rationals import NotRational, Ratio, RationalReader, TooComplex, checked_product, ring, whole_exponent
from .values import common_divisor, to_fraction

# The name that stands for π in a ring; no letter can be called so.
PI = "_pi"
# The order of the root of unity goes no further.
MAXIMUM_ORDER = 360
MAXIMUM_KERNELS = 12
PRIMES = (2, 3, 5, 7, 11, 13)
CIRCULAR = frozenset("sin cos tan cot sec csc".split())
HYPERBOLIC = frozenset("sinh cosh tanh sech csch coth".split())

# A kernel: whether it turns, the prime of whose logarithm it is a multiple (0 for none), and the monomial.
Kernel = tuple[bool, int, tuple[int, ...]]
Argument = list[tuple[Kernel, Fraction]]


class NotWaves(Exception):
    """The formula holds more than waves and exponentials."""


def same_wave(left: Node, right: Node, angle: str) -> bool | None:
    """Whether two formulas of this kind are equal; None for formulas of another kind, or too large ones.

    >>> from vorlage.core.notation import read
    >>> same_wave(read("2 sin(50 t) cos(50 t)"), read("sin(100 t)"), "radians")
    True
    >>> same_wave(read("sin(100 t)"), read("sin(101 t)"), "radians")
    False
    """
    names = sorted(names_in(left) | names_in(right))
    try:
        field = Field(names, (left, right), angle == "degrees")
        if not field.arguments and field.order == 1 and not field.has_constants:
            return None
        first, second = field.of(left), field.of(right)
        if field.reduced(first.bottom).is_zero() or field.reduced(second.bottom).is_zero():
            return None
        crossed = checked_product(first.top, second.bottom) - checked_product(second.top, first.bottom)
        return bool(field.reduced(crossed).is_zero())
    except (NotWaves, TooComplex, EvaluationError):
        return None


def square_factor(value: int) -> tuple[int, int]:
    """(r, s) with value = r²·s and s free of squares, for numbers whose s is made of the first primes."""
    outside, inside = 1, 1
    for prime in PRIMES:
        count = 0
        while value % prime == 0:
            value //= prime
            count += 1
        outside *= prime ** (count // 2)
        inside *= prime ** (count % 2)
    root = isqrt(value)
    if root * root != value:
        raise NotWaves
    return outside * root, inside


def conductor(free: int) -> int:
    """The order of the roots of unity of which the root of a square-free number is a sum."""
    return free if free % 4 == 1 else 4 * free


class Field:
    """The ring of the kernels of some formulas, and the formulas in it."""

    def __init__(self, names: list[str], trees: Iterable[Node], degrees: bool) -> None:
        self.degrees = degrees
        self.inner_names = names
        self.inner = RationalReader([*names, PI])
        self.count = len(names) + 1
        # the common unit of what stands before each kernel's monomial
        self.units: dict[Kernel, Fraction] = {}
        self.order = 1
        # by the identity of the node, which lives as long as the trees do
        self.arguments: dict[int, Argument] = {}
        self.has_constants = False
        for tree in trees:
            for node in walk(tree):
                self.collect(node)
        if len(self.units) > MAXIMUM_KERNELS or self.order > MAXIMUM_ORDER:
            raise NotWaves
        self.ring, gens, self.one = wave_ring(1 + self.count + len(self.units))
        self.root = gens[0]
        self.names = dict(zip([*names, PI], gens[1:]))
        self.kernels = dict(zip(self.units, gens[1 + self.count :]))
        self.relation = cyclotomic(self.order, 1 + self.count + len(self.units)) if self.order > 1 else None

    # what there is

    def collect(self, node: Node) -> None:
        """Note what a node needs. Raises ``NotWaves`` at one that is of another kind."""
        kind = type(node)
        if kind is Name or kind is Number:
            return
        if isinstance(node, Call):
            if node.function in CIRCULAR:
                self.order = lcm(self.order, 4)
                self.note(node, self.argument(node.arguments[0], True))
            elif node.function in HYPERBOLIC or node.function == "exp":
                self.note(node, self.argument(node.arguments[0], False))
            elif node.function == "sqrt":
                self.order = lcm(self.order, conductor(self.square_root(node)[1]))
            else:
                raise NotWaves
        elif isinstance(node, Constant):
            self.has_constants = True
            if node.name == "e":
                self.note(node, [((False, 0, (0,) * self.count), Fraction(1))])
            elif node.name != "pi":
                raise NotWaves
        elif isinstance(node, Power):
            if not is_whole(node.exponent):
                self.note(node, self.power_argument(node))
        elif isinstance(node, Postfix) and node.sign == "!":
            raise NotWaves

    def note(self, node: Node, argument: Argument) -> None:
        self.arguments[id(node)] = argument
        for kernel, share in argument:
            if kernel == self.pi_kernel:
                self.order = lcm(self.order, 2 * share.denominator)
            elif share:
                known = self.units.get(kernel)
                self.units[kernel] = abs(share) if known is None else common_divisor(known, share)

    @property
    def pi_kernel(self) -> Kernel:
        """e^(iπ), which is no kernel but a root of unity."""
        return (True, 0, (*(0,) * (self.count - 1), 1))

    def monomials(self, tree: Node) -> list[tuple[tuple[int, ...], Fraction]]:
        """A polynomial argument as its monomials in the letters and π."""
        plain = self.plain_monomial(tree)
        if plain is not None:
            return [plain]
        try:
            ratio = self.inner.of(with_pi(tree, self.degrees)).reduced()
        except Exception as problem:
            raise NotWaves from problem
        if not ratio.bottom.is_constant():
            raise NotWaves
        bottom = int(ratio.bottom.leading_coefficient())
        return [
            (tuple(map(int, powers)), Fraction(int(coefficient), bottom))
            for powers, coefficient in ratio.top.to_dict().items()
        ]

    def plain_monomial(self, tree: Node) -> tuple[tuple[int, ...], Fraction] | None:
        """A letter, or a whole multiple of one, which is what most arguments are."""
        share = Fraction(1)
        if isinstance(tree, Product) and len(tree.factors) == 2 and type(tree.factors[0]) is Number:
            share, tree = tree.factors[0].value, tree.factors[1]
        if type(tree) is not Name or not share:
            return None
        place = self.inner_names.index(tree.name)
        return (0,) * place + (1,) + (0,) * (self.count - place - 1), share

    def argument(self, tree: Node, turns: bool) -> Argument:
        found = self.monomials(tree)
        if turns and self.degrees:
            found = [((*powers[:-1], powers[-1] + 1), share / 180) for powers, share in found]
        return [((turns, 0, powers), share) for powers, share in found]

    def power_argument(self, node: Power) -> Argument:
        """What a power with letters in its exponent is the exponential of."""
        if isinstance(node.base, Constant) and node.base.name == "e":
            return self.argument(node.exponent, False)
        base = positive_number(node.base)
        found: Argument = []
        for powers, share in self.monomials(node.exponent):
            for prime, count in prime_powers(base):
                exponent = share * count
                if not any(powers) and exponent.denominator != 1:
                    raise NotWaves
                found.append(((False, prime, powers), exponent))
        return found

    def square_root(self, node: Call) -> tuple[int, int, int]:
        """The root of a positive number as r·√s/q."""
        value = positive_number(node.arguments[0])
        outside, inside = square_factor(value.numerator * value.denominator)
        return outside, inside, value.denominator

    # the formulas themselves

    def of(self, node: Node) -> Ratio:
        if isinstance(node, Number):
            return Ratio(self.ring.constant(node.value.numerator), self.ring.constant(node.value.denominator))
        if isinstance(node, Name):
            return Ratio(self.names[node.name], self.one)
        if isinstance(node, Constant):
            return Ratio(self.names[PI], self.one) if node.name == "pi" else self.exponential(node)
        if isinstance(node, Sum):
            total = self.of(node.terms[0])
            for term in node.terms[1:]:
                total = self.tamed(total + self.of(term))
            return total
        if isinstance(node, Neg):
            return -self.of(node.operand)
        if isinstance(node, Product):
            total = self.of(node.factors[0])
            for factor in node.factors[1:]:
                total = self.tamed(total * self.of(factor))
            return total
        if isinstance(node, Quotient):
            return self.of(node.numerator) / self.of(node.denominator)
        if isinstance(node, Power):
            if id(node) in self.arguments:
                return self.exponential(node)
            return self.tamed(self.of(node.base).power(whole_exponent(node.exponent)))
        if isinstance(node, Call):
            return self.call(node)
        if isinstance(node, Drawn):
            return self.of(node.value)
        if isinstance(node, Mixed):
            value = node.whole.value + node.numerator.value / node.denominator.value
            return Ratio(self.ring.constant(value.numerator), self.ring.constant(value.denominator))
        if isinstance(node, Postfix) and node.sign == "%":
            return self.of(node.operand) / Ratio(self.ring.constant(100), self.one)
        if isinstance(node, Postfix) and node.sign == "°" and self.degrees:
            return self.of(node.operand)
        if isinstance(node, Postfix) and node.sign == "°":
            return self.of(node.operand) * Ratio(self.names[PI], self.ring.constant(180))
        raise NotWaves

    def tamed(self, ratio: Ratio) -> Ratio:
        if self.relation is None or len(ratio.top) < 8:
            return ratio
        return Ratio(self.reduced(ratio.top), self.reduced(ratio.bottom))

    def reduced(self, polynomial: fmpz_mpoly) -> fmpz_mpoly:
        """The polynomial modulo that of the root of unity."""
        return polynomial if self.relation is None else divmod(polynomial, self.relation)[1]

    def exponential(self, node: Node) -> Ratio:
        top, bottom = self.halves(self.arguments[id(node)])
        return Ratio(top, bottom)

    def halves(self, argument: Argument) -> tuple[fmpz_mpoly, fmpz_mpoly]:
        """e^u as a quotient of two monomials."""
        top, bottom = self.one, self.one
        for kernel, share in argument:
            if kernel == self.pi_kernel:
                top *= self.root ** (int(share * self.order / 2) % self.order)
                continue
            if not share:
                continue
            count = share / self.units[kernel]
            if abs(count) > 100_000:
                raise NotWaves
            if kernel[1] and not any(kernel[2]):
                # a whole power of a prime number
                power = self.ring.constant(kernel[1] ** abs(int(share)))
            else:
                power = self.kernels[kernel] ** abs(int(count))
            if count > 0:
                top *= power
            else:
                bottom *= power
        return top, bottom

    def call(self, node: Call) -> Ratio:
        name = node.function
        if name == "exp":
            return self.exponential(node)
        if name == "sqrt":
            outside, inside, below = self.square_root(node)
            return Ratio(outside * self.gauss(inside), self.ring.constant(below))
        up, down = self.halves(self.arguments[id(node)])
        up, both, down = up * up, up * down * 2, down * down
        top, bottom = SHAPES[name][0], SHAPES[name][1]
        return Ratio(self.part(top, up, both, down, name), self.part(bottom, up, both, down, name))

    def part(self, which: str, up: fmpz_mpoly, both: fmpz_mpoly, down: fmpz_mpoly, name: str) -> fmpz_mpoly:
        """Twice the cosine, twice the sine, or two, each times e^u and over one denominator."""
        if which == "c":
            return up + down
        if which == "1":
            return both
        # 1/i is -i
        return (down - up) * self.root ** (self.order // 4) if name in CIRCULAR else up - down

    def gauss(self, free: int) -> fmpz_mpoly:
        """√s as a sum of roots of unity, for s free of squares."""
        total = self.one
        for prime in PRIMES:
            if free % prime == 0:
                total = self.reduced(total * self.prime_root(prime))
        return total

    def prime_root(self, prime: int) -> fmpz_mpoly:
        if prime == 2:
            eighth = self.order // 8
            return self.root**eighth + self.root ** (self.order - eighth)
        step = self.order // prime
        total = self.ring.constant(0)
        for k in range(prime):
            total += self.root ** (k * k * step % self.order)
        # the sum is √p, or i·√p where p leaves 3 when divided by 4
        return total if prime % 4 == 1 else -total * self.root ** (self.order // 4)


# What each function is the quotient of.
SHAPES = {
    "sin": "s1", "cos": "c1", "tan": "sc", "cot": "cs", "sec": "1c", "csc": "1s",
    "sinh": "s1", "cosh": "c1", "tanh": "sc", "coth": "cs", "sech": "1c", "csch": "1s",
}  # fmt: skip


@cache
def wave_ring(count: int) -> tuple[fmpz_mpoly_ctx, tuple[fmpz_mpoly, ...], fmpz_mpoly]:
    """A ring with so many generators, the root of unity first, so that reduction by its polynomial leads."""
    made = ring([f"w{number}" for number in range(count)])
    return made, made.gens(), made.constant(1)


@cache
def cyclotomic(order: int, count: int) -> fmpz_mpoly:
    """The cyclotomic polynomial in the first generator of a ring."""
    made, gens, _ = wave_ring(count)
    total = made.constant(0)
    for power, coefficient in enumerate(fmpz_poly.cyclotomic(order).coeffs()):
        if coefficient:
            total += int(coefficient) * gens[0] ** power
    return total


def with_pi(tree: Node, degrees: bool) -> Node:
    """The tree with π as a letter, and the sign of degrees as a multiple of it where angles are in radians."""
    if isinstance(tree, Constant) and tree.name == "pi":
        return Name(PI)
    if isinstance(tree, Postfix) and tree.sign == "°":
        inner = with_pi(tree.operand, degrees)
        return inner if degrees else Quotient(Product((inner, Name(PI)), ("*",)), Number(Fraction(180)))
    return rebuild(tree, lambda piece: with_pi(piece, degrees))


def positive_number(node: Node) -> Fraction:
    """The value of a number that is written plainly; ``NotWaves`` for anything else."""
    value = rational_constant(node)
    if value is None or value <= 0:
        raise NotWaves
    return to_fraction(value)


def prime_powers(value: Fraction) -> Iterator[tuple[int, int]]:
    """The first primes in a number with their powers; ``NotWaves`` where there are others."""
    top, bottom = value.numerator, value.denominator
    for prime in PRIMES:
        count = 0
        while top % prime == 0:
            top, count = top // prime, count + 1
        while bottom % prime == 0:
            bottom, count = bottom // prime, count - 1
        if count:
            yield prime, count
    if top != 1 or bottom != 1:
        raise NotWaves


def is_whole(node: Node) -> bool:
    """Whether an exponent is a whole number."""
    try:
        whole_exponent(node)
    except NotRational:
        return False
    return True
