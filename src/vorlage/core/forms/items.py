"""One question of a form: what was drawn for it, and its keys, each proved."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, fields
from fractions import Fraction
from html import escape
from typing import Any

from ..algebra import EvaluationError
from ..answers import shown_marks
from ..errors import CoreError
from ..notation import USUAL, Habits, NotationError, Settings, line, mathml, read
from ..plans import Plan
from ..questions import DrawnQuestion, FrozenDraw, freeze, unworked
from .outlines import Chosen
from .sharing import said


class KeyFailure(CoreError, ValueError):
    """A key that does not pass its own check; the form set is not frozen."""

    def __init__(self, form: str, place: int, part: int, draw: int, reason: str) -> None:
        super().__init__(
            "key_fails",
            f"Form {form}, question {place + 1}, part {part + 1}: in draw {draw} the key does not pass its own "
            f"check ({reason}).",
        )
        self.form, self.place, self.part, self.draw, self.reason = form, place, part, draw, reason


@dataclass(frozen=True, slots=True)
class KeyEntry:
    """The key of one part of one form, as it is printed and frozen."""

    # the identity of the part
    part: str
    # line maths
    key: str
    tolerance: str
    # what it is worth in this place, exactly
    marks: Fraction
    # what stands after the answer space
    after: str = ""
    # what the answer says, whatever letter it stands under, for comparing it with those of other forms
    says: str = ""


@dataclass(frozen=True, slots=True)
class MadeItem:
    """One question of a form: which of its place's questions, what was drawn for it, and the keys of its parts."""

    place: int
    candidate: int
    # its number in the order of the plan
    slot: int
    draw: FrozenDraw
    keys: tuple[KeyEntry, ...]


def item_as_json(item: MadeItem) -> dict[str, Any]:
    """A question of a form as it is kept; places and questions count from 1."""
    where = {"place": item.place + 1, "question": item.candidate + 1}
    return {**where, **fields_of(item.draw), "keys": [key_as_json(key) for key in item.keys]}


def key_as_json(key: KeyEntry) -> dict[str, Any]:
    """A key as it is kept; its marks are text, a decimal or a fraction, so that they are exact."""
    return {**fields_of(key), "marks": marks_text(key.marks)}


def fields_of(held: FrozenDraw | KeyEntry) -> dict[str, Any]:
    """What a record holds, by name; its values are plain already, so nothing is copied."""
    return {each.name: getattr(held, each.name) for each in fields(held)}


def kept_key(kept: Mapping[str, Any]) -> KeyEntry:
    """A key from how it was kept, by this version or one before."""
    names = ("part", "key", "tolerance", "after")
    return KeyEntry(**{name: kept[name] for name in names}, marks=Fraction(kept["marks"]), says=kept.get("says", ""))


def marks_text(marks: Fraction) -> str:
    """Marks exactly: as a decimal where that is possible, else as a fraction.

    >>> marks_text(Fraction(5, 2)), marks_text(Fraction(4, 3))
    ('2.5', '4/3')
    """
    shown = shown_marks(marks)
    return str(shown) if Fraction(shown) == marks else str(marks)


# A decimal as keys are printed, and a unit in brackets.
PLAIN = re.compile(r"(-?\d+(?:\.\d+)?)(?: \[(.*)\])?")


def plain_amount(key: str) -> tuple[str, str] | None:
    """A frozen key as a decimal, with as many places as it is printed with, and its unit; None where it is none.

    >>> plain_amount("-2.10 [m/s]"), plain_amount("2 x")
    (('-2.10', 'm/s'), None)
    """
    found = PLAIN.fullmatch(key)
    return (found[1], found[2] or "") if found else None


def shown_key(key: str, habits: Habits = USUAL) -> str:
    """A frozen key as markup for a table of keys: MathML, or what stands there where it is no line maths."""
    try:
        return mathml(read(key, Settings()), habits.style)
    except NotationError:
        return escape(key)


def made_item(plan: Plan, drawn: DrawnQuestion, chosen: Chosen, code: str) -> MadeItem:
    """One question of a form as it is kept, its keys proved through the checker. Raises ``KeyFailure``."""
    place, candidate, draw = chosen.place, chosen.candidate, chosen.draw
    for name, figure in drawn.figures.items():
        if isinstance(figure, EvaluationError):
            raise KeyFailure(code, place, 0, draw, f"figure {name} cannot be drawn: {figure.message}")
    for where, formula, reason in unworked(drawn, solutions=False):
        raise KeyFailure(code, place, 0, draw, f"{formula} in {where} cannot be worked out: {reason}")
    factor = plan.factor(place, candidate)
    keys = tuple(proved_key(drawn, part, code, place, factor) for part in range(len(drawn.answers)))
    return MadeItem(place, candidate, chosen.slot, freeze(drawn), keys)


def proved_key(drawn: DrawnQuestion, part: int, code: str, position: int, factor: Fraction) -> KeyEntry:
    answer = drawn.answers[part]
    described = drawn.question.document.parts[part]
    if answer is None:
        reason = drawn.failures.get(part) or next(iter(drawn.draw.problems.values()), "it has no value")
        raise KeyFailure(code, position, part, drawn.draw.number, reason)
    printed = line(answer.key_tree())
    reason = answer.fault(printed)
    if reason:
        raise KeyFailure(code, position, part, drawn.draw.number, reason)
    marks = Fraction(described.marks) * factor
    return KeyEntry(described.id, printed, answer.closeness(), marks, described.after, said(drawn, part, printed))
