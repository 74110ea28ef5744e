"""A fresh draw of one question for one student: what they have not had before, with every key proved."""

from __future__ import annotations

import json
import time
from collections.abc import Container
from dataclasses import dataclass
from itertools import islice

from ..draws import DrawError
from ..plans import Place, Plan
from ..questions import FrozenDraw, QuestionDrawing
from .choosing import first_draw
from .items import KeyFailure, MadeItem, made_item
from .outlines import Chosen
from .sharing import draws_from

# So many draws are looked through for one that is new, for so many seconds at most.
MOST, SECONDS = 80, 3.0


class NoFreshDraw(LookupError):
    """No draw of a question can be given: none is admissible, or the key of none is proved."""


@dataclass(frozen=True, slots=True)
class FreshItem:
    """A question with a draw for one student; ``repeats`` says that there was none but those they have had."""

    item: MadeItem
    repeats: bool


def fresh_item(place: Place, seed: str, had: Container[str]) -> FreshItem:
    """A draw of a question whose values (as ``values_text`` has them) were not had before, looked for from where the
    seed says on; where there is none, one that was. Raises ``NoFreshDraw``."""
    plan = Plan("", [place])
    drawing = QuestionDrawing(place.question, place.key, place.revision)
    until, again = time.monotonic() + SECONDS, None
    for number in islice(draws_from(place, first_draw(place, seed, 0)), MOST):
        try:
            item = made_item(plan, drawing.draw(number), Chosen(0, 0, number, 0), "")
        except (DrawError, KeyFailure):
            item = None
        if item is not None and values_text(item.draw) not in had:
            return FreshItem(item, repeats=False)
        again = again or item
        if time.monotonic() > until:
            break
    if again is None:
        raise NoFreshDraw(place.question.document.title)
    return FreshItem(again, repeats=True)


def values_text(draw: FrozenDraw) -> str:
    """The values of a draw as one text, the same for the same values."""
    return json.dumps(draw.values, sort_keys=True)
