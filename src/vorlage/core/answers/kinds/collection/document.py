"""The specification of an answer of several values."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ....notation import Node, Settings
from ...answer import Answer, Checker
from ...asking import Input, optional, tick
from ...records import Limits, Line, Share, Slip, Tolerance
from ...spelling import LIMITS, SLIPS, TOLERANCE, key_line
from ..number import lines_of_number
from .checker import CollectionChecker, numbered

BY_PLACE = ("list", "point", "vector", "matrix")
PARTIAL = tick(
    Input("partial", words="a share for every right value"), "the share for every right value", only=BY_PLACE
)
COST = optional(
    Input(
        "cost", example="1/4", before="each value that does not belong costs", words="What a wrong value costs",
        width="tiny", mono=True, holds="number",
    ),
    "what a wrong value costs",
    "accepted",
    ["set"],
)  # fmt: skip


class CollectionAnswer(Answer):
    """Several values: a set in any order, or a list, point, vector or matrix place by place."""

    kind: Literal["set", "list", "point", "vector", "matrix"]
    key: Annotated[Line, key_line("{2, -5}")] = Field(min_length=1)
    tolerance: Annotated[Tolerance, TOLERANCE] = Tolerance()
    # whether each value found earns its share; sets always do
    partial: Annotated[bool, PARTIAL] = False
    # what every element that does not belong costs; when nothing is said, an element more than were asked for
    # costs as much as one is worth
    cost: Annotated[Share | None, COST] = None
    limits: Annotated[Limits, LIMITS] = ()
    slips: Annotated[tuple[Slip, ...], SLIPS] = Field(default=(), max_length=20)

    def made_checker(self, settings: Settings) -> Checker:
        return CollectionChecker(self, settings)

    def keyless(self, key: Node) -> Answer:
        return CollectionAnswer(kind=self.kind, key=numbered(key), limits=self.limits)

    def lines(self) -> list[tuple[str, str]]:
        return lines_of_number(self.key, self.tolerance, (), self.slips)
