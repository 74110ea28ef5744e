"""The gaps of a text on the desk: a row for each, and the answer that it spells."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from typing import Any

from .closeness import closeness_words, tolerance_of
from .uids import identity_of, new_uid

# the kinds that can stand in a gap: value, what it is called, an example, what the next field is for
GAP_KINDS = [
    ("number", "number", "m*g", "2% or 1 dp"),
    ("quantity", "number with a unit", "m*g", "2% or 1 dp"),
    ("formula", "formula", "2x + 1", ""),
    ("text", "words", "rises; goes up", ""),
    ("choice", "choice", "rises", "falls; stays the same"),
    ("true_false", "true or false", "a > b", ""),
    ("equation", "equation", "y = 2x", ""),
    ("inequality", "inequality", "x > 2", ""),
    ("interval", "interval", "[1, 3)", ""),
    ("set", "set of values", "{2, -5}", "2% or 1 dp"),
    ("list", "list of values", "1, 4, 9", "2% or 1 dp"),
    ("point", "point", "(3, 4)", "2% or 1 dp"),
    ("vector", "vector", "vec(1, 2)", "2% or 1 dp"),
    ("matrix", "matrix", "matrix(1, 2; 3, 4)", "2% or 1 dp"),
    ("chemical", "chemistry", "H2O", ""),
]
CLOSE = frozenset(["number", "quantity", "set", "list", "point", "vector", "matrix"])


@dataclass
class GapRow:
    """One gap: what belongs in it, and how close is close enough or what else is offered."""

    kind: str = "number"
    key: str = ""
    more: str = ""
    unit: str = ""
    share: str = ""
    # what the row has no field for, as JSON, kept for as long as the kind stays
    rest: str = ""
    uid: str = field(default_factory=new_uid)

    @property
    def empty(self) -> bool:
        return not (self.key.strip() or self.more.strip())


def several(text: str) -> list[str]:
    return [piece.strip() for piece in text.split(";") if piece.strip()]


def raw_gap(row: GapRow) -> dict[str, Any]:
    """The gap of a document that a row spells."""
    answer = kept(row)
    if row.kind == "text":
        answer["accept"] = several(row.key)
    elif row.kind == "choice":
        right, others = several(row.key), several(row.more)
        options = answer.pop("options", [])
        if sorted(option.get("text", "") for option in options) != sorted([*right, *others]):
            identities = {option.get("text"): option.get("id", "") for option in options}
            options = [
                {"id": identities.get(text, ""), "text": text, "share": "1" if text in right else "0"}
                for text in [*right, *others]
            ]
        answer["options"] = options
    else:
        answer["key"] = row.key
    if row.kind in CLOSE:
        answer["tolerance"] = tolerance_of(row.more) if row.more.strip() else {"mode": "exact"}
    if row.kind == "quantity":
        answer["unit"] = row.unit
    gap: dict[str, Any] = {"id": identity_of(row.uid), "answer": answer}
    if row.share.strip():
        gap["share"] = row.share
    return gap


def kept(row: GapRow) -> dict[str, Any]:
    """What was kept of the answer beside the row's fields, when it is of the row's kind still."""
    try:
        rest = json.loads(row.rest) if row.rest else {}
    except ValueError:
        rest = {}
    same = isinstance(rest, dict) and rest.get("kind") == row.kind
    return dict(rest) if same else {"kind": row.kind}


def gap_row(gap: dict[str, Any]) -> GapRow:
    """The row that shows a gap of a document."""
    answer = dict(gap["answer"])
    row = GapRow(kind=answer["kind"], share=gap["share"] or "")
    row.uid = gap.get("id") or row.uid
    if row.kind == "text":
        row.key = "; ".join(answer.pop("accept"))
    elif row.kind == "choice":
        options = answer["options"]
        row.key = "; ".join(option["text"] for option in options if option["share"] == "1")
        row.more = "; ".join(option["text"] for option in options if option["share"] != "1")
    else:
        row.key = answer.pop("key")
    if row.kind in CLOSE:
        row.more = closeness_words(answer.pop("tolerance"))
    if row.kind == "quantity":
        row.unit = answer.pop("unit")
    row.rest = json.dumps({name: value for name, value in answer.items() if value not in (None, [], "")})
    return row
