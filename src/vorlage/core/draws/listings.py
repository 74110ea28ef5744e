"""Combinations that were listed already: what a question draws stays the same while its wording or its key changes."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from dataclasses import dataclass
from threading import Lock

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


class Listings:
    """The latest listings of this process, by everything that they follow from."""

    def __init__(self, most: int = REMEMBERED) -> None:
        self.most, self.held = most, 0
        self.kept: OrderedDict[Hashable, Listing] = OrderedDict()
        self.lock = Lock()

    def get(self, key: Hashable) -> Listing | None:
        with self.lock:
            found = self.kept.get(key)
            if found is not None:
                self.kept.move_to_end(key)
            return found

    def keep(self, key: Hashable, listing: Listing) -> None:
        """Remember a listing; the oldest are forgotten where there is no room."""
        with self.lock:
            if key in self.kept or len(listing.admitted) > self.most:
                return
            self.kept[key] = listing
            # an entry takes room though nothing is admitted
            self.held += len(listing.admitted) + 100
            while self.held > self.most:
                _, oldest = self.kept.popitem(last=False)
                self.held -= len(oldest.admitted) + 100


LISTINGS = Listings()
