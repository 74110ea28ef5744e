"""A thousand draws at a glance: extremes, spread, and every kind of trouble with the share of draws that show it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

from ..algebra import Exact, approximate, compare
from ..answers import DrawnAnswer
from ..draws import DrawError
from ..notation import line
from .cautions import Caution
from .diagnostics import diagnose
from .drawing import QuestionDrawing
from .drawn import DrawnQuestion

SURVEYED = 1000
BARS = 24


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
    """The first draws of a question, up to ``count`` or as many different ones as there are."""
    available = drawing.question.parameters.count
    limit = count if available is None else max(1, min(count, available))
    drawn: list[DrawnQuestion] = []
    stopped = ""
    for number in range(1, limit + 1):
        try:
            drawn.append(drawing.draw(number))
        except DrawError as problem:
            stopped = problem.message
            break
    spreads = []
    for part in range(len(drawing.question.document.parts)):
        found = [(item.draw.number, answer, key) for item in drawn for answer, key in numeric(item.answers[part])]
        if found:
            spreads.append(spread(part, found))
    return Survey(len(drawn), tuple(spreads), tuple(diagnose(drawing.question, drawn)), stopped)


def numeric(answer: DrawnAnswer | None) -> list[tuple[DrawnAnswer, Exact]]:
    """The answer with its key when that is a number."""
    return [(answer, answer.number.key)] if answer is not None and answer.number is not None else []


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
    if high > low:
        for _, _, key in found:
            bars[min(BARS - 1, int((approximate(key) - low) / (high - low) * BARS))] += 1
    first, last, widest = (Extreme(entry[0], texts[entry[0]]) for entry in (least, greatest, longest))
    return Spread(
        part,
        first,
        last,
        widest,
        len(set(texts.values())),
        tuple(bars) if high > low else (),
    )
