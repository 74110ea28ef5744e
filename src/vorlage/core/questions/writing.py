"""A question with the values of one draw, written: its texts in any printer's form, its figures, its words."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from ..answers import LETTERS
from ..budget import at, charge
from ..figures import DrawnFigure, DrawnRegion, framed, svg
from ..notation import Node, Style, speak
from ..text import QuestionText, TextPrinter
from .drawn import DrawnQuestion

# What printing a maths span takes at least, in steps.
STEPS_OF_PRINTING = 80
# So many spans of a question are kept at most as they were printed.
MOST_KEPT = 4096


def written(
    drawn: DrawnQuestion, text: QuestionText, printer: TextPrinter, style: Style | None = None, inline: bool = False
) -> str:
    """A text of the question with the values of a draw; ``inline`` without paragraphs around it."""
    show = partial(span, drawn, printer, style or drawn.question.style)
    at(*drawn.question.paths.get(id(text), ()))
    charge(len(text.source))
    return printer.text(text, show, figures=pictures(drawn, text, printer, style), inline=inline)


def written_part(drawn: DrawnQuestion, part: int, printer: TextPrinter, style: Style | None = None) -> str:
    """The wording of a part; its gaps are numbered, and show what is to be chosen from."""
    show = partial(span, drawn, printer, style or drawn.question.style)
    gaps = []
    for number, options in enumerate(drawn.in_gaps(part), start=1):
        offered = [(LETTERS[k], printer.text(text, show, inline=True)) for k, text in enumerate(options)]
        gaps.append(printer.gap(number, offered))
    text = drawn.question.part_wordings[part]
    at(*drawn.question.paths.get(id(text), ()))
    charge(len(text.source))
    return printer.text(text, show, gaps, pictures(drawn, text, printer, style))


def written_solution(drawn: DrawnQuestion, part: int, printer: TextPrinter, style: Style | None = None) -> str:
    """The worked solution of a part."""

    def show(tree: Node, block: bool) -> str:
        return printer.at_ease(printed(printer, drawn.shown(tree, part), style or drawn.question.style, block), block)

    text = drawn.question.solutions[part]
    at(*drawn.question.paths.get(id(text), ()))
    charge(len(text.source))
    return printer.text(text, show, figures=pictures(drawn, text, printer, style))


def span(drawn: DrawnQuestion, printer: TextPrinter, style: Style, tree: Node, block: bool) -> str:
    """A maths span, printed once for all draws with the same values in it."""
    names = drawn.question.parameters_in(tree)
    if names is None:
        return printed(printer, drawn.shown(tree), style, block)
    known = drawn.question.printed
    key = (printer.name, id(tree), style, block, *map(drawn.told_apart.get, names))
    if key not in known:
        if len(known) > MOST_KEPT:
            known.clear()
        known[key] = printed(printer, drawn.shown(tree), style, block)
    return known[key]


def printed(printer: TextPrinter, tree: Node, style: Style, block: bool) -> str:
    """A maths span in the printer's form."""
    found = printer.maths(tree, style, block)
    charge(STEPS_OF_PRINTING + len(found) // 2)
    return found


def pictures(drawn: DrawnQuestion, text: QuestionText, printer: TextPrinter, style: Style | None = None) -> list[str]:
    """The figures of a text, in their order, each with its number where the question has several."""
    return [
        printer.picture(
            partial(placed, drawn, address), said_to_show(drawn, text, k, style), drawn.question.number_of(text, k)
        )
        for k, (address, _) in enumerate(text.figures)
    ]


def placed(drawn: DrawnQuestion, address: str, alt: str) -> str:
    """What a text places, ``figure:name`` or ``image:name``, as SVG; uploaded pictures as ``picture:`` and their
    hash, for whoever shows them to put in an address or the content."""
    kind, _, name = address.partition(":")
    if kind == "figure":
        return picture(drawn, name, alt)
    source = drawn.question.pictures.get(name)
    return framed(f"picture:{source.digest}", source.width, source.height, alt) if source else ""


def picture(drawn: DrawnQuestion, name: str, alt: str, regions: Sequence[DrawnRegion] = ()) -> str:
    """A figure as SVG; empty when it cannot be drawn."""
    figure = drawn.figures.get(name)
    if not isinstance(figure, DrawnFigure):
        return ""
    behind = drawn.question.pictures.get(figure.picture)
    address = f"picture:{behind.digest}" if behind else ""
    # places that are answered may lie where nothing is drawn
    drawing = svg(figure, alt, regions, address, drawn.question.style, name, name in drawn.question.answered_in)
    charge(len(drawing) // 3)
    return drawing


def key_picture(drawn: DrawnQuestion, part: int, printer: TextPrinter) -> str:
    """The figure of a part that is answered in it, its regions outlined; empty for other kinds."""
    answer = drawn.answers[part]
    if answer is None or answer.outlined is None:
        return ""
    figure, regions = answer.outlined
    return printer.picture(lambda alt: picture(drawn, figure, alt, regions), "The regions of the key")


def spoken(drawn: DrawnQuestion, text: QuestionText) -> list[str]:
    """The words for every maths span of a text and every figure, as they are read aloud."""
    shown = [said_to_show(drawn, text, k) for k in range(len(text.figures))]
    trees = [text.trees[each] for each in text.spans(text.tokens) if each in text.trees]
    return shown + [speak(drawn.shown(tree), drawn.question.style) for tree in trees]


def said_to_show(drawn: DrawnQuestion, text: QuestionText, place: int, style: Style | None = None) -> str:
    """What is said that a figure of a text shows, its maths in words."""
    return text.shows(place, lambda tree: speak(drawn.shown(tree), style or drawn.question.style))
