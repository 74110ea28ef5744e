"""Combinations that were listed already: what a question draws stays the same while its wording or its key changes."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass

from ..memory import Memory

# So many combinations are remembered in all; about 40 MB.
REMEMBERED = 1_000_000


@dataclass(frozen=True, slots=True)
class Listing:
    """What the conditions of a group keep, and how often each was the first to fail.

    Where there are too many combinations, only how many of those that were tried are kept.
    """

    admitted: list[int]
    rejections: dict[int, int]
    kept: int = 0

    @property
    def weight(self) -> int:
        # an entry takes room though nothing is admitted
        return len(self.admitted) + 100


LISTINGS: Memory[Hashable, Listing] = Memory(REMEMBERED)
