"""What checking an answer comes to."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from ..algebra import Certainty, Value
from ..notation import Node

RIGHT, PARTLY, WRONG, BLANK, UNREADABLE = "right", "partly", "wrong", "blank", "unreadable"


@dataclass(frozen=True, slots=True)
class Verdict:
    """The outcome for one response; the same inputs always give the same verdict."""

    # right, partly, wrong, blank or unreadable
    outcome: str
    # the share of the marks, from 0 to 1
    share: Fraction = Fraction(0)
    # how the response was read, as line maths
    reading: str = ""
    # what the student is told, the most specific first
    feedback: tuple[str, ...] = ()
    # the tolerance, band, slip or demand that decided
    because: str = ""
    certainty: Certainty | None = None
    # where reading stopped, for an unreadable response
    place: int | None = None
    # the response as a tree, to be shown typeset
    tree: Node | None = field(default=None, compare=False)
    # what the response is worth in a later part: a number in the key's unit, or a formula
    value: Value | None = field(default=None, compare=False)

    def as_json(self) -> dict[str, Any]:
        """The verdict as it is written by ``vorlage check``."""
        certainty: dict[str, Any] | None = None
        if self.certainty is not None:
            certainty = {"kind": self.certainty.kind}
            if self.certainty.points:
                certainty["points"] = self.certainty.points
            if self.certainty.witness:
                certainty["witness"] = {name: str(value) for name, value in self.certainty.witness}
                certainty["key_value"] = self.certainty.key_value
                certainty["response_value"] = self.certainty.response_value
        return {
            "outcome": self.outcome,
            "share": str(self.share),
            "reading": self.reading,
            "feedback": list(self.feedback),
            "because": self.because,
            "certainty": certainty,
        }


def of_share(share: Fraction) -> str:
    """The outcome that a share of the marks stands for."""
    return RIGHT if share >= 1 else PARTLY if share > 0 else WRONG
