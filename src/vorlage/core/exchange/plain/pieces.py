"""The pieces that the lines of a text are sorted into, and the shapes inside a line."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Any

from ..drafted import Remark
from . import layout
from .layout import Label

LETTERS = "abcdefghijklmnopqrstuvwxyz"
ROMANS = "i ii iii iv v vi vii viii ix x xi xii xiii xiv xv xvi xvii xviii xix xx".split()


@dataclass
class Choice:
    """A line with a letter or a box: an option, or the beginning of a part."""

    line: int
    letter: str
    text: list[str]
    # whether a sign says that it is right; None where none says anything
    right: bool | None = None
    capital: bool = False
    labels: list[Label] = field(default_factory=list)


@dataclass
class Piece:
    """What stands of one part, or of the question before its parts."""

    line: int
    text: list[str] = field(default_factory=list)
    labels: list[Label] = field(default_factory=list)
    options: list[Choice] = field(default_factory=list)
    bullets: list[tuple[int, str]] = field(default_factory=list)
    letter: str = ""
    # whether it stands under the part with a letter, and whether it has a Roman number for a letter
    under: bool = False
    numbered: bool = False

    def said(self, name: str) -> Label | None:
        return next((label for label in self.labels if label.name == name), None)

    def all_said(self, name: str) -> list[Label]:
        return [label for label in self.labels if label.name == name]


@dataclass
class Block:
    """One question as its lines are sorted."""

    line: int
    number: str
    topics: tuple[str, ...]
    stem: Piece
    title: str = ""
    lettered: list[Choice] = field(default_factory=list)
    parts: list[Piece] = field(default_factory=list)
    labels: list[Label] = field(default_factory=list)
    given: list[tuple[int, str]] = field(default_factory=list)
    conditions: list[tuple[int, str]] = field(default_factory=list)
    fences: list[tuple[int, str, str, list[str]]] = field(default_factory=list)
    unread: list[Remark] = field(default_factory=list)
    guesses: list[Remark] = field(default_factory=list)


SIGNS = re.compile(
    r"\s*(?:\((?:correct|right|true|answer)\)|<-+\s*(?:correct|right)?|←.*|[✓✔]|\*{1,2})\s*$", re.IGNORECASE
)


def option_text(text: str, starred: bool) -> tuple[str, bool]:
    """What an option says, and whether a sign says that it is the right one."""
    text = text.strip()
    bold = layout.BOLD.match(text)
    if bold and bold.end() == len(text):
        return bold["text"].strip(), True
    signed = SIGNS.search(text)
    if signed and signed.start():
        return text[: signed.start()].rstrip(), True
    return text, starred


def inline_options(line: str) -> list[tuple[str, str]]:
    """The options that stand behind each other on a line: ``A) 5  B) 6  C) 7``; none where there are fewer than two."""
    for letters in (LETTERS.upper(), LETTERS):
        cuts: list[re.Match[str]] = []
        at = 0
        for letter in letters:
            shape = rf"(?:^|(?<=\s))(?:\({letter}\)|{letter}[).])\s*(?=\S)"
            cut = re.compile(shape).search(line, at)
            if cut is None:
                break
            cuts.append(cut)
            at = cut.end()
        least = 2 if letters[0] == "A" else 3
        if len(cuts) >= least:
            ends = [*(cut.start() for cut in cuts[1:]), len(line)]
            found = [(letter, line[cut.end() : end].strip(" ;,")) for letter, cut, end in zip(letters, cuts, ends)]
            if all(text for _, text in found):
                return found
    return []


NOTED = re.compile(r",\s*note:\s*(?P<note>.*)$", re.IGNORECASE)
SHOWN = re.compile(r",\s*shown(?: as)?\s+(?P<shown>[^,\[\]]+)$", re.IGNORECASE)
UNIT = re.compile(r"\s*\[(?P<unit>[^\[\]]+)\]$")


def split_given(rest: str) -> tuple[str, str]:
    """The name and the definition of a ``where`` line; an empty name for what is none."""
    found = layout.NAMED.match(rest)
    return (found["name"], found["definition"].strip()) if found else ("", rest)


def read_given(rest: str) -> dict[str, Any]:
    """A parameter from its line: ``m = 2..9 [kg], shown 1 dp, note: …``."""
    name, definition = split_given(rest)
    found: dict[str, Any] = {"name": name}
    for pattern, key in ((NOTED, "note"), (SHOWN, "shown"), (UNIT, "unit")):
        match = pattern.search(definition)
        if match:
            found[key] = match[key].strip()
            definition = definition[: match.start()].rstrip()
    return found | {"definition": definition}


def joined(lines: Iterable[str]) -> str:
    """Lines of a text as one, without the blanks that all but the first have in common, nor empty ones around."""
    given = [line.rstrip() for line in lines]
    while given and not given[0]:
        given.pop(0)
    while given and not given[-1]:
        given.pop()
    if not given:
        return ""
    indents = [len(line) - len(line.lstrip()) for line in given[1:] if line]
    common = min(indents, default=0)
    return "\n".join([given[0].strip(), *(line[common:] for line in given[1:])])
