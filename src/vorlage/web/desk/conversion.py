"""Turning a part into another kind: what is kept, what waits, and what the new kind can be made of."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any

from vorlage.core.answers import KINDS, used_rows
from vorlage.core.text import lone_span

from .rows import PartRow, used_lines
from .uids import new_uid

# What each input is called, in whichever kind it is.
CALLED = {entry.name: each.called for kind in KINDS.values() for each in kind.asked for entry in each.inputs}
INPUTS = {entry.name: entry for kind in KINDS.values() for entry in kind.inputs}


@dataclass(frozen=True, slots=True)
class Conversion:
    """What becomes of what was typed in a part."""

    # what this kind uses, and what it does not: that is still there when the part is turned back
    kept: list[str]
    waiting: list[str]
    # the options that the answer and its slips would make
    options: list[dict[str, str]] = field(default_factory=list)
    # the answer that an option would make, and the inputs that it would fill
    taken: str = ""
    fields: dict[str, str] = field(default_factory=dict)


def conversion(row: PartRow) -> Conversion:
    """What the part's present kind keeps of everything that is filled in."""
    kind = row.answer_kind
    kept: dict[str, None] = {}
    left: dict[str, None] = {}
    for name, entry in INPUTS.items():
        if CALLED[name] and entry.filled(row.typed):
            (kept if name in kind.names else left)[CALLED[name]] = None
    for words, typed, stays in (
        ("what stands before the space", row.before, kind.beside),
        ("what stands after the space", row.after, kind.beside),
        ("the name for later parts", row.gives, kind.document.gives),
        ("the solution", row.solution, kind.document.marked),
    ):
        if typed.strip():
            (kept if stays else left)[words] = None
    options = [each for each in row.typed.get("options") or [] if each.get("text", "").strip()]
    offered = [] if options or "options" not in kind.names else options_of(row)
    key, unit = key_of(options) if "slips" in kind.names and not row.key.strip() else ("", "")
    fields = {f"part-{row.uid}-key": key} if key else {}
    if key and unit:
        fields[f"part-{row.uid}-{'unit' if 'unit' in kind.names else 'after'}"] = unit
    waiting = [words for words in left if words not in kept]
    return Conversion(list(kept), waiting, offered, f"{key} {unit}".strip(), fields)


def options_of(row: PartRow) -> list[dict[str, str]]:
    """The answer as the right option, and every slip as a distractor."""
    typed: dict[str, Any] = row.typed
    accepted = used_lines(str(typed.get("accept") or ""))
    if accepted and not row.key.strip():
        return [option(accepted[0].strip(), share="1")]
    if not row.key.strip():
        return []
    after = str(typed.get("unit") or "").strip() or row.after.strip()
    numeric = bool(after or typed.get("tolerance") or typed.get("bands"))

    def shown(key: str) -> str:
        span = f"$value({key})$" if numeric or not re.search(r"[=<>]", key) else f"${key}$"
        return f"{span} {after}".strip()

    slips = [slip for slip in used_rows(typed.get("slips")) if slip.get("key", "").strip()]
    return [
        option(shown(row.key), share="1"),
        *(option(shown(slip["key"].strip()), feedback=slip.get("feedback", "")) for slip in slips),
    ]


def option(text: str, share: str = "", feedback: str = "") -> dict[str, str]:
    return {"id": new_uid(), "text": text, "share": share, "feedback": feedback}


def key_of(options: list[dict[str, str]]) -> tuple[str, str]:
    """The answer and its unit that the right option shows, when it is one span of maths."""
    right = [each for each in options if each.get("share", "").strip() in {"1", "100%"}]
    return (lone_span(right[0]["text"]) if right else None) or ("", "")
