"""Real numbers from a distribution: ``normal(20, 4)``, ``uniform(0, 1)``."""

from __future__ import annotations

import re
from dataclasses import dataclass

from flint import arb, ctx, fmpq

from ...algebra import Value, rounded, rounded_significant
from ...notation import Node
from ..errors import DrawError
from ..showing import Shown, shown_value
from .base import DefinitionKind, Reading, Source
from .reading import listed

CUTS = 1 << 32
# What a distribution is rounded to where nothing is said about how it is shown.
FIGURES = 4
DISTRIBUTION = re.compile(r"\s*(normal|uniform)\s*\((.*)\)\s*\Z", re.DOTALL)


@dataclass(frozen=True, slots=True)
class Distribution(Source):
    """A real number from a distribution, rounded as it is shown.

    The probability axis is cut into ``CUTS`` equal pieces; a position stands for the middle of its piece.
    """

    continuous = True
    kind: str
    first: fmpq
    second: fmpq
    shown: Shown

    @property
    def size(self) -> int:
        return CUTS

    def value(self, position: int) -> Value:
        share = fmpq(2 * position + 1, 2 * CUTS)
        if self.kind == "uniform":
            return self.rounded(self.first + (self.second - self.first) * share)
        # the quantile of the normal distribution, enclosed far more closely than anything is shown
        with ctx.workprec(192):
            deviations = arb(2 * share - 1).erfinv() * arb(2).sqrt()
            mantissa, exponent = (arb(self.first) + arb(self.second) * deviations).mid().man_exp()
            return self.rounded(fmpq(mantissa) * fmpq(2) ** int(exponent))

    def rounded(self, value: fmpq) -> fmpq:
        if self.shown.way == "decimal_places":
            return rounded(value, self.shown.figures)
        return rounded_significant(value, self.shown.figures or FIGURES)

    def item(self, position: int) -> Node:
        return shown_value(self.value(position), self.shown)

    @property
    def is_number(self) -> bool:
        return True


class Distributions(DefinitionKind):
    words = ("normal(, )", "uniform(, )")
    in_lists = True

    def begins(self, text: str) -> bool:
        return DISTRIBUTION.match(text) is not None

    def read(self, text: str, start: int, reading: Reading) -> Distribution:
        return read_distribution(text, start, reading)


def read_distribution(text: str, start: int, reading: Reading) -> Distribution:
    found = DISTRIBUTION.match(text, start)
    if found is None:
        raise DrawError("distribution", "A distribution is written normal(20, 4) or uniform(0, 1).", place=start)
    values = listed(text[: found.end(2)], found.start(2), reading.settings)
    if len(values) != 2 or not all(isinstance(value, fmpq) for value in values):
        raise DrawError(
            "distribution", f"{found[1]} takes two numbers, such as {found[1]}(20, 4).", place=found.start(1),
            length=len(text.rstrip()) - found.start(1),
        )  # fmt: skip
    first, second = values
    assert isinstance(first, fmpq) and isinstance(second, fmpq)
    if found[1] == "normal" and second <= 0:
        raise DrawError("distribution", "The standard deviation is more than 0.", place=found.start(2))
    if found[1] == "uniform" and second <= first:
        raise DrawError("distribution", "The smaller limit comes first.", place=found.start(2))
    return Distribution(found[1], first, second, reading.shown)
