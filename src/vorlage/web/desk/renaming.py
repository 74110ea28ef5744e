"""A parameter that is renamed, wherever the fields of the desk use it."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from typing import Any

from vorlage.core.answers import GAP_KINDS, Input, as_rows
from vorlage.core.notation import renamed_in_figure, renamed_in_line, renamed_in_text

from .form import Desk
from .rows import HINTS, TRIALS, PartRow
from .typed import member_of

Renaming = Callable[[str, str, str], str]
HOLDS: dict[str, Renaming] = {"maths": renamed_in_line, "text": renamed_in_text}


def renamed(desk: Desk, old: str, new: str) -> dict[str, str]:
    """The inputs that use a name, with the other in its place; pinned draws keep their values under the new one."""
    used = ((name, text, how(text, old, new)) for name, text, how in places(desk))
    fields = {name: after for name, before, after in used if after != before}
    for pin in desk.pins:
        values = pin.raw()["values"]
        if old in values:
            values = {new if name == old else name: value for name, value in values.items()}
            fields[f"pin-{pin.uid}"] = json.dumps(values)
    return fields


def places(desk: Desk) -> Iterator[tuple[str, str, Renaming]]:
    """Every input in which names of parameters can stand, what stands there, and how a name is found in it."""
    yield "wording", desk.wording, renamed_in_text
    for row in desk.parameters:
        yield f"parameter-{row.uid}-definition", row.definition, renamed_in_line
    for condition in desk.conditions:
        yield f"condition-{condition.uid}", condition.text, renamed_in_line
    for figure in desk.figures:
        yield f"figure-{figure.uid}-lines", figure.lines, renamed_in_figure
    for part in desk.parts:
        yield from places_of_part(part)


def places_of_part(part: PartRow) -> Iterator[tuple[str, str, Renaming]]:
    stem = f"part-{part.uid}"
    for name in ("wording", "solution", "said_right", "said_partly", "said_wrong"):
        yield f"{stem}-{name}", getattr(part, name), renamed_in_text
    yield from places_of_rows(HINTS, part.hints)
    yield from places_of_rows(TRIALS, part.trials)
    for entry in part.answer_kind.inputs:
        typed = part.typed.get(entry.name)
        if entry.way == "gaps":
            yield from places_of_gaps(entry, typed or [])
        elif entry.is_list:
            yield from places_of_rows(entry, typed or [])
        elif entry.holds in HOLDS:
            yield f"{stem}-{entry.name}", str(typed or ""), HOLDS[entry.holds]


def places_of_rows(entry: Input, rows: list[dict[str, str]]) -> Iterator[tuple[str, str, Renaming]]:
    for row in rows:
        for column in entry.columns:
            if column.holds in HOLDS:
                yield f"{member_of(entry)}-{row['id']}-{column.name}", row.get(column.name, ""), HOLDS[column.holds]


def places_of_gaps(entry: Input, rows: list[dict[str, Any]]) -> Iterator[tuple[str, str, Renaming]]:
    for row in rows:
        kind = GAP_KINDS.get(row.get("kind", ""))
        if kind is not None and kind.in_gap is not None:
            for column in ("key", "more"):
                name = f"{member_of(entry)}-{row['id']}-{column}"
                yield name, row.get(column, ""), HOLDS[kind.in_gap.holds]
        for slip in as_rows(row.get("slips", "")):
            yield f"gapslip-{slip.get('id', '')}-key", slip.get("key", ""), renamed_in_line
