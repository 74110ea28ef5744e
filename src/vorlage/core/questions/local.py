"""A question document from what is typed in a place, where it follows the habits of its people; a document is always
written with the decimal point."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal
from fractions import Fraction
from typing import Annotated, Any, get_args, get_origin

from pydantic import BaseModel

from ..answers import KINDS, Holds
from ..budget import Path
from ..notation import Habits, NotationError, from_document, in_cell, in_figure, in_spans, to_document
from ..notation.habits import Turn
from ..quantities import as_document, as_read
from .document import Fault, FiledDocument, Part

LEVEL = re.compile(r"\s*[\d.,]+")


@dataclass(frozen=True, slots=True)
class Spelt:
    """A text inside a document: what holds it under which key, the path to it, and what stands in it."""

    holder: Any
    key: Any
    path: Path
    way: str

    @property
    def text(self) -> str:
        return str(self.holder[self.key])

    def turned(self, habits: Habits, turn: Turn, prose: Turn) -> str:
        """The text with its maths turned, and the quantities of its prose. Raises ``NotationError``."""
        match self.way:
            case "text":
                return prose(in_spans(self.text, habits, turn), habits)
            case "figure":
                return in_figure(self.text, habits, turn)
            case "cell":
                return in_cell(self.text, habits, turn)
            case "level":
                return LEVEL.sub(lambda marks: turn(marks[0], habits), self.text, count=1)
        return turn(self.text, habits)


def spelt_in(raw: Any) -> list[Spelt]:
    """Every text of a document's JSON object in which numbers and formulas are spelt."""
    return list(of_record(FiledDocument, raw, ())) if isinstance(raw, dict) else []


def of_record(model: type[BaseModel], raw: dict[str, Any], path: Path) -> Iterator[Spelt]:
    kind = KINDS.get(str(raw.get("kind")))
    lines = kind is None or model is not kind.document or kind.document.line_maths
    for name, info in model.model_fields.items():
        if name in raw:
            for found in of_value(info.annotation, info.metadata, raw, name, (*path, name)):
                if lines or found.way != "line":
                    yield found
    if model is Part:
        yield from of_trials(raw, path)


def of_value(annotation: Any, metadata: Any, holder: Any, key: Any, path: Path) -> Iterator[Spelt]:
    value, way = holder[key], next((each.way for each in metadata if isinstance(each, Holds)), "")
    while get_origin(annotation) is Annotated:
        annotation, *further = get_args(annotation)
        way = next((each.way for each in further if isinstance(each, Holds)), way)
    types = [annotation, *(each for each in get_args(annotation) if each is not type(None))]
    if isinstance(value, str):
        # shares and marks are numbers that may be typed with decimals
        numeric = any(each in (Fraction, Decimal) or get_args(each)[:1] == (Fraction,) for each in types)
        if way or numeric:
            yield Spelt(holder, key, path, way or "number")
    elif isinstance(value, list):
        for place in range(len(value)):
            yield from of_value(types[1] if len(types) > 1 else Any, metadata, value, place, (*path, place))
    elif isinstance(value, dict):
        kind = KINDS.get(str(value.get("kind")))
        record = next((each for each in types if isinstance(each, type) and issubclass(each, BaseModel)), None)
        if kind is not None:
            yield from of_record(kind.document, value, path)
        elif record is not None:
            yield from of_record(record, value, path)


def of_trials(raw: dict[str, Any], path: Path) -> Iterator[Spelt]:
    """The sample answers of a part, where they are line maths."""
    answer = raw.get("answer")
    kind = KINDS.get(str(answer.get("kind"))) if isinstance(answer, dict) else None
    if kind is not None and kind.document.typed and kind.document.line_maths:
        for place, trial in enumerate(raw.get("trials") or ()):
            if isinstance(trial, dict) and isinstance(trial.get("response"), str):
                yield Spelt(trial, "response", (*path, "trials", place, "response"), "line")


def to_point(raw: Any, habits: Habits) -> list[Fault]:
    """Turn a document's JSON object as it is typed in a place into one that can be kept, where it stands; what means
    nothing here stays as it is and is said."""
    faults = []
    for spelt in spelt_in(raw) if habits.rewrites else ():
        try:
            spelt.holder[spelt.key] = spelt.turned(habits, to_document, as_document)
        except NotationError as problem:
            faults.append(
                Fault(spelt.path, problem.code, problem.message, problem.place, problem.length, problem.instead)
            )
    return faults


def to_place(raw: Any, habits: Habits) -> None:
    """Turn a document's JSON object into one as it is read in a place, where it stands."""
    for spelt in spelt_in(raw) if habits.rewrites else ():
        spelt.holder[spelt.key] = spelt.turned(habits, from_document, as_read)
