"""The fields of the desk by the habits of a place: what stands in them is typed there as people write there."""

from __future__ import annotations

import json
from collections.abc import Iterable
from copy import deepcopy
from typing import Any

from vorlage.core.answers import GAP_KINDS, Input, as_rows
from vorlage.core.notation import Habits, NotationError, from_document, in_cell, in_figure, in_spans, to_document
from vorlage.core.quantities import as_document, as_read
from vorlage.core.questions import Filing, QuestionDocument

from .form import Desk
from .rows import HINTS, PartRow, TableRow


def by_habits(desk: Desk, habits: Habits) -> Desk:
    """The desk with every number and formula as they are written in another place; what cannot be turned stays."""
    if desk.habits == habits:
        return desk
    turned, turning = deepcopy(desk), Turning(desk.habits, habits)
    turned.habits = habits
    turned.wording = turning.text(desk.wording)
    for parameter in turned.parameters:
        parameter.definition = turning.line(parameter.definition)
    for condition in turned.conditions:
        condition.text = turning.line(condition.text)
    for table in turned.tables:
        table.text = turning.table(table)
    for figure in turned.figures:
        figure.lines = turning.figure(figure.lines)
    for part in turned.parts:
        turning.part(part)
    return turned


def opened(document: QuestionDocument, filing: Filing, habits: Habits) -> Desk:
    """The desk with a question on it, as it is typed in a place."""
    return by_habits(Desk.from_document(document, filing), habits)


class Turning:
    """From the habits of one place to those of another."""

    def __init__(self, old: Habits, new: Habits) -> None:
        self.old, self.new = old, new

    def turn(self, line: str, habits: Habits) -> str:
        """A line that is written by the old habits, by others. Raises ``NotationError``."""
        return from_document(to_document(line, self.old), habits)

    def line(self, text: str) -> str:
        try:
            return self.turn(text, self.new)
        except NotationError:
            return text

    def text(self, text: str) -> str:
        try:
            return as_read(as_document(in_spans(text, self.new, self.turn), self.old), self.new)
        except NotationError:
            return text

    def figure(self, text: str) -> str:
        try:
            return in_figure(text, self.new, self.turn)
        except NotationError:
            return text

    def cell(self, text: str) -> str:
        try:
            return in_cell(text, self.new, self.turn)
        except NotationError:
            return text

    def table(self, table: TableRow) -> str:
        sign = table.separator
        return "\n".join(sign.join(map(self.cell, line.split(sign))) for line in table.text.splitlines())

    def held(self, entry: Input, text: str) -> str:
        """What stands in an input, by what it holds."""
        if entry.holds == "text":
            return self.text(text)
        if entry.width == "level":
            marks, space, words = text.partition(" ")
            return f"{self.line(marks)}{space}{words}"
        if not entry.holds:
            return text
        return entry.parted.join(map(self.line, text.split(entry.parted))) if entry.parted else self.line(text)

    def rows(self, columns: Iterable[Input], rows: Any) -> None:
        for row in rows or ():
            row.update({each.name: self.held(each, row[each.name]) for each in columns if row.get(each.name)})

    def part(self, part: PartRow) -> None:
        """All that stands in the fields of a part, where it stands."""
        for name in ("wording", "solution", "said_right", "said_partly", "said_wrong"):
            setattr(part, name, self.text(getattr(part, name)))
        part.marks = self.line(part.marks)
        document = part.answer_kind.document
        self.rows(HINTS.columns, part.hints)
        if document.typed and document.line_maths:
            for trial in part.trials:
                trial["response"] = self.line(trial["response"])
        for entry in part.answer_kind.inputs:
            value = part.typed.get(entry.name)
            if entry.way == "gaps":
                for row in value or ():
                    self.gap(row)
            elif entry.is_list:
                columns = entry.columns if document.line_maths else [c for c in entry.columns if c.holds != "maths"]
                self.rows(columns, value)
            elif value and (document.line_maths or entry.holds != "maths"):
                part.typed[entry.name] = self.held(entry, str(value))

    def gap(self, row: dict[str, str]) -> None:
        kind = GAP_KINDS.get(row.get("kind", ""))
        row["share"] = self.line(row.get("share", ""))
        if kind is None or kind.in_gap is None:
            return
        for column in ("key", "more"):
            if kind.in_gap.holds == "text":
                row[column] = self.text(row.get(column, ""))
            elif kind.document.line_maths:
                row[column] = self.line(row.get(column, ""))
        if kind.document.line_maths and row.get("slips"):
            slips = [
                {**slip, "key": self.line(slip.get("key", "")), "share": self.line(slip.get("share", ""))}
                for slip in as_rows(row["slips"])
            ]
            row["slips"] = json.dumps(slips)
