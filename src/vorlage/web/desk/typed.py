"""What is typed of an answer: the inputs of all kinds by their names, as a browser or a draft brings them."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping
from functools import cache
from typing import Any

from django.http import QueryDict

from vorlage.core.answers import KINDS, Input

from .uids import usable

# Every input that some kind has; nothing else is taken from a browser.
INPUTS: dict[str, Input] = {entry.name: entry for kind in KINDS.values() for entry in kind.inputs}
MOST_ROWS = 60
GAP_COLUMNS = ("kind", "key", "more", "unit", "share", "rest")


def typed_in(post: QueryDict, uid: str) -> dict[str, Any]:
    """What stands in the inputs of a part's answer, and what waits there of other kinds."""
    stem = f"part-{uid}-"
    typed = waiting(post.get(f"{stem}waiting", ""))
    for key in post:
        name = key.removeprefix(stem)
        if key != name and name in INPUTS:
            values = [str(value) for value in post.getlist(key)]
            typed[name] = "\n".join(values) if INPUTS[name].way == "ticks" else values[-1]
    for name, entry in INPUTS.items():
        if entry.is_list and (f"{stem}{name}-here" in post or f"{stem}{member_of(entry)}" in post):
            typed[name] = list(rows_in(post, uid, entry))
    return typed


def rows_in(post: QueryDict, uid: str, entry: Input) -> Iterator[dict[str, str]]:
    """The rows of a list, such as options, in the order in which they stand."""
    member = member_of(entry)
    for row in post.getlist(f"part-{uid}-{member}")[:MOST_ROWS]:
        columns = {name: post.get(f"{member}-{row}-{name}", "") for name in columns_of(entry)}
        yield {"id": usable(row), **columns}


def member_of(entry: Input) -> str:
    """What a row of a list is called in the names of its inputs."""
    return entry.name.removesuffix("s")


@cache
def columns_of(entry: Input) -> tuple[str, ...]:
    """The columns that rows of this name have in any kind: what is typed stays when a part turns into another."""
    if entry.way == "gaps":
        return GAP_COLUMNS
    alike = (each for kind in KINDS.values() for each in kind.inputs if each.name == entry.name)
    return tuple(dict.fromkeys(column.name for each in alike for column in each.columns))


def waiting(text: str) -> dict[str, Any]:
    """What was typed for other kinds, as the browser carried it."""
    try:
        kept = json.loads(text) if text else {}
    except ValueError:
        kept = {}
    return usable_typed(kept)


def usable_typed(kept: Any) -> dict[str, Any]:
    """The texts and rows of known inputs in what was kept outside; anything else is passed over."""
    found: dict[str, Any] = {}
    for name, value in kept.items() if isinstance(kept, dict) else ():
        entry = INPUTS.get(name)
        if entry is None:
            continue
        if not entry.is_list and isinstance(value, str):
            found[name] = value
        elif entry.is_list and isinstance(value, list):
            rows = (row for row in value[:MOST_ROWS] if isinstance(row, dict))
            found[name] = [{"id": usable(str(row.get("id", ""))), **texts(row, columns_of(entry))} for row in rows]
    return found


def texts(row: Mapping[Any, Any], names: tuple[str, ...]) -> dict[str, str]:
    return {name: row[name] if isinstance(row.get(name), str) else "" for name in names}
