"""What a parameter's definition says: one module and one line of this register for each kind."""

from __future__ import annotations

from types import MappingProxyType

from ...notation import NotationError, Settings
from ..errors import DrawError
from ..showing import Shown
from .base import Computed, DataColumn, Definition, DefinitionKind, Reading, Source, Tables
from .choice import Choices
from .distribution import Distributions
from .formula import Formulas
from .habits import CHOSEN, doubtful, meant
from .range import Ranges
from .row import Rows
from .several import Lists

# The first that knows a line reads it; a formula is whatever no other knows.
REGISTER: tuple[DefinitionKind, ...] = (Choices(), Lists(), Distributions(), Rows(), Ranges(), Formulas())
# What definitions are written with, beside formulas.
DEFINITION_WORDS = tuple(word for kind in REGISTER for word in kind.words)


def read_definition(
    text: str,
    settings: Settings,
    shown: Shown = Shown(),  # noqa: B008 (frozen)
    tables: Tables = MappingProxyType({}),
) -> Definition:
    """The meaning of one definition line.

    Raises ``DrawError`` or ``NotationError``; both say where in the line, and what could stand there instead when it is
    written as it would be elsewhere.

    >>> read_definition("-5..5 except 0", Settings()).size
    10
    """
    reading = Reading(settings, shown, tables, REGISTER)
    try:
        if CHOSEN.match(text):
            raise DrawError("no_number", "This is not a formula with a value.", length=len(text))
        return kind_of(text).read(text, 0, reading)
    except (DrawError, NotationError) as problem:
        wrong_word = problem.code == "unknown_function" and problem.instead
        found = None if wrong_word else meant(text, lambda line: is_readable(line, reading))
        if found is None:
            raise
        said, line = found
        message = f"{said}: `{line}`."
        raise DrawError("habit", message, length=len(text), instead=line) from problem


def is_readable(text: str, reading: Reading) -> bool:
    """Whether a definition line can be used."""
    try:
        kind_of(text).read(text, 0, reading)
    except (DrawError, NotationError):
        return False
    return True


def columns_brought(text: str, tables: Tables) -> tuple[DataColumn, ...]:
    """The columns of a data table whose names a definition line brings with it."""
    return kind_of(text).columns(text, tables)


def kind_of(text: str) -> DefinitionKind:
    return next(kind for kind in REGISTER if kind.begins(text))


__all__ = [
    "DEFINITION_WORDS",
    "REGISTER",
    "Computed",
    "DataColumn",
    "Definition",
    "DefinitionKind",
    "Source",
    "Tables",
    "columns_brought",
    "doubtful",
    "read_definition",
]
