"""What checking an answer comes to."""

from __future__ import annotations

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from ..algebra import Certainty, EvaluationError, Value
from ..notation import Node, NotationError

RIGHT, PARTLY, WRONG, BLANK, UNREADABLE = "right", "partly", "wrong", "blank", "unreadable"
# a person has to mark it
WAITING = "waiting"
# What a verdict is called where nothing more special decided.
CODES = {RIGHT: "key", PARTLY: "partly", WRONG: "wrong", BLANK: "blank", UNREADABLE: "unreadable", WAITING: "by_hand"}


@dataclass(frozen=True, slots=True)
class Verdict:
    """The outcome for one response; the same inputs always give the same verdict."""

    # right, partly, wrong, blank, unreadable or waiting
    outcome: str
    # the share of the marks, at most 1; negative where the author says so
    share: Fraction = Fraction(0)
    # how the response was read, as line maths
    reading: str = ""
    # what the student is told, the most specific first
    feedback: tuple[str, ...] = ()
    # the tolerance, band, slip or demand that decided
    because: str = ""
    certainty: Certainty | None = None
    # what decided, for programs: stable, and empty where the outcome says it
    code: str = ""
    # how the response could be meant otherwise, and how brackets would tell; empty where there is one reading
    ambiguity: str = ""
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
            "feedback": [*self.feedback, *filter(None, [self.ambiguity])],
            "because": self.because,
            "code": self.code or CODES[self.outcome],
            "ambiguous": bool(self.ambiguity),
            "certainty": certainty,
        }


def of_share(share: Fraction) -> str:
    """The outcome that a share of the marks stands for."""
    return RIGHT if share >= 1 else PARTLY if share > 0 else WRONG


NOTHING = Verdict(BLANK, because="nothing was answered")
TOO_COSTLY = Verdict(
    WAITING,
    feedback=("This could not be checked in the time that an answer has: somebody will look at it.",),
    because="it takes too long to check",
    code="too_costly",
)
UNDECIDED = Verdict(
    WAITING,
    feedback=("Your teacher will mark this answer: it could not be checked automatically.",),
    because="no proof and no counterexample was found",
    code="undecided",
)


def unread(problem: NotationError | EvaluationError, because: str = "it cannot be read", **shown: Any) -> Verdict:
    """The verdict for a response that cannot be read, or has no value: what stands against it, and where."""
    place = getattr(problem, "place", None)
    return Verdict(UNREADABLE, feedback=(problem.message,), because=because, code=problem.code, place=place, **shown)
