"""Reading a fixed question: its numbers with their units and the words about them, and its answer."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cache

from flint import fmpq

from ..errors import CoreError
from ..notation import NotationError, line, literal
from ..quantities import Unit, read_unit
from .book import stem

GROUP = r"(?:\d{1,3}(?:[ \u00a0\u202f]\d{3})+(?!\d)|\d+)"
POWER = (
    r"(?:\s?[·⋅×*x]\s?10\s?(?:\^\s?\(?(?P<power>[-−]?\d+)\)?|(?P<raised>⁻?[⁰¹²³⁴⁵⁶⁷⁸⁹]+))"
    r"|[eE](?P<short>[-+−]?\d+)(?![\w]))"
)
NUMBER = re.compile(rf"(?<![\w.,^])(?P<sign>[-−]?)(?P<whole>{GROUP}(?:,\d{{3}})*)(?P<rest>[.,]\d+)?{POWER}?(?![\d])")
# 10^-5 W/m^2: a power of ten by itself
BARE_POWER = re.compile(r"\^\(?([-−]?\d{1,2})\)?(?!\d)|(⁻?[⁰¹²³⁴⁵⁶⁷⁸⁹]{1,2})")
RAISED = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻", "0123456789-")
SPACES = re.compile(r"[ \u00a0\u202f]")
RAISE = r"(?:\^[-−]?\d|⁻?[²³¹])"
SYMBOLS = re.compile(
    r"[ \u00a0\u202f]?("
    r"(?:[kM]?W[ -]?h|[kMm]?N ?m|Ω ?m|[AWN] ?s|kg ?m/s|kg ?m\^2|°C|°F|°|%|[A-Za-zΩµμ]+)"
    rf"(?:{RAISE}|\*\*\d)?"
    r"(?:(?:/|·|\*| (?=[A-Za-zΩ]{1,3}(?:\^[-−]?\d|⁻)))\(?[A-Za-zΩ°]+"
    rf"{RAISE}?(?:[ ·][A-Za-z°]{{1,2}}{RAISE}?\))?\)?)*)"
)
# Units in words, as a text has them.
NAMED = (
    r"(?:kilo|centi|milli|micro|nano|mega|giga|deci|hecto)?"
    r"(?:met(?:re|er)s?|grams?|grammes?|lit(?:re|er)s?|newtons?|joules?|watts?|volts?|amperes?|amps?|ohms?|pascals?|hertz|"
    r"coulombs?|farads?|teslas?|moles?|bars?)"
    r"|tonnes?|seconds?|minutes?|hours?|days?|kelvins?|degrees? (?:celsius|c)|degrees?|per ?cent|percent|miles?|knots?|"
    r"hectares?|becquerels?"
)
PHRASE = re.compile(
    rf"[ \u00a0\u202f-]((?P<shape>square |cubic )?(?P<first>{NAMED})(?:[ -](?P<product>hours?|met(?:re|er)s?))?"
    rf"(?: (?:per|an?) (?P<below_shape>square |cubic )?(?P<below>{NAMED})(?P<squared> squared| per second)?)?)(?![\w])",
    re.IGNORECASE,
)
OVER_UNIT = re.compile(r"[ \u00a0\u202f](1/(?:[A-Za-z°Ωµμ]{1,3}))(?![\w])")
PER_UNIT = re.compile(rf"[ \u00a0\u202f]per ({NAMED}|°C|K|m|cm|s|kg|mol)(?![\w])", re.IGNORECASE)
NAMES_OF_UNITS = {
    "degrees celsius": "°C", "degree celsius": "°C", "degrees c": "°C", "degree c": "°C", "degrees": "°", "degree": "°",
    "per cent": "%", "percent": "%",
}  # fmt: skip
# Symbols of small letters that are units, where other small words are words.
SMALL = frozenset(
    "g kg mg m cm mm km nm pm dm s h d min ms ns hr hrs sec l ml cl dl hl t mol mmol bar atm mbar rad deg rpm ha u cal "
    "kcal".split()
)
CALENDAR = {"year": 31_557_600, "month": 2_629_800, "week": 604_800, "fortnight": 1_209_600}
PER = re.compile(
    r"(?:\s+[\w-]+){0,3}?\s+(?:an?|per|each|every)\s+"
    r"(second|minute|hour|day|week|month|year|kilomet(?:re|er)|km|met(?:re|er)|lit(?:re|er)|kilogram|kg|gram|tonne|mile)\b",
    re.IGNORECASE,
)
BEFORE_A_YEAR = re.compile(r"\b(?:in|since|until|till|during|year)\s+\Z", re.IGNORECASE)
IS_PI = re.compile(r"(?:π|\bpi)\s*=\s*\Z")
# How an answer is to be given, after a number.
HOW = re.compile(r"[ -]?(?:decimal|significant|sig\.?|d\.?p|s\.?f|places? of decimals)", re.IGNORECASE)
BEFORE_A_TIME = re.compile(r"\b(?:at|till|until|from|to|by|and|leaves|arrives)\s+\Z", re.IGNORECASE)
AFTER_A_TIME = re.compile(r"\s*(?:a\.?m|p\.?m|o.clock)\b", re.IGNORECASE)
NAMES = {
    "kg": "m", "g": "m", "mg": "m", "t": "m", "m": "d", "cm": "l", "mm": "w", "km": "s", "s": "t", "min": "t",
    "hours": "t", "minutes": "t", "seconds": "t", "days": "t", "h": "t", "m/s": "v", "km/h": "v", "m/s^2": "a",
    "m/s²": "a", "°C": "T", "K": "T", "N": "F", "kN": "F", "J": "E", "kJ": "E", "MJ": "E", "W": "P", "kW": "P",
    "V": "U", "A": "I", "mA": "I", "Ω": "R", "L": "V", "l": "V", "mL": "V", "cm^3": "V", "cm³": "V", "m^3": "V",
    "m³": "V", "m^2": "A", "m²": "A", "cm^2": "A", "cm²": "A", "mol": "n", "Pa": "p", "kPa": "p", "%": "p",
    "°": "alpha", "Hz": "f", "N/m": "k", "mol/L": "c", "mol/dm^3": "c", "g/mol": "M", "kg/m^3": "rho",
    "kg/m³": "rho", "C": "Q", "litres": "V", "litre": "V", "metres": "d", "hour": "t",
}  # fmt: skip
SPARE = "abcdkqruxyz"
# An equation is one with nothing on its right; a ratio that says "equal".
EQUALS = re.compile(r"[a-z\d)] = \Z")
ONE_TO_ONE = re.compile(r"(?<![\d.,:])1\s?:\s?1(?![\d:]|[.,]\d)")
# Units of what a table gives: such a number belongs to a substance and stays.
TABLED = ("g/mol", "dm^3/mol", "J/(kg K)", "J/kg", "J/(mol K)", "ohm m", "mol^-1")
FREE_FALL = frozenset(map(Fraction, ("9.81", "9.8", "10", "9.807")))
NUMBER_WORDS = {
    "two": 2, "three": 3, "four": 4, "five": 5, "six": 6, "seven": 7, "eight": 8, "nine": 9, "ten": 10, "eleven": 11,
    "twelve": 12, "dozen": 12, "twenty": 20, "hundred": 100,
}  # fmt: skip
WORD = re.compile(r"[^\W\d_]+(?:-[^\W\d_]+)*")
MOST_IN_A_TEXT = 40
# A longer number is none that anybody works with.
MOST_DIGITS = 30


@dataclass(frozen=True, slots=True)
class FoundNumber:
    """A number of the text: where it stands with its unit, and how it could vary."""

    start: int
    end: int
    written: str
    unit: str
    value: fmpq
    decimals: int
    name: str
    definition: str
    # years, tabled constants and other numbers that had better stay
    stays: bool = False
    # the power of ten of standard form, None otherwise
    exponent: int | None = None
    # the unit of time after "a" or "per", as in 35 litres a minute
    per: str = ""
    # stems of the words about it, with how near they stand: 1 beside it, less further off
    context: tuple[tuple[str, float], ...] = field(default=(), repr=False)
    # a year, a month or a week after it
    calendar: str = ""

    @property
    def shown(self) -> str:
        """How the parameter is shown, as the desk writes it."""
        if self.exponent is not None:
            return f"standard {1 + self.decimals} sf"
        return f"{self.decimals} dp" if self.decimals else ""


@dataclass(frozen=True, slots=True)
class Goal:
    """The printed answer: its value, unit, and how far what it was rounded from may lie off."""

    value: fmpq
    unit: str
    decimals: int
    exponent: int | None
    slack: float
    # with zeros at the end of a whole number taken as rounding
    loose: float
    figures: int
    # a fraction such as 3/8 is exact
    fraction: bool = False
    calendar: str = ""


class VaryingError(CoreError, ValueError):
    """A text or an answer that nothing can be made of."""

    def __init__(self, message: str) -> None:
        super().__init__("cannot_vary", message)


def found_numbers(text: str, mark: str = "point") -> list[FoundNumber]:
    """The numbers of a question's text, each with its unit and a proposed range."""
    found: list[FoundNumber] = []
    taken: set[str] = set()
    words = [(match.start(), match.end(), stem(match[0])) for match in WORD.finditer(text)]
    for match in NUMBER.finditer(text):
        if len(found) == MOST_IN_A_TEXT:
            break
        if found and match.start() < found[-1].end:
            # a power of the unit before
            continue
        if len(match["whole"]) > MOST_DIGITS:
            continue
        if re.match(r"1st\b", text[match.start() :]) or says_how(text, match):
            # the first of something, or how an answer is to be given, is no number that could vary
            continue
        if text[match.end() : match.end() + 1] == ":" and is_time_or_scale(text, match):
            continue
        if text[match.start() - 1 : match.start()] == ":" and is_time(text, match):
            continue
        for part in separate(text, match, mark):
            value, decimals, exponent, start, end = part
            number = described(text, words, value, decimals, exponent, start, end, taken)
            taken.add(number.name)
            found.append(number)
    return found


def separate(text: str, match: re.Match[str], mark: str) -> list[tuple[Fraction, int, int | None, int, int]]:
    """(value, decimals, exponent, start, end) of what a match writes: two numbers where a comma parts coordinates."""
    rest = match["rest"] or ""
    whole = SPACES.sub("", match["whole"])
    coordinates = text[match.start() - 1 : match.start()] == "(" and text[match.end() : match.end() + 1] == ")"
    if rest.startswith(",") and coordinates and mark == "point":
        cut = match.start() + len(match[0]) - len(rest)
        sign = -1 if match["sign"] else 1
        return [
            (Fraction(sign * int(whole.replace(",", ""))), 0, None, match.start(), cut),
            (Fraction(rest[1:]), 0, None, cut + 1, match.end()),
        ]
    if "," in whole:
        whole = whole.replace(",", "")
    if rest.startswith(",") and mark == "point" and len(rest) == 4:
        whole, rest = whole + rest[1:], ""
    decimals = max(0, len(rest) - 1)
    power = match["power"] or (match["raised"] or "").translate(RAISED) or match["short"]
    exponent = int(power.replace("−", "-")) if power else None
    value, end = Fraction(whole + rest.replace(",", ".")), match.end()
    bare = BARE_POWER.match(text, end) if whole == "10" and not rest and exponent is None else None
    if bare:
        exponent, end = int((bare[1] or bare[2].translate(RAISED)).replace("−", "-")), bare.end()
        value = Fraction(1)
    if match["sign"]:
        value = -value
    if exponent is not None:
        if abs(exponent) > 60:
            exponent = max(-60, min(60, exponent))
        value *= Fraction(10) ** exponent
    return [(value, decimals, exponent, match.start(), end)]


def is_time(text: str, match: re.Match[str]) -> bool:
    """Whether the digits after a colon are minutes."""
    before = re.search(r"\d{1,2}:\Z", text[: match.start()])
    return bool(before and len(match[0]) == 2 and says_time(text[: before.start()], text[match.end() :]))


def is_time_or_scale(text: str, match: re.Match[str]) -> bool:
    """Whether the digits before a colon are hours, or the 1 of a scale."""
    after = re.match(r":(\d+)", text[match.end() :])
    if not after:
        return False
    if match[0] == "1" and len(after[1]) > 1:
        return True
    return len(after[1]) == 2 and says_time(text[: match.start()], text[match.end() + after.end() :])


def says_how(text: str, match: re.Match[str]) -> bool:
    """Whether a number says how many places are wanted or how many marks there are, or numbers the question."""
    if HOW.match(text, match.end()):
        return True
    if text[match.start() - 1 : match.start()] in {"(", "["} and re.match(r"\s*marks?\s*[)\]]", text[match.end() :]):
        return True
    return match.start() == 0 and bool(re.match(r"[.)]\s+\D", text[match.end() :]))


def says_time(before: str, after: str) -> bool:
    return bool(BEFORE_A_TIME.search(before[-12:]) or AFTER_A_TIME.match(after))


def described(
    text: str, words: list[tuple[int, int, str]], value: Fraction, decimals: int, exponent: int | None, start: int,
    end: int, taken: set[str],
) -> FoundNumber:  # fmt: skip
    """A number with its unit, its name and its range."""
    unit, end = unit_after(text, end)
    follows = re.match(r"\s+([a-z]+)", text[end:])
    calendar = ""
    if not unit and follows:
        singular = follows[1].removesuffix("s")
        calendar = singular if singular in CALENDAR else ""
    per = PER.match(text, end)
    whole_year = (
        not unit and decimals == 0 and exponent is None and 1500 <= value <= 2100 and " " not in text[start:end]
    )
    next_word = follows[1] if follows else ""
    year = (
        whole_year
        and bool(BEFORE_A_YEAR.search(text[:start]))
        and next_word in {"", "a", "the", "it", "and", "to", "there"}
    )
    rational = fmpq(value.numerator, value.denominator)
    return FoundNumber(
        start, end, text[start:end].strip(), unit, rational, decimals, next_name(unit, taken),
        proposed_range(value, decimals if exponent is None else decimals - exponent, unit),
        year or is_tabled(unit) or is_free_fall(unit, value) or bool(IS_PI.search(text[:start]))
        or (not value and bool(EQUALS.search(text[:start])))
        or any(pair.start() <= start < pair.end() for pair in ONE_TO_ONE.finditer(text)),
        exponent, per[1].lower() if per else "", context_of(words, text, start, end), calendar,
    )  # fmt: skip


def context_of(words: list[tuple[int, int, str]], text: str, start: int, end: int) -> tuple[tuple[str, float], ...]:
    """Stems of the words about a place, nearer ones weighing more; a sentence's end is a wall, a comma half of one."""
    near: dict[str, float] = {}
    before = [word for word in words if word[1] <= start][-7:]
    after = [word for word in words if word[0] >= end][:5]
    for side, count in ((reversed(before), 0.13), (iter(after), 0.18)):
        weight = 1.0
        edge = None
        for first, last, word in side:
            between = text[last:edge] if edge is not None and last <= edge else ""
            between = between or (text[last:start] if last <= start else text[end:first])
            if re.search(r"[.?!;]\s", between):
                break
            if "," in between or word in {"and", "then"}:
                weight -= 0.3
            near[word] = max(near.get(word, 0.0), weight)
            weight -= count
            edge = first
            if weight <= 0.1:
                break
    return tuple(near.items())


def is_free_fall(unit: str, value: Fraction) -> bool:
    """Whether a number is the field strength at the earth's surface, as books round it."""
    known = unit_of(unit)
    return known is not None and known.dimension == (("meter", 1), ("second", -2)) and value in FREE_FALL


@cache
def is_tabled(unit: str) -> bool:
    """Whether a unit is one of what tables give, such as g/mol: such a number belongs to its substance."""
    try:
        found = read_unit(unit) if unit else None
    except NotationError:
        return False
    return found is not None and found.dimension in {read_unit(each).dimension for each in TABLED}


def unit_after(text: str, place: int) -> tuple[str, int]:
    """The unit that stands after a number, in symbols, and where it ends."""
    per = PER_UNIT.match(text, place)
    if per and unit_of(f"1/{per[1]}") is not None:
        return f"1/{per[1]}", per.end()
    over = OVER_UNIT.match(text, place)
    if over and unit_of(over[1]) is not None:
        return over[1], over.end()
    phrase = PHRASE.match(text, place)
    if phrase:
        unit = in_symbols(phrase)
        if unit is not None:
            return unit, phrase.end()
    found = SYMBOLS.match(text, place)
    if not found:
        return "", place
    # the longest beginning that is a unit
    for end in range(len(found[1]), 0, -1):
        piece = found[1][:end]
        follows = text[found.start(1) + end :][:1]
        if follows.isalpha() or piece[-1] in "/·* (" or piece.count("(") != piece.count(")"):
            continue
        first = re.match(r"[a-z]+(?![A-Za-zΩµμ])", piece)
        if first and first[0] not in SMALL and not re.fullmatch(NAMED, first[0]):
            continue
        if piece in {"h", "d", "m", "A", "t", "u"} and follows not in "., \n;:?)":
            continue
        if piece in {"A", "d", "u"} and re.match(r"\s+[a-z]", text[found.start(1) + end :]) and piece != "A":
            continue
        try:
            read_unit(piece)
        except NotationError:
            continue
        return piece, found.start(1) + end
    return "", place


def in_symbols(phrase: re.Match[str]) -> str | None:
    """A unit in words as ``read_unit`` reads it; None where it is none."""

    def power(shape: str | None) -> str:
        return {"square ": "^2", "cubic ": "^3"}.get((shape or "").lower(), "")

    first = phrase["first"].lower()
    unit = NAMES_OF_UNITS.get(first, phrase["first"]) + power(phrase["shape"])
    if phrase["product"]:
        if not first.endswith(("watt", "newton", "watts", "newtons")):
            return None
        unit = f"{unit} {phrase['product']}"
    if phrase["below"]:
        below = NAMES_OF_UNITS.get(phrase["below"].lower(), phrase["below"]) + power(phrase["below_shape"])
        unit = f"{unit}/{below}" if not phrase["squared"] else f"{unit}/{below}^2"
    try:
        read_unit(unit)
    except NotationError:
        return None
    return unit


def next_name(unit: str, taken: set[str]) -> str:
    """A letter that suits the unit, with a number behind it when it is taken already."""
    wanted = NAMES.get(unit)
    if wanted is None:
        return next((letter for letter in SPARE if letter not in taken), f"a_{len(taken)}")
    if wanted not in taken:
        return wanted
    return next(name for k in range(1, 100) if (name := f"{wanted}_{k}") not in taken)


def proposed_range(value: Fraction, decimals: int, unit: str) -> str:
    """From about half to about one and a half times the value, in some twenty round steps that meet it."""
    if value == 0:
        return "0..5"
    least = Fraction(1, 10**decimals) if decimals >= 0 else Fraction(10**-decimals)
    step = max(least, round_step(abs(value) / 20))
    # the steps meet the value: a multiple of the step where the value is one
    offset = value % step
    below, above = abs(value) / 2, abs(value) * Fraction(3, 2)
    low = value - (below - below % step)
    high = value + (above - abs(value) - (above - abs(value)) % step)
    if unit == "%" and high > 100:
        high = Fraction(100) - (100 - offset) % step
    if high - low < 3 * step:
        low, high = max(step, value - 3 * step) if value > 0 else value - 3 * step, value + 5 * step
    texts = [short(number) for number in (low, high, step)]
    return f"{texts[0]}..{texts[1]}" + ("" if step == 1 else f" step {texts[2]}")


def short(value: Fraction) -> str:
    """A number for a definition; very large and very small ones as a multiple of a power of ten."""
    size = math.floor(math.log10(abs(value))) if value else 0
    if -5 <= size < 9:
        return line(literal(value))
    return f"{line(literal(value / Fraction(10) ** size))}*10^{size}"


def round_step(size: Fraction) -> Fraction:
    """The largest of 1, 2 or 5 times a power of ten that is not above a size."""
    power = Fraction(10) ** math.floor(math.log10(size))
    return max((power * digit for digit in (1, 2, 5) if power * digit <= size), default=power)


# the answer

FRACTION = re.compile(
    r"\s*(?P<sign>[-−]?)(?:(?P<whole>\d+)\s+)?(?P<top>\d+)\s*/\s*(?P<bottom>\d+)(?P<unit>\s*[^\d]*)\Z"
)
PREFACE = re.compile(r"\s*(?:[A-Za-z]\w{0,3}\s*=|≈|~|=|about|approximately|approx\.?|ca\.?|roughly)\s*", re.IGNORECASE)


def given_answer(text: str, mark: str = "point") -> Goal:
    """The printed answer as one number with its unit. Raises ``VaryingError``."""
    told = "Write the answer as one number, with its unit if it has one, such as 22 kJ."
    while (preface := PREFACE.match(text)) and preface.end():
        text = text[preface.end() :]
    fraction = FRACTION.match(text)
    if fraction and int(fraction["bottom"]):
        value = Fraction(int(fraction["top"]), int(fraction["bottom"])) + int(fraction["whole"] or 0)
        value = -value if fraction["sign"] else value
        unit = unit_after(f"1 {fraction['unit'].strip()}", 1)[0]
        return Goal(fmpq(value.numerator, value.denominator), unit, 0, None, 1e-9 * abs(value), 0.0, 9, True)
    found = found_numbers(text, mark)
    if len(found) != 1:
        raise VaryingError(told)
    number = found[0]
    exponent = number.exponent or 0
    last = 0.5 * 10.0 ** (exponent - number.decimals)
    digits = str(
        abs(int(Fraction(int(number.value.p), int(number.value.q)) * Fraction(10) ** (number.decimals - exponent)))
    )
    zeros = len(digits) - len(digits.rstrip("0")) if not number.decimals and number.exponent is None else 0
    figures = len(digits.lstrip("0")) - (zeros if zeros else 0)
    # a whole number with zeros at its end has been rounded to three figures, or to two
    loose = last * 10 ** min(zeros, max(0, len(digits) - (3 if len(digits) > 3 else 2)))
    return Goal(
        number.value,
        number.unit,
        number.decimals,
        number.exponent,
        last,
        loose,
        max(1, figures),
        False,
        number.calendar,
    )


def varied(text: str, numbers: Iterable[FoundNumber]) -> str:
    """The text with a maths span in the place of every number that varies, its unit with it."""
    for number in sorted(numbers, key=lambda found: -found.start):
        if not number.stays:
            text = f"{text[: number.start]}${number.name}${text[number.end :]}"
    return text


def unit_of(text: str) -> Unit | None:
    try:
        return read_unit(text) if text else None
    except NotationError:
        return None
