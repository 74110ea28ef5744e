"""What is typed of an answer: the inputs of all kinds by their names, as a browser or a draft brings them."""

from __future__ import annotations

import json
from collections.abc import Mapping
from functools import cache
from typing import Any

from django.http import QueryDict

from vorlage.core.answers import KINDS, Input

from .uids import new_uid, usable

# Every input that some kind has; nothing else is taken from a browser.
INPUTS: dict[str, Input] = {entry.name: entry for kind in KINDS.values() for entry in kind.inputs}
MOST_ROWS = 60
GAP_COLUMNS = ("kind", "key", "more", "unit", "share", "rest", "slips")
# The columns of a slip of a gap.
SLIP_COLUMNS = ("key", "share", "feedback")


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
        sent = any(f"{stem}{each}" in post for each in (f"{name}-here", member_of(entry), name))
        if entry.is_list and sent:
            typed[name] = rows_in(post, uid, entry)
    return typed


def rows_in(post: QueryDict, uid: str, entry: Input) -> list[dict[str, str]]:
    """The rows of a list, such as options, in the order in which they stand; a page that was opened before the last
    version may send some as lines."""
    member, stem = member_of(entry), f"part-{uid}-"
    lines = post.get(f"{stem}{entry.name}", "")
    if lines and f"{stem}{entry.name}-here" not in post and f"{stem}{member}" not in post:
        return kept_rows(entry, lines)
    found = []
    for row in post.getlist(f"{stem}{member}")[:MOST_ROWS]:
        columns = {name: post.get(f"{member}-{row}-{name}", "") for name in columns_of(entry)}
        if entry.way == "gaps" and f"gap-{row}-slips-here" in post:
            columns["slips"] = slips_in(post, row)
        found.append({"id": usable(row), **columns})
    return found


def slips_in(post: QueryDict, gap: str) -> str:
    """The slips of a gap, as its row carries them."""
    slips = [
        {"id": usable(slip), **{name: post.get(f"gapslip-{slip}-{name}", "") for name in SLIP_COLUMNS}}
        for slip in post.getlist(f"gap-{gap}-slip")[:MOST_ROWS]
    ]
    return json.dumps(slips)


def kept_rows(entry: Input, kept: Any) -> list[dict[str, str]]:
    """The rows of a list as they were kept; versions before kept some as lines."""
    if isinstance(kept, str):
        return [{"id": new_uid(), **row} for row in entry.rows_of(kept)]
    rows = [row for row in kept if isinstance(row, dict)] if isinstance(kept, list) else []
    return [{"id": usable(str(row.get("id", ""))), **texts(row, columns_of(entry))} for row in rows[:MOST_ROWS]]


def member_of(entry: Input) -> str:
    """What a row of a list is called in the names of its inputs."""
    return entry.name.removesuffix("s") if entry.name.endswith("s") else f"{entry.name}row"


@cache
def columns_of(entry: Input) -> tuple[str, ...]:
    """The columns that rows of this name have in any kind: what is typed stays when a part turns into another."""
    if entry.way == "gaps":
        return GAP_COLUMNS
    alike = (each for kind in KINDS.values() for each in kind.inputs if each.name == entry.name)
    columns = (*entry.columns, *(column for each in alike for column in each.columns))
    return tuple(dict.fromkeys(column.name for column in columns))


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
        elif entry.is_list:
            found[name] = kept_rows(entry, value)
    return found


def texts(row: Mapping[Any, Any], names: tuple[str, ...]) -> dict[str, str]:
    return {name: row[name] if isinstance(row.get(name), str) else "" for name in names}
