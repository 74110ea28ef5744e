"""Writing what a group has in common into its question, with its share and its words: as a slip, a band, a near-miss
that earns something, or words that are accepted."""

from __future__ import annotations

from copy import deepcopy
from fractions import Fraction
from typing import Any

from vorlage.core.answers import NEAR_MISSES
from vorlage.core.marking import Group
from vorlage.core.questions import DocumentError, load_document
from vorlage.web.bank.models import Question, Revision
from vorlage.web.people.models import User

# Per cent of the key that bands are made of: the least that holds all answers of a group.
WIDTHS = ("0.5", "1", "1.5", "2", "3", "4", "5", "6", "8", "10", "12", "15", "20", "25", "30", "40", "50")


class SlipRefused(ValueError):
    """What a group has in common cannot be said in its question."""


def written_as(group: Group, nearest: float | None) -> str:
    """What a group can be written into its question as; empty where there is nothing. ``nearest`` is how far from its
    key the furthest of its answers is, in per cent of the key, where all are numbers."""
    if group.kind in {"formula", "slip"}:
        return "slip"
    if group.kind == "near":
        return "near-miss"
    if group.kind in {"band", "value", "one"} and width_for(nearest):
        return "band"
    return "accepted answer" if group.kind == "words" else ""


def width_for(nearest: float | None) -> str:
    """The width of a band that reaches so far, in per cent; empty where none does."""
    if not nearest:
        return ""
    return next((each for each in WIDTHS if nearest <= float(each)), "")


def written_into(
    question: Question, part: str, group: Group, nearest: float | None, share: Fraction, words: str, by: User
) -> Revision:
    """A new revision of a question in which a group has its share. Raises ``SlipRefused``, or ``Unsound`` where the
    question could not be kept so."""
    raw = deepcopy(question.newest.document)
    own = next((each for each in raw["parts"] if each.get("id") == part), None)
    if own is None:
        raise SlipRefused("its newest revision has no such part any more.")
    answer, what, said = own["answer"], written_as(group, nearest), {"share": str(share), "feedback": words}
    if what == "slip":
        key = group.formula or group.words.removeprefix("slip ")
        put(answer, "slips", {"key": key} | said)
    elif what == "near-miss":
        name = next(name for name, each in NEAR_MISSES.items() if each.words == group.words)
        answer["recognise"] = [each for each in answer.get("recognise", []) if name not in (each, named(each))]
        answer["recognise"].append({"name": name, "share": str(share)})
    elif what == "band":
        put(answer, "bands", {"tolerance": {"mode": "relative", "value": f"{width_for(nearest)}%"}} | said)
    elif what and share == 1:
        answer["accept"] = [*answer.get("accept", []), group.words]
    elif what:
        raise SlipRefused("other words are accepted in full or not at all: give them all marks.")
    else:
        raise SlipRefused("what these answers have in common is no formula of the parameters.")
    try:
        document = load_document(raw)
    except DocumentError as problem:
        raise SlipRefused(str(problem)) from problem
    note = f"From marking: {group.formula or group.words or what} earns {share}"[:200]
    return Question.save_revision(question.department, by, document, question.filing, question, note=note)


def named(near_miss: Any) -> str:
    return str(near_miss.get("name", "")) if isinstance(near_miss, dict) else ""


def put(answer: dict[str, Any], name: str, row: dict[str, Any]) -> None:
    """Put a row among others, in place of one that is about the same answers."""
    answer[name] = [each for each in answer.get(name, []) if about(each) != about(row)] + [row]


def about(row: dict[str, Any]) -> tuple[str, ...]:
    """The answers that a slip or a band is about."""
    tolerance = row.get("tolerance") or {}
    return str(row.get("key", "")), str(tolerance.get("mode", "")), str(tolerance.get("value", ""))
