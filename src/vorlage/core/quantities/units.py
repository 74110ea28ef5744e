"""Units as people write them, on Pint's registry with exact conversion factors."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from fractions import Fraction
from functools import lru_cache
from itertools import product
from typing import Any

from flint import fmpq

from ..budget import loaded_once
from ..notation import NotationError

# Spellings that Pint does not know, or knows as something else than a school does.
SPELLINGS = {
    "°C": "degC", "℃": "degC", "°F": "degF", "Ω": "ohm", "°": "degree", "%": "percent", "‰": "permille",
    "Å": "angstrom", "ℓ": "L", "hr": "hour", "hrs": "hour", "sec": "second", "secs": "second", "mins": "minute",
    "cc": "cm**3", "litre": "liter", "litres": "liter", "metre": "meter", "metres": "meter", "C°": "degC",
    "ohms": "ohm", "amps": "ampere", "Amps": "ampere", "AU": "au", "Cal": "kcal", "kph": "km/hour", "kmh": "km/hour",
    "kmph": "km/hour", "wk": "week", "y": "year", "yrs": "year", "rev": "turn", "revs": "turn", "celsius": "degC",
    "Celsius": "degC", "degCelsius": "degC", "degcelsius": "degC", "degFahrenheit": "degF", "degfahrenheit": "degF",
    "fahrenheit": "degF", "Fahrenheit": "degF", "Nm": "N*m", "kNm": "kN*m", "MNm": "MN*m",
    "mNm": "mN*m", "cNm": "cN*m", "kgs": "kg", "kms": "km", "cms": "cm", "mms": "mm", "Ohm": "ohm", "Ohms": "ohm",
    "F°": "degF", "mcg": "microgram", "ug": "microgram", "mcd": "millicandela",
}  # fmt: skip
# Angles in radians are multiples of π, which no fraction is: the factor without it, and the rest of the dimension.
ANGLES: dict[str, tuple[Fraction, tuple[tuple[str, int], ...]]] = {
    "degree": (Fraction(1, 180), ()),
    "arcminute": (Fraction(1, 180 * 60), ()),
    "arcsecond": (Fraction(1, 180 * 3600), ()),
    "grade": (Fraction(1, 200), ()),
    "turn": (Fraction(2), ()),
    "revolutions_per_minute": (Fraction(1, 30), (("second", -1),)),
    "revolutions_per_second": (Fraction(2), (("second", -1),)),
}
# Symbols that a pupil may run together: ms^-1 for m s^-1, kgm for kg m.
SCHOOL_SYMBOL = re.compile(r"[kMGmµμucdhnp]?(?:mol|min|Pa|Hz|Wb|eV|[msgNJWVACKTFLhΩ])")
# Names in Pint's registry that are numbers or constants and no units to write after an answer.
NO_UNITS = frozenset(
    ["pi", "e", "i", "x", "y", "z", "c", "k", "G", "R", "N_A", "h_bar", "hbar", "phi", "tau", "count", "dimensionless"]
)
OFFSETS = {"degC": Fraction(27315, 100), "degF": Fraction(45967, 180)}
SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻−–", "0123456789---")
SCALE = r"(?:C|F|[Cc]elsius|[Ff]ahrenheit)(?![A-Za-z])"
TOKEN = re.compile(
    rf"(?P<space>\s+)|(?P<scale>(?:°|\bdeg(?:ree)?s?\b)\s*{SCALE})|(?P<symbol>[CF]°|[°%‰℃]|[A-Za-zµμΩΩℓÅ_]+)"
    r"|(?P<power>(?:\^|\*\*)\s*(?:\(\s*[-−–]?\d+\s*\)|\{\s*[-−–]?\d+\s*\}|[-−–]?\d+)|[⁰¹²³⁴⁵⁶⁷⁸⁹⁻]+|[-−–]?\d+)"
    r"|(?P<slash>[/∕⁄÷])|(?P<dot>[·⋅∙•*×.])|(?P<open>\()|(?P<close>\))"
)
# Kinds of quantity that share a dimension and not a meaning, and the units that say which is meant.
KINDS = {
    "hertz": "cycles",
    "becquerel": "decays",
    "curie": "decays",
    "gray": "absorbed dose",
    "rads": "absorbed dose",
    "sievert": "equivalent dose",
    "rem": "equivalent dose",
    "lumen": "solid angle",
    "lux": "solid angle",
    "steradian": "solid angle",
}
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
    # the power of π that the factor has besides
    pi: int = 0
    # what kind of quantity it says to measure, where others share its dimension
    kinds: frozenset[str] = field(default=frozenset(), compare=False)

    def measures_as(self, other: Unit) -> bool:
        """Whether two units measure one kind of quantity: the same dimension, and nothing that keeps them apart, as
        lumen and candela, hertz and becquerel, gray and sievert are kept apart."""
        if self.dimension != other.dimension:
            return False
        if any(base == "candela" for base, _ in self.dimension):
            return self.kinds == other.kinds
        return not self.kinds or not other.kinds or self.kinds == other.kinds

    @property
    def is_share(self) -> bool:
        """Whether it only divides, as percent does."""
        return not self.dimension and not self.pi and self.factor < 1


@loaded_once
def registry() -> Any:
    """Pint's registry with exact fractions; loaded when the first unit is read."""
    import pint

    return pint.UnitRegistry(non_int_type=Fraction, cache_folder=None)


# Counted things and angles have no dimension.
NO_DIMENSION = frozenset(["radian", "count"])


@lru_cache(maxsize=2000)
def base_of(symbol: str) -> tuple[Fraction, tuple[tuple[str, int], ...], int] | None:
    """The factor, dimension and power of π of one symbol, prefix and all; None when it is no unit."""
    name = SPELLINGS.get(symbol, symbol.replace("μ", "µ").replace("ℓ", "L").replace("Ω", "ohm").replace("Ω", "ohm"))
    if name in NO_UNITS:
        return None
    if len(name) > 3 and name[0].isupper() and name[1:].islower():
        # a name with a capital: Newton, Metres
        name = name.lower()
    try:
        parts = dict(registry().parse_units(name)._units)
        if len(parts) == 1 and (angle := ANGLES.get(*parts)) is not None and parts.popitem()[1] == 1:
            return (*angle, 1)
        factor, unit = registry().get_base_units(name)
    except Exception:
        # Pint raises errors of many kinds for what is no unit
        return None
    powers = tuple(
        sorted((str(base), int(power)) for base, power in unit._units.items() if str(base) not in NO_DIMENSION)
    )
    return Fraction(factor), powers, 0


@lru_cache(maxsize=4096)
def read_unit(text: str) -> Unit:
    """The unit that is written, in any usual spelling.

    Raises ``NotationError`` with the place of what is no unit.

    >>> read_unit("kJ/(kg K)") == read_unit("kJ kg^-1 K^-1") == read_unit("kJ·kg⁻¹·K⁻¹")
    True
    """
    return unit_of(symbols_in(text))


def load_units() -> None:
    """Load the units now, which takes up to a second; otherwise the first that is read does."""
    read_unit("kJ/(kg K)")


def symbols_in(text: str) -> list[tuple[str, int, int]]:
    """The symbols of a unit with their powers and places."""
    if len(text) > MAXIMUM_LENGTH:
        raise NotationError("unit", "This unit is too long to be read.", 0, len(text))
    found = []
    for symbol, power, place in UnitReader(text).read():
        pieces = taken_apart(text, symbol, power, place) if base_of(symbol) is None else []
        if len({unit_of(each) for each in pieces}) > 1:
            said = [" ".join(piece for piece, _, _ in each) for each in pieces[:2]]
            message = f"“{symbol}” could be {said[0]} or {said[1]}: leave a space between the two."
            raise NotationError("two_readings", message, place, len(symbol))
        found += pieces[0] if pieces else [(symbol, power, place)]
    return found


def taken_apart(text: str, symbol: str, power: int, place: int) -> list[list[tuple[str, int, int]]]:
    """The ways to read a symbol as two that were written without a space: ``Ns`` as ``N s``."""
    found = []
    # the power belongs to the symbol it stands at, a division to both
    before = power if power < 0 and "/" in text[:place] else 1
    for cut in range(1, len(symbol)):
        first, second = symbol[:cut], symbol[cut:]
        # Kg is a slip of the pen and not a kelvin gram
        if first != "K" and SCHOOL_SYMBOL.fullmatch(first) and SCHOOL_SYMBOL.fullmatch(second):
            found.append([(first, before, place), (second, power, place + cut)])
    return found


def unit_of(symbols: list[tuple[str, int, int]]) -> Unit:
    if len(symbols) == 1 and symbols[0][1] == 1:
        name = SPELLINGS.get(symbols[0][0], symbols[0][0])
        if name in OFFSETS:
            found = base_of(name)
            factor = Fraction(5, 9) if name == "degF" else Fraction(1)
            return Unit(rational(factor), found[1] if found else (), rational(OFFSETS[name]))
    total, powers, pi, kinds = Fraction(1), dict[str, int](), 0, set[str]()
    for symbol, power, place in symbols:
        found = base_of(symbol)
        if found is None:
            raise unknown(symbol, place)
        total *= (Fraction(5, 9) if SPELLINGS.get(symbol, symbol) == "degF" else found[0]) ** power
        pi += found[2] * power
        kind = kind_of(symbol)
        if kind:
            kinds.add(kind)
        for base, count in found[1]:
            powers[base] = powers.get(base, 0) + count * power
    dimension = tuple(sorted((base, power) for base, power in powers.items() if power))
    return Unit(rational(total), dimension, pi=pi, kinds=frozenset(kinds))


@lru_cache(maxsize=2000)
def kind_of(symbol: str) -> str:
    """What a symbol says to measure, where others share its dimension; empty for most."""
    name = SPELLINGS.get(symbol, symbol.replace("μ", "µ"))
    try:
        parts = list(registry().parse_units(name.lower() if len(name) > 3 else name)._units)
    except Exception:
        # as in base_of
        return ""
    return next((kind for unit, kind in KINDS.items() if len(parts) == 1 and parts[0].endswith(unit)), "")


# The capitals of a longer symbol are not varied one by one.
LONGEST_VARIED = 4


def unknown(symbol: str, place: int) -> NotationError:
    """What is said of a symbol that is no unit, with the one that differs in capitals only."""
    cases = [(each.lower(), each.upper()) for each in symbol[:LONGEST_VARIED]] if len(symbol) <= LONGEST_VARIED else []
    varied = sorted(map("".join, product(*cases)), key=lambda each: sum(map(str.__ne__, each, symbol)))
    for likely in dict.fromkeys([*varied, symbol.lower(), symbol.capitalize(), symbol[:-1]]):
        if likely and likely != symbol and base_of(likely) is not None:
            message = f"“{symbol}” is not a unit that is known here: did you mean {likely}?"
            return NotationError("unit", message, place, len(symbol))
    return NotationError("unit", f"“{symbol}” is not a unit that is known here.", place, len(symbol))


def refuse_run_together(text: str, wanted: Unit) -> None:
    """A symbol that is a unit is not taken apart. Before a power below the line, where it would measure what is asked
    for if it were two, nobody can say which was meant: ``ms^-1`` is one over a millisecond, or ``m s^-1``.

    Raises ``NotationError`` that names both.
    """
    symbols = symbols_in(text)
    for index, (symbol, power, place) in enumerate(symbols):
        if power >= 0 or "/" in text[:place]:
            continue
        for pieces in taken_apart(text, symbol, power, place):
            if unit_of([*symbols[:index], *pieces, *symbols[index + 1 :]]).dimension == wanted.dimension:
                (first, _, _), (second, _, _) = pieces
                message = (
                    (
                        f"“{symbol}^{power}” is 1/({symbol})^{-power}: write “{first} {second}^{power}”, with a space, "
                        f"if that is meant, and else “1/{symbol}”."
                    )
                    .replace("^1”", "”")
                    .replace(")^1", ")")
                )
                raise NotationError("two_readings", message, place, len(symbol))


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
            elif kind in {"symbol", "scale", "open"}:
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
        if kind not in {"symbol", "scale"}:
            raise NotationError("unit", "A unit is missing here.", min(place, max(0, len(self.text) - 1)))
        if kind == "scale":
            text = "degC" if "c" in text.lower().replace("deg", "").replace("ree", "") else "degF"
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


def is_unit(text: str) -> bool:
    """Whether words are a unit with a dimension."""
    try:
        return bool(text) and bool(read_unit(text).dimension)
    except NotationError:
        return False


def same_unit(one: str, other: str) -> bool:
    """Whether two spellings are one unit; False where one of them is no unit."""
    try:
        units = read_unit(one), read_unit(other)
    except NotationError:
        return False
    first, second = ((unit.dimension, unit.factor, unit.pi) for unit in units)
    return first == second
