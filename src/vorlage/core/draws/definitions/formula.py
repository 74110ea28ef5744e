"""A value computed from other parameters: ``m*g``."""

from __future__ import annotations

from collections.abc import Mapping, Set
from dataclasses import dataclass

from ...algebra import Compiled, Value, is_symbolic, size, symbolic_value
from ...notation import Node, names_in, read_authored
from .base import Computed, DefinitionKind, Reading


@dataclass(frozen=True, slots=True)
class Formula(Computed):
    """A value computed from other parameters: a number, or a formula in letters of its own."""

    tree: Node
    names: frozenset[str]

    @property
    def formula(self) -> Node:
        return self.tree

    @property
    def is_number(self) -> bool:
        return not self.names

    def is_numeric_where(self, numeric: Set[str]) -> bool:
        return self.names <= numeric and not is_symbolic(self.tree)

    def compiled(self, angle: str) -> tuple[Compiled, int]:
        return Compiled(self.tree, angle), size(self.tree)

    def value(self, values: Mapping[str, Value], angle: str) -> Value:
        return symbolic_value(self.tree, values, angle)

    def letters(self, known: Set[str]) -> list[str]:
        return sorted(self.names - known)


class Formulas(DefinitionKind):
    """Whatever is of no other kind."""

    def begins(self, text: str) -> bool:
        return True

    def read(self, text: str, start: int, reading: Reading) -> Formula:
        tree = read_authored(text, reading.settings)
        return Formula(tree, names_in(tree))
