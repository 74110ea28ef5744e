"""Lists: ``3 of 1..20``, ``4 of 1..6 repeats``, ``shuffle of 1, 2, 3``, ``8 samples of normal(20, 4)``."""

from __future__ import annotations

import re
from dataclasses import dataclass
from math import perm

from ...algebra import Value
from ...notation import Collection
from ..errors import DrawError
from .base import DefinitionKind, Reading, Source
from .choice import Choice
from .reading import listed

MAXIMUM_LIST = 60
SEVERAL = re.compile(r"\s*(\d{1,3}) of\b")
SHUFFLE = re.compile(r"\s*shuffle of\b")
SAMPLES = re.compile(r"\s*(\d{1,3}) samples? of\b")
REPEATS = re.compile(r"\s+repeats?\s*\Z")


@dataclass(frozen=True, slots=True)
class Several(Source):
    """A list of values drawn from one source, without repeats unless they are asked for."""

    source: Source
    count: int
    repeats: bool = False

    @property
    def size(self) -> int:
        return self.source.size**self.count if self.repeats else perm(self.source.size, self.count)

    def value(self, position: int) -> Value:
        places: list[int] = []
        for k in range(self.count):
            position, place = divmod(position, self.source.size if self.repeats else self.source.size - k)
            if not self.repeats:
                # the place counts among those that are still free
                for taken in sorted(places):
                    place += taken <= place
            places.append(place)
        return Collection("list", tuple(self.source.item(place) for place in places))

    @property
    def is_numeric(self) -> bool:
        return False


class Lists(DefinitionKind):
    words = ("shuffle of ",)

    def begins(self, text: str) -> bool:
        return head_of(text) is not None

    def read(self, text: str, start: int, reading: Reading) -> Several:
        head = head_of(text)
        if head is None:
            raise DrawError("empty_choice", "A list is drawn as `3 of 1..20`.", length=len(text))
        repeats = REPEATS.search(text)
        written = text[: repeats.start()] if repeats else text
        source = self.source(written, head.end(), reading)
        if not source.size:
            raise DrawError("empty_choice", f"`{head[0].strip()}` needs values, such as 1..20.", length=len(text))
        count = source.size if head.re is SHUFFLE else int(head[1])
        again = bool(repeats) or head.re is SAMPLES or source.continuous
        if not 1 <= count <= MAXIMUM_LIST:
            raise DrawError("too_many", f"A list has from 1 to {MAXIMUM_LIST} values.", length=head.end())
        if not again and count > source.size:
            message = f"There are only {source.size} different values; write “repeats” behind them to use them again."
            raise DrawError("too_few", message, length=len(text))
        return Several(source, count, again)

    def source(self, text: str, start: int, reading: Reading) -> Source:
        """What the values of a list are drawn from: values that stand there, or a kind that lists can be drawn
        from."""
        for kind in reading.kinds:
            if kind.in_lists and kind.begins(text[start:]):
                source = kind.read(text, start, reading)
                assert isinstance(source, Source)
                return source
        return Choice(listed(text, start, reading.settings))


def head_of(text: str) -> re.Match[str] | None:
    return SAMPLES.match(text) or SEVERAL.match(text) or SHUFFLE.match(text)
