"""Units as people write them, on Pint's registry with exact conversion factors."""

from __future__ import annotations

import re
from dataclasses import dataclass
from fractions import Fraction
from functools import cache, lru_cache
from typing import Any

from flint import fmpq

from ..notation import NotationError

# Spellings that Pint does not know, or knows as something else than a school does.
SPELLINGS = {
    "°C": "degC", "℃": "degC", "°F": "degF", "Ω": "ohm", "°": "degree", "%": "percent", "‰": "permille",
    "Å": "angstrom", "ℓ": "L", "hr": "hour", "hrs": "hour", "sec": "second", "secs": "second", "mins": "minute",
    "cc": "cm**3", "litre": "liter", "litres": "liter", "metre": "meter", "metres": "meter", "C°": "degC",
    "ohms": "ohm",
}  # fmt: skip
# Names in Pint's registry that are numbers or constants and no units to write after an answer.
NO_UNITS = frozenset(
    ["pi", "e", "i", "x", "y", "z", "c", "k", "G", "R", "N_A", "h_bar", "hbar", "phi", "tau", "count", "dimensionless"]
)
OFFSETS = {"degC": Fraction(27315, 100), "degF": Fraction(45967, 180)}
SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻", "0123456789-")
TOKEN = re.compile(
    r"(?P<space>\s+)|(?P<symbol>°[CF]?|[%‰℃ℓΩÅ]|[A-Za-zµμΩ_]+(?:°)?)|(?P<power>(?:\^|\*\*)\s*\(?\s*(-?\d+)\s*\)?|[⁰¹²³⁴⁵⁶⁷⁸⁹⁻]+|-?\d+)"
    r"|(?P<slash>/)|(?P<dot>[·⋅*×.])|(?P<open>\()|(?P<close>\))"
)
MAXIMUM_LENGTH = 60


@dataclass(frozen=True, slots=True)
class Unit:
    """A unit: what one of it is in base units, and its dimension.

    ``offset`` is the zero of a temperature scale in kelvin; other units have 0.
    """

    factor: fmpq
    # base unit -> power, sorted by name
    dimension: tuple[tuple[str, int], ...]
    offset: fmpq = fmpq(0)  # noqa: RUF009 (immutable)

    def to_base(self, amount: fmpq) -> fmpq:
        """So much of this unit, in base units."""
        return amount * self.factor + self.offset


@cache
def registry() -> Any:
    """Pint's registry with exact fractions; loaded when the first unit is read."""
    import pint

    return pint.UnitRegistry(non_int_type=Fraction, cache_folder=None)


@lru_cache(maxsize=2000)
def base_of(symbol: str) -> tuple[Fraction, tuple[tuple[str, int], ...]] | None:
    """The factor and dimension of one symbol, prefix and all; None when it is no unit."""
    name = SPELLINGS.get(symbol, symbol.replace("μ", "µ"))
    if name in NO_UNITS:
        return None
    try:
        factor, unit = registry().get_base_units(name)
    except Exception:
        # Pint raises errors of many kinds for what is no unit
        return None
    powers = tuple(sorted((str(base), int(power)) for base, power in unit._units.items()))
    return Fraction(factor), powers


def read_unit(text: str) -> Unit:
    """The unit that is written, in any usual spelling.

    Raises ``NotationError`` with the place of what is no unit.

    >>> read_unit("kJ/(kg K)") == read_unit("kJ kg^-1 K^-1") == read_unit("kJ·kg⁻¹·K⁻¹")
    True
    """
    if len(text) > MAXIMUM_LENGTH:
        raise NotationError("unit", "This unit is too long to be read.", 0, len(text))
    symbols = UnitReader(text).read()
    if len(symbols) == 1 and symbols[0][1] == 1:
        name = SPELLINGS.get(symbols[0][0], symbols[0][0])
        if name in OFFSETS:
            factor, dimension = base_of(name) or (Fraction(1), ())
            if name == "degF":
                factor = Fraction(5, 9)
            offset = OFFSETS[name]
            return Unit(rational(factor), dimension, rational(offset))
    total, powers = Fraction(1), dict[str, int]()
    for symbol, power, place in symbols:
        found = base_of(symbol)
        if found is None:
            raise NotationError("unit", f"“{symbol}” is not a unit that is known here.", place, len(symbol))
        factor = Fraction(5, 9) if SPELLINGS.get(symbol, symbol) == "degF" else found[0]
        total *= factor**power
        for base, count in found[1]:
            powers[base] = powers.get(base, 0) + count * power
    dimension = tuple(sorted((base, power) for base, power in powers.items() if power and base != "radian"))
    return Unit(rational(total), dimension)


def rational(value: Fraction) -> fmpq:
    return fmpq(value.numerator, value.denominator)


class UnitReader:
    """A unit's symbols with their powers."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.tokens: list[tuple[str, str, int]] = []
        place = 0
        while place < len(text):
            found = TOKEN.match(text, place)
            if not found:
                raise NotationError("unit", f"“{text[place]}” does not belong in a unit.", place)
            if found.lastgroup != "space":
                self.tokens.append((found.lastgroup or "", found[0], place))
            place = found.end()
        self.position = 0

    def read(self) -> list[tuple[str, int, int]]:
        symbols = self.product(1)
        if self.position < len(self.tokens):
            _, text, place = self.tokens[self.position]
            raise NotationError("unit", f"“{text}” cannot stand here in a unit.", place)
        if not symbols:
            raise NotationError("unit", "A unit is missing here.", 0)
        return symbols

    def peek(self) -> str:
        return self.tokens[self.position][0] if self.position < len(self.tokens) else ""

    def product(self, sign: int) -> list[tuple[str, int, int]]:
        """Factors side by side or with dots; what follows a slash is divided by, one factor or a bracket."""
        found: list[tuple[str, int, int]] = []
        below = False
        while kind := self.peek():
            if kind == "power" and not found and self.tokens[self.position][1] == "1":
                # 1/s
                self.position += 1
                if self.peek() != "slash":
                    self.position -= 1
                    break
            elif kind == "slash":
                self.position += 1
                if self.peek() == "symbol" and self.tokens[self.position][1] == "per":
                    self.position += 1
                found += self.factor(-sign)
                below = True
            elif kind == "symbol" and self.tokens[self.position][1] == "per":
                self.position += 1
                found += self.factor(-sign)
                below = True
            elif kind == "dot":
                self.position += 1
            elif kind in {"symbol", "open"}:
                if below:
                    place = self.tokens[self.position][2]
                    raise NotationError("unit", "Put what is below the slash in brackets, such as J/(kg K).", place)
                found += self.factor(sign)
            else:
                break
        return found

    def factor(self, sign: int) -> list[tuple[str, int, int]]:
        kind, text, place = self.tokens[self.position] if self.peek() else ("", "", len(self.text))
        self.position += 1
        if kind == "open":
            inner = self.product(sign)
            if self.peek() != "close":
                raise NotationError("unit", "This bracket never closes.", place)
            self.position += 1
            power = self.power()
            return [(symbol, count * power, at) for symbol, count, at in inner]
        if kind != "symbol":
            raise NotationError("unit", "A unit is missing here.", min(place, max(0, len(self.text) - 1)))
        return [(text, sign * self.power(), place)]

    def power(self) -> int:
        if self.peek() != "power":
            return 1
        text = self.tokens[self.position][1].translate(SUPERSCRIPTS)
        self.position += 1
        digits = re.sub(r"[^\d-]", "", text.replace("**", ""))
        if not re.fullmatch(r"-?\d{1,2}", digits):
            raise NotationError("unit", "This power of a unit cannot be read.", self.tokens[self.position - 1][2])
        return int(digits)
