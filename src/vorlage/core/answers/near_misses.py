"""Near-misses that are recognised without being told: one function each, listed in ``NEAR_MISSES``."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import TYPE_CHECKING, Any, Literal

from flint import fmpq
from pydantic import ConfigDict, model_validator

from ..algebra import Exact, compare, magnitude, rounded
from ..notation import Neg, Node, Number
from .records import Share, Strict
from .tolerance import DrawnTolerance


@dataclass(frozen=True, slots=True)
class Attempt:
    """A response beside the key it misses."""

    response: Exact
    tree: Node
    key: Exact
    tolerance: DrawnTolerance
    # the key worked out with degrees for radians, or the reverse; None where no angle is in it
    other_angle: Exact | None

    def hits(self, response: Exact) -> bool:
        return self.tolerance.admits(response, self.key)

    def literal(self) -> Number | None:
        """The number as written, without its sign."""
        tree = self.tree.operand if isinstance(self.tree, Neg) else self.tree
        return tree if isinstance(tree, Number) else None


def places_of(number: Number) -> int:
    return number.decimals - (number.exponent or 0)


def rounding(attempt: Attempt) -> bool:
    """The key rounded too far, or not rounded where rounding is asked for."""
    number = attempt.literal()
    if number is None or not isinstance(attempt.response, fmpq) or attempt.response == 0:
        return False
    mode, figures = attempt.tolerance.mode, int(attempt.tolerance.value.p)
    if mode == "decimal_places":
        return bool(attempt.response == rounded(attempt.key, figures - 1))
    if mode == "significant_figures":
        return figures > 1 and bool(attempt.response == rounded(attempt.key, figures - 2 - magnitude(attempt.key)))
    return bool(attempt.response == rounded(attempt.key, places_of(number)))


def truncation(attempt: Attempt) -> bool:
    """Cut off where it should have been rounded."""
    number = attempt.literal()
    if number is None or not isinstance(attempt.response, fmpq) or attempt.response == 0:
        return False
    unit = fmpq(10) ** -places_of(number)
    gap = abs_of(attempt.key, attempt.response)
    return same_sign(attempt.key, attempt.response) and compare(gap, fmpq(0)) > 0 and compare(gap, unit) < 0


def abs_of(key: Exact, response: fmpq) -> Exact:
    """|key| − |response|, exactly where both are rational and closely otherwise."""
    if isinstance(key, fmpq):
        return abs(key) - abs(response)
    return abs(rounded(key, 30)) - abs(response)


def same_sign(left: Exact, right: Exact) -> bool:
    zero = fmpq(0)
    return compare(left, zero) == compare(right, zero)


def sign(attempt: Attempt) -> bool:
    """The opposite number."""
    return isinstance(attempt.response, fmpq) and attempt.response != 0 and attempt.hits(-attempt.response)


def power_of_ten(attempt: Attempt) -> bool:
    """Out by a factor of ten, a hundred, … up to a thousand million."""
    if not isinstance(attempt.response, fmpq) or attempt.response == 0:
        return False
    response = attempt.response
    gap = magnitude(attempt.key) - magnitude(response)
    # rounding can carry the first figure over, so the neighbours are tried as well
    shifts = [shift for shift in (gap - 1, gap, gap + 1) if 1 <= abs(shift) <= 9]
    return any(attempt.hits(response * fmpq(10) ** shift) for shift in shifts)


def digit_swap(attempt: Attempt) -> bool:
    """Two neighbouring digits in the wrong order."""
    number = attempt.literal()
    if number is None or number.exponent is not None or not isinstance(attempt.response, fmpq):
        return False
    digits = str(int(number.value * 10**number.decimals)).rjust(number.decimals + 1, "0")
    if len(digits) > 15:
        return False
    turned = -1 if isinstance(attempt.tree, Neg) else 1
    for k in range(len(digits) - 1):
        if digits[k] == digits[k + 1]:
            continue
        swapped = digits[:k] + digits[k + 1] + digits[k] + digits[k + 2 :]
        if attempt.hits(fmpq(turned * int(swapped), 10**number.decimals)):
            return True
    return False


def digit(attempt: Attempt) -> bool:
    """One digit written wrongly."""
    number = attempt.literal()
    if number is None or number.exponent is not None or not isinstance(attempt.response, fmpq):
        return False
    digits = str(int(number.value * 10**number.decimals)).rjust(number.decimals + 1, "0")
    if not 2 <= len(digits) <= 15:
        # a number of one digit has none that is right
        return False
    turned = -1 if isinstance(attempt.tree, Neg) else 1
    for k in range(len(digits)):
        for other in "0123456789":
            written = digits[:k] + other + digits[k + 1 :]
            if other != digits[k] and attempt.hits(fmpq(turned * int(written), 10**number.decimals)):
                return True
    return False


def angle_unit(attempt: Attempt) -> bool:
    """Degrees taken for radians, or the reverse."""
    return attempt.other_angle is not None and attempt.tolerance.admits(attempt.response, attempt.other_angle)


@dataclass(frozen=True, slots=True)
class NearMiss:
    """A near-miss: how it is seen, what a student is told, and what an author calls it."""

    test: Callable[[Attempt], bool]
    told: str
    words: str


# The register of near-misses.
NEAR_MISSES = {
    "rounding": NearMiss(
        rounding, "The value is right, but it is not rounded as asked.", "rounded too far or not at all"
    ),
    "truncation": NearMiss(truncation, "The decimals were cut off instead of rounded.", "cut off instead of rounded"),
    "sign": NearMiss(sign, "Check the sign.", "wrong sign"),
    "power_of_ten": NearMiss(
        power_of_ten, "The figures are right, but the decimal point is in the wrong place.", "decimal point misplaced"
    ),
    "digit_swap": NearMiss(digit_swap, "Two digits seem to have changed places.", "two digits swapped"),
    "digit": NearMiss(digit, "One digit seems to be wrong.", "one digit wrong"),
    "angle_unit": NearMiss(
        angle_unit, "Check whether your calculator is set to degrees or to radians.", "degrees for radians"
    ),
}
if TYPE_CHECKING:
    NearMissName = str
else:
    NearMissName = Literal[tuple(NEAR_MISSES)]


def name_or_object(schema: dict[str, Any]) -> None:
    """In the JSON Schema: the bare name of a near-miss will do."""
    described = dict(schema)
    schema.clear()
    schema["anyOf"] = [described["properties"]["name"], described]


class Recognised(Strict):
    """A near-miss that Vorlage looks for itself; it earns marks only when a share is set."""

    model_config = ConfigDict(json_schema_extra=name_or_object)

    name: NearMissName
    share: Share = Fraction(0)

    @model_validator(mode="before")
    @classmethod
    def by_name(cls, given: Any) -> Any:
        return {"name": given} if isinstance(given, str) else given
