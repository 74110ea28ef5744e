"""Ball arithmetic over the tree: every value with a proven bound on its error (FLINT's arb)."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from fractions import Fraction

from flint import arb, ctx, fmpq

from ..notation import (
    Call,
    Collection,
    Constant,
    Drawn,
    Logic,
    Mixed,
    Name,
    Neg,
    Node,
    Number,
    Postfix,
    Power,
    Product,
    Quantity,
    Quotient,
    Relation,
    Sum,
)
from .errors import EvaluationError
from .steps import spend_on_balls


class Undefined(EvaluationError):
    """The formula has no real value here."""

    def __init__(self, message: str = "This has no real value.") -> None:
        super().__init__("undefined", message)


def ball(tree: Node, names: Mapping[str, fmpq | arb], bits: int, angle: str = "radians") -> arb:
    """An enclosure of the real value of ``tree``.

    Raises ``Undefined`` where it surely has none, or where this precision cannot tell.
    """
    balls = Balls(names, angle)
    try:
        with ctx.workprec(bits):
            value = balls.of(tree)
    finally:
        spend_on_balls(balls.signs, bits)
    if not value.is_finite():
        raise Undefined
    return value


# What shows that a comparison of two balls surely holds, and that it surely does not.
DECISIONS: dict[str, tuple[Callable[[arb, arb], bool], Callable[[arb, arb], bool]]] = {
    "<": (lambda a, b: bool(a < b), lambda a, b: bool(a >= b)),
    ">": (lambda a, b: bool(a > b), lambda a, b: bool(a <= b)),
    "≤": (lambda a, b: bool(a <= b), lambda a, b: bool(a > b)),
    "≥": (lambda a, b: bool(a >= b), lambda a, b: bool(a < b)),
    "=": (lambda a, b: bool(a == b), lambda a, b: not a.overlaps(b)),
    "≠": (lambda a, b: not a.overlaps(b), lambda a, b: bool(a == b)),
}


class Balls:
    """One walk over a tree; one method for each kind of node that has a value."""

    def __init__(self, names: Mapping[str, fmpq | arb], angle: str) -> None:
        self.names = names
        self.degrees = angle == "degrees"
        # how many were worked out
        self.signs = 0
        # what has been worked out of nodes that stand in several places
        self.known: dict[int, arb] = {}

    def of(self, node: Node) -> arb:
        kind = type(node)
        if kind is Number:
            self.signs += 1
            value: Fraction = node.value  # type: ignore[attr-defined]
            return arb(fmpq(value.numerator, value.denominator))
        if kind is Name:
            self.signs += 1
            return self.of_name(node)  # type: ignore[arg-type]
        found = self.known.get(id(node))
        if found is not None:
            return found
        self.signs += 1
        method = METHODS.get(kind)
        if method is None:
            raise EvaluationError("no_number", "This is not a number.")
        worked: arb = method(self, node)
        self.known[id(node)] = worked
        return worked

    def of_mixed(self, node: Mixed) -> arb:
        return self.of(node.whole) + self.of(node.numerator) / self.of(node.denominator)

    def of_name(self, node: Name) -> arb:
        value = self.names.get(node.name)
        if value is None:
            raise EvaluationError("unknown_name", f"{node.name} has no value.")
        return arb(value)

    def of_constant(self, node: Constant) -> arb:
        if node.name == "pi":
            return arb.pi()
        if node.name == "e":
            return arb.const_e()
        raise Undefined

    def of_sum(self, node: Sum) -> arb:
        first, *rest = node.terms
        total = self.of(first)
        for term in rest:
            # a difference is one step
            total = total - self.of(term.operand) if type(term) is Neg else total + self.of(term)
        return total

    def of_neg(self, node: Neg) -> arb:
        return -self.of(node.operand)

    def of_product(self, node: Product) -> arb:
        total = self.of(node.factors[0])
        for factor in node.factors[1:]:
            total = total * self.of(factor)
        return total

    def of_quotient(self, node: Quotient) -> arb:
        return divided(self.of(node.numerator), self.of(node.denominator))

    def of_power(self, node: Power) -> arb:
        exponent = rational_constant(node.exponent)
        base = self.of(node.base)
        if exponent is not None:
            return rational_power(base, exponent)
        raised = self.of(node.exponent)
        if base > 0:
            return (base.log() * raised).exp()
        if raised.is_exact() and raised.is_integer():
            return rational_power(base, fmpq(int(raised.unique_fmpz())))
        raise Undefined("A power of a number that is not positive is asked for here.")

    def of_postfix(self, node: Postfix) -> arb:
        value = self.of(node.operand)
        if node.sign == "%":
            return value / 100
        if node.sign == "°":
            return value if self.degrees else value * arb.pi() / 180
        return factorial(value)

    def of_quantity(self, node: Quantity) -> arb:
        return self.of(node.amount)

    def of_drawn(self, node: Drawn) -> arb:
        return self.of(node.value)

    def holds(self, tree: Node) -> bool:
        """Whether a relation surely holds; ``Undefined`` where this precision cannot tell."""
        if isinstance(tree, Logic):
            results = [self.holds(term) for term in tree.terms]
            return any(results) if tree.word == "or" else all(results)
        if not isinstance(tree, Relation) or any(sign not in DECISIONS for sign in tree.signs):
            raise EvaluationError("no_relation", "A condition compares two things, such as a < b.")
        terms = [self.of(term) for term in tree.terms]
        results = []
        for sign, left, right in zip(tree.signs, terms, terms[1:]):
            surely, surely_not = DECISIONS[sign]
            if not surely(left, right) and not surely_not(left, right):
                raise Undefined("Whether the condition holds cannot be told here.")
            results.append(surely(left, right))
        return all(results)

    def of_call(self, node: Call) -> arb:
        name = node.function
        if name == "if":
            return self.of(node.arguments[1] if self.holds(node.arguments[0]) else node.arguments[2])
        if name in TRIGONOMETRIC:
            value = self.of(node.arguments[0])
            return TRIGONOMETRIC[name](value * arb.pi() / 180 if self.degrees else value)
        if name in INVERSE_TRIGONOMETRIC:
            value = INVERSE_TRIGONOMETRIC[name](self.of(node.arguments[0]))
            return value * 180 / arb.pi() if self.degrees else value
        function = REAL.get(name)
        if function is None:
            raise EvaluationError("no_number", f"{name} cannot be worked out as a number here.")
        if name == "root":
            degree = rational_constant(node.arguments[0])
            if degree is None or degree == 0:
                raise Undefined("The order of a root is a whole number.")
            return rational_power(self.of(node.arguments[1]), 1 / degree)
        if name == "sqrt" and (inside := even_power(node.arguments[0])) is not None:
            # the root of a square is defined where no precision tells the square from a negative number
            base, half = inside
            return whole_power(abs(self.of(base)), half)
        return function(*map(self.of, spread(node)))


METHODS: dict[type[Node], Callable[..., arb]] = {
    Mixed: Balls.of_mixed,
    Constant: Balls.of_constant,
    Sum: Balls.of_sum,
    Neg: Balls.of_neg,
    Product: Balls.of_product,
    Quotient: Balls.of_quotient,
    Power: Balls.of_power,
    Postfix: Balls.of_postfix,
    Quantity: Balls.of_quantity,
    Drawn: Balls.of_drawn,
    Call: Balls.of_call,
}
# Functions of any number of values.
OF_MANY = frozenset(
    "mean median variance stdev sample_variance sample_stdev total count item quantile min max gcd lcm".split()
)


def spread(call: Call) -> tuple[Node, ...]:
    """The arguments, with lists taken apart: the mean of a list is the mean of its values."""
    if call.function not in OF_MANY:
        return call.arguments
    found: list[Node] = []
    for argument in call.arguments:
        found += argument.items if isinstance(argument, Collection) else (argument,)
    if not found:
        raise Undefined("An empty list has no value.")
    return tuple(found)


def rational_constant(node: Node) -> fmpq | None:
    """The value of a constant exponent such as ``-1/2``, or None."""
    if isinstance(node, Number):
        return fmpq(node.value.numerator, node.value.denominator)
    if isinstance(node, Neg):
        inner = rational_constant(node.operand)
        return None if inner is None else -inner
    if isinstance(node, Quotient):
        top, bottom = rational_constant(node.numerator), rational_constant(node.denominator)
        return None if top is None or bottom is None or bottom == 0 else top / bottom
    return rational_constant(node.value) if isinstance(node, Drawn) else None


def even_power(node: Node) -> tuple[Node, int] | None:
    """The base of an even power, and half its exponent; None for anything else."""
    if not isinstance(node, Power):
        return None
    exponent = rational_constant(node.exponent)
    if exponent is None or exponent.q != 1 or exponent < 2 or int(exponent.p) % 2 or exponent > 1000:
        return None
    return node.base, int(exponent.p) // 2


def divided(top: arb, bottom: arb) -> arb:
    if bottom.contains(0):
        raise Undefined("This divides by nothing.")
    return top / bottom


def rational_power(base: arb, exponent: fmpq) -> arb:
    """Real powers; odd roots of negative numbers are the real ones, as schools take them."""
    numerator, order = int(exponent.p), int(exponent.q)
    if abs(numerator) > 100_000 or order > 10_000:
        raise EvaluationError("too_large", "This power is too large to be worked out.")
    if order == 1:
        if numerator < 0:
            return divided(arb(1), whole_power(base, -numerator))
        return whole_power(base, numerator)
    root = real_root(base, order)
    return divided(arb(1), whole_power(root, -numerator)) if numerator < 0 else whole_power(root, numerator)


def whole_power(base: arb, exponent: int) -> arb:
    """A power with a whole exponent from 0; FLINT has none for balls that hold 0 inside."""
    if exponent and base.contains(0) and not base.is_zero():
        return arb(0, (abs(base).upper() ** exponent).upper())
    return base**exponent


def real_root(base: arb, order: int) -> arb:
    if base.is_zero():
        # FLINT has none of a high order
        return base
    if base >= 0:
        return base.root(order)
    if base <= 0 and order % 2:
        return -((-base).root(order))
    if order % 2 and base.contains(0):
        bound = abs(base).upper().root(order)
        return arb(0, bound.upper())
    raise Undefined("An even root of a negative number is not real.")


def factorial(value: arb) -> arb:
    if not value.is_integer() or value < 0:
        raise Undefined("A factorial is taken of whole numbers from 0.")
    if value > 5000:
        raise EvaluationError("too_large", "This factorial is too large to be worked out.")
    return value.fac()


def logarithm(value: arb, base: arb | None = None) -> arb:
    if not value > 0:
        raise Undefined("A logarithm is taken of positive numbers.")
    if base is None:
        return value.log()
    if not base > 0:
        raise Undefined("The base of a logarithm is positive.")
    return divided(value.log(), base.log())


def decimal_logarithm(value: arb, base: arb | None = None) -> arb:
    return logarithm(value, arb(10) if base is None else base)


def within(function: Callable[[arb], arb], inside: Callable[[arb], bool]) -> Callable[[arb], arb]:
    """A function that is real only where ``inside`` holds."""

    def guarded(value: arb) -> arb:
        if not inside(value):
            raise Undefined
        return function(value)

    return guarded


def square_root(value: arb) -> arb:
    return real_root(value, 2)


def inverse(function: Callable[[arb], arb]) -> Callable[[arb], arb]:
    def reciprocal(value: arb) -> arb:
        return divided(arb(1), function(value))

    return reciprocal


def tangent(value: arb) -> arb:
    return divided(value.sin(), value.cos())


def cotangent(value: arb) -> arb:
    return divided(value.cos(), value.sin())


def whole(function: str) -> Callable[[arb], arb]:
    """floor or ceil; undecided at a jump that the precision cannot resolve."""

    def stepped(value: arb) -> arb:
        lower = getattr(value.lower(), function)()
        if not lower == getattr(value.upper(), function)():
            raise Undefined
        return lower

    return stepped


def signum(value: arb) -> arb:
    if value > 0:
        return arb(1)
    if value < 0:
        return arb(-1)
    if value.is_zero():
        return arb(0)
    raise Undefined


def rounded(value: arb, places: arb | None = None) -> arb:
    """Rounded half away from zero to so many places."""
    wanted = arb(0) if places is None else places
    if not wanted.is_integer() or not abs(wanted) <= 300:
        raise Undefined("A number is rounded to a whole number of places, at most 300.")
    scale = arb(10) ** wanted
    return signum(value) * whole("floor")(abs(value) * scale + arb(0.5)) / scale if not value.is_zero() else value


def modulo(value: arb, divisor: arb) -> arb:
    """What is left when a divisor is taken off as often as it goes, from 0 up to the divisor."""
    return value - divisor * whole("floor")(divided(value, divisor))


def mean(*values: arb) -> arb:
    return sum(values[1:], values[0]) / len(values)


def variance(*values: arb) -> arb:
    centre = mean(*values)
    return mean(*[(value - centre) ** 2 for value in values])


def sample_variance(*values: arb) -> arb:
    if len(values) < 2:
        raise Undefined("A sample needs two values or more for its variance.")
    return variance(*values) * len(values) / (len(values) - 1)


def item(*values: arb) -> arb:
    *data, place = values
    which = place.unique_fmpz()
    if which is None or not 1 <= int(which) <= len(data):
        raise Undefined(f"item(list, k) takes a place from 1 to {len(data)} here.")
    return data[int(which) - 1]


def normal_cdf(*arguments: arb) -> arb:
    """Below a value, or between two (four arguments), for a mean and a standard deviation (0 and 1 if left out)."""
    if len(arguments) == 4:
        low, high, *shape = arguments
        return normal_cdf(high, *shape) - normal_cdf(low, *shape)
    value, centre, deviation = (*arguments, *(arb(0), arb(1))[len(arguments) - 1 :])
    if not deviation > 0:
        raise Undefined("A standard deviation is positive.")
    return ((centre - value) / deviation / arb(2).sqrt()).erfc() / 2


def smallest(first: arb, *others: arb) -> arb:
    for other in others:
        first = first.min(other)
    return first


def largest(first: arb, *others: arb) -> arb:
    for other in others:
        first = first.max(other)
    return first


def binomial(top: arb, bottom: arb) -> arb:
    n, k = top.unique_fmpz(), bottom.unique_fmpz()
    if n is None or k is None or not 0 <= int(k) <= int(n) <= 5000:
        raise Undefined("Choose takes whole numbers, the second not above the first.")
    return arb.bin_uiui(int(n), int(k))


TRIGONOMETRIC: dict[str, Callable[[arb], arb]] = {
    "sin": arb.sin, "cos": arb.cos, "tan": tangent, "cot": cotangent,
    "sec": inverse(arb.cos), "csc": inverse(arb.sin),
}  # fmt: skip
UNIT_INTERVAL = within(arb.asin, lambda value: value >= -1 and value <= 1)
INVERSE_TRIGONOMETRIC: dict[str, Callable[[arb], arb]] = {
    "asin": UNIT_INTERVAL,
    "acos": within(arb.acos, lambda value: value >= -1 and value <= 1),
    "atan": arb.atan,
    "acot": lambda value: arb.pi() / 2 - value.atan(),
    "asec": lambda value: divided(arb(1), value).acos(),
    "acsc": lambda value: divided(arb(1), value).asin(),
}
REAL: dict[str, Callable[..., arb]] = {
    "sqrt": square_root, "root": real_root, "abs": abs, "exp": arb.exp, "ln": logarithm, "log": decimal_logarithm,
    "round": rounded, "mod": modulo, "floor": whole("floor"), "ceil": whole("ceil"), "sgn": signum,
    "min": smallest, "max": largest,
    "binomial": binomial, "choose": binomial, "mean": mean, "variance": variance, "normal_cdf": normal_cdf,
    "stdev": lambda *values: variance(*values).sqrt(),
    "sample_variance": sample_variance, "sample_stdev": lambda *values: sample_variance(*values).sqrt(),
    "total": lambda *values: sum(values, arb(0)), "count": lambda *values: arb(len(values)), "item": item,
    "sinh": arb.sinh, "cosh": arb.cosh, "tanh": arb.tanh, "asinh": arb.asinh,
    "sech": inverse(arb.cosh), "csch": inverse(arb.sinh), "coth": inverse(arb.tanh),
    "acosh": within(arb.acosh, lambda value: value >= 1),
    "atanh": within(arb.atanh, lambda value: value > -1 and value < 1),
}  # fmt: skip
