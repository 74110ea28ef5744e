"""Words, units and switches as Typst markup: nothing a person typed becomes markup of its own."""

from __future__ import annotations

import re
from functools import lru_cache

from ..notation import quoted
from ..quantities import is_unit
from ..text import NARROW, letters_apart, printable
from ..text.printers.typst import literal_text


def said(switch: bool) -> str:
    """A switch as Typst has it."""
    return str(switch).lower()


def content(text: str) -> str:
    """A text as it stands; what no font has a sign for is left out, since nothing else could be printed then."""
    return f"[#{quoted(printable(text))};]"


RAISED = re.compile(r"\^([-−]?\d+)")


def words_or_unit(text: str) -> str:
    """What stands after an answer space, as text: the powers of a unit are raised."""
    shown = ""
    for k, piece in enumerate(RAISED.split(text.replace("*", "·")) if "^" in text else [text]):
        shown += f"#raised({quoted(piece.replace('-', '−'))});" if k % 2 else literal_text(piece)
    return f"[{shown}]"


def letters_set(text: str) -> str:
    """What stands before an answer space: letters by themselves are set as in maths."""
    shown = (f"#emph({quoted(piece)});" if letter else f"#{quoted(piece)};" for piece, letter in letters_apart(text))
    return f"[{''.join(shown)}]"


# What is taller than a line of words, as formulas are written.
TALL = re.compile(r"\b(?:frac|binom|mat|vec|cases)\(|\b(?:sum|product|integral)[_ ]")


def is_tall(markup: str) -> bool:
    """Whether something in it may be taller than a line of words."""
    return TALL.search(markup) is not None


# The paragraph with which a text begins: how it is set and what is in it.
FIRST = re.compile(r"#(par|lines-with-maths)\[(.*?)\]\n\n", re.DOTALL)


def first_line(text: str, around: str = "asked") -> str:
    """The beginning of a question as an argument of it, so that its number stands on its first line; nothing where
    nothing in it is tall. ``around`` is what the text is set in."""
    found = FIRST.match(text)
    if found is None or not is_tall(found[2]):
        return ""
    return f"first: begun => {around}[#{found[1]}[#begun;{found[2]}]], "


@lru_cache(maxsize=256)
def unit_after(text: str) -> str:
    """What stands behind a key: a unit as close as in a formula, words as far as words."""
    return f"#{quoted(NARROW if is_unit(text) else ' ')};#{words_or_unit(text)}" if text else ""
