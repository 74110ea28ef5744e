"""The characters of a question document that paper cannot show."""

from __future__ import annotations

import re
from collections.abc import Iterator
from typing import Any

from ..budget import Path
from ..text import unprintable
from .document import QuestionDocument
from .local import spelt_in

MATHS = re.compile(r"(?<!\\)\$[^$]*\$")
QUOTED = re.compile(r'"([^"]*)"')
# What no paper shows.
NOT_PRINTED = frozenset(["note", "pins", "trials", "hints", "feedback"])


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
    raw = document.model_dump(mode="json")
    ways = {spelt.path: spelt.way for spelt in spelt_in(raw)}
    for path, text in texts_in(raw):
        for found in unprintable(as_prose(text, ways.get(path, "text"))):
            yield path, found.place, found.length, found.message, found.instead


def as_prose(text: str, way: str) -> str:
    """A text with its maths blanked out, which is read and not printed as it stands; of a line of maths only the words
    between quotation marks are left."""
    if way in {"text", "cell"}:
        return MATHS.sub(lambda found: " " * len(found[0]), text)
    words = [(found.start(1), found[1]) for found in QUOTED.finditer(text)]
    left = " " * len(text)
    for place, word in words:
        left = left[:place] + MATHS.sub(lambda found: " " * len(found[0]), word) + left[place + len(word) :]
    return left
