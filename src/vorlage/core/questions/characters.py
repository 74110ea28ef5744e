"""The characters of a question document: what was pasted is put right, and what paper cannot show is told."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Any

from ..budget import Path
from ..text import put_right, unprintable

if TYPE_CHECKING:
    from .document import QuestionDocument

# What no paper shows.
NOT_PRINTED = frozenset(["note", "pins", "trials", "hints", "feedback"])


def put_right_in(raw: Any) -> Any:
    """A document's JSON object with all its texts put right."""
    if isinstance(raw, str):
        return put_right(raw)
    if isinstance(raw, dict):
        return {key: put_right_in(value) for key, value in raw.items()}
    if isinstance(raw, list | tuple):
        return [put_right_in(value) for value in raw]
    return raw


def texts_in(raw: Any, path: Path = ()) -> Iterator[tuple[Path, str]]:
    """Every text that is printed, with the path to it."""
    if isinstance(raw, str):
        yield path, raw
    elif isinstance(raw, dict):
        for key, value in raw.items():
            if key not in NOT_PRINTED:
                yield from texts_in(value, (*path, key))
    elif isinstance(raw, list | tuple):
        for place, value in enumerate(raw):
            yield from texts_in(value, (*path, place))


def unprintable_in(document: QuestionDocument) -> Iterator[tuple[Path, int, int, str, str]]:
    """What of a document cannot be printed: path, place, length, what is said, and what could stand there."""
    if document.model_dump_json().isascii():
        return
    for path, text in texts_in(document.model_dump(mode="json")):
        for found in unprintable(text):
            yield path, found.place, found.length, found.message, found.instead
