"""Older formats of the question document, each step to the next one kept for ever."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from copy import deepcopy
from typing import Any, Literal

from ..answers import read_rubric
from ..errors import CoreError
from .identities import identified, members_of

FORMAT: Literal["vorlage-question-3"] = "vorlage-question-3"


class UnknownFormat(CoreError, ValueError):
    """A document of a format that this version does not read."""

    def __init__(self, message: str) -> None:
        super().__init__("unknown_format", message)


def filing_apart(raw: dict[str, Any]) -> dict[str, Any]:
    """From format 1: subject, topic and level were part of the document."""
    filed = {name: raw.pop(name) for name in ("subject", "topic", "level") if name in raw}
    return raw | {"filing": filed} if filed else raw


def filing_under_topics(raw: dict[str, Any]) -> dict[str, Any]:
    """From format 2: one of three subjects and one topic; the calculator and the note were part of the document."""
    filed = raw.pop("filing", {})
    if not isinstance(filed, dict):
        return raw | {"filing": filed}
    subject, topic = filed.pop("subject", ""), filed.pop("topic", "")
    if subject or topic:
        path = [subject or "mathematics", topic]
        filed["topics"] = [[str(path[0]).capitalize(), *filter(None, path[1:])]]
    filed |= {name: raw.pop(name) for name in ("calculator", "note") if name in raw}
    return raw | {"filing": filed} if filed else raw


def in_full(document: dict[str, Any]) -> dict[str, Any]:
    """The document with objects for what may be written as a bare text: items, distractors, the lines of a rubric."""
    for part in members_of(document, "parts"):
        answer = part.get("answer")
        if not isinstance(answer, dict):
            continue
        for name in ("items", "distractors"):
            offered = answer.get(name)
            if isinstance(offered, list | tuple):
                answer[name] = [{"text": each} if isinstance(each, str) else each for each in offered]
        if isinstance(answer.get("rubric"), str):
            # lines that cannot be read are told when the document is checked
            with suppress(ValueError):
                answer["rubric"] = read_rubric(answer["rubric"])
    return document


STEPS: dict[str, tuple[str, Callable[[dict[str, Any]], dict[str, Any]]]] = {
    "vorlage-question-1": ("vorlage-question-2", filing_apart),
    "vorlage-question-2": (FORMAT, filing_under_topics),
}
# A document that does not say its format is one of the first, which might leave it out.
FIRST = "vorlage-question-1"


def upgraded(raw: dict[str, Any]) -> dict[str, Any]:
    """The document in the newest format, with an identity for everything that has one; the given one stays as it is.

    Raises ``UnknownFormat``.
    """
    document = deepcopy(raw)
    found = document.get("format", FIRST)
    while found != FORMAT:
        if not isinstance(found, str) or found not in STEPS:
            raise UnknownFormat(f"The format {str(found)[:40]} is not known here: this version reads up to {FORMAT}.")
        found, step = STEPS[found]
        document = step(document)
    return identified(in_full(document | {"format": FORMAT}))
