"""What unit a formula comes out in, from the units of its names; worked out once, so that a draw costs
arithmetic only."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from fractions import Fraction

from flint import fmpq

from ..errors import CoreError
from ..notation import (
    Call,
    Constant,
    Drawn,
    Mixed,
    Name,
    Neg,
    Node,
    NotationError,
    Number,
    Postfix,
    Power,
    Product,
    Quantity,
    Quotient,
    Relation,
    Sum,
    plain_value,
)
from .units import Unit, read_unit

SYMBOLS = {
    "kilogram": "kg", "meter": "m", "second": "s", "ampere": "A", "kelvin": "K", "mole": "mol", "candela": "cd",
}  # fmt: skip
ALIKE = frozenset(["min", "max", "mean", "median", "mod", "gcd", "lcm"])
SAME = frozenset(["abs", "floor", "ceil", "round", "value"])
SCALAR = frozenset(
    "sin cos tan sec csc cot asin acos atan asec acsc acot sinh cosh tanh asinh acosh atanh "
    "exp ln log sgn binomial".split()
)
ANGLES = frozenset(["asin", "acos", "atan", "asec", "acsc", "acot"])
# Whole numbers that stand in formulas without a unit of their own, as in m v^2/2 or 4 pi r^3/3.
SMALL = 4


class UnitMismatch(CoreError, ValueError):
    """Two pieces of a formula whose units do not go together."""

    def __init__(self, message: str) -> None:
        super().__init__("units", message)


@dataclass(frozen=True, slots=True)
class Measure:
    """The unit of a formula's value. ``sure`` is false where a bare number or a name without a unit could
    stand for something that has one."""

    unit: Unit
    sure: bool = True

    @property
    def is_scalar(self) -> bool:
        return not self.unit.dimension

    def words(self) -> str:
        """The unit by its own symbol where it has one, and in base units: ``J (kg m^2 s^-2)``."""
        base = unit_words(self.unit.dimension)
        symbol = NAMED.get(self.unit.dimension)
        return f"{symbol} ({base})" if symbol and symbol != base else base


PLAIN = Measure(Unit(fmpq(1), ()))


# Units with symbols of their own, by what they measure.
NAMED = {read_unit(symbol).dimension: symbol for symbol in "C F Ω V W J Pa N".split()}


def unit_words(dimension: tuple[tuple[str, int], ...]) -> str:
    """A dimension in base units: ``kg m s^-2``."""
    if not dimension:
        return "a plain number"
    return " ".join(
        SYMBOLS.get(base, base) + (f"^{power}" if power != 1 else "")
        for base, power in sorted(dimension, key=lambda item: (-item[1], item[0]))
    )


def measure(tree: Node, names: Mapping[str, Measure]) -> Measure | None:
    """The unit in which a formula comes out; None where that cannot be said.

    Raises ``UnitMismatch`` where units do not go together, such as a length added to a time.
    """
    if isinstance(tree, Number | Mixed):
        value = plain_value(tree)
        return replace(PLAIN, sure=value is not None and value.denominator == 1 and abs(value) <= SMALL)
    if isinstance(tree, Name):
        return names.get(tree.name, replace(PLAIN, sure=False))
    if isinstance(tree, Quantity):
        try:
            return Measure(read_unit(tree.unit))
        except NotationError as problem:
            raise UnitMismatch(problem.message) from None
    if isinstance(tree, Constant):
        return PLAIN
    if isinstance(tree, Neg):
        return measure(tree.operand, names)
    if isinstance(tree, Drawn):
        return measure(tree.value, names)
    if isinstance(tree, Sum):
        return alike(tree.terms, names, "added")
    if isinstance(tree, Product):
        found: Measure | None = PLAIN
        for factor in tree.factors:
            found = times(found, measure(factor, names), 1)
        return found
    if isinstance(tree, Quotient):
        return times(measure(tree.numerator, names), measure(tree.denominator, names), -1)
    if isinstance(tree, Power):
        return powered(measure(tree.base, names), tree.exponent, names)
    if isinstance(tree, Call):
        return of_call(tree, names)
    return PLAIN if isinstance(tree, Postfix) or not names else None


def of_call(tree: Call, names: Mapping[str, Measure]) -> Measure | None:
    if tree.function == "sqrt":
        return powered(measure(tree.arguments[0], names), Quotient(Number(Fraction(1)), Number(Fraction(2))), names)
    if tree.function == "root":
        return powered(measure(tree.arguments[1], names), Quotient(Number(Fraction(1)), tree.arguments[0]), names)
    if tree.function in ALIKE:
        return alike(tree.arguments, names, "compared")
    if tree.function == "if":
        compared_units(tree.arguments[0], names)
        return alike(tree.arguments[1:], names, "alternatives")
    if tree.function in SAME:
        return measure(tree.arguments[0], names)
    if tree.function in SCALAR:
        for argument in tree.arguments:
            found = measure(argument, names)
            if found is not None and found.sure and not found.is_scalar:
                raise UnitMismatch(f"{tree.function} is taken of a plain number, and this is in {found.words()}.")
        # an angle comes out in the unit that the question has for angles
        return replace(PLAIN, sure=tree.function not in ANGLES)
    return None


def times(left: Measure | None, right: Measure | None, power: int) -> Measure | None:
    if left is None or right is None:
        return None
    powers = dict(left.unit.dimension)
    for base, count in right.unit.dimension:
        powers[base] = powers.get(base, 0) + power * count
    dimension = tuple(sorted((base, count) for base, count in powers.items() if count))
    factor = left.unit.factor * right.unit.factor**power
    return Measure(Unit(factor, dimension, pi=left.unit.pi + power * right.unit.pi), left.sure and right.sure)


def powered(base: Measure | None, exponent: Node, names: Mapping[str, Measure]) -> Measure | None:
    raised = plain_value(exponent)
    if base is None or base.is_scalar:
        return base
    if raised is None:
        if base.sure:
            raise UnitMismatch(f"Something in {base.words()} is raised to a power that is not a plain number.")
        return None
    dimension = []
    for name, count in base.unit.dimension:
        power = count * raised
        if power.denominator != 1:
            if base.sure:
                raise UnitMismatch(f"There is no root of something in {base.words()} with a unit of its own.")
            return None
        if power:
            dimension.append((name, int(power)))
    factor = base.unit.factor ** int(raised) if raised.denominator == 1 else fmpq(1)
    # the factor of a root is left open: only the dimension is known then
    sure = base.sure and (raised.denominator == 1 or base.unit.factor == 1)
    return Measure(Unit(factor, tuple(dimension)), sure)


def alike(terms: tuple[Node, ...], names: Mapping[str, Measure], done: str) -> Measure | None:
    """The common unit of terms; a bare number beside them takes theirs."""
    measures = [measure(term, names) for term in terms]
    known = [found for found in measures if found is not None]
    if len(known) < len(measures):
        return None
    leading = next((found for found in known if not found.is_scalar), known[0])
    for other in known:
        if other.unit.dimension == leading.unit.dimension:
            if other.unit.factor != leading.unit.factor and other.sure and leading.sure and not leading.is_scalar:
                raise UnitMismatch(f"Different units of the same kind are {done} here: give them one unit.")
        elif other.sure and leading.sure and not is_bare(terms[known.index(other)]):
            raise UnitMismatch(f"{leading.words()} and {other.words()} are {done} here.")
    bare = any(other.unit.dimension != leading.unit.dimension for other in known)
    return replace(leading, sure=all(found.sure for found in known) and not bare)


def is_bare(tree: Node) -> bool:
    return plain_value(tree) is not None


def compared_units(tree: Node, names: Mapping[str, Measure]) -> None:
    """Raise ``UnitMismatch`` when a relation compares what cannot be compared."""
    if isinstance(tree, Relation):
        alike(tree.terms, names, "compared")
        return
    for term in getattr(tree, "terms", ()):
        compared_units(term, names)
