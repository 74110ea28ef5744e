"""The mark of one part: its share, by which rule, and how certain that is."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Any

from ..answers import Verdict
from ..questions import DrawnQuestion

# What a mark was given by; a later version of the rules is another one.
RULES_VERSION = 2


@dataclass(frozen=True, slots=True)
class PartMark:
    """What one part earned. The same answers to the same draw always give the same."""

    part: str
    # right, partly, wrong, blank, unreadable or waiting
    outcome: str
    share: Fraction
    # exactly, out of ``most``
    marks: Fraction
    most: Fraction
    # what decided: for programs, and in words
    code: str
    because: str
    # proved, refuted or agrees; empty where no machine decided
    certainty: str = ""
    # how the answer was read
    reading: str = ""
    feedback: tuple[str, ...] = ()
    # the share that hints and further tries have cost; it is taken off in ``marks`` and not in ``share``
    cost: Fraction = Fraction(0)

    @property
    def waits(self) -> bool:
        """Whether it is no mark before somebody gives one. What could only be found to agree counts meanwhile."""
        return self.outcome == "waiting"


def went(outcomes: Collection[str]) -> str:
    """How a question went whose parts came to these: right, partly or wrong; empty while somebody has to look at it."""
    if "waiting" in outcomes:
        return ""
    if set(outcomes) <= {"right"}:
        return "right"
    return "partly" if {"right", "partly"} & set(outcomes) else "wrong"


def mark_of(part: str, verdict: Verdict | None, most: Fraction) -> PartMark:
    """The mark that a verdict gives in a place where the part is worth so much."""
    if verdict is None:
        # its key has no value, so nobody can be wrong
        return PartMark(part, "waiting", Fraction(0), Fraction(0), most, "no_key", "the key has no value in this draw")
    certainty = verdict.certainty.kind if verdict.certainty is not None else ""
    told = verdict.as_json()
    return PartMark(
        part, verdict.outcome, verdict.share, verdict.share * most, most, told["code"], verdict.because, certainty,
        verdict.reading, verdict.feedback,
    )  # fmt: skip


def less(mark: PartMark, cost: Fraction) -> PartMark:
    """A mark less a share that hints, further tries or the like have cost: never below nothing, and what is below it
    already stays."""
    if not cost or mark.share <= 0:
        return mark
    lost = min(mark.cost + cost, mark.share)
    return replace(mark, marks=(mark.share - lost) * mark.most, cost=lost)


def marked(drawn: DrawnQuestion, responses: Sequence[Any], most: Sequence[Fraction]) -> list[PartMark]:
    """The marks of all parts of a question; earlier answers are carried on from the student's own."""
    parts = drawn.question.document.parts
    verdicts = drawn.check([each if each is not None else "" for each in responses])
    return [mark_of(part.id, verdict, worth) for part, verdict, worth in zip(parts, verdicts, most, strict=True)]
