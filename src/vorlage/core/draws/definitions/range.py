"""Evenly spaced values: ``2..9``, ``0..1 step 0.1 except 0.5``."""

from __future__ import annotations

import re
from dataclasses import dataclass

from flint import fmpq

from ...algebra import Value
from ...notation import Settings
from ..errors import DrawError
from .base import DefinitionKind, Reading, Source
from .reading import constant, listed

MAXIMUM_VALUES = 1_000_000
STEP = re.compile(r"\s+step\b|(?<=\d)step\b")
EXCEPT = re.compile(r"\s+except\b")


@dataclass(frozen=True, slots=True)
class Range(Source):
    """Evenly spaced values ``low, low + step, …`` with some left out."""

    low: fmpq
    step: fmpq
    count: int
    # positions that are left out, ascending
    left_out: tuple[int, ...] = ()

    @property
    def size(self) -> int:
        return self.count - len(self.left_out)

    def value(self, position: int) -> Value:
        for gap in self.left_out:
            if gap <= position:
                position += 1
        return self.low + self.step * position

    @property
    def ends(self) -> tuple[fmpq, fmpq]:
        return self.low, self.low + self.step * (self.count - 1)

    @property
    def is_number(self) -> bool:
        return True


class Ranges(DefinitionKind):
    words = ("except ", "step ")
    in_lists = True

    def begins(self, text: str) -> bool:
        dots = text.find("..")
        return dots >= 0 and '"' not in text[:dots]

    def read(self, text: str, start: int, reading: Reading) -> Range:
        # what stands before is blanked out, so that places in messages stay where they are
        text = " " * start + text[start:]
        return read_range(text, text.index(".."), reading.settings)


def beyond(low: str) -> str:
    """An upper limit that would go with a lower one, for an example.

    >>> beyond("150"), beyond("2"), beyond("-5"), beyond("a")
    ('300', '9', '9', '9')
    """
    whole = int(low) if low.isdecimal() and len(low) < 12 else 0
    return str(2 * whole) if whole >= 9 else "9"


def read_range(text: str, dots: int, settings: Settings) -> Range:
    stepped = STEP.search(text, dots)
    excepted = EXCEPT.search(text, dots)
    ends = [found.start() for found in (stepped, excepted) if found]
    upper_end = min(ends, default=len(text))
    low_text, high_text = text[:dots].strip(), text[dots + 2 : upper_end].strip()
    if not low_text:
        raise DrawError(
            "no_lower_limit", f"`{text.strip()}` needs a lower limit, such as `2..9`.", place=dots, length=2
        )
    if not high_text:
        raise DrawError(
            "no_upper_limit",
            f"`{text.strip()}` needs an upper limit, such as `{low_text}..{beyond(low_text)}`.",
            place=dots,
            length=2,
        )
    low = constant(text, 0, dots, settings, "The lower limit")
    high = constant(text, dots + 2, upper_end, settings, "The upper limit")
    step = fmpq(1)
    if stepped:
        end = excepted.start() if excepted and excepted.start() > stepped.end() else len(text)
        if not text[stepped.end() : end].strip():
            raise DrawError("no_step", "The step is missing, such as `step 0.5`.", place=stepped.start(), length=5)
        step = constant(text, stepped.end(), end, settings, "The step")
        if step <= 0:
            raise DrawError("step", "The step has to be more than 0.", place=stepped.end(), length=end - stepped.end())
    if high < low:
        raise DrawError(
            "empty_range", f"There is nothing from {low_text} up to {high_text}; put the smaller limit first.",
            place=0, length=upper_end, instead=f"{high_text}..{low_text}",
        )  # fmt: skip
    count = int(((high - low) / step).p // ((high - low) / step).q) + 1
    if count > MAXIMUM_VALUES:
        raise DrawError("too_many", f"This range has {count:,} values; a wider step is needed.", length=len(text))
    left_out = exceptions(text, excepted.end(), low, step, count, settings) if excepted else ()
    if len(left_out) == count:
        raise DrawError("empty_range", "Every value of this range is left out.", length=len(text))
    return Range(low, step, count, left_out)


def exceptions(text: str, start: int, low: fmpq, step: fmpq, count: int, settings: Settings) -> tuple[int, ...]:
    positions = set()
    for value in listed(text, start, settings):
        if not isinstance(value, fmpq):
            raise DrawError("except", "Only numbers can be left out of a range.", place=start, length=len(text) - start)
        position = (value - low) / step
        if position.q == 1 and 0 <= position < count:
            positions.add(int(position.p))
    return tuple(sorted(positions))
