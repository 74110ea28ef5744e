"""What a kind of definition says for itself: how a line is read, and which values it gives.

Whatever is drawn has a ``size`` and a ``value`` for each position below it, so that draws can be counted, listed and
permuted alike. Whatever is computed has the names that it needs.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Set
from dataclasses import dataclass
from typing import ClassVar

from flint import fmpq

from ...algebra import Compiled, Value
from ...notation import Node, Settings
from ..showing import Shown, shown_value


@dataclass(frozen=True, slots=True)
class DataColumn:
    """A column of a data table: its name, its unit and its values."""

    name: str
    unit: str
    values: tuple[Value, ...]


Tables = Mapping[str, tuple[DataColumn, ...]]


class Definition:
    """What one definition line means."""

    @property
    def formula(self) -> Node | None:
        """The formula that it is, where it is one."""
        return None

    @property
    def columns(self) -> tuple[DataColumn, ...]:
        """The data that a row of is drawn: each column is a name of its own."""
        return ()

    @property
    def is_number(self) -> bool:
        """Whether it gives a number that is drawn or given, and not computed from others."""
        return False


class Source(Definition, ABC):
    """What is drawn."""

    # what a list of its values is like: with repeats by nature, because it is not made of separate values
    continuous: ClassVar[bool] = False

    @property
    @abstractmethod
    def size(self) -> int:
        """How many positions there are."""

    @abstractmethod
    def value(self, position: int) -> Value:
        """The value at a position from 0 to ``size`` - 1."""

    @property
    def is_numeric(self) -> bool:
        """Whether what is computed from its values can be compiled."""
        return True

    @property
    def ends(self) -> tuple[fmpq, fmpq] | None:
        """The least and the greatest of evenly spaced values; None for others."""
        return None

    def item(self, position: int) -> Node:
        """A value as it stands in a list."""
        return shown_value(self.value(position), Shown())

    def members(self, name: str) -> dict[str, Computed]:
        """What is drawn with it, by the names under which it is asked for."""
        return {}


class Computed(Definition, ABC):
    """What follows from other parameters."""

    names: frozenset[str]

    @abstractmethod
    def is_numeric_where(self, numeric: Set[str]) -> bool:
        """Whether it is a number, or a word, where these names are."""

    @abstractmethod
    def value(self, values: Mapping[str, Value], angle: str) -> Value:
        """Its value where those of the names that it needs are known. Raises ``EvaluationError``."""

    def compiled(self, angle: str) -> tuple[Compiled, int] | None:
        """What gives its value many times, and the steps that this takes each time; None where it is looked up.
        Raises ``EvaluationError``."""
        return None

    def letters(self, known: Set[str]) -> list[str]:
        """The letters in it that stand for no parameter."""
        return []


@dataclass(frozen=True, slots=True)
class Reading:
    """What the reading of a line goes by; ``kinds`` are all kinds of definition, for one that holds another."""

    settings: Settings
    shown: Shown
    tables: Tables
    kinds: tuple[DefinitionKind, ...]


class DefinitionKind(ABC):
    """A kind of definition. A new one is a module with such a class and its line in the register."""

    # what it is written with, beside formulas, as it is offered while somebody types
    words: ClassVar[tuple[str, ...]] = ()
    # whether a list can be drawn from it
    in_lists: ClassVar[bool] = False

    @abstractmethod
    def begins(self, text: str) -> bool:
        """Whether a line is of this kind."""

    @abstractmethod
    def read(self, text: str, start: int, reading: Reading) -> Definition:
        """What the line means from ``start`` on. Raises ``DrawError`` or ``NotationError``; both say where in the
        line."""

    def columns(self, text: str, tables: Tables) -> tuple[DataColumn, ...]:
        """The columns whose names a line brings with it, known before anything is read."""
        return ()
