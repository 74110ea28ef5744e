"""The units of ``units.toml``, which no code of the reader has a part in."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

POWERS = {
    "Q": 30, "R": 27, "Y": 24, "Z": 21, "E": 18, "P": 15, "T": 12, "G": 9, "M": 6, "k": 3, "h": 2, "da": 1, "d": -1,
    "c": -2, "m": -3, "μ": -6, "n": -9, "p": -12, "f": -15, "a": -18, "z": -21, "y": -24, "r": -27, "q": -30,
}  # fmt: skip
BEFORE = {
    "all": set(POWERS),
    "nohecto": set(POWERS) - {"h"},
    "large": set("kMGTPEZY"),
    "small": set("dcmμnpf"),
    "both": set("kMGTPEZYdcmμnpf"),
    "years": set("kMG"),
    "none": set[str](),
}
TABLE = tomllib.loads((Path(__file__).parent / "units.toml").read_text("utf-8"))
DECIDED: dict[str, str] = TABLE["decided"]
SPELLED: dict[str, list[str]] = TABLE["spelled"]
Dimension = tuple[tuple[str, int], ...]


@dataclass(frozen=True, slots=True)
class Entry:
    """A symbol with what one of it is in base units, its dimension, and the prefixes that it takes."""

    symbol: str
    factor: Fraction
    dimension: Dimension
    prefixes: frozenset[str]
    # whether the factor is to be multiplied by π
    pi: bool = False

    def with_prefix(self, prefix: str) -> Fraction:
        return self.factor * (Fraction(10) ** POWERS[prefix] if prefix else 1)


def entries() -> Iterator[Entry]:
    for row in TABLE["units"].strip().splitlines():
        symbol, factor, *dimension, prefixes = row.split()
        powers = (each.partition("^") for each in dimension if each != "1")
        read = tuple(sorted((base, int(power or 1)) for base, _, power in powers))
        top, _, bottom = factor.partition("/")
        number = Fraction(1) if top == "pi" else Fraction(top)
        yield Entry(symbol, number / Fraction(bottom or 1), read, frozenset(BEFORE[prefixes]), top == "pi")


ENTRIES = {each.symbol: each for each in entries()}
