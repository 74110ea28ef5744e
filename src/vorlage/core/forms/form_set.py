"""Making forms from a plan: different numbers, the same marks, and every key proved."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import asdict, dataclass
from fractions import Fraction
from functools import lru_cache
from hashlib import blake2b
from html import escape
from operator import add
from typing import Any

from ..algebra import EvaluationError
from ..answers import shown_marks
from ..errors import CoreError
from ..notation import USUAL, Habits, NotationError, Settings, line, mathml, read
from ..plans import Plan
from ..questions import COMPONENTS, DrawnQuestion, FrozenDraw, NumberWork, QuestionDrawing, freeze, unworked
from .outlines import Basis, Chosen, Outlines
from .sharing import said

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


@dataclass(frozen=True, slots=True)
class MadeForm:
    """The questions of a form, in the order of its paper."""

    code: str
    items: tuple[MadeItem, ...]
    # its number work, by ``COMPONENTS``, where it was counted as the form was made
    work: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class MadeSet:
    """All forms made together."""

    forms: tuple[MadeForm, ...]
    outlines: Outlines

    def as_json(self) -> dict[str, Any]:
        """The frozen record of every form, for whoever keeps it: what was drawn, and the keys."""
        return {
            "format": "vorlage-forms-3",
            "forms": [{"code": form.code, "items": [item_as_json(item) for item in form.items]} for form in self.forms],
        }


def item_as_json(item: MadeItem) -> dict[str, Any]:
    """A question of a form as it is kept; places and questions count from 1."""
    where = {"place": item.place + 1, "question": item.candidate + 1}
    return {**where, **asdict(item.draw), "keys": [key_as_json(key) for key in item.keys]}


def key_as_json(key: KeyEntry) -> dict[str, Any]:
    """A key as it is kept; its marks are text, a decimal or a fraction, so that they are exact."""
    return {**asdict(key), "marks": marks_text(key.marks)}


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


def make_forms(plan: Plan, count: int, seed: str, progress: Callable[[int], None] = lambda made: None) -> MadeSet:
    """``count`` forms of a plan, the same for the same seed.

    ``progress`` is told how many forms are made; what it raises ends the work. Raises ``KeyFailure`` when a key fails
    its own check, ``DrawError`` when a question cannot be drawn, ``PlanError`` when the plan leads to no form.
    """
    chosen = outlined(plan, count, seed)
    forms = []
    for form in drawn_forms(plan, chosen, seed, range(count)):
        forms.append(form)
        progress(len(forms))
    return MadeSet(tuple(forms), chosen)


def outlined(
    plan: Plan, count: int, seed: str, basis: Basis | None = None,
    progress: Callable[[int], None] = lambda done: None,
) -> Outlines:  # fmt: skip
    """Which questions and draws each of ``count`` forms gets; see ``choosing.choose``."""
    # what it needs is large, and is loaded only where forms are made
    from .choosing import choose

    if not 1 <= count <= MAXIMUM_FORMS:
        raise ValueError(f"From 1 to {MAXIMUM_FORMS} forms can be made at once.")
    return choose(plan, count, seed, basis or Basis(), progress)


def drawn_forms(
    plan: Plan, chosen: Outlines, seed: str, numbers: Iterable[int], counted: bool = False
) -> Iterator[MadeForm]:
    """Some of the forms of a plan, by their numbers from 0, their keys proved; raises as ``make_forms``. Their number
    work is ``counted`` where nobody has done so before."""
    drawings = {
        (position, k): QuestionDrawing(each.question, each.key, each.revision)
        for position, place in enumerate(plan.places)
        for k, each in enumerate(place.candidates)
    }
    works = {where: NumberWork(each.question) for where, each in drawings.items()} if counted else {}
    codes = form_codes(seed, len(chosen.forms))
    for number in numbers:
        items, work = [], [0.0] * (len(COMPONENTS) if counted else 0)
        for each in chosen.forms[number]:
            drawn, item = make_item(plan, drawings, each, codes[number])
            items.append(item)
            if counted:
                work = list(map(add, work, works[each.place, each.candidate].of(drawn)))
        yield MadeForm(codes[number], tuple(items), tuple(work))


Drawings = Mapping[tuple[int, int], QuestionDrawing]


def make_item(plan: Plan, drawings: Drawings, chosen: Chosen, code: str) -> tuple[DrawnQuestion, MadeItem]:
    """One question of a form as it was drawn and as it is kept, its keys proved through the checker."""
    place, candidate, draw = chosen.place, chosen.candidate, chosen.draw
    drawn = drawings[place, candidate].draw(draw)
    for name, figure in drawn.figures.items():
        if isinstance(figure, EvaluationError):
            raise KeyFailure(code, place, 0, draw, f"figure {name} cannot be drawn: {figure.message}")
    for where, formula, reason in unworked(drawn, solutions=False):
        raise KeyFailure(code, place, 0, draw, f"{formula} in {where} cannot be worked out: {reason}")
    factor = plan.factor(place, candidate)
    keys = tuple(proved_key(drawn, part, code, place, factor) for part in range(len(drawn.answers)))
    return drawn, MadeItem(place, candidate, chosen.slot, freeze(drawn), keys)


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


def shared_answers(forms: Sequence[MadeForm]) -> set[tuple[int, int, int]]:
    """The (form, item, part) triples whose answer another form has in the same place; an item is counted as it stands
    on its paper."""
    seen: dict[tuple[int, int, str], list[tuple[int, int]]] = {}
    for number, form in enumerate(forms):
        for position, item in enumerate(form.items):
            for part, key in enumerate(item.keys):
                if key.says:
                    seen.setdefault((item.place, part, key.says), []).append((number, position))
    return {
        (number, position, part)
        for (_, part, _), places in seen.items()
        if len({number for number, _ in places}) > 1
        for number, position in places
    }
