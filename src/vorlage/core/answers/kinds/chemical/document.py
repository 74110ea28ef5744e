"""The specification of an answer that is a chemical formula or equation."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from ....notation import Chemical, Node, Settings, line, read_chemical
from ...answer import Answer, Checker
from ...asking import Input, tick
from ...records import HALF, Limits, Line, Share, Slip
from ...spelling import LIMITS, SLIPS, key_line, share_otherwise
from .checker import ChemicalChecker

MULTIPLE = tick(Input("multiple", words="any multiple of the equation"), "whether multiples count")
STATES = tick(Input("states", words="states have to be given"), "whether states have to be given")


class ChemicalAnswer(Answer):
    """A chemical formula or a balanced equation."""

    line_maths = False

    kind: Literal["chemical"] = "chemical"
    key: Annotated[Line, key_line("2 H2 + O2 -> 2 H2O")] = Field(min_length=1)
    # whether an equation may be a multiple of the key
    multiple: Annotated[bool, MULTIPLE] = False
    # whether states such as (aq) have to be given, and what an answer with wrong ones earns
    states: Annotated[bool, STATES] = False
    share: Annotated[Share, share_otherwise()] = HALF
    limits: Annotated[Limits, LIMITS] = ()
    slips: Annotated[tuple[Slip, ...], SLIPS] = Field(default=(), max_length=20)

    @model_validator(mode="before")
    @classmethod
    def multiple_as_up_to(cls, given: Any) -> Any:
        """``"up_to": "multiple"`` allows a common factor, as it does for formulas."""
        if isinstance(given, dict) and "up_to" in given:
            rest = {name: value for name, value in given.items() if name != "up_to"}
            return {**rest, "multiple": given["up_to"] == "multiple"}
        return given

    def keyless(self, key: Node) -> Answer:
        reaction = "->" in self.key or "→" in self.key or "<=>" in self.key
        return ChemicalAnswer(key="2 H2 + O2 -> 2 H2O" if reaction else "H2", limits=self.limits)

    def made_checker(self, settings: Settings) -> Checker:
        return ChemicalChecker(self, settings)

    def key_as_read(self, settings: Settings) -> Node | None:
        return read_chemical(self.key)

    def copied(self, tree: Node, after: str) -> str | None:
        return chemical_text(tree) if isinstance(tree, Chemical) else super().copied(tree, after)


def chemical_text(tree: Chemical) -> str:
    """A chemical formula as it is typed."""
    return line(tree).removeprefix("chem: ")
