"""The specification of an answer that is a set of real numbers, given by relations or intervals."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ....notation import Node, Settings
from ...answer import Answer, Checker, Demanded, letters_of
from ...asking import Input, tick
from ...records import HALF, Limits, Line, Share, Slip
from ...spelling import LIMITS, SLIPS, key_line, share_otherwise
from .checker import InequalityChecker

SOLVED = tick(
    Input("solved", words="the letter has to stand alone"), "the form of the inequality", on="solved", off="any"
)


class InequalityAnswer(Answer):
    """A set of real numbers given by relations or intervals, or one inequality in several letters."""

    kind: Literal["inequality", "interval"] = "inequality"
    key: Annotated[Line, key_line("1 < x <= 3")] = Field(min_length=1)
    # whether the letter has to stand alone, and what the same set in another form earns
    form: Annotated[Literal["any", "solved"], SOLVED] = "any"
    share: Annotated[Share, share_otherwise()] = HALF
    limits: Annotated[Limits, LIMITS] = ()
    slips: Annotated[tuple[Slip, ...], SLIPS] = Field(default=(), max_length=20)

    def made_checker(self, settings: Settings) -> Checker:
        return InequalityChecker(self, settings)

    def keyless(self, key: Node) -> Answer:
        return InequalityAnswer(kind=self.kind, key=f"{letters_of(key)} > 1", limits=self.limits)

    def lines(self) -> list[tuple[str, str]]:
        return [("key", self.key), *(("slips", slip.key) for slip in self.slips if slip.key)]

    def lenient(self) -> Demanded | None:
        return Demanded("Let another form earn nothing", {"share": "0"}) if self.form != "any" else None

    def demand(self, key: Node, copied: Node, settings: Settings) -> Demanded | None:
        if self.form != "any":
            return None
        return Demanded("Ask for the form solved", {"form": "solved", "share": "0"})
