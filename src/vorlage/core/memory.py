"""What was worked out lately, kept in this process within bounds: what a keystroke leaves as it is need not be worked
out again."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Hashable
from threading import Lock
from typing import Generic, TypeVar

Key = TypeVar("Key", bound=Hashable)
Value = TypeVar("Value")


class Memory(Generic[Key, Value]):
    """The latest values, by everything that they follow from. The oldest are forgotten where there is no room.

    ``most`` is the room there is, in whatever the weights are told in.
    """

    def __init__(self, most: int) -> None:
        self.most, self.held = most, 0
        self.kept: OrderedDict[Key, tuple[Value, int]] = OrderedDict()
        self.lock = Lock()

    def get(self, key: Key) -> Value | None:
        with self.lock:
            found = self.kept.get(key)
            if found is None:
                return None
            self.kept.move_to_end(key)
            return found[0]

    def keep(self, key: Key, value: Value, weight: int = 1) -> None:
        """Remember a value, in the place of what was remembered under the key."""
        if weight > self.most:
            return
        with self.lock:
            if key in self.kept:
                self.held -= self.kept.pop(key)[1]
            self.kept[key] = value, weight
            self.held += weight
            while self.held > self.most:
                _, (_, freed) = self.kept.popitem(last=False)
                self.held -= freed
