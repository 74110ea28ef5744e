"""What a student answered in their draw, as a number with the closeness that it was written to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..algebra import Value, approximate
from ..answers import RIGHT, DrawnAnswer, Verdict
from ..notation import Node, Number, Quantity, unsigned

# A whole number that ends in zeros may have been rounded: to no fewer figures than stand for this share of it.
ROUNDED_WHOLE = 0.005


@dataclass(frozen=True, slots=True)
class Observed:
    """A wrong number: the values of the draw by name, the key, what was answered in the key's unit, and within how
    much of that a value has to be to be written so."""

    values: Mapping[str, Value]
    key: float
    answer: float
    half: float


def observed(values: Mapping[str, Value], drawn: DrawnAnswer, verdict: Verdict) -> Observed | None:
    """What a verdict was given for; None where it is no number, or no wrong one: what could be the key as closely as it
    is written is no mistake that a formula explains."""
    number = drawn.number
    if number is None or verdict.outcome == RIGHT or verdict.value is None or isinstance(verdict.value, str | Node):
        return None
    key, answer = approximate(number.key), approximate(verdict.value)
    half = closeness(verdict.tree, answer)
    return None if abs(answer - key) <= half else Observed(values, key, answer, half)


def closeness(tree: Node | None, answer: float) -> float:
    """Half a step of the last figure that was written, in the unit that ``answer`` is in; next to nothing where it is
    no decimal but a fraction, a root or the like.

    >>> from vorlage.core.notation import read
    >>> round(closeness(read("12.5"), 12.5), 6), round(closeness(read("12.5"), 0.0125), 9)
    (0.05, 5e-05)
    """
    amount = unsigned(tree.amount if isinstance(tree, Quantity) else tree) if tree is not None else None
    least = 1e-9 * abs(answer)
    if not isinstance(amount, Number):
        return least
    written = float(amount.value)
    step = 10.0 ** ((amount.exponent or 0) - amount.decimals)
    if not amount.decimals and amount.exponent is None and written:
        zeros = len(str(int(written))) - len(str(int(written)).rstrip("0"))
        step = max(1.0, min(10.0**zeros, 2 * ROUNDED_WHOLE * written))
    scale = abs(answer / written) if written else 1.0
    return step / 2 * scale * (1 + 1e-9) + least
