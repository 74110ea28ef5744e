"""Units as people write them, on Pint's registry with exact conversion factors."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from fractions import Fraction
from functools import lru_cache
from itertools import product

from flint import fmpq

from ..notation import NotationError, visible
from .symbols import TWO_UNITS, meaning, registry

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
OFFSETS = {"degree_Celsius": Fraction(27315, 100), "degree_Fahrenheit": Fraction(45967, 180)}
FAHRENHEIT = Fraction(5, 9)
SUPERSCRIPTS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻−–", "0123456789---")
SCALE = r"(?:C|F|[Cc]elsius|[Ff]ahrenheit)(?![A-Za-z])"
TOKEN = re.compile(
    rf"(?P<space>\s+)|(?P<scale>(?:°|\bdeg(?:ree)?s?\b)\s*{SCALE})|(?P<symbol>[CF]°|[°%‰℃]|[A-Za-zµμΩℓÅ_]+)"
    r"|(?P<power>(?:\^|\*\*)\s*(?:\(\s*[-−–]?\d+\s*\)|\{\s*[-−–]?\d+\s*\}|[-−–]?\d+)|[⁰¹²³⁴⁵⁶⁷⁸⁹⁻]+|[-−–]?\d+)"
    r"|(?P<slash>[/∕⁄÷])|(?P<dot>[·⋅∙•*×.])|(?P<open>\()|(?P<close>\))"
)
# Kinds of quantity that share a dimension and not a meaning, and the units that say which is meant.
KINDS = {
    "hertz": "cycles",
    "becquerel": "decays",
    "curie": "decays",
    "gray": "absorbed dose",
    "sievert": "equivalent dose",
    "rem": "equivalent dose",
    "lumen": "solid angle",
    "lux": "solid angle",
    "steradian": "solid angle",
    "radian": "angle",
    **dict.fromkeys(ANGLES, "angle"),
}
# Levels are logarithms of ratios: they convert to no plain number.
LEVELS = frozenset(["decibel", "neper"])
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
        if not self.dimension or any(base == "candela" for base, _ in self.dimension):
            # 0.45 rad is no 45 %
            return self.kinds == other.kinds
        return not self.kinds or not other.kinds or self.kinds == other.kinds

    @property
    def is_share(self) -> bool:
        """Whether it only divides, as percent does."""
        return not self.dimension and not self.pi and self.factor < 1


# Counted things and angles have no dimension.
NO_DIMENSION = frozenset(["radian", "count"])
KELVIN = (("kelvin", 1),)


@lru_cache(maxsize=4000)
def base_of(symbol: str) -> tuple[Fraction, tuple[tuple[str, int], ...], int] | None:
    """The factor, dimension and power of π of one symbol, prefix and all; None when it is no unit."""
    found = meaning(symbol)
    if found is None:
        return None
    if found.unit in LEVELS:
        return None if found.prefix else (Fraction(1), ((found.unit, 1),), 0)
    scale = Fraction(registry()._prefixes[found.prefix].converter.scale) if found.prefix else Fraction(1)
    if found.unit in ANGLES:
        factor, powers = ANGLES[found.unit]
        return scale * factor, powers, 1
    try:
        factor, unit = registry().get_base_units(found.unit)
    except Exception:
        # Pint raises errors of many kinds for what is no unit
        return None
    if any(Fraction(power).denominator != 1 for power in unit._units.values()):
        # the units of Gauss's system have roots of others in them
        return None
    powers = tuple(
        sorted((str(base), int(power)) for base, power in unit._units.items() if str(base) not in NO_DIMENSION)
    )
    return scale * Fraction(factor), powers, 0


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


@dataclass(frozen=True, slots=True)
class Symbol:
    """A symbol in a unit, with its own power, the power of what is around it (−1 below a slash), and its place."""

    text: str
    own: int
    around: int
    place: int

    @property
    def power(self) -> int:
        return self.own * self.around


def symbols_in(text: str) -> list[Symbol]:
    """The symbols of a unit with their powers and places."""
    if len(text) > MAXIMUM_LENGTH:
        raise NotationError("unit", "This unit is too long to be read.", 0, len(text))
    found = []
    for symbol in UnitReader(text).read():
        pieces = taken_apart(symbol) if base_of(symbol.text) is None else []
        if len({unit_of(each) for each in pieces}) > 1:
            said = [" ".join(piece.text for piece in each) for each in pieces[:2]]
            message = f"“{symbol.text}” could be {said[0]} or {said[1]}: leave a space between the two."
            raise NotationError("two_readings", message, symbol.place, len(symbol.text))
        found += pieces[0] if pieces else [symbol]
    return found


def taken_apart(symbol: Symbol) -> list[list[Symbol]]:
    """The ways to read a symbol as two that were written without a space: ``Ns`` as ``N s``. The power belongs to the
    second, at which it stands; a bracket or a slash before them to both."""
    found = []
    for cut in range(1, len(symbol.text)):
        first, second = symbol.text[:cut], symbol.text[cut:]
        # Kg is a slip of the pen and not a kelvin gram
        if first != "K" and SCHOOL_SYMBOL.fullmatch(first) and SCHOOL_SYMBOL.fullmatch(second):
            before = Symbol(first, 1, symbol.around, symbol.place)
            found.append([before, Symbol(second, symbol.own, symbol.around, symbol.place + cut)])
    return found


def unit_of(symbols: list[Symbol]) -> Unit:
    if len(symbols) == 1 and symbols[0].power == 1 and (offset := OFFSETS.get(name_of(symbols[0].text))) is not None:
        return Unit(rational(factor_of(symbols[0])[0]), KELVIN, rational(offset))
    total, powers, pi, kinds = Fraction(1), dict[str, int](), 0, set[str]()
    for symbol in symbols:
        factor, dimension, angle = factor_of(symbol)
        total *= factor**symbol.power
        pi += angle * symbol.power
        kind = KINDS.get(name_of(symbol.text))
        if kind:
            kinds.add(kind)
        for base, count in dimension:
            powers[base] = powers.get(base, 0) + count * symbol.power
    dimension = tuple(sorted((base, power) for base, power in powers.items() if power))
    return Unit(rational(total), dimension, pi=pi, kinds=frozenset(kinds))


def factor_of(symbol: Symbol) -> tuple[Fraction, tuple[tuple[str, int], ...], int]:
    """As ``base_of``, a degree of a temperature scale being a difference; ``NotationError`` for what is no unit."""
    found = base_of(symbol.text)
    if found is None:
        raise unknown(symbol.text, symbol.place)
    return (FAHRENHEIT, *found[1:]) if name_of(symbol.text) == "degree_Fahrenheit" else found


def name_of(symbol: str) -> str:
    """The name of a symbol's unit, without its prefix."""
    found = meaning(symbol)
    return found.unit if found else ""


# The capitals of a longer symbol are not varied one by one.
LONGEST_VARIED = 4


def unknown(symbol: str, place: int) -> NotationError:
    """What is said of a symbol that is no unit, or two, with the one that differs in capitals only."""
    if symbol in TWO_UNITS:
        one, other, cure = TWO_UNITS[symbol]
        message = f"“{symbol}” could mean {one} or {other}: {cure}."
        return NotationError("two_readings", message, place, len(symbol))
    cases = [(each.lower(), each.upper()) for each in symbol[:LONGEST_VARIED]] if len(symbol) <= LONGEST_VARIED else []
    varied = sorted(map("".join, product(*cases)), key=lambda each: sum(map(str.__ne__, each, symbol)))
    for likely in dict.fromkeys([*varied, symbol.lower(), symbol.capitalize(), symbol[:-1]]):
        if likely and likely != symbol and base_of(likely) is not None:
            message = f"“{symbol}” is not a unit that is known here: did you mean {likely}?"
            return NotationError("unit", message, place, len(symbol))
    return NotationError("unit", f"“{symbol}” is not a unit that is known here.", place, len(symbol))


SEPARATORS = re.compile(r"[\s·⋅∙•*×]+")


def refuse_run_together(text: str, wanted: Unit, asked: str = "") -> None:
    """A symbol that is a unit is not taken apart. Before a power below the line, where it would measure what is asked
    for if it were two, nobody can say which was meant: ``ms^-1`` is one over a millisecond, or ``m s^-1``. Neither can
    they where the unit that is asked for was typed without its spaces, as ``ms`` for ``m s``.

    Raises ``NotationError`` that names both.
    """
    symbols = symbols_in(text)
    written = SEPARATORS.sub("", asked) == text.strip()
    for index, symbol in enumerate(symbols):
        if not written and (symbol.own >= 0 or symbol.around < 0):
            continue
        for pieces in taken_apart(symbol):
            if unit_of([*symbols[:index], *pieces, *symbols[index + 1 :]]).dimension == wanted.dimension:
                first, second = (piece.text for piece in pieces)
                power = f"^{symbol.own}" if symbol.own != 1 else ""
                said = f"1/({symbol.text})^{-symbol.own}".replace(")^1", ")") if symbol.own < 0 else "one symbol"
                otherwise = f"1/{symbol.text}" if symbol.own < 0 else symbol.text
                message = (
                    f"“{symbol.text}{power}” is {said}: write “{first} {second}{power}”, with a space, if that is "
                    f"meant, and else “{otherwise}{power if symbol.own > 0 else ''}”."
                )
                raise NotationError("two_readings", message, symbol.place, len(symbol.text))


def rational(value: Fraction) -> fmpq:
    return fmpq(value.numerator, value.denominator)


class UnitReader:
    """A unit's symbols with their powers."""

    def __init__(self, text: str) -> None:
        text = visible(text)
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

    def read(self) -> list[Symbol]:
        symbols = self.product(1)
        if self.position < len(self.tokens):
            _, text, place = self.tokens[self.position]
            raise NotationError("unit", f"“{text}” cannot stand here in a unit.", place)
        if not symbols:
            raise NotationError("unit", "A unit is missing here.", 0)
        return symbols

    def peek(self) -> str:
        return self.tokens[self.position][0] if self.position < len(self.tokens) else ""

    def product(self, sign: int) -> list[Symbol]:
        """Factors side by side or with dots; what follows a slash is divided by, one factor or a bracket."""
        found: list[Symbol] = []
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

    def factor(self, sign: int) -> list[Symbol]:
        kind, text, place = self.tokens[self.position] if self.peek() else ("", "", len(self.text))
        self.position += 1
        if kind == "open":
            inner = self.product(sign)
            if self.peek() != "close":
                raise NotationError("unit", "This bracket never closes.", place)
            self.position += 1
            power = self.power()
            return [replace(symbol, around=symbol.around * power) for symbol in inner]
        if kind not in {"symbol", "scale"}:
            raise NotationError("unit", "A unit is missing here.", min(place, max(0, len(self.text) - 1)))
        if kind == "scale":
            text = "°C" if "c" in text.lower().replace("deg", "").replace("ree", "") else "°F"
        return [Symbol(text, self.power(), sign, place)]

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
