"""Whether a value is close enough to the key: exact rational comparison, edges included."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import islice

from flint import arb, fmpq

from ..algebra import (
    Compiled,
    EvaluationError,
    Exact,
    Real,
    Values,
    compare,
    enclosures,
    equivalent,
    rounded,
    rounded_significant,
    to_fraction,
    value_tree,
)
from ..notation import Node, Settings, line, literal, read_authored
from .records import Tolerance


@dataclass(frozen=True, slots=True)
class DrawnTolerance:
    """A tolerance with the values of one draw in it."""

    mode: str
    value: fmpq = fmpq(0)  # noqa: RUF009 (immutable)
    low: Exact = fmpq(0)  # noqa: RUF009
    high: Exact = fmpq(0)  # noqa: RUF009

    def admits(self, response: Exact, key: Exact) -> bool:
        """Whether the response counts as the key."""
        if self.mode == "exact":
            return surely_equal(response, key)
        if self.mode == "between":
            return compare(response, self.low) >= 0 and compare(response, self.high) <= 0
        if self.mode == "decimal_places":
            return bool(rounded(response, int(self.value.p)) == rounded(key, int(self.value.p)))
        if self.mode == "significant_figures":
            figures = int(self.value.p)
            return bool(rounded_significant(response, figures) == rounded_significant(key, figures))
        return within(response, key, self.value, self.mode == "relative")

    @property
    def words(self) -> str:
        """The tolerance in words, such as ``within 2 %``."""
        value = line(literal(to_fraction(self.value)))
        if self.mode == "exact":
            return "exactly"
        if self.mode == "absolute":
            return f"within {value}"
        if self.mode == "relative":
            return f"within {line(literal(to_fraction(self.value * 100)))} %"
        if self.mode == "decimal_places":
            return f"to {value} decimal place{'' if value == '1' else 's'}"
        if self.mode == "significant_figures":
            return f"to {value} significant figure{'' if value == '1' else 's'}"
        return f"from {ends(self.low)} to {ends(self.high)}"


def surely_equal(left: Exact, right: Exact) -> bool:
    """Whether two values are equal: by proof, or at a precision above what their numbers can hide."""
    if isinstance(left, fmpq) and isinstance(right, fmpq):
        return bool(left == right)
    for one, other in islice(enclosures(left, right), 2):
        if not one.overlaps(other):
            return False
    angle = left.angle if isinstance(left, Real) else right.angle if isinstance(right, Real) else "radians"
    return equivalent(value_tree(left), value_tree(right), (), angle).holds


def ends(value: Exact) -> str:
    return line(literal(to_fraction(value if isinstance(value, fmpq) else rounded_significant(value, 6))))


def within(response: Exact, key: Exact, distance: fmpq, relative: bool) -> bool:
    """|r − k| ≤ distance, or ≤ distance·|k|; what no precision can tell from the edge is in."""
    if isinstance(response, fmpq) and isinstance(key, fmpq):
        return bool(abs(response - key) <= (distance * abs(key) if relative else distance))
    for r, k in enclosures(response, key):
        gap = abs(r - k)
        allowed = abs(k) * distance if relative else arb(distance)
        if gap > allowed:
            return False
        if gap < allowed:
            return True
    return True


class CompiledTolerance:
    """A tolerance whose formulas are read once and worked out for every draw."""

    def __init__(self, tolerance: Tolerance, settings: Settings) -> None:
        self.mode = tolerance.mode
        fields = {"value": tolerance.value, "low": tolerance.low, "high": tolerance.high}
        self.trees: dict[str, Node] = {name: read_authored(text, settings) for name, text in fields.items() if text}
        self.programs = {name: Compiled(tree, settings.angle) for name, tree in self.trees.items()}
        self.constant: DrawnTolerance | None = None
        # in words, where they are the same for every draw
        self.words = ""
        if self.mode != "between":
            try:
                self.constant = self.work_out({})
                self.words = self.constant.words
            except EvaluationError:
                # speaks of parameters
                self.constant = None

    def drawn(self, values: Values) -> DrawnTolerance:
        return self.constant or self.work_out(values)

    def work_out(self, values: Values) -> DrawnTolerance:
        worked = {name: program.value(values) for name, program in self.programs.items()}
        size = worked.get("value", fmpq(0))
        if not isinstance(size, fmpq):
            size = rounded_significant(size, 12)
        if self.mode in {"decimal_places", "significant_figures"} and (size.q != 1 or not 0 <= size <= 30):
            raise EvaluationError("tolerance", "The number of places is a whole number up to 30.")
        if self.mode == "significant_figures" and size == 0:
            raise EvaluationError("tolerance", "At least one significant figure is needed.")
        if size < 0:
            raise EvaluationError("tolerance", "A tolerance is not negative.")
        if self.mode == "between" and compare(worked["low"], worked["high"]) > 0:
            raise EvaluationError("tolerance", "The lower end of “between” comes first.")
        return DrawnTolerance(self.mode, size, worked.get("low", fmpq(0)), worked.get("high", fmpq(0)))
