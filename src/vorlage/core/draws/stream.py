"""The stream behind every draw: fixed for ever, on every machine and Python version.

Numbers come from BLAKE2b (RFC 7693) in counter mode, keyed by the question and its revision. A value
below n is taken by rejection, so that every value is exactly equally likely. Draws without repeats are
a permutation of all admissible draws: a four-round Feistel network over the smallest even number of
bits that holds them, walked until it lands inside (Black and Rogaway, cycle walking).
"""

from __future__ import annotations

from hashlib import blake2b


def stream_key(question: str, revision: int) -> bytes:
    """The key of a question's revision."""
    return blake2b(f"{question}\x1f{revision}".encode(), digest_size=32, person=b"vorlage draws").digest()


def permuted(key: bytes, epoch: int, position: int, count: int) -> int:
    """Where ``position`` goes in the epoch's permutation of ``range(count)``."""
    if count == 1:
        return 0
    half = ((count - 1).bit_length() + 1) // 2
    mask = (1 << half) - 1
    octets = (half + 7) // 8
    tag = epoch.to_bytes(16, "big")
    while True:
        left, right = position >> half, position & mask
        for turn in range(4):
            message = tag + turn.to_bytes(1, "big") + right.to_bytes(octets, "big")
            mixed = int.from_bytes(blake2b(message, digest_size=octets, key=key).digest(), "big") & mask
            left, right = right, left ^ mixed
        position = (left << half) | right
        if position < count:
            return position


class Stream:
    """Uniform whole numbers for one draw."""

    def __init__(self, key: bytes, number: int, label: str) -> None:
        self.key = key
        self.prefix = f"{number}\x1f{label}\x1f".encode()
        self.block = 0
        self.words: list[int] = []

    def word(self) -> int:
        """The next 64 bits."""
        if not self.words:
            digest = blake2b(self.prefix + self.block.to_bytes(8, "big"), digest_size=64, key=self.key).digest()
            self.words = [int.from_bytes(digest[k : k + 8], "big") for k in range(56, -8, -8)]
            self.block += 1
        return self.words.pop()

    def below(self, count: int) -> int:
        """A number from 0 to count − 1, all equally likely; as many words as the count needs."""
        words = max(1, -(-(count - 1).bit_length() // 64))
        whole = 1 << (64 * words)
        limit = whole - whole % count
        while True:
            found = 0
            for _ in range(words):
                found = (found << 64) | self.word()
            if found < limit:
                return found % count
