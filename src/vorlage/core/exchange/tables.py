"""Questions in tables: a row each, columns found by their heads in any order."""

from __future__ import annotations

import re
from collections.abc import Mapping
from pathlib import Path
from time import thread_time

from ..errors import CoreError
from ..tables import Bounds, Table
from .drafted import Drafted, Remark
from .plain.layout import PART_LABELS, QUESTION_LABELS, Label, tidied
from .plain.making import HERE, Place
from .plain.pieces import Block, Choice, Piece
from .plain.reading import ALTOGETHER
from .plain.reading import drafted as drafted_of

QUESTIONS = Bounds("table of questions", 500, 60, 8_000, 200_000, "Take them in several tables.", lines=True)
OPTIONS = "abcdefghij"

# What a column holds and what it may be called at its head; the first is what the template has.
COLUMNS: dict[str, tuple[str, ...]] = {
    "title": ("title", "name"),
    "topics": ("topic", "topics", "subject", "unit of work", "chapter"),
    "wording": ("question", "question text", "text", "wording", "stem", "prompt", "task"),
    "kind": ("kind", "type", "kind of answer", "question type"),
    "answer": ("answer", "correct answer", "right answer", "key", "correct", "solution key", "answers"),
    "unit": ("unit", "units"),
    "tolerance": ("tolerance", "accuracy", "within"),
    "marks": ("marks", "mark", "points", "point", "score"),
    "accept": ("accept", "also accept", "alternatives"),
    "solution": ("solution", "worked solution", "explanation", "working"),
    "hint": ("hint", "hints"),
    "given": ("where", "parameters", "varies"),
    "such": ("such that", "conditions"),
    "level": ("level", "difficulty"),
    "demand": ("demand",),
    "calculator": ("calculator",),
    "minutes": ("minutes", "time"),
    "tags": ("tags", "tag", "keywords"),
    "references": ("references", "reference", "curriculum"),
    "source": ("source",),
    "licence": ("licence", "license"),
    "note": ("note", "note to colleagues", "notes", "remark", "comment"),
    "right": ("if right", "feedback right", "feedback"),
    "wrong": ("if wrong", "feedback wrong"),
}
for k, letter in enumerate(OPTIONS, start=1):
    COLUMNS[f"option {letter}"] = (f"option {letter}", letter, f"choice {letter}", f"option {k}", f"answer {letter}")
    COLUMNS[f"share {letter}"] = (f"share {letter}", f"share {k}")
    COLUMNS[f"feedback {letter}"] = (f"feedback {letter}", f"feedback {k}")
HEADS = {called: name for name, names in reversed(list(COLUMNS.items())) for called in names}
# a table to begin with: the heads and a few rows that can be read
TEMPLATE = Path(__file__).with_name("template.csv")


class NoQuestions(CoreError, ValueError):
    """A table in which no column holds questions."""


def head_of(cell: str) -> str:
    """What a column holds by its head; empty where that is not known."""
    return HEADS.get(" ".join(re.sub(r"[*:_()\[\]]+", " ", cell.casefold()).split()), "")


def read_table(table: Table, place: Place = HERE) -> list[Drafted]:
    """The questions of a table, whose first row says what the columns hold. Raises ``NoQuestions``."""
    (_, heads), *rows = table.rows
    columns = [head_of(cell) for cell in heads]
    if "wording" not in columns:
        raise NoQuestions(
            "no_heads",
            "The first row has to say what the columns hold, and one of them has to be called “Question”. "
            "The template shows how.",
        )
    faults: dict[int, list[str]] = {}
    for number, words in table.faults:
        faults.setdefault(number, []).append(words)
    strange = [cell for cell, name in zip(heads, columns) if cell.strip() and not name]
    found = []
    until = thread_time() + ALTOGETHER
    for number, cells in rows:
        drafted = read_row(number, dict(zip_cells(columns, cells)), place, until)
        drafted.faults += [Remark(number, words) for words in faults.get(number, ())]
        found.append(drafted)
    if strange and found:
        listing = ", ".join(f"“{cell[:30]}”" for cell in strange[:6])
        found[0].unread.append(Remark(table.rows[0][0], f"Nothing is known of columns called {listing}: left out."))
    return found


def zip_cells(columns: list[str], cells: tuple[str, ...]) -> list[tuple[str, str]]:
    """The cells by what they hold; of two columns that hold the same, the first in which anything stands."""
    found: dict[str, str] = {}
    for name, cell in zip(columns, cells):
        if name and cell.strip() and name not in found:
            found[name] = tidied(cell)
    return list(found.items())


def read_row(number: int, cells: Mapping[str, str], place: Place, until: float) -> Drafted:
    """One row as a question, made as one of plain text is."""
    stem = Piece(number, cells.get("wording", "").split("\n"))
    block = Block(number, str(number), (), stem, cells.get("title", ""))
    for name, cell in cells.items():
        if name in QUESTION_LABELS and name != "title":
            block.labels.append(Label(name, cell, number))
        elif name in PART_LABELS and name not in {"accept", "hint"}:
            stem.labels.append(Label(name, cell, number))
    stem.labels += [Label("accept", each, number) for each in pieces(cells.get("accept", ""))]
    if "hint" in cells:
        stem.labels.append(Label("hint", cells["hint"], number))
    for letter in OPTIONS:
        text = cells.get(f"option {letter}", "")
        if text:
            said = [text.replace("\n", " "), cells.get(f"share {letter}", ""), cells.get(f"feedback {letter}", "")]
            while not said[-1]:
                said.pop()
            stem.options.append(Choice(number, letter, [" | ".join(said)]))
    block.given = [(number, each) for each in pieces(cells.get("given", "")) if "=" in each]
    block.conditions = [(number, each) for each in pieces(cells.get("such", ""))]
    drafted = drafted_of(block, place, until)
    if not cells.get("wording"):
        drafted.faults.append(Remark(number, "There is no question in this row."))
    return drafted


def pieces(cell: str) -> list[str]:
    return [each.strip() for each in re.split(r"[;\n]", cell) if each.strip()]
