"""Reading the lines of a figure.

========================================  ====================================================
``frame 0..8, -2..4``                     what the figure shows; ``equal`` after it keeps shapes true
``picture harbour``                       a picture of the question, filling the frame
``axes "t / s" "v / (m/s)"``              axes with numbers and names
``grid 1, 0.5``                           lines at these distances
``curve y = a*x^2 + b``                   the graph of a formula in x; ``from 0 to 3`` after it cuts it off
``line (0, 0) (a, b) (a, 0)``             a line through places; ``arrow`` ends in a head
``polygon (0, 0) (a, 0) (0, b)``          closed; ``box`` from two opposite corners
``circle (a, b) r``                       around a place
``point (a, b) "P"``                      a dot with a name
``text (a/2, -0.3) "$a$"``                words and maths at a place
========================================  ====================================================

``dashed``, ``thick`` and ``filled`` may stand before a statement.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from ..errors import CoreError
from ..notation import Node, NotationError, Settings, names_in, read

WORDS = ("frame", "picture", "axes", "grid", "curve", "line", "arrow", "polygon", "box", "circle", "point", "text")
STYLES = ("dashed", "thick", "filled")
# how many places a statement has, at least and at most
PLACES = {
    "line": (2, 40),
    "arrow": (2, 40),
    "polygon": (3, 40),
    "box": (2, 2),
    "circle": (1, 1),
    "point": (1, 1),
    "text": (1, 1),
}
CURVE = re.compile(r"y\s*=\s*(?P<formula>.+?)(?:\s+from\s+(?P<low>\S+)\s+to\s+(?P<high>\S+))?\s*\Z")
FRAME = re.compile(r"(?P<left>.+?)\.\.(?P<right>[^,]+),(?P<bottom>.+?)\.\.(?P<top>.+?)(?P<equal>\s+equal)?\s*\Z")
NAME = re.compile(r"[A-Za-z][A-Za-z0-9_-]{0,29}\Z")
MAXIMUM_LINES = 60


@dataclass(frozen=True, slots=True)
class FigureProblem:
    """A line of a figure that cannot be used; ``line`` counts from 1, 0 is the whole figure."""

    line: int
    message: str
    code: str = "statement"
    # the name that is meant, where there is one
    about: str = ""


@dataclass(frozen=True, slots=True)
class Statement:
    """One line: its word, how it is drawn, its formulas in order, and what is written in it."""

    line: int
    word: str
    styles: frozenset[str]
    formulas: tuple[Node, ...]
    texts: tuple[str, ...] = ()
    equal: bool = False


class StatementError(CoreError, ValueError):
    """Why a line cannot be used."""

    def __init__(self, message: str, code: str = "statement", about: str = "") -> None:
        super().__init__(code, message, about)


def pieces_of(text: str) -> list[str]:
    """What stands between spaces, where brackets and quotes hold together."""
    pieces, current, depth, quoted = [], "", 0, False
    for sign in text:
        if sign == '"':
            quoted = not quoted
        elif not quoted:
            depth += (sign in "([{") - (sign in ")]}")
        if sign.isspace() and depth <= 0 and not quoted:
            if current:
                pieces.append(current)
            current = ""
        else:
            current += sign
    if quoted:
        raise StatementError("A quotation mark is missing.")
    if depth:
        raise StatementError("A bracket is missing.")
    return [*pieces, current] if current else pieces


def split_at_comma(text: str) -> list[str]:
    """What stands between commas outside brackets."""
    parts, depth = [""], 0
    for sign in text:
        depth += (sign in "([{") - (sign in ")]}")
        if sign == "," and depth == 0:
            parts.append("")
        else:
            parts[-1] += sign
    return [part.strip() for part in parts]


def place_of(piece: str) -> list[str]:
    """The two coordinates of ``(2, a/2)``."""
    if piece.startswith("(") and piece.endswith(")"):
        coordinates = split_at_comma(piece[1:-1])
        if len(coordinates) == 2:
            return coordinates
    raise StatementError(f"`{piece}` is no place: places are written as `(2, 3)`.")


class Reader:
    """Reads the lines of a figure with the names that its formulas may use."""

    def __init__(self, settings: Settings, known: frozenset[str]) -> None:
        self.settings = settings
        self.known = known
        self.problems: list[FigureProblem] = []

    def statements(self, source: str) -> list[Statement]:
        found = []
        lines = source.splitlines()
        if len(lines) > MAXIMUM_LINES:
            self.problems.append(FigureProblem(0, f"A figure has at most {MAXIMUM_LINES} lines."))
        for number, written in enumerate(lines[:MAXIMUM_LINES], start=1):
            if not written.strip():
                continue
            try:
                found.append(self.statement(number, written.strip()))
            except (StatementError, NotationError) as problem:
                self.problems.append(FigureProblem(number, problem.message, problem.code, problem.about))
        frames = [each for each in found if each.word == "frame"]
        if len(frames) != 1 and not self.problems:
            self.problems.append(FigureProblem(0, "A figure has one frame, such as `frame 0..10, 0..6`."))
        return found

    def statement(self, number: int, written: str) -> Statement:
        styles = set()
        word, _, rest = written.partition(" ")
        while word in STYLES:
            styles.add(word)
            word, _, rest = rest.strip().partition(" ")
        if word not in WORDS:
            raise StatementError(f"`{word}` is not known: a line begins with {', '.join(WORDS[:-1])} or {WORDS[-1]}.")
        rest = rest.strip()
        if word == "frame":
            return self.frame(number, rest)
        if word == "picture":
            if not NAME.match(rest):
                raise StatementError("A picture is named, as in `picture harbour`.")
            return Statement(number, word, frozenset(), (), (rest,))
        if word == "curve":
            return self.curve(number, rest, frozenset(styles))
        pieces = pieces_of(rest)
        texts = tuple(piece[1:-1] for piece in pieces if piece.startswith('"'))
        others = [piece for piece in pieces if not piece.startswith('"')]
        if word in {"axes", "grid"}:
            steps = [step for piece in others for step in split_at_comma(piece) if step]
            if len(steps) > 2 or len(texts) > (2 if word == "axes" else 0):
                raise StatementError(
                    'Axes have two names at most, as in `axes "t / s" "v / (m/s)"`, and a grid two distances.'
                )
            return Statement(number, word, frozenset(styles), self.formulas(steps), texts)
        return Statement(number, word, frozenset(styles), self.formulas(self.shape(word, others, texts)), texts)

    def shape(self, word: str, others: list[str], texts: tuple[str, ...]) -> list[str]:
        """The formulas of a shape, coordinates first."""
        least, most = PLACES[word]
        radius = []
        if word == "circle":
            if len(others) != 2:
                raise StatementError("A circle has a place and a radius: `circle (2, 3) 1.5`.")
            radius = [others.pop()]
        if not least <= len(others) <= most:
            wanted = f"{least}" if least == most else f"at least {least}"
            raise StatementError(f"`{word}` needs {wanted} place{'' if wanted == '1' else 's'}, such as `(2, 3)`.")
        if word == "text" and len(texts) != 1:
            raise StatementError('Words stand between quotation marks: `text (2, 3) "P"`.')
        return [coordinate for piece in others for coordinate in place_of(piece)] + radius

    def frame(self, number: int, rest: str) -> Statement:
        found = FRAME.match(rest)
        if found is None:
            raise StatementError("A frame is written as `frame 0..10, 0..6`.")
        ends = [found[name] for name in ("left", "right", "bottom", "top")]
        return Statement(number, "frame", frozenset(), self.formulas(ends), equal=bool(found["equal"]))

    def curve(self, number: int, rest: str, styles: frozenset[str]) -> Statement:
        found = CURVE.match(rest)
        if found is None:
            raise StatementError("A curve is written as `curve y = x^2`, with `from 0 to 3` after it if wished.")
        ends = [found["low"], found["high"]] if found["low"] else []
        return Statement(number, "curve", styles, (*self.formulas([found["formula"]], "x"), *self.formulas(ends)))

    def formulas(self, written: list[str], more: str = "") -> tuple[Node, ...]:
        trees = []
        for text in written:
            tree = read(text, self.settings)
            strange = sorted(names_in(tree) - self.known - {more})
            if strange:
                message = f"{strange[0]} is not a parameter of this question."
                raise StatementError(message, "unknown_name", strange[0])
            trees.append(tree)
        return tuple(trees)
