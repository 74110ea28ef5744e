"""Making forms from a plan: different numbers, the same marks, and every key proved."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import asdict, dataclass, field
from decimal import Decimal
from functools import lru_cache
from hashlib import blake2b
from html import escape
from typing import Any

from ..algebra import EvaluationError
from ..draws import DrawError
from ..errors import CoreError
from ..notation import USUAL, Habits, NotationError, Settings, line, mathml, read
from ..questions import DrawnQuestion, FrozenDraw, QuestionDrawing, freeze, unworked
from .plan import Place, Plan

# Letters and figures that nobody confuses on paper.
CODE_ALPHABET = "ACDEFHJKLMNPRTUVWXY3479"
MAXIMUM_FORMS = 1000


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
    marks: Decimal
    # what stands after the answer space
    after: str = ""


@dataclass(frozen=True, slots=True)
class MadeItem:
    """One place of a form: what was drawn for it, and the keys of its parts."""

    draw: FrozenDraw
    keys: tuple[KeyEntry, ...]


@dataclass(frozen=True, slots=True)
class MadeForm:
    code: str
    items: tuple[MadeItem, ...]


@dataclass(frozen=True, slots=True)
class MadeSet:
    """All forms made together. ``repeats`` lists the places whose questions have too few different draws."""

    forms: tuple[MadeForm, ...]
    repeats: tuple[int, ...] = field(default=())

    def as_json(self) -> dict[str, Any]:
        """The frozen record of every form, for whoever keeps it: what was drawn, and the keys."""
        return {
            "format": "vorlage-forms-2",
            "forms": [
                {
                    "code": form.code,
                    "items": [
                        {**asdict(item.draw), "keys": [key_as_json(key) for key in item.keys]} for item in form.items
                    ],
                }
                for form in self.forms
            ],
        }


def key_as_json(key: KeyEntry) -> dict[str, Any]:
    """A key as it is kept; its marks are text, so that none of their places is lost."""
    return {**asdict(key), "marks": str(key.marks)}


def shown_key(key: str, habits: Habits = USUAL) -> str:
    """A frozen key as markup for a table of keys: MathML, or what stands there where it is no line maths."""
    try:
        return mathml(read(key, Settings()), habits.style)
    except NotationError:
        return escape(key)


@lru_cache(maxsize=4)
def form_codes(seed: str, count: int) -> tuple[str, ...]:
    """Short codes, all different, the same for the same seed."""
    codes: list[str] = []
    taken: set[str] = set()
    counter = 0
    while len(codes) < count:
        digest = blake2b(f"{seed}\x1f{counter}".encode(), digest_size=8, person=b"vorlage codes").digest()
        number = int.from_bytes(digest, "big")
        code = ""
        for _ in range(3):
            number, position = divmod(number, len(CODE_ALPHABET))
            code += CODE_ALPHABET[position]
        counter += 1
        if code not in taken and any(letter.isdigit() for letter in code):
            taken.add(code)
            codes.append(code)
    return tuple(codes)


def first_draw(place: Place, seed: str, position: int, count: int) -> int:
    """Where a form set begins in a question's draws, so that two sets of one test differ.

    As many draws as there are forms follow without a repeat whenever the question has that many; behind the last draw
    comes the first. A place can say itself where it begins.
    """
    if place.first is not None:
        return place.first
    digest = blake2b(f"{seed}\x1f{position}\x1f{place.key}".encode(), digest_size=8, person=b"vorlage start").digest()
    number = int.from_bytes(digest, "big")
    available = place.question.parameters.count
    if available is None:
        return 1 + number % 1_000_000
    if available <= count:
        return 1
    return 1 + number % (available - count + 1)


def following(place: Place, start: int, number: int, count: int) -> int:
    """The draw of a form by its number from 0."""
    available = place.question.parameters.count
    if available is None or available <= count:
        return start + number
    return 1 + (start + number - 1) % available


def make_forms(plan: Plan, count: int, seed: str, progress: Callable[[int], None] = lambda made: None) -> MadeSet:
    """``count`` forms of a plan, the same for the same seed.

    ``progress`` is told how many forms are made; what it raises ends the work. Raises ``KeyFailure`` when a key fails
    its own check, ``DrawError`` when a question cannot be drawn.
    """
    forms = []
    for form in drawn_forms(plan, count, seed, range(count)):
        forms.append(form)
        progress(len(forms))
    return MadeSet(tuple(forms), repeated(plan, count))


def drawn_forms(plan: Plan, count: int, seed: str, numbers: range) -> Iterator[MadeForm]:
    """Some of the ``count`` forms of a plan, by their numbers from 0, their keys proved; raises as ``make_forms``."""
    if not 1 <= count <= MAXIMUM_FORMS:
        raise ValueError(f"From 1 to {MAXIMUM_FORMS} forms can be made at once.")
    for position, place in enumerate(plan.places, start=1):
        if place.question.problems:
            raise DrawError("unsound", f"Question {position} cannot be used: {place.question.problems[0].message}")
    drawings = [QuestionDrawing(place.question, place.key, place.revision) for place in plan.places]
    starts = [first_draw(place, seed, position, count) for position, place in enumerate(plan.places)]
    codes = form_codes(seed, count)
    for number in numbers:
        items = tuple(
            make_item(drawing, following(place, start, number, count), codes[number], position)
            for position, (place, drawing, start) in enumerate(zip(plan.places, drawings, starts))
        )
        yield MadeForm(codes[number], items)


def repeated(plan: Plan, count: int) -> tuple[int, ...]:
    """The places whose questions have fewer different draws than there are forms."""
    counts = [place.question.parameters.count for place in plan.places]
    return tuple(k for k, available in enumerate(counts) if available is not None and available < count)


def make_item(drawing: QuestionDrawing, draw: int, code: str, position: int) -> MadeItem:
    """One place of a form, its keys proved through the checker."""
    drawn = drawing.draw(draw)
    for name, figure in drawn.figures.items():
        if isinstance(figure, EvaluationError):
            raise KeyFailure(code, position, 0, draw, f"figure {name} cannot be drawn: {figure.message}")
    for where, formula, reason in unworked(drawn, solutions=False):
        raise KeyFailure(code, position, 0, draw, f"{formula} in {where} cannot be worked out: {reason}")
    keys = tuple(proved_key(drawn, part, code, position) for part in range(len(drawn.answers)))
    return MadeItem(freeze(drawn), keys)


def proved_key(drawn: DrawnQuestion, part: int, code: str, position: int) -> KeyEntry:
    answer = drawn.answers[part]
    described = drawn.question.document.parts[part]
    if answer is None:
        reason = drawn.failures.get(part) or next(iter(drawn.draw.problems.values()), "it has no value")
        raise KeyFailure(code, position, part, drawn.draw.number, reason)
    printed = line(answer.key_tree())
    reason = answer.fault(printed)
    if reason:
        raise KeyFailure(code, position, part, drawn.draw.number, reason)
    return KeyEntry(described.id, printed, answer.closeness(), described.marks, described.after)


def shared_answers(form_set: MadeSet) -> set[tuple[int, int, int]]:
    """The (form, place, part) triples whose key another form has in the same place."""
    seen: dict[tuple[int, int, str], list[int]] = {}
    for number, form in enumerate(form_set.forms):
        for place, item in enumerate(form.items):
            for part, key in enumerate(item.keys):
                seen.setdefault((place, part, key.key), []).append(number)
    return {
        (number, place, part) for (place, part, _), numbers in seen.items() if len(numbers) > 1 for number in numbers
    }
