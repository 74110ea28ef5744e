"""A thousand draws at a glance: extremes, spread, and every kind of trouble with the share of draws that show it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from ..algebra import Exact, approximate, compare
from ..answers import DrawnAnswer
from ..budget import OutOfBudget, budgeted
from ..draws import DrawError
from ..notation import line
from .cautions import Caution
from .diagnostics import Diagnosis
from .drawing import QuestionDrawing
from .drawn import DrawnQuestion
from .soundness import too_costly

SURVEYED = 1000
BARS = 24
# What drawing, and then comparing, may take, in steps and in seconds of the processor.
STEPS_OF_DRAWING, SECONDS_OF_DRAWING = 4_000_000, 3.0
STEPS_OF_COMPARING, SECONDS_OF_COMPARING = 1_000_000, 1.0


@dataclass(frozen=True, slots=True)
class Extreme:
    """A draw that stands out, and its answer as line maths."""

    draw: int
    answer: str


@dataclass(frozen=True, slots=True)
class Spread:
    """The answers of one part over many draws."""

    part: int
    least: Extreme
    greatest: Extreme
    # the answer that takes the most figures to write
    longest: Extreme
    different: int
    # how many answers fall into each of equal steps from the least to the greatest
    bars: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class Survey:
    """What many draws show. ``stopped`` says why not all of them could be drawn."""

    drawn: int
    spreads: tuple[Spread, ...] = ()
    warnings: tuple[Caution, ...] = ()
    stopped: str = ""
    failures: tuple[tuple[int, str], ...] = field(default=())


def survey(drawing: QuestionDrawing, count: int = SURVEYED) -> Survey:
    """The first draws of a question, up to ``count`` or as many different ones as there are, and no more than can be
    looked at within bounds."""
    available = drawing.question.parameters.count
    limit = count if available is None else max(1, min(count, available))
    found, stopped = Diagnosis(drawing.question), ""
    try:
        with budgeted(STEPS_OF_DRAWING, SECONDS_OF_DRAWING):
            for number in range(1, limit + 1):
                found.look_at(drawing.draw(number))
    except DrawError as problem:
        stopped = problem.message
    except OutOfBudget as problem:
        stopped = f"Not all {limit} draws were looked at. {too_costly(problem).message}"
    spreads, warnings = [], []
    try:
        with budgeted(STEPS_OF_COMPARING, SECONDS_OF_COMPARING):
            warnings = found.warnings
            for part in range(len(drawing.question.document.parts)):
                keys = numeric(part, found.drawn)
                if keys:
                    spreads.append(spread(part, keys))
    except OutOfBudget:
        stopped = stopped or "The answers of these draws take too long to be compared."
    return Survey(len(found.drawn), tuple(spreads), tuple(warnings), stopped)


def numeric(part: int, drawn: Sequence[DrawnQuestion]) -> list[tuple[int, DrawnAnswer, Exact]]:
    """The draws in which the key of a part is a number, with the answer and its key."""
    answers = ((item.draw.number, item.answers[part]) for item in drawn)
    return [(number, answer, answer.number.key) for number, answer in answers if answer and answer.number is not None]


def spread(part: int, found: Sequence[tuple[int, DrawnAnswer, Exact]]) -> Spread:
    texts = {number: line(answer.key_tree()) for number, answer, _ in found}
    least = greatest = found[0]
    for entry in found[1:]:
        if compare(entry[2], least[2]) < 0:
            least = entry
        if compare(entry[2], greatest[2]) > 0:
            greatest = entry
    longest = max(found, key=lambda entry: len(texts[entry[0]]))
    low, high = approximate(least[2]), approximate(greatest[2])
    bars = [0] * BARS
    if low < high < math.inf and low > -math.inf:
        for _, _, key in found:
            bars[bar(approximate(key), low, high)] += 1
    first, last, widest = (Extreme(entry[0], texts[entry[0]]) for entry in (least, greatest, longest))
    return Spread(
        part,
        first,
        last,
        widest,
        len(set(texts.values())),
        tuple(bars) if any(bars) else (),
    )


def bar(value: float, low: float, high: float) -> int:
    """Which of the equal steps between two finite values a third one between them falls into."""
    # halved, since the distance itself may be too large for a float
    share = (value / 2 - low / 2) / (high / 2 - low / 2)
    return min(BARS - 1, int(share * BARS))
