"""Reading the lines of a figure."""

from __future__ import annotations

from dataclasses import dataclass

from ..notation import NotationError, Settings
from .statements import STATEMENTS, STYLES, Formulas, Statement, StatementError

MAXIMUM_LINES = 60


@dataclass(frozen=True, slots=True)
class FigureProblem:
    """A line of a figure that cannot be used; ``line`` counts from 1, 0 is the whole figure."""

    line: int
    message: str
    code: str = "statement"
    # the name that is meant, where there is one
    about: str = ""


def read_lines(source: str, settings: Settings, known: frozenset[str]) -> tuple[list[Statement], list[FigureProblem]]:
    """The statements of a figure, and what cannot be used; ``known`` are the names that its formulas may use."""
    found, problems = [], []
    formulas = Formulas(settings, known)
    lines = source.splitlines()
    if len(lines) > MAXIMUM_LINES:
        problems.append(FigureProblem(0, f"A figure has at most {MAXIMUM_LINES} lines."))
    for number, written in enumerate(lines[:MAXIMUM_LINES], start=1):
        if not written.strip():
            continue
        try:
            found.append(read_line(number, written.strip(), formulas))
        except (StatementError, NotationError) as problem:
            problems.append(FigureProblem(number, problem.message, problem.code, problem.about))
    frames = [each for each in found if each.word == "frame"]
    if len(frames) != 1 and not problems:
        problems.append(FigureProblem(0, "A figure has one frame, such as `frame 0..10, 0..6`."))
    return found, problems


def read_line(number: int, written: str, formulas: Formulas) -> Statement:
    """One line. Raises ``StatementError`` and ``NotationError``."""
    styles = set()
    word, _, rest = written.partition(" ")
    while word in STYLES:
        styles.add(word)
        word, _, rest = rest.strip().partition(" ")
    if word not in STATEMENTS:
        *words, last = STATEMENTS
        raise StatementError(f"`{word}` is not known: a line begins with {', '.join(words)} or {last}.")
    kind = STATEMENTS[word]
    return Statement(number, kind, frozenset(styles), kind.read(rest.strip(), formulas))
