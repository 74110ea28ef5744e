"""The number line around a key, as it is drawn: what an answer anywhere on it earns."""

from __future__ import annotations

from dataclasses import dataclass

from vorlage.core.algebra import approximate
from vorlage.core.answers import Verdict, ruler
from vorlage.core.answers.kinds.number import DrawnNumber
from vorlage.core.notation import Habits, Node, from_document, told
from vorlage.core.questions import DrawnQuestion


@dataclass(frozen=True)
class RulerPicture:
    """The number line as it is drawn, 1000 wide; places outside stand at its ends."""

    part: int
    key: float
    key_text: str
    low: str
    high: str
    # left and width of the full marks; of each band also its share, its line on the desk, and what dragging
    # its edge changes
    full: tuple[float, float]
    bands: list[tuple[float, float, str, int, str]]
    # (place, share, words, row) of slips and of the answer that was tried
    slips: list[tuple[float, str, str]]
    tried: float | None
    # answers that were tried before: (place, words, outcome)
    earlier: list[tuple[float, str, str]]
    # what dragging an edge changes: "relative", "absolute" or nothing
    drags: str
    key_value: float
    scale: float

    @property
    def edges(self) -> list[tuple[float, float]]:
        """The edges of the full marks: where the handle begins, and where the edge is."""
        ends = (self.full[0], self.full[0] + self.full[1])
        return [(round(end - 5, 1), round(end, 1)) for end in ends]

    @property
    def band_edges(self) -> list[tuple[float, float, int, str]]:
        """The edges of the bands that can be dragged: handle, edge, line of the band, what it changes."""
        return [
            (round(end - 4, 1), round(end, 1), line, drags)
            for left, width, _, line, drags in self.bands
            for end in (left, left + width)
            if drags and 0 < end < 1000
        ]


def draggable(mode: str) -> str:
    return mode if mode in {"relative", "absolute"} else ""


def ruler_picture(
    part: int, answer: DrawnNumber, tried: float | None, earlier: list[tuple[float, str, str]], habits: Habits
) -> RulerPicture:
    found = ruler(answer)
    scale = 1000 / (found.high - found.low)

    def place(value: float) -> float:
        return round(min(1000.0, max(0.0, (value - found.low) * scale)), 1)

    def width(low: float, high: float) -> tuple[float, float]:
        return place(low), round(max(3.0, place(high) - place(low)), 1)

    return RulerPicture(
        part,
        place(found.key),
        from_document(found.key_text, habits),
        told(f"{found.low:.4g}", habits),
        told(f"{found.high:.4g}", habits),
        width(found.full.low, found.full.high),
        [
            (*width(band.low, band.high), band.share, line, draggable(band.mode))
            for line, band in sorted(enumerate(found.bands), key=lambda each: each[1].low - each[1].high)
        ],
        [(place(slip.place), slip.share, from_document(slip.words, habits)) for slip in found.slips],
        None if tried is None else place(tried),
        [(place(value), words, outcome) for value, words, outcome in earlier],
        draggable(found.full.mode),
        found.key,
        scale,
    )


def ruler_of(drawn: DrawnQuestion, part: int, tried: Verdict | None, earlier: tuple[str, ...]) -> RulerPicture | None:
    """The number line of the part that is tried, when its answer is a number; None otherwise."""
    answer = drawn.answers[part]
    typed = drawn.answer_as_typed(part)
    if answer is None or typed is None or answer.number is None:
        return None
    before = []
    for words in earlier:
        verdict = typed.check(words[:200])
        place = place_of(verdict)
        if place is not None:
            before.append((place, words, verdict.outcome))
    return ruler_picture(part, answer.number, place_of(tried), before, drawn.question.habits)


def place_of(verdict: Verdict | None) -> float | None:
    """Where a tried answer lies on the number line; None where it is no number."""
    value = verdict.value if verdict is not None else None
    return None if value is None or isinstance(value, str | Node) else approximate(value)
