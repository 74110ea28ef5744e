"""The specification of an answer that is a number with a unit."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ....notation import Node, Quantity, Settings, line, names_in
from ...answer import Answer, Checker, Demanded
from ...asking import Input, choice, optional, text, tick
from ...near_misses import Recognised
from ...records import HALF, Band, Limits, Line, Share, Slip, Tolerance
from ...spelling import BANDS, LIMITS, RECOGNISE, SLIPS, TOLERANCE, WRITTEN, key_line
from ...written import Written
from ..number import lines_of_number, strictly_written
from .checker import QuantityChecker

UNIT = text(
    Input("unit", words="Unit of the answer", help="Unit of the answer", example="unit: J", width="short", mono=True),
    "the unit",
)
UNIT_RULES = (
    ("required", "the unit has to be given"),
    ("given", "the unit is printed after the space"),
    ("any", "the unit may be left out"),
)
UNIT_RULE = choice(Input("unit_rule", words="What is done about the unit", choices=UNIT_RULES))
ONLY_THIS_UNIT = tick(Input("same_unit", words="only in this unit"), on=False, off=True)
WITHOUT_UNIT = optional(
    Input(
        "unit_share",
        label="No unit",
        example="1/2",
        before="a right number without its unit earns",
        width="short",
        usual="1/2",
    ),
    "what no unit earns",
    "more",
)


class QuantityAnswer(Answer):
    """A number with a unit; as ``number``, with the unit of the key and what is done about a typed one."""

    gives = True
    numeric = True

    kind: Literal["quantity"] = "quantity"
    key: Annotated[Line, key_line("m*g*h")] = Field(min_length=1)
    unit: Annotated[str, UNIT] = Field(min_length=1, max_length=60)
    tolerance: Annotated[Tolerance, TOLERANCE] = Tolerance()
    unit_rule: Annotated[Literal["required", "given", "any"], UNIT_RULE] = "required"
    # whether another unit of the same dimension is accepted
    convert: Annotated[bool, ONLY_THIS_UNIT] = True
    written: Annotated[Written | None, WRITTEN] = None
    # what a right value without a required unit earns
    share: Annotated[Share, WITHOUT_UNIT] = HALF
    bands: Annotated[tuple[Band, ...], BANDS] = Field(default=(), max_length=10)
    limits: Annotated[Limits, LIMITS] = ()
    slips: Annotated[tuple[Slip, ...], SLIPS] = Field(default=(), max_length=20)
    recognise: Annotated[tuple[Recognised, ...], RECOGNISE] = Field(default=(), max_length=10)

    def made_checker(self, settings: Settings) -> Checker:
        return QuantityChecker(self, settings)

    def keyless(self, key: Node) -> Answer:
        # how units are read, times such as 1 h 30 min among them, depends on the unit of the key
        rule, limits = self.unit_rule, self.limits
        return QuantityAnswer(key="1", unit=self.unit, unit_rule=rule, convert=self.convert, limits=limits)

    def lines(self) -> list[tuple[str, str]]:
        return lines_of_number(self.key, self.tolerance, self.bands, self.slips)

    def unit_beside(self, after: str) -> str:
        return self.unit

    @property
    def unit_given(self) -> str:
        return self.unit if self.unit_rule == "given" else ""

    def copied(self, tree: Node, after: str) -> str | None:
        # a bare number is another thing than one with a unit
        return f"{line(tree.amount)} {tree.unit}" if isinstance(tree, Quantity) and not names_in(tree) else None

    def lenient(self) -> Demanded | None:
        return strictly_written(self.written)
