"""Characters that paper can show: what is pasted is put right where that is clear, and what no font of ours has a sign
for is told before anything is printed."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator
from dataclasses import dataclass
from functools import cache
from pathlib import Path

TABLE = Path(__file__).with_name("settable.txt")
# What other programs put in the place of what one types: private bullets, spaces of every width, what nobody sees.
BULLETS = "\uf0b7\uf0a7\uf0d8\uf076\uf0fc\uf02d\u25cf\u25aa\u25ab\u25a0\u2023\u2043\u2219"
SPACES = "\u1680\u2000-\u200a\u205f\u3000"
UNSEEN = "\u00ad\u061c\u115f\u1160\u180e\u200b-\u200f\u202a-\u202e\u2060-\u206f\ufe00-\ufe0f\ufeff\ufff9-\ufffb"
CONTROLS = "\x00-\x08\x0e-\x1f\x7f\x80-\x84\x86-\x9f"
REPLACED = (
    (re.compile("\r\n?|[\x0b\x0c\x85\u2028\u2029]"), "\n"),
    (re.compile(f"[{UNSEEN}{CONTROLS}]"), ""),
    (re.compile(rf"^([ \t]*)[{BULLETS}\u2022\u00b7][ \t\u00a0]+", re.MULTILINE), r"\1- "),
    (re.compile("[\uf0b7\uf0a7]"), "\u2022"),
    (re.compile(f"[{SPACES}]"), " "),
    (re.compile("[\u2010\ufe58\ufe63\uff0d]"), "-"),
    (re.compile("[\u2012\u2015\u2e3a\u2e3b]"), "\u2013"),
    (re.compile("\u02bc"), "\u2019"),
    (re.compile("[\U0001d400-\U0001d7ff]"), lambda found: unicodedata.normalize("NFKC", found[0])),
    (re.compile("[\ufb00-\ufb06]"), lambda found: unicodedata.normalize("NFKC", found[0])),
    (re.compile("[\uff01-\uff5e]"), lambda found: unicodedata.normalize("NFKC", found[0])),
)
PLAIN = re.compile("[\t\n\x20-\x7e]*")
# What parts lines and words, and has no sign.
LINES = "\t\n\r"


def put_right(text: str) -> str:
    """What was pasted, with its bullets, spaces, dashes and letters as they are typed here; what is typed stays.

    >>> put_right("\\uf0b7 the\\u2003crane\\u200b")
    '- the crane'
    """
    if PLAIN.fullmatch(text):
        return text
    text = unicodedata.normalize("NFC", text)
    for pattern, instead in REPLACED:
        text = pattern.sub(instead, text)
    return text


@cache
def strange() -> re.Pattern[str]:
    """What the fonts of the papers have no sign for."""
    ranges = [each.split("-") for each in TABLE.read_text("utf-8").split()]
    inside = "".join(f"\\U{int(each[0], 16):08x}-\\U{int(each[-1], 16):08x}" for each in ranges)
    return re.compile(f"[^{LINES}{inside}]+")


@dataclass(frozen=True, slots=True)
class Unprintable:
    """Characters of a text that cannot be printed: where they stand, what is said, and what could stand there."""

    place: int
    length: int
    message: str
    instead: str = ""


def unprintable(text: str) -> Iterator[Unprintable]:
    """What of a text, put right, cannot be printed."""
    for found in strange().finditer(put_right(text)):
        yield explained(found[0], found.start())


def explained(signs: str, place: int) -> Unprintable:
    plain = unicodedata.normalize("NFKC", signs)
    instead = "" if strange().search(plain) else plain
    shown = signs if len(signs) <= 12 else f"{signs[:12]}…"
    code = f" ({unicodedata.name(signs[0], f'U+{ord(signs[0]):04X}').lower()})" if len(signs) == 1 else ""
    return Unprintable(place, len(signs), f"“{shown}”{code} cannot be printed. {cure(signs, instead)}", instead)


def cure(signs: str, instead: str) -> str:
    """What could be done instead."""
    if instead:
        return f"Write {instead} instead."
    first = signs[0]
    if unicodedata.category(first) == "Co":
        return "It is a sign of another program's font: type what it stands for."
    if unicodedata.category(first) in {"So", "Sk", "Cn", "Mn", "Me"}:
        return "Leave it out, say it in words, or show it as a picture."
    if unicodedata.category(first) == "Sm" or "MATHEMATICAL" in unicodedata.name(first, ""):
        return "Write it as maths between dollar signs, or say it in words."
    return "Latin, Greek and Cyrillic letters can be; show other scripts as a picture."


def printable(text: str) -> str:
    """A text as paper can show it: what it has no sign for is left out."""
    return text if PLAIN.fullmatch(text) else strange().sub("", put_right(text))


# Letters that are no other letter with an accent, and are typed as one all the same.
TYPED_AS = str.maketrans(
    {"ł": "l", "ø": "o", "đ": "d", "ð": "d", "þ": "th", "ß": "ss", "æ": "ae", "œ": "oe", "ı": "i", "ħ": "h", "ŋ": "n"}
)


def unaccented(text: str) -> str:
    """A text without case, accents and what only colours a letter.

    >>> unaccented("Łaskowska Øyvind Müller")
    'laskowska oyvind muller'
    """
    plain = unicodedata.normalize("NFD", text.casefold().translate(TYPED_AS))
    return "".join(sign for sign in plain if not unicodedata.combining(sign))


RAISED = re.compile("[⁰¹²³⁴-⁹⁺⁻ⁿⁱ]+")


def raised_apart(text: str) -> str:
    """A text in which what is raised has a caret: compatible characters alone would make x² and x2 one.

    >>> raised_apart("x² 10⁻³")
    'x^2 10^-3'
    """
    return RAISED.sub(lambda found: f"^{unicodedata.normalize('NFKC', found[0])}".replace("−", "-"), text)


LONE_LETTER = re.compile(r"(?<!\w)([A-Za-z])(?!\w)")


def letters_apart(text: str) -> list[tuple[str, bool]]:
    """A few words in which letters by themselves are set as in maths: the pieces, and which are such letters.

    >>> letters_apart("x = and P_1")
    [('x', True), (' = and P_1', False)]
    """
    return [(piece, k % 2 == 1) for k, piece in enumerate(LONE_LETTER.split(text)) if piece]
