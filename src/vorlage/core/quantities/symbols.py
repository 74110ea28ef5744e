"""What one symbol of a unit means: the unit of Pint's registry, and the prefix before it.

A symbol is looked up as it is written, since capitals tell milli from mega and siemens from seconds; only the name of a
unit (Newton, Metres, Kilohm) may begin with a capital. Prefixes stand before the units that take them and before no
others: ``min`` is a minute because inches take none.
"""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import Any

from ..budget import loaded_once

# Spellings that Pint does not know, or knows as something else than a school does.
SPELLINGS = {
    "Ω": "ohm", "°": "degree", "%": "percent", "‰": "permille", "Å": "angstrom", "ℓ": "L", "hr": "hour", "hrs": "hour",
    "sec": "second", "secs": "second", "mins": "minute", "cc": "cm**3", "litre": "liter", "litres": "liter",
    "metre": "meter", "metres": "meter", "ohms": "ohm", "amps": "ampere", "Amps": "ampere", "AU": "au", "Cal": "kcal",
    "kph": "km/hour", "kmh": "km/hour", "kmph": "km/hour", "wk": "week", "y": "year", "yrs": "year", "rev": "turn",
    "revs": "turn", "kgs": "kg", "kms": "km", "cms": "cm", "mms": "mm", "Ohm": "ohm", "Ohms": "ohm",
    "mcg": "microgram", "ug": "microgram", "mcd": "millicandela", "lbs": "pound", "yds": "yard", "rads": "radian",
    "PS": "metric_horsepower", "Torr": "torr", "kilohm": "kiloohm", "kilohms": "kiloohm", "megohm": "megaohm",
    "megohms": "megaohm", "mmHg": "mmHg", "cmHg": "cmHg",
    **dict.fromkeys(["°C", "℃", "C°", "celsius", "Celsius", "degCelsius", "degcelsius"], "degree_Celsius"),
    **dict.fromkeys(["°F", "F°", "fahrenheit", "Fahrenheit", "degFahrenheit", "degfahrenheit"], "degree_Fahrenheit"),
}  # fmt: skip
# Symbols and names that are usual for two units: what either is, and what to write instead.
TWO_UNITS = {
    **dict.fromkeys(["grad", "Grad"], ("degrees", "gon", "write ° or gon")),
    **dict.fromkeys(["ton", "tons", "Ton", "Tons"], ("tonnes", "tons of 2000 or 2240 pounds", "write t or lb")),
    **dict.fromkeys(["gal", "gallon", "gallons"], ("US gallons", "imperial gallons", "use litres")),
    **dict.fromkeys(["pt", "pint", "pints"], ("US pints", "imperial pints", "use litres")),
    **dict.fromkeys(["qt", "quart", "quarts"], ("US quarts", "imperial quarts", "use litres")),
}
# Names in Pint's registry that are numbers or constants and no units to write after an answer.
NO_UNITS = frozenset(
    ["pi", "e", "i", "x", "y", "z", "c", "k", "G", "R", "N_A", "h_bar", "hbar", "phi", "tau", "count", "dimensionless"]
)
PREFIXES = {
    "Q": "quetta", "R": "ronna", "Y": "yotta", "Z": "zetta", "E": "exa", "P": "peta", "T": "tera", "G": "giga",
    "M": "mega", "k": "kilo", "h": "hecto", "da": "deca", "d": "deci", "c": "centi", "m": "milli", "µ": "micro",
    "u": "micro", "n": "nano", "p": "pico", "f": "femto", "a": "atto", "z": "zepto", "y": "yocto", "r": "ronto",
    "q": "quecto",
}  # fmt: skip
EVERY = frozenset(PREFIXES)
LARGE, SMALL = frozenset("kMGTPEZY"), frozenset(["d", "c", "m", "µ", "u", "n", "p", "f"])
YEARS = frozenset("kMG")
# The units that prefixes stand before: every unit of the SI with a symbol of its own, and those beside it that science
# uses so. With a symbol that has two meanings the prefix decides: barns are small, bits are many.
PREFIXED: dict[str, tuple[tuple[str, frozenset[str]], ...]] = {
    **{
        symbol: ((name, EVERY),)
        for symbol, name in {
            "m": "meter", "g": "gram", "s": "second", "A": "ampere", "K": "kelvin", "mol": "mole", "cd": "candela",
            "Hz": "hertz", "rad": "radian", "sr": "steradian", "N": "newton", "Pa": "pascal", "J": "joule",
            "W": "watt", "C": "coulomb", "V": "volt", "F": "farad", "Ω": "ohm", "ohm": "ohm", "S": "siemens",
            "Wb": "weber", "T": "tesla", "H": "henry", "lm": "lumen", "lx": "lux", "Bq": "becquerel", "Gy": "gray",
            "Sv": "sievert", "kat": "katal", "L": "liter", "l": "liter", "eV": "electron_volt",
        }.items()
    },
    "bar": (("bar", EVERY - {"h"}),),
    "t": (("metric_ton", LARGE),),
    "Da": (("dalton", LARGE),),
    "cal": (("calorie", LARGE | SMALL),),
    "Wh": (("watt_hour", LARGE | SMALL),),
    "Ah": (("ampere_hour", LARGE | SMALL),),
    "VA": (("volt_ampere", LARGE | SMALL),),
    "Ci": (("curie", LARGE | SMALL),),
    "rem": (("rem", LARGE | SMALL),),
    "dyn": (("dyne", LARGE | SMALL),),
    "M": (("molar", SMALL),),
    "P": (("poise", SMALL),),
    "St": (("stokes", SMALL),),
    "atm": (("atmosphere", SMALL),),
    "Torr": (("torr", SMALL),),
    "a": (("year", YEARS),),
    "yr": (("year", YEARS),),
    "pc": (("parsec", YEARS),),
    "ly": (("light_year", YEARS),),
    "B": (("byte", LARGE),),
    "bit": (("bit", LARGE),),
    "b": (("bit", LARGE), ("barn", SMALL)),
}  # fmt: skip
# The short symbols without a prefix; what else Pint has in three letters or less, such as Nm for a fineness of thread,
# is no unit here.
SHORT = frozenset(
    "min h d wk yr a ha au u t kt kn nmi mi in ft yd lb lbf kgf oz hp psi mph rpm ppm dB Np gon deg amp day atm bar "
    "rem mol rad cal erg dyn bit sr cd pc ly ohm Da eV Wh Ah VA Ci St Å Pa Hz Wb Bq Gy Sv kat lm lx".split()
) | frozenset("m g s A K N J W C V F Ω S T H L l M P B b".split())
# Where a symbol of its own and a prefix before another make the same letters, the symbol of its own is meant.
OWN_SYMBOL = frozenset(["kt"])
# A plural s follows a name, such as mol or ohm, and no symbol of one or two letters: Pas is Pa s.
SHORTEST_NAME = LONGEST_SYMBOL = 3


@dataclass(frozen=True, slots=True)
class Meaning:
    """A unit by its name in Pint's registry, with the name of its prefix (empty without one); or an expression of
    such names, where a spelling stands for one."""

    unit: str
    prefix: str = ""


@loaded_once
def registry() -> Any:
    """Pint's registry with exact fractions; loaded when the first unit is read."""
    import pint

    return pint.UnitRegistry(non_int_type=Fraction, cache_folder=None)


@lru_cache(maxsize=4000)
def meaning(symbol: str) -> Meaning | None:
    """What a symbol or a name means; None when it is no unit.

    >>> meaning("MΩ"), meaning("Newtons"), meaning("Min")
    (Meaning(unit='ohm', prefix='mega'), Meaning(unit='newton', prefix=''), None)
    """
    if symbol in SPELLINGS:
        return Meaning(SPELLINGS[symbol])
    text = symbol.replace("μ", "µ").replace("ℓ", "L")
    if text in NO_UNITS or text in TWO_UNITS:
        return None
    found = (None if text in OWN_SYMBOL else with_prefix(text)) or by_itself(text) or named(text)
    if found is None and len(text) > SHORTEST_NAME and text[0] == "K":
        # no prefix is a capital K: Kcal, Kohm
        found = with_prefix("k" + text[1:])
    if found is None and len(text) > SHORTEST_NAME and text[0].isupper() and text[1:].islower():
        lower = text.lower()
        found = Meaning(SPELLINGS[lower]) if lower in SPELLINGS else named(lower)
    return found


def with_prefix(text: str) -> Meaning | None:
    """A symbol that takes this prefix: ``mN``, ``daN``."""
    for length in (1, 2):
        prefix = text[:length]
        for name, prefixes in PREFIXED.get(text[length:], ()):
            if prefix in prefixes:
                return Meaning(name, PREFIXES[prefix])
    return None


def words(unit: str) -> set[str]:
    """The names and symbols that a unit has in Pint's registry."""
    definition = registry()._units[unit]
    return {definition.name, definition.symbol, *definition.aliases}


def readings(text: str) -> list[tuple[str, str, str]]:
    """What Pint makes of a word: (prefix, unit, suffix) of every reading."""
    try:
        return list(registry().parse_unit_name(text))
    except Exception:
        # Pint raises errors of many kinds for what is no unit
        return []


def by_itself(text: str) -> Meaning | None:
    """A symbol or name without a prefix; what has digits or low lines in it is a constant of nature."""
    if (len(text) <= LONGEST_SYMBOL and text not in SHORT) or not text.isalpha():
        return None
    return next((Meaning(unit) for prefix, unit, _ in readings(text) if not prefix and text in words(unit)), None)


def named(text: str) -> Meaning | None:
    """A unit's name, with the name of a prefix and in the plural as may be: ``kilometres``."""
    for prefix, unit, _ in readings(text):
        rest = text.removeprefix(prefix)
        if prefix and rest == text:
            continue
        singular = rest.removesuffix("s")
        known = words(unit)
        if len(singular) >= SHORTEST_NAME and (rest in known or singular in known):
            return Meaning(unit, prefix)
    return None
