"""The rows of the desk: what stands in their fields, and the pieces of a document that they spell."""

from __future__ import annotations

import json
import re
from dataclasses import dataclass, field
from typing import Any

from vorlage.core.answers import KINDS, Input, Kind, identity_of, number_or_text, ticked, used_rows
from vorlage.core.questions import DataTable, Part

from .typed import usable_typed
from .uids import new_uid


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
class TableRow:
    """A data table as it was pasted."""

    name: str = ""
    text: str = ""
    uid: str = field(default_factory=new_uid)

    @property
    def empty(self) -> bool:
        return not (self.name.strip() or self.text.strip())

    @property
    def separator(self) -> str:
        """What parts its cells."""
        return "\t" if "\t" in self.text else ";"


@dataclass
class FigureRow:
    """A figure of the question, its lines as they are typed."""

    name: str = ""
    lines: str = ""
    uid: str = field(default_factory=new_uid)

    @property
    def empty(self) -> bool:
        return not (self.name.strip() or self.lines.strip())


DIGEST = re.compile(r"[0-9a-f]{64}")


@dataclass
class PictureRow:
    """An uploaded picture and its name in the question."""

    name: str = ""
    digest: str = ""
    width: str = "0"
    height: str = "0"
    uid: str = field(default_factory=new_uid)

    @property
    def is_one(self) -> bool:
        """Whether it names a picture at all: what no page of ours sends is none."""
        return DIGEST.fullmatch(self.digest) is not None

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


OUTCOMES = (
    ("right", "right"), ("partly", "partly right"), ("wrong", "wrong"), ("unreadable", "unreadable"),
    ("waiting", "waits for a marker"),
)  # fmt: skip
# What a part has in rows beside its answer.
HINTS = Input(
    "hints", "rows", label="Hints",
    columns=(
        Input("text", words="Hint", example="Energy is force times distance.", holds="text"),
        Input(
            "cost", words="Costs", help="Share of the marks that it costs", example="1/4", width="tiny", mono=True,
            holds="number",
        ),
    ),
)  # fmt: skip
TRIALS = Input(
    "trials", "rows", label="Sample answers",
    help="Answers and the outcome they have to have: in eight draws with parameters between dollar signs, otherwise "
         "in draw 1. They are rerun whenever something changes.",
    columns=(
        Input("response", words="Sample answer", example="$value(m*g)$ N", mono=True, holds="text"),
        Input("outcome", "choice", words="What it has to be", choices=OUTCOMES, default="right"),
    ),
)  # fmt: skip


@dataclass
class PartRow:
    """A part: what is said of it, the kind of its answer, and what is typed of the answer.

    ``typed`` has what stands in the inputs of the answer by their names, also in those of kinds that the part had
    before: it waits there until the part turns back.
    """

    wording: str = ""
    kind: str = "number"
    typed: dict[str, Any] = field(default_factory=dict)
    marks: str = "1"
    before: str = ""
    after: str = ""
    solution: str = ""
    gives: str = ""
    under: str = ""
    required: str = ""
    said_right: str = ""
    said_partly: str = ""
    said_wrong: str = ""
    hints: list[dict[str, str]] = field(default_factory=list)
    trials: list[dict[str, str]] = field(default_factory=list)
    uid: str = field(default_factory=new_uid)

    @property
    def answer_kind(self) -> Kind:
        """The kind of its answer; a number where a browser sent what is none."""
        return KINDS.get(self.kind, KINDS["number"])

    @property
    def key(self) -> str:
        """The key of its answer as it is typed."""
        return str(self.typed.get("key") or "")

    @property
    def unit(self) -> str:
        """The unit that its answer comes in."""
        return str(self.typed.get("unit") or "") if "unit" in self.answer_kind.names else self.after

    @property
    def has_help(self) -> bool:
        """Whether hints, feedback or tests of the author's own are there."""
        said = (self.said_right, self.said_partly, self.said_wrong)
        return any(said) or bool(used_rows(self.hints) or used_rows(self.trials))

    def raw(self) -> dict[str, Any]:
        """The part of a document that the fields spell."""
        kind = KINDS.get(self.kind)
        document = kind.document if kind is not None else None
        beside = document is None or (document.typed and document.checked)
        return {
            "id": identity_of(self.uid),
            "wording": unix(self.wording),
            "marks": self.marks,
            "before": self.before if beside else "",
            "after": self.after if beside else "",
            "solution": unix(self.solution),
            "under": bool(self.under),
            "required": bool(self.required),
            "gives": self.gives if document is not None and document.gives else "",
            "hints": [{"text": unix(row["text"]), "cost": row["cost"].strip() or "0"} for row in used_rows(self.hints)],
            "feedback": {"right": self.said_right, "partly": self.said_partly, "wrong": self.said_wrong},
            "trials": [
                {"response": row["response"].strip(), "outcome": row["outcome"] or "right"}
                for row in used_rows(self.trials)
            ],
            "answer": kind.read(self.typed) if kind is not None else {"kind": self.kind},
        }

    @staticmethod
    def of(part: Part) -> PartRow:
        """The fields that show a part of a document."""
        raw = part.model_dump(mode="json")
        answer = raw["answer"]
        typed = usable_typed(KINDS[answer["kind"]].write(answer))
        return PartRow(
            wording=part.wording,
            kind=answer["kind"],
            typed=typed,
            marks=str(part.marks),
            before=part.before,
            after=part.after,
            solution=part.solution,
            gives=part.gives,
            under=ticked(part.under),
            required=ticked(part.required),
            hints=[
                {"id": new_uid(), "text": hint["text"], "cost": "" if hint["cost"] == "0" else hint["cost"]}
                for hint in raw["hints"]
            ],
            said_right=part.feedback.right,
            said_partly=part.feedback.partly,
            said_wrong=part.feedback.wrong,
            trials=[{"id": new_uid(), "response": each.response, "outcome": each.outcome} for each in part.trials],
            uid=part.id or new_uid(),
        )


def used_lines(text: str) -> list[str]:
    return [line for line in text.splitlines() if line.strip()]


def unix(text: str) -> str:
    """A text of several lines as a document has it."""
    return text.replace("\r\n", "\n")


CLOSERS = {"]": "[", ")": "("}


def heading(text: str) -> tuple[str, str]:
    """The name and the unit of a column from its heading, with the unit in the last brackets.

    >>> heading("specific heat [J/(kg K)]"), heading("density")
    (('specific_heat', 'J/(kg K)'), ('density', ''))
    """
    text = text.strip()
    opener, depth, start = CLOSERS.get(text[-1:], ""), 0, len(text)
    for place in range(len(text) - 1, -1, -1) if opener else ():
        depth += (text[place] == text[-1]) - (text[place] == opener)
        if depth == 0:
            start = place
            break
    return "_".join(text[:start].split()), text[start + 1 : -1].strip()


def raw_table(row: TableRow) -> dict[str, Any]:
    """A table from what was pasted: cells between tabs (or semicolons), the first line names the columns, with a unit
    in brackets where there is one."""
    found = [[cell.strip() for cell in line.split(row.separator)] for line in used_lines(row.text)]
    columns = []
    for cell in found[0] if found else []:
        name, unit = heading(cell)
        columns.append({"name": name, "unit": unit})
    return {"name": row.name.strip(), "columns": columns, "rows": found[1:]}


def pasted(table: DataTable) -> str:
    """A table as a spreadsheet would paste it."""
    heads = [f"{column.name} [{column.unit}]" if column.unit else column.name for column in table.columns]
    return "\n".join("\t".join(row) for row in (heads, *table.rows))
