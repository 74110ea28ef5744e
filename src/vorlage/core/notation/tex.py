"""Pasted TeX: what stands around its parts rewritten so that the lexer meets one command with its groups.

Environments, bounds and subscripts become line maths or a command followed by braces; every character
of the new text remembers the place it came from, so that a message points into what was pasted.
"""

from __future__ import annotations

import re
from collections.abc import Callable

from .errors import NotationError

LEFT_OUT = re.compile(r"\\(?:limits|nolimits|displaystyle)(?![A-Za-z])")
UPRIGHT_D = re.compile(r"\\(?:mathrm|text|operatorname)\{\s*d\s*\}")
# letters in another face, as in \\mathrm{e}
FACE = re.compile(r"\\(?:mathrm|mathit|mathbf|mathsf|boldsymbol|vec)\s*\{\s*([A-Za-z]{1,12})\s*\}")
OPERATOR_NAME = re.compile(r"\\(?:operatorname|mathop)\{([A-Za-z]+(?:\\?_[A-Za-z]+)?)\}")
DERIVATIVE = re.compile(
    r"\\d?frac\{\s*d\s*(?:\^\s*\{?(\d)\}?)?\s*\}\{\s*d\s*(\\?[A-Za-z]+(?:_\{?\w+\}?)?)\s*(?:\^\s*\{?\d\}?)?\s*\}"
)
ROUNDED = re.compile(r"\\([lr](?:floor|ceil))(?![A-Za-z])")
ROUNDED_SIGNS = {"lfloor": "floor(", "rfloor": ")", "lceil": "ceil(", "rceil": ")"}
SUBSCRIPT = re.compile(r"_\{\\(?:mathrm|text)\{([A-Za-z0-9]+)\}\}")
ENVIRONMENT = re.compile(r"\\begin\{([pbv]?matrix|cases)\}((?:(?!\\begin\{).)*?)\\end\{\1\}", re.DOTALL)
BOUNDED = re.compile(r"\\(int|sum|prod|lim)(?![A-Za-z])\s*(?=[_^])")
ROW_END = re.compile(r"\\\\(?:\[[^\]]*\])?")
CELL_END = re.compile(r"\\\\(?:\[[^\]]*\])?|&")
DEGREES = re.compile(r"\^\s*(?:\{\s*\\circ\s*\}|\\circ(?![A-Za-z]))")
COMMA_IN_BRACES = re.compile(r"(?<=\d)\{,\}(?=\d)")
COMMAND = re.compile(r"\\[A-Za-z]+")
TOWARDS = re.compile(r"\\(?:to|rightarrow)(?![A-Za-z])|→|->")
CONDITION_WORD = re.compile(r"^\s*(?:\\(?:text|mathrm)\{\s*(?:if|for|when)?[\s,:]*\}|if\b|for\b)?\s*")
OTHERWISE = re.compile(r"\\(?:text|mathrm)\{\s*(?:otherwise|else)\.?\s*\}|otherwise|else")
SIGN = re.compile(r"\\(?:leq?|geq?|neq?|lt|gt)(?![A-Za-z])|[<>]=?|!=|[≤≥≠=]")
OPPOSITE = {"<": "≥", ">": "≤", "≤": ">", "≥": "<", "=": "≠", "≠": "="}
PLAIN_SIGNS = {
    "\\le": "≤", "\\leq": "≤", "\\ge": "≥", "\\geq": "≥", "\\ne": "≠", "\\neq": "≠", "\\lt": "<", "\\gt": ">",
    "<=": "≤", ">=": "≥", "!=": "≠",
}  # fmt: skip


class Pasted:
    """A line on its way from TeX to what the lexer reads."""

    def __init__(self, text: str) -> None:
        self.text = text
        self.places = list(range(len(text) + 1))

    def put(self, start: int, end: int, new: str) -> None:
        """Replace a stretch; the new characters stand where the old ones began."""
        self.text = self.text[:start] + new + self.text[end:]
        self.places = self.places[:start] + [self.places[start]] * len(new) + self.places[end:]

    def every(self, pattern: re.Pattern[str], rewritten: Callable[[re.Match[str]], str]) -> None:
        """Replace what fits the pattern, again until nothing fits: inner environments come first."""
        while found := pattern.search(self.text):
            self.put(found.start(), found.end(), rewritten(found))

    def origin(self, place: int) -> int:
        """Where a place of the new text stood in what was pasted."""
        return self.places[min(place, len(self.places) - 1)]

    def plain(self) -> None:
        """Rewrite everything."""
        self.every(LEFT_OUT, lambda found: " ")
        self.every(UPRIGHT_D, lambda found: "d ")
        self.every(SUBSCRIPT, lambda found: f"_{{{found[1]}}}")
        self.every(FACE, lambda found: found[1])
        self.every(OPERATOR_NAME, lambda found: found[1].replace("\\_", "_") + " ")
        self.every(DERIVATIVE, lambda found: f"\\derivative{{{found[2]}}}{{{found[1] or '1'}}}")
        self.every(ROUNDED, lambda found: ROUNDED_SIGNS[found[1]])
        while found := BOUNDED.search(self.text):
            self.bounds(found)
        self.every(DEGREES, lambda found: "°")
        self.every(COMMA_IN_BRACES, lambda found: ",")
        while found := ENVIRONMENT.search(self.text):
            if found[1] == "cases":
                self.put(found.start(), found.end(), cases(found, self.origin(found.start())))
            else:
                self.matrix(found)

    def bounds(self, found: re.Match[str]) -> None:
        """``\\int_0^{2\\pi}`` becomes ``\\boundedint{0}{2\\pi}``, ``\\lim_{x \\to 0}`` ``\\boundedlim{x}{0}``."""
        name, end, parts = found[1], found.end(), dict[str, str]()
        while end < len(self.text) and self.text[end] in "_^" and self.text[end] not in parts:
            script = self.text[end]
            parts[script], end = self.script(end + 1)
            while self.text[end : end + 1] == " ":
                end += 1
        if name == "lim":
            if "_" in parts and "^" not in parts:
                target = TOWARDS.split(parts["_"])
                if len(target) == 2:
                    self.put(found.start(), end, f"\\boundedlim{{{target[0]}}}{{{target[1]}}}")
                    return
        elif len(parts) == 2:
            self.put(found.start(), end, f"\\bounded{name}{{{parts['_']}}}{{{parts['^']}}}")
            return
        wanted = "\\lim_{x \\to a}" if name == "lim" else f"\\{name}_{{…}}^{{…}}"
        raise NotationError("tex", f"\\{name} is written {wanted}.", self.origin(found.start()), len(found[0].rstrip()))

    def matrix(self, found: re.Match[str]) -> None:
        """``\\begin{pmatrix}1 & 2 \\\\ 3 & 4\\end{pmatrix}`` as ``matrix(1, 2; 3, 4)``, its entries in their places."""
        edits = [(found.end(2), found.end(), ")"), (found.start(), found.start(2), "matrix(")]
        breaks = list(CELL_END.finditer(self.text, found.start(2), found.end(2)))
        for mark in breaks:
            between = "," if mark[0] == "&" else ";"
            closes = mark is breaks[-1] and not self.text[mark.end() : found.end(2)].strip()
            edits.append((mark.start(), mark.end(), "" if closes and between == ";" else between))
        for start, end, new in sorted(edits, reverse=True):
            self.put(start, end, new)

    def script(self, place: int) -> tuple[str, int]:
        """What is raised or lowered: a group in braces, a command or one character; and where it ends."""
        text = self.text
        if text[place : place + 1] != "{":
            command = COMMAND.match(text, place)
            end = command.end() if command else place + 1
            return text[place:end], end
        depth = 0
        for end in range(place, len(text)):
            depth += (text[end] == "{") - (text[end] == "}")
            if depth == 0:
                return text[place + 1 : end], end + 1
        raise NotationError("bracket", "“{” opens here and never closes: add “}”.", self.origin(place))


def cases(found: re.Match[str], place: int) -> str:
    """A system of equations, or a formula by cases."""
    rows = [row for row in ROW_END.split(found[2]) if row.strip()]
    if not any("&" in row for row in rows):
        return " and ".join(row.strip(" ,;\n") for row in rows)
    pieces: list[tuple[str, str]] = []
    for row in rows:
        value, _, condition = row.partition("&")
        pieces.append((value.strip(" ,;\n"), CONDITION_WORD.sub("", condition, count=1).strip(" ,;.\n")))
    last, condition = pieces[-1]
    complete = bool(OTHERWISE.fullmatch(condition)) or (len(pieces) == 2 and complementary(pieces[0][1], condition))
    if not complete:
        raise NotationError("tex", "The last case has to cover the rest: end it with \\text{otherwise}.", place)
    for value, condition in reversed(pieces[:-1]):
        last = f"if({condition}, {value}, {last})"
    return last


def complementary(first: str, second: str) -> bool:
    """Whether one of two conditions is just what the other leaves over, such as x < 0 and x ≥ 0."""
    signs = []
    for condition in (first, second):
        found = SIGN.findall(condition)
        if len(found) != 1:
            return False
        signs.append(PLAIN_SIGNS.get(found[0], found[0]))
    sides = [["".join(side.split()) for side in SIGN.split(condition)] for condition in (first, second)]
    return sides[0] == sides[1] and OPPOSITE[signs[0]] == signs[1]
