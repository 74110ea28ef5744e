"""Listed values: ``one of 3, 5, 7``, ``one of "oak", "steel"``."""

from __future__ import annotations

import re
from dataclasses import dataclass

from ...algebra import Value
from ...notation import Node
from ..errors import DrawError
from .base import DefinitionKind, Reading, Source
from .reading import listed

ONE_OF = re.compile(r"\s*one of\b")


@dataclass(frozen=True, slots=True)
class Choice(Source):
    """Listed values, each as likely as the others."""

    values: tuple[Value, ...]

    @property
    def size(self) -> int:
        return len(self.values)

    def value(self, position: int) -> Value:
        return self.values[position]

    @property
    def is_numeric(self) -> bool:
        return not any(isinstance(value, Node) for value in self.values)

    @property
    def is_number(self) -> bool:
        return not isinstance(self.values[0], str)


class Choices(DefinitionKind):
    words = ("one of ",)

    def begins(self, text: str) -> bool:
        return ONE_OF.match(text) is not None

    def read(self, text: str, start: int, reading: Reading) -> Choice:
        begun = ONE_OF.match(text, start)
        values = listed(text, begun.end() if begun else start, reading.settings)
        if not values:
            raise DrawError("empty_choice", "`one of` needs values, such as `one of 3, 5, 7`.", length=len(text))
        return Choice(values)
