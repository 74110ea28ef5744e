"""The desk's form: from what the browser sends to a question document, and back.

Every row of the desk has an identity of its own (``uid``), so that messages find their row whatever has been
moved or removed. Nothing typed is ever dropped: what cannot be used is named and stays in its field.
"""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, field
from typing import Any

from django.http import QueryDict

from vorlage.core.questions import FORMAT, DocumentError, Filing, Problem, QuestionDocument, load_filed

from .gap_rows import GapRow
from .rows import (
    CHOSEN,
    ConditionRow,
    FigureRow,
    OptionRow,
    ParameterRow,
    PartRow,
    PictureRow,
    PinRow,
    TableRow,
    number_or_text,
)
from .spelling import part_row, pasted, raw_part, raw_table
from .uids import identity_of, usable

TEXT_FIELDS = ("title", "subject", "topic", "level", "wording", "note", "angle")


@dataclass
class Desk:
    """All that stands in the desk's fields."""

    title: str = ""
    subject: str = "mathematics"
    topic: str = ""
    level: str = "1"
    calculator: bool = True
    wording: str = ""
    note: str = ""
    angle: str = "degrees"
    complex: bool = False
    parameters: list[ParameterRow] = field(default_factory=list)
    conditions: list[ConditionRow] = field(default_factory=list)
    tables: list[TableRow] = field(default_factory=list)
    parts: list[PartRow] = field(default_factory=list)
    pins: list[PinRow] = field(default_factory=list)
    figures: list[FigureRow] = field(default_factory=list)
    pictures: list[PictureRow] = field(default_factory=list)

    # from the browser

    @staticmethod
    def from_post(post: QueryDict) -> Desk:
        desk = Desk(
            **{name: post.get(name, "") for name in TEXT_FIELDS},
            calculator="calculator" in post,
            complex="complex" in post,
        )
        for uid in post.getlist("parameter")[:200]:
            desk.parameters.append(ParameterRow(**fields(post, "parameter", uid, ParameterRow), uid=usable(uid)))
        for uid in post.getlist("condition")[:200]:
            desk.conditions.append(ConditionRow(post.get(f"condition-{uid}", ""), usable(uid)))
        for uid in post.getlist("table")[:20]:
            desk.tables.append(TableRow(**fields(post, "table", uid, TableRow), uid=usable(uid)))
        for uid in post.getlist("figure")[:20]:
            desk.figures.append(FigureRow(**fields(post, "figure", uid, FigureRow), uid=usable(uid)))
        for uid in post.getlist("picture")[:20]:
            desk.pictures.append(PictureRow(**fields(post, "picture", uid, PictureRow), uid=usable(uid)))
        for uid in post.getlist("pin")[:20]:
            desk.pins.append(PinRow(post.get(f"pin-{uid}", ""), usable(uid)))
        for uid in post.getlist("part")[:60]:
            values = fields(post, "part", uid, PartRow)
            values["recognise"] = post.getlist(f"part-{uid}-recognise")
            values["options"] = [
                OptionRow(**fields(post, "option", option, OptionRow), uid=usable(option))
                for option in post.getlist(f"part-{uid}-option")[:60]
            ]
            values["gaps"] = [
                GapRow(**fields(post, "gap", gap, GapRow), uid=usable(gap))
                for gap in post.getlist(f"part-{uid}-gap")[:20]
            ]
            desk.parts.append(PartRow(**values, uid=usable(uid)))
        return desk

    # from a document

    @staticmethod
    def from_document(document: QuestionDocument, filing: Filing = Filing()) -> Desk:  # noqa: B008 (frozen)
        return Desk(
            title=document.title,
            subject=filing.subject,
            topic=filing.topic,
            level=str(filing.level),
            calculator=document.calculator,
            wording=document.wording,
            note=document.note,
            angle=document.angle,
            complex=document.complex,
            parameters=[
                ParameterRow(
                    row.name, row.definition, row.unit, "" if row.shown == "exact" else row.shown, row.note, row.id
                )
                for row in document.parameters
            ],
            conditions=[ConditionRow(text) for text in document.conditions],
            tables=[TableRow(table.name, pasted(table)) for table in document.tables],
            parts=[part_row(part.model_dump(mode="json")) for part in document.parts],
            figures=[FigureRow(figure.name, figure.lines) for figure in document.figures],
            pictures=[
                PictureRow(each.name, each.digest, str(each.width), str(each.height)) for each in document.pictures
            ],
            pins=[PinRow(json.dumps(pin.values)) for pin in document.pins],
        )

    @staticmethod
    def blank() -> Desk:
        """A new question: one empty row of everything."""
        return Desk(parameters=[ParameterRow()], conditions=[ConditionRow()], parts=[PartRow(marks="2")])

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
            **known_fields(Desk, {name: value for name, value in kept.items() if name not in {*lists, "parts"}})
        )
        for name, row in lists.items():
            rows = [row(**known_fields(row, each)) for each in kept.get(name, [])]
            setattr(desk, name, rows)
        desk.parts = [part_from_draft(each) for each in kept.get("parts", [])]
        return desk

    # to a document

    def raw(self) -> dict[str, Any]:
        """The JSON object that the fields spell; it may not be a question yet."""
        return {
            "format": FORMAT,
            "filing": {"subject": self.subject, "topic": self.topic, "level": number_or_text(self.level)},
            "title": self.title,
            "calculator": self.calculator,
            "wording": self.wording.replace("\r\n", "\n"),
            "note": self.note.replace("\r\n", "\n"),
            "angle": self.angle,
            "complex": self.complex,
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
            "parts": [raw_part(row) for row in self.parts],
            "figures": [
                {"name": row.name.strip(), "lines": row.lines.replace("\r\n", "\n").strip()}
                for row in self.used_figures()
            ],
            "pictures": [row.raw() for row in self.pictures],
            "pins": [row.raw() for row in self.pins],
        }

    def used_parameters(self) -> list[ParameterRow]:
        return [row for row in self.parameters if not row.empty]

    def used_tables(self) -> list[TableRow]:
        return [row for row in self.tables if not row.empty]

    def used_figures(self) -> list[FigureRow]:
        return [row for row in self.figures if not row.empty]

    def used_conditions(self) -> list[ConditionRow]:
        return [row for row in self.conditions if row.text.strip()]

    def files_as(self, filing: Filing) -> bool:
        """Whether the fields file the question as it is filed."""
        fields = (self.subject, self.topic.strip(), self.level.strip())
        return fields == (filing.subject, filing.topic, str(filing.level))

    def document(self) -> tuple[QuestionDocument | None, list[Problem]]:
        """The document, as far as the fields make one, and what is wrong with them."""
        filed, problems = self.filed()
        return (filed[0] if filed else None), problems

    def filed(self) -> tuple[tuple[QuestionDocument, Filing] | None, list[Problem]]:
        """The document and its filing, as far as the fields make them, and what is wrong with them.

        Where a field cannot be used, a harmless value stands in for it so that everything else can still be
        shown; the document is None only when even that fails.
        """
        raw = self.raw()
        problems: list[Problem] = []
        for _ in range(8):
            try:
                return load_filed(raw), problems
            except DocumentError as error:
                known = {problem.path for problem in problems}
                problems.extend(Problem(path, message) for path, message in error.problems if path not in known)
                if not all(repaired(raw, path) for path, _ in error.problems):
                    break
        return None, problems

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
                return f"part-{self.parts[row].uid}-{part_field(rest)}"
            case ("filing", str(name)) | (str(name), *_) if name in {"title", "level", "topic", "note"}:
                return name
        return "wording"

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
            case ("parts", int(row), "answer", "key" | "unit" | "tolerance" | "where" as name, *_):
                return f"part-{self.parts[row].uid}-{name}", str(getattr(self.parts[row], name))
            case ("parts", int(row), "wording" | "solution" as name):
                return f"part-{self.parts[row].uid}-{name}", str(getattr(self.parts[row], name))
            case ("wording",):
                return "wording", self.wording
        return "", ""


PART_FIELDS = {"wording": "wording", "solution": "solution", "marks": "marks", "after": "marks"}
# Messages about these stand under the answer; all others under what is folded away.
ANSWER_FIELDS = dict.fromkeys(
    "key tolerance form unit accept subject cost options pairs items distractors words steps gaps rubric figure "
    "regions clicks relations count different".split(),
    "key",
)


def part_field(rest: list[str | int]) -> str:
    if rest and rest[0] == "answer":
        return ANSWER_FIELDS.get(str(rest[1]) if len(rest) > 1 else "key", "more")
    return PART_FIELDS.get(str(rest[0]) if rest else "", "more")


def fields(post: QueryDict, kind: str, uid: str, row: type) -> dict[str, Any]:
    """The text fields of one row."""
    names = [name for name in row.__dataclass_fields__ if name not in {"uid", "recognise", "options", "gaps"}]
    return {name: post.get(f"{kind}-{uid}-{name}", CHOSEN.get(name, "")) for name in names}


def part_from_draft(kept: dict[str, Any]) -> PartRow:
    """The fields of a part, with the rows in it."""
    options = [OptionRow(**known_fields(OptionRow, each)) for each in kept.get("options", [])]
    gaps = [GapRow(**known_fields(GapRow, each)) for each in kept.get("gaps", [])]
    return PartRow(**(known_fields(PartRow, kept) | {"options": options, "gaps": gaps}))


def known_fields(row: type, kept: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in kept.items() if name in row.__dataclass_fields__}  # type: ignore[attr-defined]


DEFAULTS = {
    "marks": 1, "level": 1, "shown": "exact", "title": "Untitled", "subject": "mathematics", "key": "0", "unit": "m",
    "accept": ["–"], "options": [{"text": "–", "share": "1"}, {"text": "– –"}], "items": ["–", "– –"],
    "lines": "frame 0..10, 0..6", "name": "figure", "figure": "figure", "clicks": 1,
    "regions": [{"region": "circle (1, 1) 1"}], "region": "circle (1, 1) 1", "rubric": "",
    "gaps": [{"answer": {"kind": "number", "key": "0"}}],
    "pairs": [{"left": "–", "right": "–"}, {"left": "– –", "right": "– –"}], "share": "0", "text": "–",
    "relations": ["r = 0"], "count": 1,
}  # fmt: skip


def repaired(raw: Any, path: tuple[str | int, ...]) -> bool:
    """Put a harmless value where a path leads; False when nothing can be done."""
    if path and path[-1] == "parts" and not raw.get("parts"):
        raw["parts"] = [{"answer": {"kind": "number", "key": "0"}}]
        return True
    holder: Any = raw
    for step in path[:-1]:
        try:
            holder = holder[step]
        except (KeyError, IndexError, TypeError):
            return False
    last = path[-1] if path else ""
    if isinstance(holder, dict) and last in DEFAULTS:
        holder[last] = DEFAULTS[str(last)]
        return True
    if isinstance(holder, dict) and last in holder:
        del holder[last]
        return True
    if isinstance(holder, list) and isinstance(last, int) and last < len(holder):
        del holder[last]
        return True
    return False
