"""What changed between two documents, field by field, in the words of the desk."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ..answers import KINDS
from ..notation import USUAL, Habits
from .document import PartLabel, QuestionDocument
from .local import to_place

# What a member of a list is called; the kinds of answer name theirs, and any other goes by the name of its list.
MEMBERS = {
    "parameters": "Parameter", "conditions": "Condition", "parts": "Part", "tables": "Data table", "figures": "Figure",
    "pictures": "Picture", "pins": "pinned draw",
} | {each.field: each.each for kind in KINDS.values() for each in kind.asked if each.each}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Difference:
    """A field and what stood in it before and after; None where there was no such field."""

    place: str
    before: str | None
    after: str | None


def differences(before: QuestionDocument, after: QuestionDocument, habits: Habits = USUAL) -> list[Difference]:
    """Every field that differs, in the order of the document; rows with names are compared by name.

    ``habits`` are those of the people who read it.
    """

    def read(document: QuestionDocument) -> dict[str, str]:
        raw = document.model_dump(mode="json")
        to_place(raw, habits)
        return dict(Reading(document.labels).flattened(raw))

    old, new = read(before), read(after)
    places = dict.fromkeys([*old, *new])
    # keep the order of the newer document, with what has gone after its neighbours
    return [Difference(place, old.get(place), new.get(place)) for place in places if old.get(place) != new.get(place)]


@dataclass(frozen=True, slots=True)
class Reading:
    """A document on its way to words, with the labels of its parts."""

    labels: tuple[PartLabel, ...]

    def flattened(self, value: Any, place: str = "") -> Iterator[tuple[str, str]]:
        """Every leaf of a document with words for its place."""
        if isinstance(value, dict):
            for name, inner in value.items():
                if name in {"format", "id"} or inner in (None, "", [], {}):
                    continue
                if isinstance(inner, list):
                    yield from self.of_list(name, inner, place)
                else:
                    yield from self.flattened(inner, joined(place, name.replace("_", " ")))
        elif isinstance(value, bool):
            yield place, "yes" if value else "no"
        else:
            yield place, str(value)

    def of_list(self, name: str, items: list[Any], place: str) -> Iterator[tuple[str, str]]:
        word = MEMBERS.get(name, name.removesuffix("s"))
        for number, item in enumerate(items, start=1):
            label = item.get("name") if isinstance(item, dict) else None
            if name == "parts":
                label = self.labels[number - 1].full
            here = joined(place, f"{word} {number if label is None else label}".strip())
            if isinstance(item, list):
                yield here, " · ".join(map(str, item))
            else:
                yield from self.flattened(item, here)


def joined(place: str, step: str) -> str:
    return f"{place} ▸ {step}" if place else step
