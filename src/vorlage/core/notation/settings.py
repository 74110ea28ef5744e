"""How line maths is to be read, and the bounds on what is read at all."""

from __future__ import annotations

from dataclasses import dataclass, field

MAXIMUM_LENGTH = 4000
MAXIMUM_DEPTH = 60
MAXIMUM_DIGITS = 400
MAXIMUM_EXPONENT = 5000
MAXIMUM_TOKENS = 1000


@dataclass(frozen=True, slots=True)
class Settings:
    """The reader's settings; they belong to the question or to the paper, never to a guess."""

    # "point" or "comma"
    decimal_mark: str = "point"
    # "radians" or "degrees": what sin(30) means
    angle: str = "radians"
    # whether i is the imaginary unit
    complex: bool = False
    # names longer than a letter that the question declares, and letters that stand for themselves
    names: frozenset[str] = field(default_factory=frozenset)
    # whether a comma at the outermost level separates the items of a list
    lists: bool = False
    # whether : divides
    colon: bool = False


PLAIN = Settings()
