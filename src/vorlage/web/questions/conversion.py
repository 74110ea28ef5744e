"""Turning a part into another kind: what is kept, what waits, and what the new kind can be made of."""

from __future__ import annotations

import re
from dataclasses import dataclass

from vorlage.core.questions import lone_span

from .rows import CHOSEN, COLLECTIONS, KINDS, OptionRow, PartRow
from .spelling import table

NUMBERS = frozenset(["number", "quantity"])
TYPED = (
    frozenset(["number", "quantity", "formula", "equation", "inequality", "interval", "chemical", "text", "conditions"])
    | COLLECTIONS
)
WITH_SLIPS = frozenset(["formula", "equation", "inequality", "interval", "chemical"]) | NUMBERS | COLLECTIONS
# what a field is called, the fields, and the kinds that use it
USED: list[tuple[str, tuple[str, ...], frozenset[str]]] = [
    ("the answer", ("key",), WITH_SLIPS | {"true_false", "conditions"}),
    ("the conditions", ("relations",), frozenset(["conditions"])),
    ("what may be typed", ("limits",), TYPED),
    ("the unit", ("unit",), frozenset(["quantity"])),
    ("what stands after the space", ("after",), frozenset(["number", "formula", "set", "list"])),
    ("the tolerance", ("tolerance",), NUMBERS | COLLECTIONS),
    ("how it is written", ("written",), NUMBERS),
    ("the part marks", ("bands",), NUMBERS),
    ("the mistakes that are recognised", ("recognise",), NUMBERS),
    ("the slips", ("slips",), WITH_SLIPS),
    ("the form asked for", ("form", "up_to"), frozenset(["formula"])),
    ("the form of the equation", ("equation_form", "subject"), frozenset(["equation"])),
    ("the form of the inequality", ("solved",), frozenset(["inequality"])),
    ("where it holds", ("where",), frozenset(["formula", "equation"])),
    ("the name for later parts", ("gives",), frozenset(["number", "quantity", "formula"])),
    ("the accepted words", ("accept",), frozenset(["text"])),
    ("the options", ("options",), frozenset(["choice", "match", "order"])),
    ("the gaps", ("gaps",), frozenset(["blanks"])),
    ("the regions", ("regions",), frozenset(["hotspot"])),
    ("the length and the rubric", ("words", "rubric"), frozenset(["essay"])),
    ("the ends of the scale", ("low", "high"), frozenset(["scale"])),
    ("the solution", ("solution",), frozenset(value for value, _, _ in KINDS) - {"none", "scale"}),
]


@dataclass(frozen=True, slots=True)
class Conversion:
    """What becomes of a part's fields."""

    kept: list[str]
    # filled in, and not used by this kind; still there when the part is turned back
    waiting: list[str]
    # the options that the answer and its slips would make
    offers_options: bool = False
    # an answer, its unit and an accepted text that an option would make
    key: str = ""
    unit: str = ""


def conversion(row: PartRow) -> Conversion:
    """What the part's present kind keeps of everything that is filled in."""
    kept, waiting = [], []
    for words, names, kinds in USED:
        if any(filled(row, name) for name in names):
            (kept if row.kind in kinds else waiting).append(words)
    used_options = [option for option in row.options if option.text.strip()]
    offers = row.kind == "choice" and not used_options and bool(options_of(row))
    key, unit = ("", "")
    if row.kind in WITH_SLIPS and not row.key.strip():
        key, unit = key_of(used_options)
    return Conversion(kept, waiting, offers, key, unit)


def filled(row: PartRow, name: str) -> bool:
    value = getattr(row, name)
    if isinstance(value, list):
        return any(getattr(each, "text", None) or getattr(each, "key", None) or isinstance(each, str) for each in value)
    return bool(value.strip()) and value != CHOSEN.get(name)


def options_of(row: PartRow) -> list[OptionRow]:
    """The answer as the right option, and every slip as a distractor."""
    if row.accept.strip() and not row.key.strip():
        right = next(filter(str.strip, row.accept.splitlines())).strip()
        return [OptionRow(right, share="1")]
    if not row.key.strip():
        return []
    numeric = bool(row.unit.strip() or row.after.strip() or row.tolerance.strip() or row.bands.strip())
    after = row.unit.strip() or row.after.strip()

    def shown(key: str) -> str:
        span = f"$value({key})$" if numeric or not re.search(r"[=<>]", key) else f"${key}$"
        return f"{span} {after}".strip()

    slips = [OptionRow(shown(key), feedback=feedback) for key, _, feedback in table(row.slips)]
    return [OptionRow(shown(row.key), share="1"), *slips]


def key_of(options: list[OptionRow]) -> tuple[str, str]:
    """The answer and its unit that the right option shows, when it is one span of maths."""
    right = [option for option in options if option.share.strip() in {"1", "100%"}]
    return (lone_span(right[0].text) if right else None) or ("", "")
