"""Where the number ends and the unit begins, in an answer field that expects a quantity."""

from __future__ import annotations

import re

from ..notation import NotationError, Settings, names_in, read
from .units import MAXIMUM_LENGTH, read_unit

LITERAL = re.compile(
    r"\s*[-−+]?\s*(?:\d{1,3}(?:[\u00a0\u2009\u202f ]\d{3})+|\d+)?(?:[.,]\d+)?"
    r"(?:[eE][-−+]?\d+|\s*[×*·]\s*10(?:\^\s*[({]?\s*[-−+]?\d+\s*[)}]?|[⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺]+))?"
)
BRACKETED = re.compile(r"(?P<amount>.*\S)\s*\[(?P<unit>[^\[\]]*)\]\s*\Z", re.DOTALL)


def split_quantity(text: str, settings: Settings) -> tuple[str, str]:
    """The amount and the unit of what was typed; the unit is empty when there is none.

    Raises ``NotationError`` when what follows the number is no unit.

    >>> split_quantity("9.81 m/s^2", Settings()), split_quantity("12kN m", Settings())
    (('9.81', 'm/s^2'), ('12', 'kN m'))
    """
    bracketed = BRACKETED.match(text)
    if bracketed:
        return bracketed["amount"].strip(), bracketed["unit"].strip()
    literal = LITERAL.match(text)
    end = literal.end() if literal and any(character.isdigit() for character in literal[0]) else 0
    rest = text[end:].strip()
    if end and not rest:
        return text.strip(), ""
    if end and is_unit(rest):
        return text[:end].strip(), rest
    for place in range(max(1, end, len(text) - MAXIMUM_LENGTH), len(text)):
        if not re.match(r"[A-Za-zµμΩ°%℃ℓÅ]", text[place]) or (place and re.match(r"[A-Za-zµμΩℓÅ_\\]", text[place - 1])):
            continue
        amount, unit = text[:place].strip(), text[place:].strip()
        if amount and is_unit(unit) and is_amount(amount, settings):
            return amount, unit
    if is_unit(text.strip()):
        raise NotationError("no_number", "The number is missing before this unit.", 0)
    if end and re.match(r"[A-Za-zµμΩ°℃ℓÅ]", rest):
        # what follows the number can only be meant as a unit: say what is wrong with it
        try:
            read_unit(rest)
        except NotationError as problem:
            raise NotationError(
                problem.code, problem.message, text.find(rest) + problem.place, problem.length
            ) from None
    return text.strip(), ""


def is_unit(text: str) -> bool:
    try:
        read_unit(text)
    except NotationError:
        return False
    return True


def is_amount(text: str, settings: Settings) -> bool:
    try:
        return not names_in(read(text, settings))
    except NotationError:
        return False
