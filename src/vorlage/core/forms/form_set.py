"""Making forms from a plan: different numbers, the same marks, and every key proved."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from hashlib import blake2b
from typing import Any

from ..plans import Plan
from ..questions import QuestionDrawing
from .items import MadeItem, item_as_json, made_item
from .outlines import Basis, Outlines

# Letters and figures that nobody confuses on paper.
CODE_ALPHABET = "ACDEFHJKLMNPRTUVWXY3479"
MAXIMUM_FORMS = 1000


@dataclass(frozen=True, slots=True)
class MadeForm:
    """The questions of a form, in the order of its paper."""

    code: str
    items: tuple[MadeItem, ...]


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


def drawn_forms(plan: Plan, chosen: Outlines, seed: str, numbers: Iterable[int]) -> Iterator[MadeForm]:
    """Some of the forms of a plan, by their numbers from 0, their keys proved; raises as ``make_forms``."""
    drawings = {
        (position, k): QuestionDrawing(each.question, each.key, each.revision)
        for position, place in enumerate(plan.places)
        for k, each in enumerate(place.candidates)
    }
    codes = form_codes(seed, len(chosen.forms))
    for number in numbers:
        items = []
        for each in chosen.forms[number]:
            already = chosen.made.get(each.drawn)
            if already is None:
                drawn = drawings[each.place, each.candidate].draw(each.draw)
                items.append(made_item(plan, drawn, each, codes[number]))
            else:
                items.append(replace(already, slot=each.slot))
        yield MadeForm(codes[number], tuple(items))


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
