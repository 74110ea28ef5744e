"""Definitions as they are written elsewhere, and how they are written here: ``150 to 600`` is ``150..600``."""

from __future__ import annotations

import re
from collections.abc import Callable

NUMBER = r"[-−]?\d+(?:[.,]\d+)?"
RANGE = r"[^.]+?\.\.[^.]+?"
BETWEEN = re.compile(
    rf"(?:from|between|von|zwischen)?\s*(?P<low>{NUMBER})\s*(?:to|bis|until|through|and|und|\.{{3,}}|…|–|—)\s*"
    rf"(?P<high>{NUMBER})(?P<rest>.*)\Z"
)
COLONS = re.compile(rf"(?P<low>{NUMBER})\s*:\s*(?:(?P<step>{NUMBER})\s*:\s*)?(?P<high>{NUMBER})\Z")
RANDOM = re.compile(
    rf"=?(?:rand|random|randint|randbetween|rnd|range|zufallsbereich|zufallszahl)\s*\(\s*(?P<low>{NUMBER})\s*[,;]\s*"
    rf"(?P<high>{NUMBER})\s*\)\Z",
    re.IGNORECASE,
)
WORD_BEFORE = re.compile(r"(?:random|integers?|whole|numbers?|zufällig|ganze)\s+(?P<rest>.+)\Z", re.IGNORECASE)
WORD_BEHIND = re.compile(rf"(?P<range>{RANGE})\s+(?:random|integers?|whole|numbers?)\Z", re.IGNORECASE)
STEPPED = re.compile(
    rf"(?P<range>{RANGE})\s*[,;(]?\s*(?:by|in steps of|steps? of|schritt(?:weite)?|steps?|increment)\s*[=:]?\s*"
    rf"(?P<step>{NUMBER})\s*\)?\Z",
    re.IGNORECASE,
)
EXCEPTED = re.compile(
    rf"(?P<range>{RANGE})\s*[,;(]?\s*(?:without|except|excluding|but not|not|ohne|außer|!=|≠|<>)\s*"
    rf"(?P<values>{NUMBER}(?:\s*(?:[,;]|and|or|und)\s*{NUMBER})*)\s*\)?\Z",
    re.IGNORECASE,
)
NAMED = re.compile(r"(?P<name>[A-Za-zα-ωΑ-Ω]\w*)\s*(?:=|:=|∈|\bin\b)\s*(?P<rest>.+)\Z")
WITH_UNIT = re.compile(
    rf"(?P<range>{NUMBER}\s*\.\.\s*{NUMBER}(?:\s+step\s+{NUMBER})?)\s*(?P<unit>(?!step|except)[A-Za-zΩµμ°%]\S*)\Z"
)
LISTED = re.compile(
    rf"(?:one of\s*)?[\[({{]?\s*(?P<values>{NUMBER}(?:\s*(?:[,;|]\s*|\bor\b|\boder\b|\s)\s*{NUMBER})+)\s*[\])}}]?\Z"
)
WORDS = re.compile(r"(?:one of\s*)?[\[({]?\s*(?P<values>[^\W\d_][\w -]*(?:\s*[,;|]\s*[^\W\d_][\w -]*)+)\s*[\])}]?\Z")
ONE_OF = re.compile(r"(?:one\s?of|choose from|any of|eine? (?:von|aus))\s*[:=]?\s*(?P<rest>.+)\Z", re.IGNORECASE)
DISTRIBUTED = re.compile(
    rf"(?P<word>N|U|normal|uniform|gauss)\s*[:(]?\s*(?P<first>{NUMBER})\s*[,;\s|]\s*(?P<second>{NUMBER})\s*\)?\Z"
)
FORMULA = re.compile(r"=\s*(?P<rest>[^=].*)\Z")
INTERVAL = re.compile(rf"[\[(]\s*(?P<low>{NUMBER})\s*[,;]\s*(?P<high>{NUMBER})\s*[\])]\Z")
DECIMALS = re.compile(r"(?<=\d),(?=\d)")
# A longer line is recognised as nothing: the patterns would try it for too long.
LONGEST = 200
RANGES = "Values from one number to another are written with two dots"


# What can be read and is no value: a statement that holds always, or never, an interval, N(0, 1).
CHOSEN = re.compile(
    rf"\s*(?:{NUMBER}(?:\s+or\s+{NUMBER})+|[\[(]\s*{NUMBER}\s*[,;]\s*{NUMBER}\s*[\])]"
    rf"|[NU]\(\s*{NUMBER}\s*[,;]\s*{NUMBER}\s*\))\s*\Z"
)


def pointed(text: str) -> str:
    """A number with a decimal point."""
    return text.replace(",", ".").replace("−", "-").strip()


def between(found: re.Match[str]) -> tuple[str, str]:
    rest = found.groupdict().get("rest") or ""
    return RANGES, f"{pointed(found['low'])}..{pointed(found['high'])}{rest}"


def colons(found: re.Match[str]) -> tuple[str, str]:
    step = f" step {pointed(found['step'])}" if found["step"] else ""
    return RANGES, f"{pointed(found['low'])}..{pointed(found['high'])}{step}"


def drawn(found: re.Match[str]) -> tuple[str, str]:
    return "Every definition is drawn anew for each draw", f"{pointed(found['low'])}..{pointed(found['high'])}"


def word(found: re.Match[str]) -> tuple[str, str]:
    return "Whole numbers are drawn at random anyway", (found.groupdict().get("rest") or found["range"]).strip()


def stepped(found: re.Match[str]) -> tuple[str, str]:
    return "A step is written behind the range", f"{found['range'].strip()} step {pointed(found['step'])}"


def excepted(found: re.Match[str]) -> tuple[str, str]:
    values = re.split(r"\s*(?:[,;]|and|or|und)\s*", found["values"])
    return "What is left out is written behind the range", f"{found['range'].strip()} except {', '.join(values)}"


def named(found: re.Match[str]) -> tuple[str, str]:
    return "The name stands in the cell before", found["rest"].strip()


def with_unit(found: re.Match[str]) -> tuple[str, str]:
    return f"The unit {found['unit']} stands in the cell beside", found["range"].strip()


def listed(found: re.Match[str]) -> tuple[str, str]:
    # 1,2,3 are three values; 0,5; 1,5 are two
    parts = r"\s*[;|]\s*|\s+or\s+|\s+oder\s+" if re.search(r"[;|]|\bor\b|\boder\b", found["values"]) else r"\s*,\s*|\s+"
    values = [pointed(value) for value in re.split(parts, found["values"]) if value.strip()]
    return "Values to choose from are listed after `one of`", f"one of {', '.join(values)}"


def one_of(found: re.Match[str]) -> tuple[str, str]:
    values = [value.strip() for value in re.split(r"[,;|]", found["rest"])]
    return "Values to choose from are listed after `one of`", f"one of {', '.join(values)}"


def distributed(found: re.Match[str]) -> tuple[str, str]:
    name = "uniform" if found["word"] in {"U", "uniform"} else "normal"
    return "A distribution is written out", f"{name}({pointed(found['first'])}, {pointed(found['second'])})"


def formula(found: re.Match[str]) -> tuple[str, str]:
    return "A formula stands here without = before it", found["rest"].strip()


def words(found: re.Match[str]) -> tuple[str, str]:
    values = [f'"{value.strip()}"' for value in re.split(r"[,;|]", found["values"])]
    return "Words to choose from stand in quotation marks after `one of`", f"one of {', '.join(values)}"


def decimals(found: re.Match[str]) -> tuple[str, str]:
    return "Decimals are written with a point here", DECIMALS.sub(".", found.string)


HABITS: tuple[tuple[re.Pattern[str], Callable[[re.Match[str]], tuple[str, str]]], ...] = (
    (re.compile(rf"{NUMBER}\s*\.\..*\d,\d.*\Z|\d+,\d+\s*\.\..*\Z|\d+,\d+\Z"), decimals),
    (FORMULA, formula),
    (BETWEEN, between),
    (COLONS, colons),
    (RANDOM, drawn),
    (DISTRIBUTED, distributed),
    (INTERVAL, between),
    (STEPPED, stepped),
    (EXCEPTED, excepted),
    (WORD_BEHIND, word),
    (WITH_UNIT, with_unit),
    (LISTED, listed),
    (ONE_OF, one_of),
    (NAMED, named),
    (WORD_BEFORE, word),
    (WORDS, words),
)


def meant(text: str, readable: Callable[[str], bool]) -> tuple[str, str] | None:
    """What is said of a definition that cannot be read, and the line that was most likely meant; None where nothing is
    recognised. ``readable`` says whether a line can be used.

    >>> meant("150 to 600", lambda line: True)
    ('Values from one number to another are written with two dots', '150..600')
    """
    line, said = text.strip(), ""
    if len(line) > LONGEST:
        return None
    for _ in range(3):
        for pattern, reading in HABITS:
            found = pattern.match(line)
            if found is None:
                continue
            words_, instead = reading(found)
            if instead == line:
                continue
            said, line = said or words_, instead
            break
        else:
            return None
        if readable(line):
            return said, line
    return None


MINUS = re.compile(r"(?P<low>\d+(?:\.\d+)?)\s*[-–−—]\s*(?P<high>\d+(?:\.\d+)?)\Z")
MEASURED = re.compile(rf"(?P<number>{NUMBER})\s*(?P<unit>[A-Za-zΩµμ°%]\S*)\Z")
# a word by itself that is no name
ALONE = re.compile(r"[A-Za-z]{3,}\Z")
SPELLED = re.compile(r"one of\s+[A-Za-z]{2,}(?:\s*,\s*[A-Za-z]{2,})+\Z")


def doubtful(text: str, is_name: Callable[[str], bool], is_unit: Callable[[str], bool]) -> tuple[str, str] | None:
    """What is said of a definition that can be read and means something else than it looks like, and the line that was
    most likely meant.

    >>> doubtful("150-600", lambda word: False, lambda word: False)
    ('This is 150 minus 600 in every draw. For values from 150 to 600 write `150..600`.', '150..600')
    """
    line = text.strip()
    if (found := MINUS.match(line)) and float(found["low"]) < float(found["high"]):
        low, high = found["low"], found["high"]
        said = f"This is {low} minus {high} in every draw. For values from {low} to {high} write `{low}..{high}`."
        return said, f"{low}..{high}"
    if (found := MEASURED.match(line)) and is_unit(found["unit"]) and not is_name(found["unit"]):
        return f"The unit {found['unit']} stands in the cell beside.", pointed(found["number"])
    if ALONE.match(line) and not is_unit(line) and not any(map(is_name, [line, *line])):
        quoted = f'"{line}"'
        return f"This word is read as {'*'.join(line)}. A word stands in quotation marks: `{quoted}`.", quoted
    if SPELLED.match(line) and (spelled := WORDS.match(line)):
        said, instead = words(spelled)
        if not all(is_name(each.strip('" ')) for each in instead.removeprefix("one of ").split(",")):
            return f"{said}: `{instead}`.", instead
    return None
