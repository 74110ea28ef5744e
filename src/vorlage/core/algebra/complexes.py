"""Complex values by ball arithmetic, for questions that say "complex"."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from flint import acb, arb, ctx, fmpq

from ..notation import Call, Constant, Drawn, Mixed, Name, Neg, Node, Number, Postfix, Power, Product, Quotient, Sum
from .balls import Undefined, rational_constant
from .errors import EvaluationError

BITS = 256


def complex_value(tree: Node, names: Mapping[str, fmpq], bits: int = BITS) -> acb:
    """An enclosure of the complex value. Raises ``EvaluationError`` where there is none."""
    with ctx.workprec(bits):
        value = of(tree, names)
    if not value.is_finite():
        raise Undefined("This has no value.")
    return value


def of(node: Node, names: Mapping[str, fmpq]) -> acb:
    method = METHODS.get(type(node))
    if method is None:
        raise EvaluationError("no_number", "This is not a number.")
    return method(node, names)


def of_name(node: Name, names: Mapping[str, fmpq]) -> acb:
    if node.name not in names:
        raise EvaluationError("unknown_name", f"{node.name} has no value.")
    return acb(names[node.name])


def of_constant(node: Constant, names: Mapping[str, fmpq]) -> acb:
    if node.name == "infinity":
        raise Undefined
    return {"pi": acb.pi, "e": lambda: acb(arb.const_e()), "i": lambda: acb(0, 1)}[node.name]()


def of_sum(node: Sum, names: Mapping[str, fmpq]) -> acb:
    total = acb(0)
    for term in node.terms:
        total += of(term, names)
    return total


def of_product(node: Product, names: Mapping[str, fmpq]) -> acb:
    total = acb(1)
    for factor in node.factors:
        total *= of(factor, names)
    return total


def of_quotient(node: Quotient, names: Mapping[str, fmpq]) -> acb:
    bottom = of(node.denominator, names)
    if bottom.contains(0):
        raise Undefined("This divides by nothing.")
    return of(node.numerator, names) / bottom


def of_power(node: Power, names: Mapping[str, fmpq]) -> acb:
    base, exponent = of(node.base, names), rational_constant(node.exponent)
    if exponent is not None and exponent.q == 1 and abs(exponent) <= 1000:
        return base ** int(exponent.p)
    if base.contains(0):
        raise Undefined
    return (base.log() * of(node.exponent, names)).exp()


def of_call(node: Call, names: Mapping[str, fmpq]) -> acb:
    function = FUNCTIONS.get(node.function)
    if function is None:
        raise EvaluationError("no_number", f"{node.function} cannot be worked out as a complex number here.")
    return function(*(of(argument, names) for argument in node.arguments))


def of_postfix(node: Postfix, names: Mapping[str, fmpq]) -> acb:
    inner = of(node.operand, names)
    if node.sign == "%":
        return inner / 100
    if node.sign == "°":
        return inner * acb.pi() / 180
    raise Undefined


def rational_number(node: Number, names: Mapping[str, fmpq]) -> acb:
    return acb(fmpq(node.value.numerator, node.value.denominator))


FUNCTIONS: dict[str, Callable[..., acb]] = {
    "sqrt": acb.sqrt, "exp": acb.exp, "ln": acb.log, "sin": acb.sin, "cos": acb.cos, "tan": acb.tan,
    "abs": lambda value: acb(abs(value)), "sinh": acb.sinh, "cosh": acb.cosh, "tanh": acb.tanh,
}  # fmt: skip
METHODS: dict[type[Node], Callable[..., acb]] = {
    Number: rational_number,
    Mixed: lambda node, names: of(node.whole, names) + of(node.numerator, names) / of(node.denominator, names),
    Name: of_name,
    Constant: of_constant,
    Sum: of_sum,
    Neg: lambda node, names: -of(node.operand, names),
    Product: of_product,
    Quotient: of_quotient,
    Power: of_power,
    Postfix: of_postfix,
    Call: of_call,
    Drawn: lambda node, names: of(node.value, names),
}
