"""The desk's form: from what the browser sends to a question document, and back.

Every row of the desk has an identity of its own (``uid``), so that messages find their row whatever has been
moved or removed. Nothing typed is ever dropped: what cannot be used is named and stays in its field.
"""

from __future__ import annotations

import json
import re
import secrets
from dataclasses import asdict, dataclass, field
from typing import Any

from django.http import QueryDict

from vorlage.core.answers import rubric_lines
from vorlage.core.questions import DataTable, DocumentError, Problem, QuestionDocument, load_document

from .closeness import closeness_words, tolerance, tolerance_of
from .gap_rows import GapRow, gap_row, raw_gap

# value, what it is called, what an answer looks like
KINDS = [
    ("number", "number", "m*g*h/1000"),
    ("quantity", "number with a unit", "m*g*h"),
    ("formula", "formula", "(x + 1)(x - 2)"),
    ("equation", "equation", "y = 2x + 1"),
    ("inequality", "inequality", "1 < x <= 3"),
    ("interval", "interval", "[1, 3)"),
    ("set", "set of values", "{2, -5}"),
    ("list", "list of values", "1, 4, 9"),
    ("point", "point", "(3, 4)"),
    ("vector", "vector", "vec(1, 2)"),
    ("matrix", "matrix", "matrix(1, 2; 3, 4)"),
    ("chemical", "chemistry", "2 H2 + O2 -> 2 H2O"),
    ("text", "words", ""),
    ("blanks", "gaps in the text", ""),
    ("hotspot", "place in a figure", ""),
    ("choice", "choice", ""),
    ("true_false", "true or false", "true"),
    ("match", "pairs", ""),
    ("order", "order", ""),
    ("essay", "written at length", ""),
    ("scale", "scale without marks", ""),
    ("none", "information only", ""),
]
COLLECTIONS = frozenset(["set", "list", "point", "vector", "matrix"])
NEAR_MISSES = [
    ("rounding", "rounded too far or not at all"),
    ("truncation", "cut off instead of rounded"),
    ("sign", "wrong sign"),
    ("power_of_ten", "decimal point misplaced"),
    ("digit_swap", "two digits swapped"),
    ("angle_unit", "degrees for radians"),
]
MODES = [
    ("exact", "exactly"),
    ("relative", "within, of the key"),
    ("absolute", "within, plus or minus"),
    ("decimal_places", "to decimal places"),
    ("significant_figures", "to significant figures"),
    ("between", "anywhere in"),
]
FORMS = [
    ("any", "any equal formula"),
    ("expanded", "multiplied out"),
    ("factorised", "factorised"),
    ("lowest_terms", "in lowest terms"),
    ("single_fraction", "a single fraction"),
    ("completed_square", "completed square"),
    ("rationalised", "no root in a denominator"),
    ("no_brackets", "without brackets"),
    ("as_key", "written as the key"),
]
EQUATION_FORMS = [
    ("any", "any equation with these solutions"),
    ("slope_intercept", "written y = m x + c"),
    ("standard", "written a x + b y = c"),
]
UNIT_RULES = [
    ("required", "the unit has to be given"),
    ("given", "the unit is printed after the space"),
    ("any", "the unit may be left out"),
]
MATCHES = [
    ("whole", "the whole answer"),
    ("contains", "somewhere in the answer"),
    ("pattern", "by a pattern"),
]
CHOOSE = [("one", "one option is chosen"), ("many", "every right option is chosen")]
SCORES = [("run", "by the longest part in order"), ("position", "by the items in their places")]
UP_TO = [("", "nothing"), ("constant", "an added constant"), ("multiple", "a factor"), ("sign", "the sign")]
WRITTEN_FORMS = {
    "whole number": "integer",
    "fraction": "fraction",
    "mixed number": "mixed",
    "decimal": "decimal",
    "percent": "percent",
    "standard form": "standard_form",
    "surd": "surd",
}


def new_uid() -> str:
    return secrets.token_hex(4)


@dataclass
class ParameterRow:
    name: str = ""
    definition: str = ""
    unit: str = ""
    shown: str = ""
    note: str = ""
    uid: str = field(default_factory=new_uid)

    @property
    def empty(self) -> bool:
        return not (self.name.strip() or self.definition.strip())


@dataclass
class ConditionRow:
    text: str = ""
    uid: str = field(default_factory=new_uid)


@dataclass
class OptionRow:
    """An option, a pair, or an item to be put in order."""

    text: str = ""
    # the right side of a pair
    pair: str = ""
    share: str = ""
    feedback: str = ""
    fixed: str = ""
    uid: str = field(default_factory=new_uid)


@dataclass
class TableRow:
    """A data table as it was pasted."""

    name: str = ""
    text: str = ""
    uid: str = field(default_factory=new_uid)

    @property
    def empty(self) -> bool:
        return not (self.name.strip() or self.text.strip())


@dataclass
class FigureRow:
    """A figure of the question, its lines as they are typed."""

    name: str = ""
    lines: str = ""
    uid: str = field(default_factory=new_uid)

    @property
    def empty(self) -> bool:
        return not (self.name.strip() or self.lines.strip())


@dataclass
class PictureRow:
    """An uploaded picture and its name in the question."""

    name: str = ""
    digest: str = ""
    width: str = "0"
    height: str = "0"
    uid: str = field(default_factory=new_uid)

    def raw(self) -> dict[str, Any]:
        width, height = number_or_text(self.width), number_or_text(self.height)
        return {"name": self.name.strip(), "digest": self.digest, "width": width, "height": height}


@dataclass
class PinRow:
    """A pinned draw: its values as JSON."""

    values: str = ""
    uid: str = field(default_factory=new_uid)

    def raw(self) -> dict[str, Any]:
        try:
            values = json.loads(self.values)
        except ValueError:
            values = {}
        return {"values": values if isinstance(values, dict) else {}}


@dataclass
class PartRow:
    wording: str = ""
    kind: str = "number"
    key: str = ""
    mode: str = "exact"
    tolerance: str = ""
    written: str = ""
    form: str = "any"
    up_to: str = ""
    where: str = ""
    bands: str = ""
    slips: str = ""
    # name or "name|share", as the document has it
    recognise: list[str] = field(default_factory=list)
    marks: str = "1"
    after: str = ""
    solution: str = ""
    share: str = ""
    unit: str = ""
    unit_rule: str = "required"
    # what a right number without its unit earns
    unit_share: str = ""
    # boxes that are ticked send "on"
    same_unit: str = ""
    equation_form: str = "any"
    subject: str = ""
    partial: str = ""
    cost: str = ""
    multiple: str = ""
    states: str = ""
    accept: str = ""
    match: str = "whole"
    case: str = ""
    spacing: str = ""
    gives: str = ""
    under: str = ""
    hints: str = ""
    said_right: str = ""
    said_partly: str = ""
    said_wrong: str = ""
    trials: str = ""
    choose: str = "one"
    keep_order: str = ""
    score: str = "run"
    words: str = ""
    rubric: str = ""
    steps: str = "5"
    low: str = ""
    high: str = ""
    options: list[OptionRow] = field(default_factory=list)
    gaps: list[GapRow] = field(default_factory=list)
    figure: str = ""
    regions: str = ""
    clicks: str = "1"
    uid: str = field(default_factory=new_uid)

    @property
    def hint(self) -> str:
        """What an answer of this kind looks like."""
        return next((hint for value, _, hint in KINDS if value == self.kind), "")

    @property
    def near_misses(self) -> list[tuple[str, str, bool]]:
        """(value, words, whether it is on) for each near-miss, those that are on first and in their order."""
        words = dict(NEAR_MISSES)
        chosen = {value.partition("|")[0]: value for value in self.recognise}
        on = [(value, words[name], True) for name, value in chosen.items() if name in words]
        return on + [(name, said, False) for name, said in NEAR_MISSES if name not in chosen]

    @property
    def has_more(self) -> bool:
        """Whether anything stands in what is folded away."""
        folded = (
            self.written, self.bands, self.slips, self.recognise, self.where, self.up_to, self.gives, self.hints,
            self.said_right, self.said_partly, self.said_wrong, self.trials,
        )  # fmt: skip
        return any(folded)


TEXT_FIELDS = ("title", "subject", "topic", "level", "wording", "note", "angle")
# What a browser leaves out when nothing is chosen.
CHOSEN = {
    "kind": "number",
    "mode": "exact",
    "unit_rule": "required",
    "equation_form": "any",
    "match": "whole",
    "form": "any",
    "choose": "one",
    "score": "run",
    "steps": "5",
    "clicks": "1",
}


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
            desk.parameters.append(ParameterRow(**fields(post, "parameter", uid, ParameterRow), uid=uid))
        for uid in post.getlist("condition")[:200]:
            desk.conditions.append(ConditionRow(post.get(f"condition-{uid}", ""), uid))
        for uid in post.getlist("table")[:20]:
            desk.tables.append(TableRow(**fields(post, "table", uid, TableRow), uid=uid))
        for uid in post.getlist("figure")[:20]:
            desk.figures.append(FigureRow(**fields(post, "figure", uid, FigureRow), uid=uid))
        for uid in post.getlist("picture")[:20]:
            desk.pictures.append(PictureRow(**fields(post, "picture", uid, PictureRow), uid=uid))
        for uid in post.getlist("pin")[:20]:
            desk.pins.append(PinRow(post.get(f"pin-{uid}", ""), uid))
        for uid in post.getlist("part")[:60]:
            values = fields(post, "part", uid, PartRow)
            values["recognise"] = post.getlist(f"part-{uid}-recognise")
            values["options"] = [
                OptionRow(**fields(post, "option", option, OptionRow), uid=option)
                for option in post.getlist(f"part-{uid}-option")[:60]
            ]
            values["gaps"] = [
                GapRow(**fields(post, "gap", gap, GapRow), uid=gap) for gap in post.getlist(f"part-{uid}-gap")[:20]
            ]
            desk.parts.append(PartRow(**values, uid=uid))
        return desk

    # from a document

    @staticmethod
    def from_document(document: QuestionDocument) -> Desk:
        return Desk(
            title=document.title,
            subject=document.subject,
            topic=document.topic,
            level=str(document.level),
            calculator=document.calculator,
            wording=document.wording,
            note=document.note,
            angle=document.angle,
            complex=document.complex,
            parameters=[
                ParameterRow(row.name, row.definition, row.unit, "" if row.shown == "exact" else row.shown, row.note)
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
            "parts": PartRow,
            "pins": PinRow,
            "figures": FigureRow,
            "pictures": PictureRow,
        }
        desk = Desk(**known_fields(Desk, {name: value for name, value in kept.items() if name not in lists}))
        for name, row in lists.items():
            rows = [row(**known_fields(row, each)) for each in kept.get(name, [])]
            setattr(desk, name, rows)
        for part in desk.parts:
            part.options = [OptionRow(**known_fields(OptionRow, dict(each))) for each in part.options]  # type: ignore[call-overload]
            part.gaps = [GapRow(**known_fields(GapRow, dict(each))) for each in part.gaps]  # type: ignore[call-overload]
        return desk

    # to a document

    def raw(self) -> dict[str, Any]:
        """The JSON object that the fields spell; it may not be a question yet."""
        return {
            "title": self.title,
            "subject": self.subject,
            "topic": self.topic,
            "level": number_or_text(self.level),
            "calculator": self.calculator,
            "wording": self.wording.replace("\r\n", "\n"),
            "note": self.note.replace("\r\n", "\n"),
            "angle": self.angle,
            "complex": self.complex,
            "parameters": [
                {
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

    def document(self) -> tuple[QuestionDocument | None, list[Problem]]:
        """The document, as far as the fields make one, and what is wrong with them.

        Where a field cannot be used, a harmless value stands in for it so that everything else can still be
        shown; the document is None only when even that fails.
        """
        raw = self.raw()
        problems: list[Problem] = []
        for _ in range(8):
            try:
                return load_document(raw), problems
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
            case (str(name), *_) if name in {"title", "level", "topic", "note"}:
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
    "regions clicks".split(),
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


def known_fields(row: type, kept: dict[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in kept.items() if name in row.__dataclass_fields__}  # type: ignore[attr-defined]


def number_or_text(text: str) -> int | str:
    return int(text) if text.strip().isdecimal() and len(text) < 9 else text


DEFAULTS = {
    "marks": 1, "level": 1, "shown": "exact", "title": "Untitled", "subject": "mathematics", "key": "0", "unit": "m",
    "accept": ["–"], "options": [{"text": "–", "share": "1"}, {"text": "– –"}], "items": ["–", "– –"],
    "lines": "frame 0..10, 0..6", "name": "figure", "figure": "figure", "clicks": 1,
    "regions": [{"region": "circle (1, 1) 1"}], "region": "circle (1, 1) 1", "rubric": "",
    "gaps": [{"answer": {"kind": "number", "key": "0"}}],
    "pairs": [{"left": "–", "right": "–"}, {"left": "– –", "right": "– –"}], "share": "0", "text": "–",
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


def raw_part(row: PartRow) -> dict[str, Any]:
    return {
        "wording": row.wording.replace("\r\n", "\n"),
        "marks": number_or_text(row.marks),
        "after": "" if row.kind in CHOSEN_KINDS else row.after,
        "solution": row.solution.replace("\r\n", "\n"),
        "under": bool(row.under),
        "gives": row.gives if row.kind in {"number", "quantity", "formula"} else "",
        "hints": [{"text": text, "cost": cost or "0"} for text, cost, _ in table(row.hints)],
        "feedback": {"right": row.said_right, "partly": row.said_partly, "wrong": row.said_wrong},
        "trials": [{"response": response, "outcome": outcome or "right"} for response, outcome in tried(row.trials)],
        "answer": raw_answer(row),
    }


def tried(text: str) -> list[tuple[str, str]]:
    """Lines of an answer and its outcome after the last stroke."""
    found = []
    for written in text.splitlines():
        response, stroke, outcome = written.rpartition("|")
        if written.strip():
            found.append((response.strip(), outcome.strip()) if stroke else (written.strip(), ""))
    return found


def raw_answer(row: PartRow) -> dict[str, Any]:
    """What the fields of a kind spell; fields of other kinds wait until they are wanted again."""
    if row.kind == "number":
        return raw_number(row)
    if row.kind == "quantity":
        rules: dict[str, Any] = {
            "unit": row.unit,
            "unit_rule": row.unit_rule or "required",
            "convert": not row.same_unit,
        }
        if row.unit_share:
            rules["share"] = row.unit_share
        return {**raw_number(row), **rules, "kind": "quantity"}
    if row.kind in CHOSEN_KINDS:
        return raw_choice(row)
    if row.kind == "text":
        accepted = [text.strip() for text in row.accept.splitlines() if text.strip()]
        return {
            "kind": "text", "accept": accepted, "match": row.match or "whole", "case": bool(row.case),
            "spacing": bool(row.spacing),
        }  # fmt: skip
    answer: dict[str, Any] = {"kind": row.kind, "key": row.key, "slips": raw_slips(row)}
    if row.kind == "formula":
        answer |= {"form": row.form or "any", "where": raw_where(row)}
        if row.up_to:
            answer["up_to"] = row.up_to
    if row.kind == "equation":
        answer |= {"form": row.equation_form or "any", "subject": row.subject, "where": raw_where(row)}
    if row.kind in COLLECTIONS:
        answer |= {"tolerance": tolerance(row.mode, row.tolerance), "partial": bool(row.partial)}
        if row.cost and row.kind == "set":
            answer["cost"] = row.cost
    if row.kind == "chemical":
        answer |= {"multiple": bool(row.multiple), "states": bool(row.states)}
    if row.share and row.kind in {"formula", "equation", "chemical"}:
        answer["share"] = row.share
    return answer


CHOSEN_KINDS = frozenset(["blanks", "hotspot", "choice", "true_false", "match", "order", "essay", "scale", "none"])


def raw_choice(row: PartRow) -> dict[str, Any]:
    """What the fields of a kind spell that is not typed."""
    used = [option for option in row.options if option.text.strip() or option.pair.strip()]
    answer: dict[str, Any] = {"kind": row.kind}
    if row.kind == "choice":
        options = [
            {
                "text": option.text,
                "share": option.share or "0",
                "feedback": option.feedback,
                "fixed": bool(option.fixed),
            }
            for option in used
        ]
        answer |= {"choose": row.choose or "one", "shuffle": not row.keep_order, "options": options}
    elif row.kind == "blanks":
        answer["gaps"] = [raw_gap(gap) for gap in row.gaps if not gap.empty]
    elif row.kind == "hotspot":
        regions = [
            {"region": region, "feedback": feedback} | ({"share": share} if share else {})
            for region, share, feedback in table(row.regions)
        ]
        answer |= {"figure": row.figure, "regions": regions, "clicks": number_or_text(row.clicks or "1")}
    elif row.kind == "true_false":
        answer["key"] = row.key
    elif row.kind == "match":
        pairs = [{"left": option.text, "right": option.pair} for option in used if option.text.strip()]
        answer |= {"pairs": pairs, "distractors": [option.pair for option in used if not option.text.strip()]}
    elif row.kind == "order":
        answer |= {"items": [option.text for option in used], "score": row.score or "run"}
    elif row.kind == "essay":
        answer |= {"words": number_or_text(row.words or "0"), "rubric": row.rubric.replace("\r\n", "\n")}
    elif row.kind == "scale":
        answer |= {"steps": number_or_text(row.steps or "5"), "low": row.low, "high": row.high}
    return answer


HEADING = re.compile(r"(?P<name>.*?)\s*(?:[\[(](?P<unit>[^\])]*)[\])])?\s*\Z")


def raw_table(row: TableRow) -> dict[str, Any]:
    """A table from what was pasted: cells between tabs (or semicolons), the first line names the columns,
    with a unit in brackets where there is one."""
    separator = "\t" if "\t" in row.text else ";"
    cells = [[cell.strip() for cell in line.split(separator)] for line in row.text.splitlines() if line.strip()]
    columns = []
    for heading in cells[0] if cells else []:
        found = HEADING.match(heading)
        name = "_".join((found["name"] if found else heading).split())
        columns.append({"name": name, "unit": (found["unit"] or "") if found else ""})
    return {"name": row.name.strip(), "columns": columns, "rows": cells[1:]}


def pasted(table: DataTable) -> str:
    """A table as a spreadsheet would paste it."""
    heads = [f"{column.name} [{column.unit}]" if column.unit else column.name for column in table.columns]
    return "\n".join("\t".join(row) for row in (heads, *table.rows))


def raw_where(row: PartRow) -> list[str]:
    return [piece.strip() for piece in row.where.split(";") if piece.strip()]


def raw_number(row: PartRow) -> dict[str, Any]:
    answer: dict[str, Any] = {"kind": "number", "key": row.key, "tolerance": tolerance(row.mode, row.tolerance)}
    if row.written.strip():
        answer["written"] = raw_written(row.written, row.share)
    answer["bands"] = [
        {"tolerance": tolerance_of(first), "share": share or "1/2", "feedback": feedback}
        for first, share, feedback in table(row.bands)
    ]
    answer["slips"] = raw_slips(row)
    answer["recognise"] = [
        {"name": name, "share": share or "0"} for name, _, share in (value.partition("|") for value in row.recognise)
    ]
    return answer


def raw_slips(row: PartRow) -> list[dict[str, Any]]:
    return [{"key": key, "share": share or "0", "feedback": feedback} for key, share, feedback in table(row.slips)]


def table(text: str) -> list[tuple[str, str, str]]:
    """Lines of three cells between upright strokes; an absolute value is written abs(…) here."""
    rows = []
    for written in text.splitlines():
        if written.strip():
            first, second, third = [*(cell.strip() for cell in written.split("|", 2)), "", ""][:3]
            rows.append((first, second, third))
    return rows


def raw_written(text: str, share: str) -> dict[str, Any]:
    """``2 dp``, ``3 sf``, ``fraction``, ``fraction in lowest terms``, ``standard form``, …"""
    demand: dict[str, Any] = {"share": share} if share else {}
    words = " ".join(text.lower().split())
    if words.endswith("in lowest terms"):
        demand["lowest_terms"] = True
        words = words.removesuffix("in lowest terms").strip()
    count, _, unit = words.partition(" ")
    if count.isdecimal() and unit in {"dp", "sf"}:
        demand["decimal_places" if unit == "dp" else "significant_figures"] = int(count)
    elif words:
        demand["form"] = WRITTEN_FORMS.get(words, words)
    return demand


def part_row(part: dict[str, Any]) -> PartRow:
    """The fields that show a part of a document."""
    answer = part["answer"]
    row = PartRow(
        wording=part["wording"],
        kind=answer["kind"],
        key=answer.get("key", ""),
        marks=str(part["marks"]),
        after=part["after"],
        solution=part["solution"],
        gives=part["gives"],
        under=ticked(part["under"]),
        hints=lines((hint["text"], hint["cost"]) for hint in part["hints"]),
        said_right=part["feedback"]["right"],
        said_partly=part["feedback"]["partly"],
        said_wrong=part["feedback"]["wrong"],
        trials=lines((trial["response"], trial["outcome"]) for trial in part["trials"]),
        slips=lines((slip["key"], slip["share"], slip["feedback"]) for slip in answer.get("slips", ())),
        where="; ".join(answer.get("where", ())),
    )
    if "tolerance" in answer:
        tolerance = answer["tolerance"]
        row.mode = tolerance["mode"]
        between = row.mode == "between"
        row.tolerance = f"{tolerance['low']}..{tolerance['high']}" if between else tolerance["value"]
    if row.kind in {"number", "quantity"}:
        row.bands = lines(
            (closeness_words(band["tolerance"]), band["share"], band["feedback"]) for band in answer["bands"]
        )
        row.recognise = [
            item["name"] if item["share"] == "0" else f"{item['name']}|{item['share']}" for item in answer["recognise"]
        ]
        if answer["written"]:
            row.written = written_words(answer["written"])
            row.share = answer["written"]["share"]
    elif "share" in answer:
        row.share = answer["share"]
    if row.kind == "quantity":
        row.unit, row.unit_rule, row.same_unit = answer["unit"], answer["unit_rule"], ticked(not answer["convert"])
        row.unit_share = answer["share"]
    elif row.kind == "formula":
        row.form, row.up_to = answer["form"], answer["up_to"] or ""
    elif row.kind == "equation":
        row.equation_form, row.subject = answer["form"], answer["subject"]
    elif row.kind in COLLECTIONS:
        row.partial, row.cost = ticked(answer["partial"]), answer["cost"] or ""
    elif row.kind == "chemical":
        row.multiple, row.states = ticked(answer["multiple"]), ticked(answer["states"])
    elif row.kind == "choice":
        row.choose, row.keep_order = answer["choose"], ticked(not answer["shuffle"])
        row.options = [
            OptionRow(
                option["text"], "", "" if option["share"] == "0" else option["share"], option["feedback"],
                ticked(option["fixed"]),
            )
            for option in answer["options"]
        ]  # fmt: skip
    elif row.kind == "hotspot":
        row.figure, row.clicks = answer["figure"], str(answer["clicks"])
        row.regions = lines((spot["region"], spot["share"] or "", spot["feedback"]) for spot in answer["regions"])
    elif row.kind == "blanks":
        row.gaps = [gap_row(gap) for gap in answer["gaps"]]
    elif row.kind == "match":
        row.options = [OptionRow(pair["left"], pair["right"]) for pair in answer["pairs"]]
        row.options += [OptionRow("", text) for text in answer["distractors"]]
    elif row.kind == "order":
        row.options, row.score = [OptionRow(text) for text in answer["items"]], answer["score"]
    elif row.kind == "essay":
        row.words, row.rubric = str(answer["words"] or ""), rubric_lines(answer["rubric"])
    elif row.kind == "scale":
        row.steps, row.low, row.high = str(answer["steps"]), answer["low"], answer["high"]
    elif row.kind == "text":
        row.accept, row.match = "\n".join(answer["accept"]), answer["match"]
        row.case, row.spacing = ticked(answer["case"]), ticked(answer["spacing"])
    return row


def ticked(on: bool) -> str:
    """What a box sends."""
    return "on" if on else ""


def written_words(demand: dict[str, Any]) -> str:
    if demand["decimal_places"] is not None:
        return f"{demand['decimal_places']} dp"
    if demand["significant_figures"] is not None:
        return f"{demand['significant_figures']} sf"
    names = {form: words for words, form in WRITTEN_FORMS.items()}
    words = names.get(demand["form"], "")
    return f"{words} in lowest terms".strip() if demand["lowest_terms"] else words


def lines(rows: Any) -> str:
    return "\n".join(" | ".join(cells) for cells in rows)
