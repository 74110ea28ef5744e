"""What answers that are chosen have in common: options, pairs, an order, named by numbers and letters.

A response names options by their places in the document, from 1: ``2`` or ``[1, 3]``; an object ``{"1": 2}`` for
pairs. On paper and on the desk options have letters in the order in which they are shown; ``letters`` of a drawn
answer turns one into the other.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any

from ..algebra import Certainty
from ..notation import NotationError
from .answer import LETTERS
from .asking import Input
from .spaces import Entry

PROVED, REFUTED = Certainty("proved"), Certainty("refuted")


class Unreadable(NotationError):
    """A response that names no options."""

    def __init__(self, message: str) -> None:
        super().__init__("no_option", message)


def places(response: Any, order: tuple[int, ...], count: int) -> list[int]:
    """The options that a response names, as places from 0.

    A number counts from 1 in the document's order; a letter in the order shown.
    """
    items = response if isinstance(response, list) else re.split(r"[\s,;]+", str(response).strip().removesuffix("."))
    if len(items) == 1 and isinstance(items[0], str) and len(items[0]) > 1 and items[0].isalpha():
        # letters without anything between
        items = list(items[0])
    found = []
    for item in items:
        text = str(item).strip().upper()
        if not text:
            continue
        if (place := place_number(text)) and place <= count:
            found.append(place - 1)
        elif len(text) == 1 and text in LETTERS[:count]:
            found.append(order[LETTERS.index(text)])
        else:
            raise Unreadable(
                f"“{str(item)[:20]}” is none of the options: answer with letters from A to {LETTERS[count - 1]}."
            )
    return found


def place_number(text: str) -> int:
    """A place from 1; 0 for what is none, or is longer than any."""
    return int(text) if text.isdecimal() and len(text) < 4 else 0


def is_blank(response: Any) -> bool:
    return response is None or response in ([], {}) or (isinstance(response, str) and not response.strip())


def lettered(order: Iterable[int], first: int = 0) -> tuple[Entry, ...]:
    """What is offered with its letters, in the order shown; ``first`` is the place of the first of it."""
    return tuple((LETTERS[k], first + place) for k, place in enumerate(order))


# the columns of what is offered, as its author writes it

OFFERED = Input("text", words="Option, left side or item", example="$m*g$ N", holds="text")
SHARE = Input(
    "share", words="Share of the marks when chosen", example="0", width="tiny", mono=True, holds="number",
    help="Share of the marks when chosen: 1, 1/2, -1/4",
)  # fmt: skip


def written_rows(rows: Any) -> list[dict[str, str]]:
    """The rows of what is offered in which something stands."""
    return [row for row in rows or () if row.get("text", "").strip() or row.get("pair", "").strip()]
