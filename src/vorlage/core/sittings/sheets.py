"""A question as a student sits it: what is shown, and what reads the answers. Nothing in it tells the key.

It is written once, when a form is given out, and is plain data from then on: whoever shows it, or reads what a student
types, needs neither the question nor its key.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, dataclass, field
from decimal import Decimal
from fractions import Fraction
from functools import partial
from typing import Any

from ..answers import LETTERS, Answer, DrawnAnswer, Reader, reader_of, shown_marks
from ..questions import DrawnQuestion, pictures, span, spoken, written
from ..text import HTML

# Where an input stands in a text: its number between these two.
GAP, GAP_END = "\uf8f0", "\uf8f1"
# The signs that an answer may need, by what is typed for it.
SIGNS = {
    "numeric": ("−", "×10^", "√", "π", "²", "/"),
    "maths": ("−", "²", "^", "√", "π", "/", "(", ")", "=", "≤", "≥", "±"),
    "words": (),
}


@dataclass(frozen=True)
class Gap:
    """A place for an answer in a text: to type in, or with what is chosen from, by letter."""

    number: int
    options: list[tuple[str, str]] = field(default_factory=list)


@dataclass(frozen=True)
class StudentPart:
    """A part as a student sees it; ``shape`` says what is laid before them."""

    id: str
    label: str
    full: str
    under: bool
    wording: str
    spoken: list[str]
    # the marks as they are shown; empty where there are none
    marks: str
    # a line, options, items, pairs, words, scale, ruled, gaps, places, or nothing
    shape: str
    many: bool = False
    # line maths before the answer space, and what stands after it
    before: tuple[str, ...] = ()
    after: str = ""
    # what is offered, with its letter; of pairs the left sides first
    offers: list[tuple[str, str]] = field(default_factory=list)
    lefts: int = 0
    words: tuple[str, ...] = ()
    steps: int = 0
    ends: tuple[str, str] = ("", "")
    gaps: list[Gap] = field(default_factory=list)
    # the figure that is pointed at, and how many places may be marked
    figure: str = ""
    places: int = 0
    signs: tuple[str, ...] = ()
    # whether they are offered; how to type is said anyway
    palette: bool = True
    # whether what is typed is a number, for the keyboard of a phone
    numeric: bool = False
    # what each hint costs, in words; what it says is not here
    hints: tuple[str, ...] = ()
    # whether it has to be answered before one may hand in
    required: bool = False

    @property
    def asks(self) -> bool:
        return self.shape != "nothing"


@dataclass(frozen=True)
class StudentSheet:
    """A question as a student sees it, and of each part how what is typed is read: of a text with gaps each gap."""

    wording: str
    spoken: list[str]
    parts: list[StudentPart]
    readers: list[list[Reader | None]]
    # the hints of each part: what each says, and the share of the marks that it costs
    hints: list[list[tuple[str, Fraction]]]

    @property
    def shown(self) -> dict[str, Any]:
        """What is sent to a student, as plain data."""
        return {"wording": self.wording, "spoken": self.spoken, "parts": [asdict(part) for part in self.parts]}

    @property
    def kept_readers(self) -> dict[str, list[dict[str, Any] | None]]:
        """What reads the answers, by the identity of the part, as plain data; it is not sent."""
        return {
            part.id: [None if each is None else each.kept for each in readers]
            for part, readers in zip(self.parts, self.readers, strict=True)
        }

    @property
    def kept_hints(self) -> dict[str, list[dict[str, str]]]:
        """The hints, by the identity of the part, as plain data; one is sent when it is taken."""
        return {
            part.id: [{"text": text, "cost": str(cost)} for text, cost in hints]
            for part, hints in zip(self.parts, self.hints, strict=True)
            if hints
        }


def student_sheet(drawn: DrawnQuestion, marks: Sequence[Fraction]) -> StudentSheet:
    """A question with the values of a draw, as a student sits it; ``marks`` are those of its parts in this place."""
    question = drawn.question
    parts = [student_part(drawn, k, worth) for k, worth in enumerate(marks)]
    readers = [readers_of(drawn, k) for k in range(len(parts))]
    wording = written(drawn, question.wording, HTML)
    hints = [
        [(written(drawn, text, HTML), hint.cost) for text, hint in zip(question.hints[k], part.hints)]
        for k, part in enumerate(question.document.parts)
    ]
    return StudentSheet(wording, spoken(drawn, question.wording), parts, readers, hints)


def student_part(drawn: DrawnQuestion, k: int, marks: Fraction) -> StudentPart:
    question = drawn.question
    part, text = question.document.parts[k], question.part_wordings[k]
    space, specification = drawn.space(k), part.answer
    offered = [(label, written(drawn, each, HTML)) for label, each in drawn.offered(k)]
    gaps = gaps_of(drawn, k)
    label = question.document.labels[k]
    shape = shape_of(specification, gaps, text.has_blank, "" if space is None else space.shape)
    typed = "line" in shape or shape == "gaps" or shape == "ruled"
    inner = [each for _, each in specification.inner()]
    numeric = bool(inner) and all(each.numeric for each in inner)
    maths = any(each.line_maths and each.typed for each in inner)
    return StudentPart(
        id=part.id,
        label=label.short,
        full=label.full,
        under=bool(label.numeral),
        wording=part_wording(drawn, k, gaps, shape),
        spoken=spoken(drawn, text),
        marks=marks_shown(marks),
        shape=shape,
        many=getattr(space, "many", False),
        before=tuple(part.lines_before),
        after=part.printed_after,
        offers=offered if shape in {"options", "items", "pairs"} else [],
        lefts=len(getattr(space, "lefts", ())),
        words=tuple(getattr(space, "words", ())),
        steps=getattr(space, "steps", 0),
        ends=(getattr(space, "low", ""), getattr(space, "high", "")),
        gaps=gaps,
        figure=next((name for _, name in specification.figures), ""),
        places=getattr(specification, "clicks", 0),
        signs=SIGNS["numeric" if numeric else "maths" if maths else "words"] if typed else (),
        palette=not question.document.no_signs,
        numeric=numeric and typed,
        hints=tuple(hint_words(hint.cost) for hint in part.hints),
        required=part.required and specification.asks,
    )


def hint_words(cost: Fraction) -> str:
    """What a hint costs."""
    return f"costs {float(cost * 100):.4g} % of the marks" if cost else "costs nothing"


def shape_of(specification: Answer, gaps: Sequence[Gap], has_blank: bool, shape: str) -> str:
    """What is laid before a student for a part."""
    if not specification.asks:
        return "nothing"
    if specification.pointed:
        return "places"
    if gaps:
        return "gaps"
    return "line in text" if shape == "line" and has_blank else shape


def gaps_of(drawn: DrawnQuestion, k: int) -> list[Gap]:
    """The gaps of a part, what is to be chosen in each with its letters."""
    answer = drawn.answers[k]
    if answer is None or not answer.inner():
        return []
    show = partial(span, drawn, HTML, drawn.question.style)
    options = drawn.in_gaps(k)
    return [
        Gap(number, [(LETTERS[place], HTML.text(text, show, inline=True)) for place, text in enumerate(offered)])
        for number, offered in enumerate(options or [[] for _ in answer.inner()], start=1)
    ]


def part_wording(drawn: DrawnQuestion, k: int, gaps: Sequence[Gap], shape: str) -> str:
    """The wording of a part, with signs where inputs stand in it."""
    text = drawn.question.part_wordings[k]
    show = partial(span, drawn, HTML, drawn.question.style)
    count = len(gaps) or int(shape == "line in text")
    places = [f"{GAP}{number}{GAP_END}" for number in range(1, count + 1)]
    return HTML.text(text, show, places, pictures(drawn, text, HTML))


def readers_of(drawn: DrawnQuestion, k: int) -> list[Reader | None]:
    """What reads a part: of a text with gaps each gap, in order."""
    answer, specification = drawn.answer_as_typed(k), drawn.question.document.parts[k].answer
    if answer is None:
        return []
    settings = drawn.question.habits.reading(drawn.question.settings)
    inner: Sequence[tuple[int, Answer, DrawnAnswer]] = answer.inner() or [(1, specification, answer)]
    return [reader_of(each, held, settings) for _, each, held in inner]


def marks_shown(marks: Fraction) -> str:
    shown = shown_marks(marks)
    return "" if shown == Decimal(0) else str(shown)
