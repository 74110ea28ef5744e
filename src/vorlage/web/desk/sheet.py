"""The question as it lies on the sheet, with the numbers of a draw."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from decimal import Decimal

from django.utils.safestring import SafeString

from vorlage.core.answers import DrawnAnswer, Space
from vorlage.core.notation import Drawn, Node, Style, mathml, told
from vorlage.core.questions import (
    CompiledQuestion,
    DrawnQuestion,
    PartLabel,
    key_picture,
    spoken,
    written,
    written_part,
    written_solution,
)
from vorlage.core.text import HTML
from vorlage.web.bank.markup import letters_set, safe, unit_set


def author_style(question: CompiledQuestion) -> Style:
    """As it is printed for students, with what is drawn marked."""
    return replace(question.style, show_drawn=True)


@dataclass(frozen=True)
class SheetPart:
    """A part as it lies on the sheet."""

    uid: str
    label: PartLabel
    wording: SafeString
    marks: Decimal
    after: SafeString
    # whether anything is asked
    asks: bool = True
    before: SafeString = field(default_factory=SafeString)
    key: SafeString = field(default_factory=SafeString)
    accepted: str = ""
    solution: SafeString = field(default_factory=SafeString)
    # what is laid before the student, and the markup of what is offered by its letter or number
    space: Space | None = None
    offers: dict[str, SafeString] = field(default_factory=dict)
    has_blank: bool = False
    rubric: Sequence[tuple[str, Sequence[tuple[Decimal, str]]]] = ()
    # the figure in which it is answered, and the regions of it, as JSON for whoever moves them
    figure: str = ""
    regions: str = ""
    # the figure with the regions of the key
    key_picture: SafeString = field(default_factory=SafeString)
    spoken: list[str] = field(default_factory=list)

    @property
    def has_line(self) -> bool:
        return self.space is not None and self.space.has_line and not self.has_blank

    @property
    def entries(self) -> list[tuple[str, SafeString]]:
        """What is offered, with its letters."""
        return list(self.offers.items())

    @property
    def sides(self) -> list[list[tuple[str, SafeString]]]:
        """Of pairs the left and the right side."""
        sides = [getattr(self.space, name) for name in ("lefts", "rights")]
        return [[(label, self.offers[label]) for label, _ in side] for side in sides]

    @property
    def steps(self) -> range:
        """The boxes of a scale."""
        return range(getattr(self.space, "steps", 0))


@dataclass(frozen=True)
class Sheet:
    """A question as it lies before a student."""

    wording: SafeString = field(default_factory=SafeString)
    spoken: list[str] = field(default_factory=list)
    parts: list[SheetPart] = field(default_factory=list)


def sheet_of(drawn: DrawnQuestion) -> Sheet:
    """The sheet of a draw."""
    question, style = drawn.question, author_style(drawn.question)
    parts = [sheet_part(drawn, k) for k in range(len(question.document.parts))]
    return Sheet(safe(written(drawn, question.wording, HTML, style)), spoken(drawn, question.wording), parts)


def sheet_part(drawn: DrawnQuestion, k: int) -> SheetPart:
    question, style = drawn.question, author_style(drawn.question)
    part, tree, answer = question.document.parts[k], drawn.key_tree(k), drawn.answers[k]
    return SheetPart(
        uid=part.id,
        label=question.document.labels[k],
        wording=safe(written_part(drawn, k, HTML, style)),
        marks=part.marks,
        before=letters_set(", ".join(part.lines_before)),
        after=unit_set(part.printed_after),
        asks=part.answer.asks,
        key=safe(key_markup(question, tree, style)) if tree is not None else SafeString("–"),
        accepted="" if answer is None else told(answer.closeness(), question.habits),
        solution=safe(written_solution(drawn, k, HTML, style)),
        space=drawn.space(k),
        offers={label: safe(written(drawn, text, HTML, style)) for label, text in drawn.offered(k)},
        has_blank=question.part_wordings[k].has_blank,
        rubric=part.answer.rubric_rows,
        key_picture=safe(key_picture(drawn, k, HTML)),
        spoken=spoken(drawn, question.part_wordings[k]),
        figure=next((name for _, name in part.answer.figures), ""),
        regions=regions_of(answer),
    )


def key_markup(question: CompiledQuestion, tree: Node, style: Style) -> str:
    """A key, marked as drawn where anything of the question is."""
    return mathml(Drawn(tree, "key") if question.document.parameters else tree, style)


def regions_of(answer: DrawnAnswer | None) -> str:
    """The regions of a figure as their words and the values of their formulas; empty where there are none."""
    regions = answer.pointed_regions if answer is not None else ()
    return json.dumps([{"word": each.word, "numbers": each.numbers} for each in regions]) if regions else ""


def sheet_without_draws(question: CompiledQuestion) -> Sheet:
    """The sheet when nothing can be drawn: names stand where values will."""
    style = author_style(question)

    def shown(tree: Node, block: bool) -> str:
        return mathml(tree, style, block)

    parts = [
        SheetPart(
            part.id,
            question.document.labels[k],
            safe(HTML.text(text, shown)),
            part.marks,
            unit_set(part.printed_after),
            part.answer.asks,
            letters_set(", ".join(part.lines_before)),
        )
        for k, (part, text) in enumerate(zip(question.document.parts, question.part_wordings))
    ]
    return Sheet(safe(HTML.text(question.wording, shown)), [], parts)
