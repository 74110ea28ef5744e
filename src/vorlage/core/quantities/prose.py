"""Quantities in plain sentences: the decimal mark of ``9.81 N/kg`` follows the habits of a place as that of maths does.

Other numbers in prose stay as they are typed: 10.30 may be a time, and 2.5 a chapter.
"""

from __future__ import annotations

import re

from ..notation import SPAN, Habits
from .units import is_unit

NUMBER = re.compile(
    r"(?<![\w.,])(?P<whole>\d+)[.,](?P<decimals>\d+)(?P<gap>(?:[ \u00a0\u202f]|&nbsp;)?)(?=(?P<unit>[^\s\d&][^\s]*))"
)
# Words of a sentence that are symbols of units as well.
WORDS = frozenset("a as at am in".split())
SIGNS = frozenset("%°‰")


def quantities_written(text: str, mark: str) -> str:
    """A question text with ``mark`` in the quantities of its prose; its maths stays as it is.

    >>> quantities_written("Take 9.81 N/kg, at 10.30, for $2.5 m$ or 4.18 kJ/(kg K).", ",")
    'Take 9,81 N/kg, at 10.30, for $2.5 m$ or 4,18 kJ/(kg K).'
    """
    pieces, end = "", 0
    for span in SPAN.finditer(text):
        pieces += in_prose(text[end : span.start()], mark) + span[0]
        end = span.end()
    return pieces + in_prose(text[end:], mark)


def in_prose(text: str, mark: str) -> str:
    def turned(found: re.Match[str]) -> str:
        unit = found["unit"]
        if unit.count("(") > unit.count(")"):
            # kJ/(kg K) goes on behind the space
            unit = text[found.end() : text.find(")", found.end()) + 1] or unit
        # what keeps a unit on one line is no part of it
        unit = unit.replace("\N{WORD JOINER}", "")
        words = {unit.rstrip(".,;:!?"), unit.rstrip(".,;:!?)")} - WORDS
        known = unit[0] in SIGNS or any(map(is_unit, words))
        return f"{found['whole']}{mark}{found['decimals']}{found['gap']}" if known else found[0]

    return NUMBER.sub(turned, text)


def as_document(text: str, habits: Habits) -> str:
    """A text as it is typed in a place, its quantities with the point."""
    return quantities_written(text, ".") if habits.decimal_mark == "comma" and "," in text else text


def as_read(text: str, habits: Habits) -> str:
    """A text of a document, its quantities as they are written in a place."""
    return quantities_written(text, ",") if habits.decimal_mark == "comma" and "." in text else text
