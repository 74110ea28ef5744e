"""What changed between two documents, field by field, in the words of the desk."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from .document import QuestionDocument

LISTS = {
    "parameters": ("Parameter", "name"), "conditions": ("Condition", ""), "parts": ("Part", ""),
    "tables": ("Data table", "name"), "bands": ("part marks", ""), "slips": ("slip", ""),
    "options": ("option", ""), "pairs": ("pair", ""), "items": ("item", ""), "rows": ("row", ""),
    "columns": ("column", "name"), "accept": ("accepted answer", ""), "where": ("where", ""),
    "pictures": ("Picture", "name"),
    "figures": ("Figure", "name"), "regions": ("region", ""), "pins": ("pinned draw", ""),
    "gaps": ("gap", ""),
    "rubric": ("criterion", "name"), "levels": ("level", ""),
    "recognise": ("recognised mistake", "name"), "distractors": ("distractor", ""),
    "relations": ("condition", ""), "limits": ("limit", ""),
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Difference:
    """A field and what stood in it before and after; None where there was no such field."""

    place: str
    before: str | None
    after: str | None


def differences(before: QuestionDocument, after: QuestionDocument) -> list[Difference]:
    """Every field that differs, in the order of the document; rows with names are compared by name."""
    old, new = (dict(flattened(document.model_dump(mode="json"))) for document in (before, after))
    places = dict.fromkeys([*old, *new])
    # keep the order of the newer document, with what has gone after its neighbours
    return [Difference(place, old.get(place), new.get(place)) for place in places if old.get(place) != new.get(place)]


def flattened(value: Any, place: str = "") -> Iterator[tuple[str, str]]:
    """Every leaf of a document with words for its place."""
    if isinstance(value, dict):
        for name, inner in value.items():
            if name in {"format", "id"} or inner in (None, "", [], {}):
                continue
            if isinstance(inner, list):
                yield from of_list(name, inner, place)
            else:
                yield from flattened(inner, joined(place, name.replace("_", " ")))
    elif isinstance(value, bool):
        yield place, "yes" if value else "no"
    else:
        yield place, str(value)


def of_list(name: str, items: list[Any], place: str) -> Iterator[tuple[str, str]]:
    word, key = LISTS.get(name, (name, ""))
    for number, item in enumerate(items, start=1):
        label = item.get(key) if key and isinstance(item, dict) else None
        here = joined(place, f"{word} {label or (chr(96 + number) if name == 'parts' else number)}")
        if isinstance(item, list):
            yield here, " · ".join(map(str, item))
        else:
            yield from flattened(item, here)


def joined(place: str, step: str) -> str:
    return f"{place} ▸ {step}" if place else step
