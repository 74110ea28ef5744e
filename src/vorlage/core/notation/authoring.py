"""What an author wrote and did not mean: functions that there are not, habits of other notations."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from difflib import get_close_matches

from ..memory import Memory
from .errors import NotationError
from .lexer import Lexer, Token
from .reader import NOTES, read
from .settings import PLAIN, Settings
from .tree import Node
from .vocabulary import FUNCTIONS, SYNONYMS

# What a function is called in spreadsheets, on calculators and elsewhere.
CALLED = {
    "sort": "sorted", "order": "sorted", "first": "item", "index": "item", "element": "item", "at": "item",
    "sd": "sample_stdev", "std": "sample_stdev", "stdv": "sample_stdev", "stddev": "sample_stdev",
    "stdevs": "sample_stdev", "stdevp": "stdev", "pstdev": "stdev", "stabw": "sample_stdev",
    "var": "sample_variance", "vars": "sample_variance", "varp": "variance",
    "avg": "mean", "average": "mean", "mittelwert": "mean", "summe": "total", "len": "count", "length": "count",
    "ncr": "choose", "comb": "choose", "combin": "choose", "trunc": "floor", "rounddown": "floor",
    "roundup": "ceil", "integer": "floor", "derivative": "diff", "integrate": "integral", "factorise": "factor",
    "factorize": "factor", "wurzel": "sqrt", "sqr": "sqrt", "norm": "normal_cdf",
    "percentile": "quantile", "quartile": "quantile", "kgv": "lcm", "ggt": "gcd", "hcf": "gcd",
}  # fmt: skip
# What is written without a function at all.
WITHOUT = {
    "pow": "A power is written with the sign ^, such as a^2.",
    "power": "A power is written with the sign ^, such as a^2.",
    "fact": "A factorial is written with the sign !, such as n!.",
    "factorial": "A factorial is written with the sign !, such as n!.",
    "rand": "A value is drawn by a definition of its own, such as `1..5`.",
    "random": "A value is drawn by a definition of its own, such as `1..5`.",
    "randint": "A value is drawn by a definition of its own, such as `1..5`.",
    "randbetween": "A value is drawn by a definition of its own, such as `1..5`.",
    "rnd": "A value is drawn by a definition of its own, such as `1..5`.",
}
# Words that join, before a bracket as elsewhere.
WORDS = frozenset("or and in except step of".split())
# The trees of the latest lines, by their characters.
LINES: Memory[tuple[str, Settings], Node] = Memory(400_000)
CALL = re.compile(r"(?<![\\A-Za-z_])(?P<word>[A-Za-z]{2,})(?P<digits>\d*)\(")
QUOTED = re.compile(r'"[^"]*"|\[[^\]]*\]')


def read_authored(text: str, settings: Settings = PLAIN) -> Node:
    """The tree of what stands in a document, which is always written with the decimal point: documents travel between
    schools, and the mark of the settings is for what people type and read. A word before a bracket that is neither a
    function nor made of names is refused: what a student may mean as a product, an author hardly does.

    >>> read_authored("sort(d)")
    Traceback (most recent call last):
    vorlage.core.notation.errors.NotationError: There is no function called sort. Did you mean sorted?
    """
    meant = authored(settings)
    noting = NOTES.get() is not None
    known = None if noting else LINES.get((text, meant))
    if known is not None:
        return known
    tree = read_line(text, meant)
    if not noting:
        # what is noted as a line is read is noted each time
        LINES.keep((text, meant), tree, len(text) + 20)
    return tree


def read_line(text: str, meant: Settings) -> Node:
    """As ``read_authored``, for settings as they are in documents."""
    refuse_unknown(text, meant)
    refuse_braces(text, meant)
    try:
        return read(text, meant)
    except NotationError as problem:
        found = written_elsewhere(text, meant)
        if found is None:
            raise
        said, instead = found
        raise NotationError("habit", f"{said}: `{instead}`", 0, len(text), instead=instead) from problem


# How a line is written elsewhere: what it looks like, what is said, and how it is written here.
ELSEWHERE: tuple[tuple[re.Pattern[str], str, str], ...] = (
    (re.compile(r"\A\s*=(?!=)\s*(.+)\Z"), "A formula stands here without = before it", r"\1"),
    (re.compile(r"\A(.*[^\s;,])\s*[;,]\s*\Z"), "A formula ends without a sign behind it", r"\1"),
    (re.compile(r"\$([^$]+)\$"), "Dollar signs stand around maths in a text, not here", r"\1"),
    (re.compile(r"\\\(|\\\)|\\\[|\\\]"), "A formula stands here by itself", ""),
    (re.compile(r"=>"), "At least is written >=", ">="),
    (re.compile(r"<>"), "Not equal is written !=", "!="),
    (re.compile(r"&&"), "Both of two conditions are joined with and", " and "),
    (re.compile(r"\|\|"), "One of two conditions is joined with or", " or "),
    (re.compile(r"\bpi\(\)", re.IGNORECASE), "pi stands by itself", "pi"),
    (re.compile(r"(?<=[\w)])\s+x\s+(?=[\w(])"), "A product is written with *", "*"),
)


def written_elsewhere(text: str, settings: Settings) -> tuple[str, str] | None:
    """What is said of a line that cannot be read and is written as it would be elsewhere, and how it is written here.
    None where nothing is recognised.

    >>> written_elsewhere("=m*9.81", Settings(names=frozenset("m")))
    ('A formula stands here without = before it', 'm*9.81')
    """
    line, said = text, ""
    for pattern, words, instead in ELSEWHERE:
        if " x " in line and "x" in settings.names and "product" in words:
            continue
        changed = pattern.sub(instead, line)
        if changed != line:
            line, said = changed.strip(), said or words
    if not said:
        return None
    try:
        refuse_unknown(line, settings)
        read(line, settings)
    except NotationError:
        return None
    return said, line


BRACED = re.compile(r"(?<![A-Za-z0-9}])\{\s*(?P<name>[A-Za-z]\w*)\s*\}")


def refuse_braces(text: str, settings: Settings) -> None:
    """Raise ``NotationError`` for the name of a parameter in braces of its own, beside other things."""
    if "{" not in text or "\\" in text or "_{" in text or "^{" in text:
        return
    found = BRACED.search(text)
    if found is None or found["name"] not in settings.names or found[0] == text.strip():
        return
    instead = BRACED.sub(lambda each: each["name"], text)
    raise NotationError("habit", f"A name stands without braces: `{instead}`", 0, len(text), instead=instead)


def authored(settings: Settings) -> Settings:
    """The settings with which a document is read."""
    plain = settings.decimal_mark == "point" and not settings.colon
    return settings if plain else replace(settings, decimal_mark="point", colon=False)


def plain_part(text: str) -> str:
    """The text with what is quoted, and the units in brackets, blanked out; every place stays what it is."""
    return QUOTED.sub(lambda found: " " * len(found[0]), text)


COLUMN = re.compile(r"(?<![\w.])(?P<row>[A-Za-z]\w*)\.(?P<column>[A-Za-z]\w*)")


def refuse_columns(text: str, settings: Settings) -> None:
    """Raise ``NotationError`` for a column that a drawn row has not."""
    if "." not in text:
        return
    for found in COLUMN.finditer(plain_part(text)):
        stem = f"{found['row']}."
        columns = sorted(name.removeprefix(stem) for name in settings.names if name.startswith(stem))
        if columns and found["column"] not in columns:
            message = f"{found['row']} has no column {found['column']}; it has {' and '.join(columns)}."
            near = next(iter(get_close_matches(found["column"], columns, 1, 0.4)), "")
            near = next((column for column in columns if found["column"] in column), near)
            instead = stem + near if near else ""
            raise NotationError("no_column", message, found.start(), len(found[0]), found["column"], instead)


def refuse_unknown(text: str, settings: Settings) -> None:
    """Raise ``NotationError`` for a word before a bracket that is no function here."""
    refuse_columns(text, settings)
    if "(" not in text or text.lstrip().startswith("chem:"):
        return
    for found in CALL.finditer(plain_part(text)):
        word = found["word"]
        if is_product(word, settings):
            continue
        place = found.start()
        if word.lower() in WITHOUT:
            raise NotationError("unknown_function", WITHOUT[word.lower()], place, len(word), word)
        meant = likely(word)
        otherwise = f"Did you mean {meant}?" if meant else f"For a product write {'*'.join(word)}*(…)."
        message = f"There is no function called {word}. {otherwise}"
        raise NotationError("unknown_function", message, place, len(word), word, meant)


def is_product(word: str, settings: Settings) -> bool:
    """Whether a word before a bracket is a function, a name or made of such: then it means something."""
    lowered = word.lower()
    if word in settings.names or word in WORDS:
        return True
    pieces = pieces_of(word, settings)
    if pieces and all(piece.text in settings.names for piece in pieces):
        # a*t*(…) of a question that has a and t, whatever else the word may be called
        return True
    if lowered in WITHOUT or lowered in CALLED:
        return False
    if word in FUNCTIONS or word in SYNONYMS:
        return True
    if any(piece.kind not in {"name", "constant"} or len(piece.text) > 1 for piece in pieces):
        return True
    if all(piece.kind == "constant" or piece.text in settings.names for piece in pieces):
        return True
    # two letters in front of a bracket may be a product of letters that stand for themselves
    return len(word) == 2 and lowered not in FUNCTIONS


def likely(word: str) -> str:
    """The function that a word most likely means; empty where none is near."""
    lowered = word.lower()
    if lowered in CALLED or lowered in FUNCTIONS:
        return CALLED.get(lowered, lowered)
    return next(iter(get_close_matches(lowered, sorted(FUNCTIONS), 1, 0.75)), "")


def pieces_of(word: str, settings: Settings) -> list[Token]:
    """What a run of letters is cut into."""
    try:
        return Lexer(word, settings).run()[:-1]
    except NotationError:
        return []


@dataclass(frozen=True, slots=True)
class Run:
    """Letters typed without anything between them that were read as a product of single letters."""

    text: str
    place: int
    names: tuple[str, ...]


def runs_in(text: str, settings: Settings) -> Iterator[Run]:
    """The runs of letters of a line that were cut into single letters, from the left.

    >>> [(run.text, run.names) for run in runs_in("mass*2 + mm", Settings(names=frozenset("m")))]
    [('mass', ('m', 'a', 's', 's')), ('mm', ('m', 'm'))]
    """
    meant = authored(settings)
    for found in re.finditer(r"(?<![\\A-Za-z_])[A-Za-z]{2,}", plain_part(text)):
        pieces = pieces_of(found[0], meant)
        if len(pieces) > 1 and all(piece.kind in {"name", "constant"} and len(piece.text) == 1 for piece in pieces):
            yield Run(found[0], found.start(), tuple(piece.text for piece in pieces))


def word_with(name: str, text: str, settings: Settings) -> tuple[str, int]:
    """The word in a line that an unknown name was cut out of, and its place; the name itself where all else in the word
    is known.

    >>> word_with("a", "mass*2", Settings(names=frozenset("m"))), word_with("g", "mgh", Settings(names=frozenset("mh")))
    (('mass', 0), ('g', 1))
    """
    for run in runs_in(text, settings):
        if name in run.names:
            unknown = {each for each in run.names if each not in settings.names}
            if len(unknown) > 1 or len(unknown) == len(run.names):
                return run.text, run.place
            return name, run.place + run.text.find(name)
    return name, max(0, text.find(name))


def repeated(text: str, settings: Settings) -> Iterator[Run]:
    """Runs that multiply a name of the question by itself, such as ``mm``: hardly ever what was meant."""
    for run in runs_in(text, settings):
        known = [name for name in run.names if name in settings.names]
        if len(known) == len(run.names) and len(set(known)) < len(known):
            yield run
