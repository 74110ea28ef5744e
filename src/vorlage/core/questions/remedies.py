"""Why a formula has no value in a draw, or hardly one, and the condition on the parameters that would end it."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ..algebra import Compiled, EvaluationError, Values, approximate
from ..notation import Call, Neg, Node, Power, Quotient, Sum, line
from ..notation.tree import fields_of

# A difference counts as nearly nothing below this share of its largest term.
NEARLY = 0.01
# function, what its argument must be, as a condition
DOMAINS: dict[str, tuple[str, Callable[[float], bool]]] = {
    "sqrt": ("{} >= 0", lambda x: x >= 0),
    "ln": ("{} > 0", lambda x: x > 0),
    "log": ("{} > 0", lambda x: x > 0),
    "asin": ("abs({}) <= 1", lambda x: abs(x) <= 1),
    "acos": ("abs({}) <= 1", lambda x: abs(x) <= 1),
}


def subtrees(tree: Node) -> Iterator[Node]:
    """A tree and everything in it, the innermost first."""
    for name in fields_of(tree):
        field = getattr(tree, name)
        for part in field if isinstance(field, tuple) else (field,):
            if isinstance(part, Node):
                yield from subtrees(part)
    yield tree


def size(tree: Node, values: Values, angle: str) -> float | None:
    """The value of a formula; None where it has none, or is no number."""
    try:
        value = Compiled(tree, angle).value(values)
    except EvaluationError:
        return None
    return None if isinstance(value, str | Node) else approximate(value)


def remedy(tree: Node, values: Values, angle: str) -> str:
    """The condition that would have kept a formula from having no value here; empty when none is seen."""
    for part in subtrees(tree):
        if isinstance(part, Quotient) and size(part.denominator, values, angle) == 0:
            return f"{line(part.denominator)} != 0"
        if isinstance(part, Power) and size(part.base, values, angle) == 0:
            return f"{line(part.base)} != 0"
        if isinstance(part, Call) and part.function in DOMAINS:
            words, allowed = DOMAINS[part.function]
            worth = size(part.arguments[-1 if part.function == "ln" else 0], values, angle)
            if worth is not None and not allowed(worth):
                return words.format(line(part.arguments[0]))
    return ""


def differences_below(tree: Node) -> list[Sum]:
    """The sums by which a formula divides."""
    return [
        part.denominator for part in subtrees(tree) if isinstance(part, Quotient) and isinstance(part.denominator, Sum)
    ]


def nearly_nothing(divisor: Sum, values: Values, angle: str) -> str:
    """The condition that keeps a divisor away from nothing, when it is nearly nothing here; empty otherwise."""
    worth = size(divisor, values, angle)
    terms = [size(term, values, angle) for term in divisor.terms]
    largest = max((abs(term) for term in terms if term is not None), default=0.0)
    if worth is None or not 0 < abs(worth) < NEARLY * largest:
        return ""
    place = max(range(len(terms)), key=lambda k: abs(terms[k] or 0.0))
    term = divisor.terms[place]
    shown = line(term.operand if isinstance(term, Neg) else term)
    return f"abs({line(divisor)}) > abs({shown})/20"
