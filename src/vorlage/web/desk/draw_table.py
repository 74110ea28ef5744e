"""The draw table: a row a draw, a column for every parameter and every key."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable
from dataclasses import dataclass, field

from django.utils.html import escape
from django.utils.safestring import SafeString

from vorlage.core.algebra import Compiled, EvaluationError, approximate
from vorlage.core.draws import readable
from vorlage.core.notation import Collection, Name, Neg, Node, Number, Quantity, Style, Text, line, mathml, names_in
from vorlage.core.questions import CompiledQuestion, DrawnQuestion
from vorlage.web.bank.markup import safe, unit_set
from vorlage.web.design.asking import chosen_number

MARK = re.compile(r"[.,]")
FIGURE_SPACE, MARK_SPACE = "\u2007", "\u2008"


@dataclass(frozen=True)
class DrawColumn:
    """A column of the draw table."""

    head: SafeString
    unit: SafeString
    cells: list[SafeString]
    varies: bool
    numeric: bool
    # what its cells are sorted by
    keys: list[tuple[int, float, str]]


@dataclass(frozen=True)
class DrawRow:
    """A draw in the table; a pinned one has a number below 0."""

    number: int
    cells: list[tuple[SafeString, DrawColumn]]
    warned: bool
    # what was drawn, to pin it
    values: str
    # what has broken a pinned draw
    broken: str = ""

    @property
    def pin(self) -> int:
        """Which pin it is, from 1; 0 for other draws."""
        return max(0, -self.number)


@dataclass
class DrawTable:
    """The draws that were looked at. ``sort`` is the column that they are sorted by ("" or a number, "-" before it:
    downwards)."""

    columns: list[DrawColumn] = field(default_factory=list)
    rows: list[DrawRow] = field(default_factory=list)
    sort: str = ""


def draw_table(
    question: CompiledQuestion, drawn: list[DrawnQuestion], warned: Iterable[int], broken: dict[int, str], sort: str
) -> DrawTable:
    """The table of some draws; ``warned`` has the numbers of those that a warning speaks of, ``broken`` why pinned ones
    are broken."""
    columns = [parameter_column(question, name, drawn) for name in question.parameters.names]
    columns += [key_column(question, k, drawn) for k, part in enumerate(question.document.parts) if part.answer.checked]
    rows = []
    troubled = set(warned)
    for place, item in enumerate(drawn):
        number = item.draw.number
        cells = [(each.cells[place], each) for each in columns]
        values = json.dumps(question.parameters.drawn_values(item.values))
        rows.append(DrawRow(number, cells, number in troubled, values, broken.get(number, "")))
    by = sort.removeprefix("-")
    column = chosen_number(by, -1)
    if 0 <= column < len(columns):
        ordered = sorted(range(len(drawn)), key=columns[column].keys.__getitem__)
        rows = [rows[k] for k in (reversed(ordered) if sort.startswith("-") else ordered)]
    return DrawTable(columns, rows, sort)


def parameter_column(question: CompiledQuestion, name: str, drawn: list[DrawnQuestion]) -> DrawColumn:
    cells = question.parameters.columns_of(name)
    # a drawn row is known by its first cell
    trees = [item.shown_values.get(f"{name}.{cells[0].name}" if cells else name) for item in drawn]
    exact = not cells and question.shown[name].way == "exact"
    shown = [readable(item.values[name]) if exact and name in item.values else tree for item, tree in zip(drawn, trees)]
    return column(safe(mathml(name_tree(name))), question.units.get(name, ""), shown, question.style)


def key_column(question: CompiledQuestion, part: int, drawn: list[DrawnQuestion]) -> DrawColumn:
    head = escape(question.document.labels[part].full or "Answer")
    described = question.document.parts[part]
    keys = [item.key_tree(part) for item in drawn]
    if not any(isinstance(key, Quantity) for key in keys):
        return column(head, described.after, keys, question.style)
    # the unit stands in the head, so that the numbers can be compared
    amounts = [key.amount if isinstance(key, Quantity) else key for key in keys]
    return column(head, described.answer.unit_beside(described.after), amounts, question.style)


def name_tree(name: str) -> Node:
    return Name(name) if len(name.partition("_")[0]) == 1 else Text(name)


def column(head: SafeString | str, unit: str, trees: list[Node | None], style: Style) -> DrawColumn:
    """Plain numbers are aligned on their decimal mark by spaces as wide as a figure and a mark."""
    texts = [line(tree, style) if tree is not None else "–" for tree in trees]
    numeric = all(tree is None or is_plain(tree) for tree in trees)
    varies = len(set(texts)) > 1
    if numeric:
        most = max((decimals(text) for text in texts), default=0)
        cells = [escape(padded(text.replace("-", "−"), most)) for text in texts]
    else:
        cells = [
            safe(mathml(tree, style) + beside(tree, style)) if tree is not None else SafeString("–") for tree in trees
        ]
    keys = [sort_key(tree, text) for tree, text in zip(trees, texts)]
    return DrawColumn(SafeString(head), unit_set(unit), cells, varies, numeric, keys)


def beside(tree: Node, style: Style) -> str:
    """About how large an exact value is that is no plain number: √41 is about 6.403."""
    if is_plain(tree) or isinstance(tree, Text | Collection) or names_in(tree):
        return ""
    try:
        value = approximate(Compiled(tree).value({}))
    except EvaluationError:
        return ""
    shown = f"{value:.4g}".replace(".", style.mark)
    return f' <span class="quiet">≈ {shown}</span>'


def sort_key(tree: Node | None, text: str) -> tuple[int, float, str]:
    """Numbers by size, before words by the alphabet."""
    try:
        return (0, approximate(Compiled(tree).value({})), "") if tree is not None else (2, 0.0, "")
    except EvaluationError:
        return 1, 0.0, text


def is_plain(tree: Node) -> bool:
    if isinstance(tree, Neg):
        tree = tree.operand
    return isinstance(tree, Number) and tree.exponent is None


def decimals(text: str) -> int:
    return len(MARK.split(text, 1)[-1]) if MARK.search(text) else 0


def padded(text: str, most: int) -> str:
    missing = most - decimals(text)
    mark = MARK_SPACE if most and not MARK.search(text) else ""
    return text + mark + FIGURE_SPACE * missing
