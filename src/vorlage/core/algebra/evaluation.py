"""Working out formulas exactly: a tree is compiled once into a closure and run for every draw."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from math import comb, gcd, isqrt, lcm
from typing import TypeAlias

from flint import fmpq

from ..budget import charge
from ..notation import (
    Call,
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
    Text,
    literal,
    substitute,
)
from .balls import Undefined, spread
from .errors import EvaluationError, Irrational
from .steps import spend_on_tree
from .values import Exact, Real, compare, floor, rational, round_half_away, to_fraction

Value: TypeAlias = Exact | str | Node
Values = Mapping[str, Value]
Program = Callable[[Values], fmpq]

MAXIMUM_BITS = 40_000
MAXIMUM_PLACES = 300
# A result with more digits, about 4 200, is written by nobody; Python itself refuses to write it a little later.
MOST_BITS = 14_000
ZERO, ONE = fmpq(0), fmpq(1)


def value_tree(value: Value) -> Node:
    """The tree that stands for a value inside another formula."""
    if isinstance(value, fmpq):
        return literal(to_fraction(value))
    if isinstance(value, Real):
        return value.tree
    return Text(value) if isinstance(value, str) else value


class Compiled:
    """A formula ready to be worked out for many draws.

    >>> from vorlage.core.notation import read
    >>> Compiled(read("m*g/1000")).value({"m": fmpq(350), "g": fmpq(981, 100)})
    6867/2000
    """

    __slots__ = ("angle", "program", "signs", "tree")

    def __init__(self, tree: Node, angle: str = "radians") -> None:
        self.tree = tree
        self.angle = angle
        compiler = Compiler(angle)
        self.program = compiler.of(tree)
        self.signs = compiler.signs
        # making it ready takes longer than working it out
        charge(4 * self.signs)

    def value(self, values: Values) -> Exact:
        """The exact value. Raises ``EvaluationError`` where there is none."""
        charge(self.signs)
        try:
            found = self.program(values)
            if found.height_bits() > MOST_BITS:
                raise EvaluationError("too_large", "This is too large to be worked out.")
            return found
        except Irrational:
            named = {name: value_tree(value) for name, value in values.items()}
            tree = substitute(self.tree, named)
            spend_on_tree(tree)
            if any(isinstance(value, Node) for value in named.values()) and values:
                # a list, or a formula that has a value after all
                return Compiled(tree, self.angle).value({})
            real = Real(tree, self.angle)
            charge(20 * self.signs)
            defined(real)
            return real


def defined(real: Real) -> None:
    """Raise unless the formula has a value that some precision can show."""
    for bits in (64, 256, 1024):
        try:
            real.ball(bits)
            return
        except Undefined as problem:
            last = problem
    raise last


class Condition:
    """A relation between names, ready to be tried for many draws."""

    __slots__ = ("angle", "test", "tree")

    def __init__(self, tree: Node, angle: str = "radians") -> None:
        self.tree = tree
        self.angle = angle
        self.test = condition(tree, angle)

    def holds(self, values: Values) -> bool:
        return self.test(values)


def condition(tree: Node, angle: str) -> Callable[[Values], bool]:
    if isinstance(tree, Logic):
        tests = [condition(term, angle) for term in tree.terms]
        if tree.word == "or":
            return lambda values: any(test(values) for test in tests)
        return lambda values: all(test(values) for test in tests)
    if isinstance(tree, Relation):
        return chain(tree, angle)
    raise EvaluationError("no_relation", "A condition compares two things, such as a < b.")


COMPARISONS: dict[str, Callable[[int], bool]] = {
    "=": lambda order: order == 0,
    "≠": lambda order: order != 0,
    "<": lambda order: order < 0,
    ">": lambda order: order > 0,
    "≤": lambda order: order <= 0,
    "≥": lambda order: order >= 0,
}


def chain(tree: Relation, angle: str) -> Callable[[Values], bool]:
    if any(sign not in COMPARISONS for sign in tree.signs):
        raise EvaluationError("no_relation", "This comparison cannot be used in a condition.")
    terms = [Compiled(term, angle) for term in tree.terms]
    tests = [COMPARISONS[sign] for sign in tree.signs]

    def test(values: Values) -> bool:
        worked = [term.value(values) for term in terms]
        return all(test(compare(a, b)) for test, a, b in zip(tests, worked, worked[1:]))

    return test


class Compiler:
    """Builds the closure of a tree; one method for each kind of node that has a value."""

    def __init__(self, angle: str) -> None:
        self.angle = angle
        self.signs = 0

    def of(self, node: Node) -> Program:
        self.signs += 1
        method: Callable[[Node], Program] | None = getattr(self, f"of_{type(node).__name__}", None)
        if method is None:
            raise EvaluationError("no_number", "This is not a formula with a value.")
        return method(node)

    def of_Number(self, node: Number) -> Program:
        value = rational(node.value)
        return lambda values: value

    def of_Mixed(self, node: Mixed) -> Program:
        if not node.denominator.value:
            raise EvaluationError("division_by_zero", "This divides by 0.")
        value = rational(node.whole.value + node.numerator.value / node.denominator.value)
        return lambda values: value

    def of_Name(self, node: Name) -> Program:
        name = node.name

        def look_up(values: Values) -> fmpq:
            value = values.get(name)
            if type(value) is fmpq:
                return value
            if value is None:
                raise EvaluationError("unknown_name", f"{name} has no value.")
            if isinstance(value, str):
                raise EvaluationError("no_number", f"{name} is a word, not a number.")
            raise Irrational

        return look_up

    def of_Constant(self, node: Constant) -> Program:
        return irrational

    def of_Text(self, node: Text) -> Program:
        raise EvaluationError("no_number", "Words in quotation marks have no value.")

    def of_Sum(self, node: Sum) -> Program:
        first, *rest = map(self.of, node.terms)
        if len(rest) == 1:
            second = rest[0]
            return lambda values: first(values) + second(values)

        def total(values: Values) -> fmpq:
            result = first(values)
            for term in rest:
                result = result + term(values)
            return result

        return total

    def of_Neg(self, node: Neg) -> Program:
        inner = self.of(node.operand)
        return lambda values: -inner(values)

    def of_Product(self, node: Product) -> Program:
        first, *rest = map(self.of, node.factors)
        if len(rest) == 1:
            second = rest[0]
            return lambda values: first(values) * second(values)

        def total(values: Values) -> fmpq:
            result = first(values)
            for factor in rest:
                result = result * factor(values)
            return result

        return total

    def of_Quotient(self, node: Quotient) -> Program:
        top, bottom = self.of(node.numerator), self.of(node.denominator)

        def divide(values: Values) -> fmpq:
            divisor = bottom(values)
            if divisor == 0:
                raise EvaluationError("division_by_zero", "This divides by 0.")
            return top(values) / divisor

        return divide

    def of_Power(self, node: Power) -> Program:
        base, exponent = self.of(node.base), self.of(node.exponent)
        return lambda values: exact_power(base(values), exponent(values))

    def of_Postfix(self, node: Postfix) -> Program:
        inner = self.of(node.operand)
        if node.sign == "%":
            return lambda values: inner(values) / 100
        if node.sign == "°":
            return inner if self.angle == "degrees" else irrational
        return lambda values: factorial(inner(values))

    def of_Quantity(self, node: Quantity) -> Program:
        return self.of(node.amount)

    def of_Drawn(self, node: Drawn) -> Program:
        return self.of(node.value)

    def of_Call(self, node: Call) -> Program:
        if node.function == "if":
            test = condition(node.arguments[0], self.angle)
            yes, no = self.of(node.arguments[1]), self.of(node.arguments[2])
            return lambda values: yes(values) if test(values) else no(values)
        if node.function == "value":
            return self.of(node.arguments[0])
        function: Callable[..., fmpq] = EXACT.get(node.function, not_rational)
        arguments = [self.of(argument) for argument in spread(node)]
        if len(arguments) == 1:
            only = arguments[0]
            return lambda values: function(only(values))
        return lambda values: function(*[argument(values) for argument in arguments])


def irrational(values: Values) -> fmpq:
    raise Irrational


def not_rational(*arguments: fmpq) -> fmpq:
    raise Irrational


def exact_power(base: fmpq, exponent: fmpq) -> fmpq:
    """A rational power of a rational where it is rational; bounded before it is computed."""
    if exponent.q != 1:
        root = exact_root(base, int(exponent.q))
        return exact_power(root, fmpq(exponent.p))
    if base == 0 and exponent <= 0:
        message = "0 to the power 0 has no value." if exponent == 0 else "This divides by 0."
        raise EvaluationError("division_by_zero", message)
    if base == 0:
        return ZERO
    power = int(exponent.p)
    bits = max(int(abs(base.p)).bit_length(), int(base.q).bit_length())
    if bits > 1 and abs(power) * bits > MAXIMUM_BITS:
        raise EvaluationError("too_large", "This power is too large to be worked out.")
    if bits <= 1:
        # 1 and -1, whatever the power
        power = power % 2 if power >= 0 else -(-power % 2)
    return base**power


def exact_root(base: fmpq, order: int) -> fmpq:
    """The real root when it is rational."""
    if base < 0:
        if order % 2 == 0:
            raise Undefined("An even root of a negative number is not real.")
        return -exact_root(-base, order)
    roots = [whole_root(int(part), order) for part in (base.p, base.q)]
    return fmpq(*roots)


def whole_root(value: int, order: int) -> int:
    if value in (0, 1):
        return value
    if order > value.bit_length():
        raise Irrational
    if order == 2:
        root = isqrt(value)
    else:
        low, high = 0, 1 << (value.bit_length() // order + 1)
        while low < high:
            middle = (low + high + 1) // 2
            low, high = (middle, high) if middle**order <= value else (low, middle - 1)
        root = low
    if root**order != value:
        raise Irrational
    return root


def whole(value: fmpq, what: str) -> int:
    if value.q != 1:
        raise EvaluationError("not_whole", f"{what} takes whole numbers.")
    return int(value.p)


def factorial(value: fmpq) -> fmpq:
    if value.q != 1 or value < 0:
        raise Undefined("A factorial is taken of whole numbers from 0.")
    if value > 1000:
        raise EvaluationError("too_large", "This factorial is too large to be worked out.")
    result = 1
    for factor in range(2, int(value.p) + 1):
        result *= factor
    return fmpq(result)


def choose(top: fmpq, bottom: fmpq) -> fmpq:
    n, k = whole(top, "choose"), whole(bottom, "choose")
    if not 0 <= k <= n <= 5000:
        raise Undefined("Choose takes whole numbers, the second not above the first.")
    return fmpq(comb(n, k))


def modulo(value: fmpq, divisor: fmpq) -> fmpq:
    if divisor == 0:
        raise EvaluationError("division_by_zero", "This divides by 0.")
    return value - divisor * floor(value / divisor)


def mean(*values: fmpq) -> fmpq:
    return sum(values, ZERO) / len(values)


def median(*values: fmpq) -> fmpq:
    ordered = sorted(values)
    middle = len(ordered) // 2
    return ordered[middle] if len(ordered) % 2 else (ordered[middle - 1] + ordered[middle]) / 2


def variance(*values: fmpq) -> fmpq:
    """The mean of the squared distances from the mean (division by n)."""
    centre = mean(*values)
    return mean(*[(value - centre) ** 2 for value in values])


def sample_variance(*values: fmpq) -> fmpq:
    """The sum of the squared distances from the mean, divided by n − 1."""
    if len(values) < 2:
        raise EvaluationError("sample", "A sample needs two values or more for its variance.")
    return variance(*values) * len(values) / (len(values) - 1)


def item(*values: fmpq) -> fmpq:
    """``item(list, k)``: the value at a place, from 1."""
    *data, place = values
    if place.q != 1 or not 1 <= place <= len(data):
        raise EvaluationError("item", f"item(list, k) takes a place from 1 to {len(data)} here.")
    return data[int(place.p) - 1]


def quantile(*values: fmpq) -> fmpq:
    """``quantile(list, p)``: by position 1 + (n − 1)p among the ordered values, in between by proportion."""
    *data, share = values
    if not data or not 0 <= share <= 1:
        raise EvaluationError("quantile", "quantile(list, p) takes values and a share between 0 and 1.")
    ordered = sorted(data)
    position = share * (len(ordered) - 1)
    below = floor(position)
    above = min(below + 1, len(ordered) - 1)
    return ordered[below] + (position - below) * (ordered[above] - ordered[below])


def binomial_pmf(successes: fmpq, trials: fmpq, chance: fmpq) -> fmpq:
    """The probability of so many successes in so many trials."""
    k, n = whole(successes, "binomial_pmf"), whole(trials, "binomial_pmf")
    if not 0 <= chance <= 1 or not 0 <= n <= 1000:
        raise Undefined("binomial_pmf(k, n, p) takes up to 1000 trials and a probability between 0 and 1.")
    return fmpq(comb(n, k)) * chance**k * (1 - chance) ** (n - k) if 0 <= k <= n else ZERO


def round_to(value: fmpq, places: fmpq = ZERO) -> fmpq:
    wanted = whole(places, "round")
    if abs(wanted) > MAXIMUM_PLACES:
        raise EvaluationError("too_large", f"A number is rounded to at most {MAXIMUM_PLACES} places.")
    scale = fmpq(10) ** wanted
    return fmpq(round_half_away(value * scale)) / scale


def zero_only(result: int) -> Callable[[fmpq], fmpq]:
    """A function that is rational at 0 alone, such as sin or exp."""

    def at_zero(value: fmpq) -> fmpq:
        if value == 0:
            return fmpq(result)
        raise Irrational

    return at_zero


def natural_logarithm(value: fmpq) -> fmpq:
    if value <= 0:
        raise Undefined("A logarithm is taken of positive numbers.")
    if value == 1:
        return ZERO
    raise Irrational


def logarithm(value: fmpq, base: fmpq = fmpq(10)) -> fmpq:  # noqa: B008 (immutable)
    if value <= 0 or base <= 0 or base == 1:
        raise Undefined("A logarithm is taken of positive numbers.")
    for exponent in range(-40, 41):
        if base**exponent == value:
            return fmpq(exponent)
    raise Irrational


EXACT: dict[str, Callable[..., fmpq]] = {
    "abs": abs,
    "sqrt": lambda value: exact_root(value, 2),
    "root": lambda order, value: exact_root(value, whole(order, "root")),
    "floor": lambda value: fmpq(floor(value)),
    "ceil": lambda value: fmpq(-floor(-value)),
    "round": round_to,
    "sgn": lambda value: fmpq((value > 0) - (value < 0)),
    "min": lambda *values: min(values),
    "max": lambda *values: max(values),
    "mod": modulo,
    "gcd": lambda *values: fmpq(gcd(*[whole(value, "gcd") for value in values])),
    "lcm": lambda *values: fmpq(lcm(*[whole(value, "lcm") for value in values])),
    "binomial": choose,
    "choose": choose,
    "mean": mean,
    "median": median,
    "variance": variance,
    "sample_variance": sample_variance,
    "total": lambda *values: sum(values, ZERO),
    "count": lambda *values: fmpq(len(values)),
    "item": item,
    "quantile": quantile,
    "binomial_pmf": binomial_pmf,
    "stdev": lambda *values: exact_root(variance(*values), 2),
    "sample_stdev": lambda *values: exact_root(sample_variance(*values), 2),
    "exp": zero_only(1),
    "ln": natural_logarithm,
    "log": logarithm,
    "sin": zero_only(0),
    "tan": zero_only(0),
    "cos": zero_only(1),
    "asin": zero_only(0),
    "atan": zero_only(0),
}
