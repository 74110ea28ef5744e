"""The desk's form: from what the browser sends to a question document, and back.

Every row of the desk has an identity of its own (``uid``), so that messages find their row whatever has been
moved or removed. Nothing typed is ever dropped: what cannot be used is named and stays in its field.
"""

from __future__ import annotations

import json
from contextlib import suppress
from copy import deepcopy
from dataclasses import asdict, dataclass, field
from dataclasses import fields as dataclass_fields
from functools import cached_property
from itertools import pairwise
from typing import Any, cast

from django.http import QueryDict
from pydantic import ValidationError

from vorlage.core.answers import KINDS, Input, identity_of, used_rows
from vorlage.core.notation import USUAL, Habits
from vorlage.core.questions import (
    FORMAT,
    DocumentError,
    Filing,
    Problem,
    QuestionDocument,
    load_filed,
    read_paths,
    to_point,
)

from .filed import FILED_FIELDS, as_filed, as_typed, earlier_fields
from .rows import (
    HINTS,
    TRIALS,
    ConditionRow,
    FigureRow,
    ParameterRow,
    PartRow,
    PictureRow,
    PinRow,
    TableRow,
    pasted,
    raw_table,
    unix,
)
from .typed import kept_rows, member_of, rows_in, typed_in, usable_typed
from .uids import usable

TEXT_FIELDS = ("title", *FILED_FIELDS, "wording", "angle")


# So many times a document is mended where fields cannot be used.
MENDED = 8


@dataclass(frozen=True)
class ReadDesk:
    """What the fields of a desk make: a document and its filing, and what is wrong with them."""

    document: QuestionDocument | None
    filing: Filing | None
    problems: list[Problem]


@dataclass
class Desk:
    """All that stands in the desk's fields, as it is typed."""

    title: str = ""
    # its filing, as ``filed`` has it; ``filed_before`` is the filing with which the desk was opened, as JSON
    topics: str = ""
    level: str = "1"
    demand: str = "0"
    minutes: str = ""
    tags: str = ""
    references: str = ""
    source: str = ""
    licence: str = ""
    note: str = ""
    calculator: bool = True
    filed_before: str = ""
    wording: str = ""
    angle: str = "degrees"
    complex: bool = False
    signs: bool = True
    parameters: list[ParameterRow] = field(default_factory=list)
    conditions: list[ConditionRow] = field(default_factory=list)
    tables: list[TableRow] = field(default_factory=list)
    parts: list[PartRow] = field(default_factory=list)
    pins: list[PinRow] = field(default_factory=list)
    figures: list[FigureRow] = field(default_factory=list)
    pictures: list[PictureRow] = field(default_factory=list)
    # how numbers and formulas are written in the fields
    habits: Habits = USUAL

    # from the browser

    @staticmethod
    def from_post(post: QueryDict, habits: Habits = USUAL) -> Desk:
        desk = Desk(calculator="calculator" in post, complex="complex" in post, signs="signs" in post, habits=habits)
        for name in (*TEXT_FIELDS, "filed_before"):
            setattr(desk, name, post.get(name, ""))
        for uid in post.getlist("parameter")[:200]:
            desk.parameters.append(ParameterRow(**fields(post, "parameter", uid, ParameterRow), uid=usable(uid)))
        for uid in post.getlist("condition")[:200]:
            desk.conditions.append(ConditionRow(post.get(f"condition-{uid}", ""), usable(uid)))
        for uid in post.getlist("table")[:20]:
            desk.tables.append(TableRow(**fields(post, "table", uid, TableRow), uid=usable(uid)))
        for uid in post.getlist("figure")[:20]:
            desk.figures.append(FigureRow(**fields(post, "figure", uid, FigureRow), uid=usable(uid)))
        for uid in post.getlist("picture")[:20]:
            picture = PictureRow(**fields(post, "picture", uid, PictureRow), uid=usable(uid))
            if picture.is_one:
                desk.pictures.append(picture)
        for uid in post.getlist("pin")[:20]:
            desk.pins.append(PinRow(post.get(f"pin-{uid}", ""), usable(uid)))
        for uid in post.getlist("part")[:60]:
            row = PartRow(
                **fields(post, "part", uid, PartRow),
                typed=typed_in(post, uid),
                hints=rows_in(post, uid, HINTS),
                trials=rows_in(post, uid, TRIALS),
                uid=usable(uid),
            )
            row.kind = row.kind or "number"
            desk.parts.append(row)
        return desk

    # from a document

    @staticmethod
    def from_document(document: QuestionDocument, filing: Filing = Filing()) -> Desk:  # noqa: B008 (frozen)
        return Desk(
            title=document.title,
            **cast(dict[str, Any], as_typed(filing)),
            calculator=filing.calculator,
            filed_before=filing.model_dump_json(),
            wording=document.wording,
            angle=document.angle,
            complex=document.complex,
            signs=not document.no_signs,
            parameters=[
                ParameterRow(
                    row.name, row.definition, row.unit, "" if row.shown == "exact" else row.shown, row.note, row.id
                )
                for row in document.parameters
            ],
            conditions=[ConditionRow(text) for text in document.conditions],
            tables=[TableRow(table.name, pasted(table)) for table in document.tables],
            parts=[PartRow.of(part) for part in document.parts],
            figures=[FigureRow(figure.name, figure.lines) for figure in document.figures],
            pictures=[
                PictureRow(each.name, each.digest, str(each.width), str(each.height)) for each in document.pictures
            ],
            pins=[PinRow(json.dumps(pin.values)) for pin in document.pins],
        )

    @staticmethod
    def blank(marks: str = "2") -> Desk:
        """A new question: one empty row of everything; its part has the marks that parts begin with."""
        return Desk(parameters=[ParameterRow()], conditions=[ConditionRow()], parts=[PartRow(marks=marks)])

    # to a draft and back

    def as_draft(self) -> dict[str, Any]:
        """Everything that stands in the fields, as plain data."""
        return asdict(self)

    @staticmethod
    def from_draft(kept: dict[str, Any]) -> Desk:
        """The desk that was left; fields that are unknown by now are passed over."""
        lists = {
            "parameters": ParameterRow,
            "conditions": ConditionRow,
            "tables": TableRow,
            "pins": PinRow,
            "figures": FigureRow,
            "pictures": PictureRow,
        }
        desk = Desk(
            **known_fields(
                Desk,
                {
                    name: value
                    for name, value in earlier_fields(kept).items()
                    if name not in {*lists, "parts", "habits"}
                },
            )
        )
        for name, row in lists.items():
            rows = [row(**known_fields(row, each)) for each in kept.get(name, [])]
            setattr(desk, name, rows)
        desk.parts = [part_from_draft(each) for each in kept.get("parts", [])]
        desk.habits = Habits(**known_fields(Habits, kept.get("habits") or {}))
        return desk

    # to a document

    def raw(self) -> dict[str, Any]:
        """The JSON object that the fields spell; it may not be a question yet."""
        return {
            "format": FORMAT,
            "filing": as_filed({name: getattr(self, name) for name in FILED_FIELDS}, self.calculator),
            "title": self.title,
            "wording": unix(self.wording),
            "angle": self.angle,
            "complex": self.complex,
            "no_signs": not self.signs,
            "parameters": [
                {
                    "id": identity_of(row.uid),
                    "name": row.name,
                    "definition": row.definition,
                    "unit": row.unit,
                    "shown": row.shown or "exact",
                    "note": row.note,
                }
                for row in self.used_parameters()
            ],
            "conditions": [row.text for row in self.used_conditions()],
            "tables": [raw_table(row) for row in self.tables if not row.empty],
            "parts": [row.raw() for row in self.parts],
            "figures": [{"name": row.name.strip(), "lines": unix(row.lines).strip()} for row in self.used_figures()],
            "pictures": [row.raw() for row in self.pictures],
            "pins": [row.raw() for row in self.pins],
        }

    @property
    def about(self) -> str:
        """The last name of the first topic, as it is typed."""
        paths = read_paths(self.topics)
        return paths[0][-1] if paths else ""

    def used_parameters(self) -> list[ParameterRow]:
        return [row for row in self.parameters if not row.empty]

    def used_tables(self) -> list[TableRow]:
        return [row for row in self.tables if not row.empty]

    def used_figures(self) -> list[FigureRow]:
        return [row for row in self.figures if not row.empty]

    def used_conditions(self) -> list[ConditionRow]:
        return [row for row in self.conditions if row.text.strip()]

    def files_as(self, filing: Filing) -> bool:
        """Whether the fields file the question as it is filed, or as it was when they were filled with that."""
        typed = self.read.filing
        return typed is not None and self.refiled(filing, typed) == filing

    @property
    def filed_first(self) -> Filing | None:
        """The filing with which the fields were filled."""
        if self.filed_before:
            # what cannot be read was not written by us
            with suppress(ValidationError):
                return Filing.model_validate_json(self.filed_before)
        return None

    def refiled(self, filing: Filing, typed: Filing) -> Filing:
        """The filing that a question has, with what was changed in the fields since they were filled."""
        before = self.filed_first or filing
        changed = {name: value for name, value in typed if value != getattr(before, name)}
        return filing.model_copy(update=changed)

    @cached_property
    def read(self) -> ReadDesk:
        """The document and its filing, as far as the fields make them, and what is wrong with them; read once.

        Where a field cannot be used, a harmless value stands in for it so that everything else can still be shown;
        there is no document only when even that fails.
        """
        raw = self.raw()
        problems = [
            Problem(fault.path, fault.code, fault.message, fault.place, fault.length, instead=fault.instead)
            for fault in to_point(raw, self.habits)
        ]
        for _ in range(MENDED):
            try:
                return ReadDesk(*load_filed(raw), problems)
            except DocumentError as error:
                known = {problem.path for problem in problems}
                problems.extend(
                    Problem(fault.path, fault.code, fault.message) for fault in error.faults if fault.path not in known
                )
                if not all(repaired(raw, fault.path) for fault in error.faults):
                    break
        return ReadDesk(None, None, problems)

    def field_of(self, path: tuple[str | int, ...]) -> str:
        """The id of the message line under the field that a path leads to."""
        match path:
            case ("parameters", int(row), *_) if row < len(self.used_parameters()):
                return f"parameter-{self.used_parameters()[row].uid}"
            case ("conditions", int(row), *_) if row < len(self.used_conditions()):
                return f"condition-{self.used_conditions()[row].uid}"
            case ("tables", int(row), *_) if row < len(self.used_tables()):
                return f"table-{self.used_tables()[row].uid}"
            case ("pictures", int(row), *_) if row < len(self.pictures):
                return f"picture-{self.pictures[row].uid}"
            case ("figures", int(row), *_) if row < len(self.used_figures()):
                return f"figure-{self.used_figures()[row].uid}"
            case ("parts", int(row), *rest) if row < len(self.parts):
                return f"part-{self.parts[row].uid}-{message_place(self.parts[row], rest)}"
            case ("filing", str(name), *_) if name in FILED_FIELDS:
                return name
            case ("title", *_):
                return "title"
        return "wording"

    def cell_of(self, part: PartRow, entry: Input, rest: tuple[str | int, ...]) -> tuple[str, str]:
        """The name of the cell that the end of a path leads to in a list of a part, and what stands in it."""
        rows = used_rows(part.typed.get(entry.name) if entry not in (HINTS, TRIALS) else getattr(part, entry.name))
        names = [column.name for column in entry.columns]
        match rest:
            case (int(place), *inner) if place < len(rows):
                # the second of the levels is the cell level2
                steps = [f"{str(step)[:-1]}{at + 1}" for step, at in pairwise(inner) if isinstance(at, int)]
                column = next((str(step) for step in (*inner, *steps) if step in names), names[0])
                row = rows[place]
                return f"{member_of(entry)}-{row['id']}-{column}", row.get(column, "")
        return "", ""

    def input_of(self, path: tuple[str | int, ...]) -> tuple[str, str]:
        """The name of the field that a path leads to and what stands in it, to mark the place there."""
        match path:
            case ("parameters", int(row), *rest):
                name = "name" if rest == ["name"] else "unit" if rest == ["unit"] else "definition"
                found: Any = self.used_parameters()[row]
                return f"parameter-{found.uid}-{name}", str(getattr(found, name))
            case ("conditions", int(row), *_):
                condition = self.used_conditions()[row]
                return f"condition-{condition.uid}", condition.text
            case ("parts", int(row), "answer", str(name), *_):
                part = self.parts[row]
                asked = part.answer_kind.asks(name)
                lines = [entry for entry in asked.inputs if entry.way == "line"] if asked is not None else []
                if lines:
                    return f"part-{part.uid}-{lines[0].name}", str(part.typed.get(lines[0].name) or "")
                tables = [entry for entry in asked.inputs if entry.way == "rows"] if asked is not None else []
                if tables:
                    return self.cell_of(part, tables[0], path[4:])
            case ("parts", int(row), "hints" | "trials" as name, *rest):
                part = self.parts[row]
                return self.cell_of(part, HINTS if name == "hints" else TRIALS, tuple(rest))
            case ("parts", int(row), "wording" | "solution" | "marks" as name):
                return f"part-{self.parts[row].uid}-{name}", str(getattr(self.parts[row], name))
            case ("figures", int(row), "lines"):
                figure = self.used_figures()[row]
                return f"figure-{figure.uid}-lines", figure.lines
            case ("wording",):
                return "wording", self.wording
        return "", ""


PART_FIELDS = {"wording": "wording", "solution": "solution", "marks": "marks", "after": "marks"}


def message_place(row: PartRow, rest: list[str | int]) -> str:
    """Where in a part the messages about a field stand: those about the answer below it, or in what is folded away."""
    if not rest or rest[0] != "answer":
        return PART_FIELDS.get(str(rest[0]) if rest else "", "more")
    asked = row.answer_kind.asks(str(rest[1])) if len(rest) > 1 else None
    return "more" if asked is not None and asked.place == "more" else "key"


def fields(post: QueryDict, kind: str, uid: str, row: type[Any]) -> dict[str, Any]:
    """The text fields of one row."""
    names = [each.name for each in dataclass_fields(row) if each.type == "str" and each.name != "uid"]
    return {name: post.get(f"{kind}-{uid}-{name}", "") for name in names}


def part_from_draft(kept: dict[str, Any]) -> PartRow:
    """The fields of a part; drafts of earlier versions have what is typed of the answer beside the others."""
    known = known_fields(PartRow, kept)
    older = {name: "\n".join(value) if name == "recognise" else value for name, value in kept.items()}
    for rows in ("options", "gaps"):
        members = older.get(rows)
        if isinstance(members, list):
            older[rows] = [row | {"id": row.get("uid", "")} for row in members if isinstance(row, dict)]
    for entry in (HINTS, TRIALS):
        known[entry.name] = kept_rows(entry, known.get(entry.name))
    typed = known.get("typed")
    return PartRow(**known | {"typed": usable_typed(older | (typed if isinstance(typed, dict) else {}))})


def known_fields(row: type[Any], kept: dict[str, Any]) -> dict[str, Any]:
    names = {each.name for each in dataclass_fields(row)}
    return {name: value for name, value in kept.items() if name in names}


# What stands in for a field of the question that cannot be used; for one of an answer, what its kind has there.
HARMLESS = {
    "marks": 1, "level": 1, "shown": "exact", "title": "Untitled", "demand": 0,
    "lines": "frame 0..10, 0..6", "name": "figure",
}  # fmt: skip
MISSING = object()


def repaired(raw: Any, path: tuple[str | int, ...]) -> bool:
    """Put a harmless value where a path leads, or take away what cannot be used; False when nothing can be done."""
    if path[-1:] == ("parts",) and not raw.get("parts"):
        raw["parts"] = [{"answer": sample_of({})}]
        return True
    holders: list[Any] = [raw]
    for step in path[:-1]:
        try:
            holders.append(holders[-1][step])
        except (KeyError, IndexError, TypeError):
            return False
    holder, last = holders[-1], path[-1] if path else ""
    value = harmless(raw, path)
    if isinstance(holder, dict) and value is not MISSING:
        holder[last] = value
        return True
    if isinstance(holder, dict) and last in holder:
        del holder[last]
        return True
    # the member of a list in which it stands goes
    for inner, step in zip(reversed(holders), reversed(path)):
        if isinstance(inner, list) and isinstance(step, int) and step < len(inner):
            del inner[step]
            return True
    return False


def harmless(raw: Any, path: tuple[str | int, ...]) -> Any:
    """What can stand where a path leads: of an answer, what the simplest one of its kind has there."""
    sample: Any = HARMLESS
    for step in path if "answer" in path else path[-1:]:
        raw = inside(raw, step)
        if step == "answer":
            sample = sample_of(raw)
        elif sample is HARMLESS and "answer" in path:
            continue
        elif isinstance(sample, list) and isinstance(step, int):
            sample = sample[min(step, len(sample) - 1)]
        elif isinstance(sample, dict) and step in sample:
            sample = sample[step]
        else:
            return MISSING
    return deepcopy(sample)


def inside(raw: Any, step: str | int) -> Any:
    """What a step leads to; None where it leads nowhere."""
    if isinstance(raw, list) and isinstance(step, int):
        return raw[step] if step < len(raw) else None
    return raw.get(step) if isinstance(raw, dict) else None


def sample_of(answer: Any) -> dict[str, Any]:
    """The simplest answer of the kind of another; a number where that is of none."""
    name = answer.get("kind") if isinstance(answer, dict) else None
    kind = KINDS.get(name, KINDS["number"]) if isinstance(name, str) else KINDS["number"]
    return {"kind": kind.name, **kind.samples[0]}
