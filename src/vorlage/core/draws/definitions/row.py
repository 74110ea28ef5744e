"""A row of a data table: ``row of materials``; its columns are looked up as ``material.density``."""

from __future__ import annotations

import re
from collections.abc import Mapping, Set
from dataclasses import dataclass

from flint import fmpq

from ...algebra import Value
from ..errors import DrawError
from .base import Computed, DataColumn, DefinitionKind, Reading, Source, Tables

ROW_OF = re.compile(r"\s*row of\s+(\S+)\s*\Z")


@dataclass(frozen=True, slots=True)
class TableRow(Source):
    """A row of a data table; its value is the number of the row, from 1."""

    table: tuple[DataColumn, ...]

    @property
    def columns(self) -> tuple[DataColumn, ...]:
        return self.table

    @property
    def size(self) -> int:
        return len(self.table[0].values)

    def value(self, position: int) -> Value:
        return fmpq(position + 1)

    def members(self, name: str) -> dict[str, Computed]:
        return {f"{name}.{column.name}": Lookup(name, frozenset([name]), column.values) for column in self.table}


@dataclass(frozen=True, slots=True)
class Lookup(Computed):
    """A column of the row that another parameter has drawn."""

    parent: str
    names: frozenset[str]
    column: tuple[Value, ...]

    def is_numeric_where(self, numeric: Set[str]) -> bool:
        return all(isinstance(value, fmpq) for value in self.column)

    def value(self, values: Mapping[str, Value], angle: str) -> Value:
        row = values[self.parent]
        assert isinstance(row, fmpq)
        return self.column[int(row.p) - 1]


class Rows(DefinitionKind):
    words = ("row of ",)

    def begins(self, text: str) -> bool:
        return ROW_OF.match(text) is not None

    def read(self, text: str, start: int, reading: Reading) -> TableRow:
        found = ROW_OF.match(text, start)
        assert found is not None
        columns = reading.tables.get(found[1])
        if columns is None:
            known = f": there is {', '.join(reading.tables)}" if reading.tables else "; paste one below"
            message = f"No data table is called {found[1]}{known}."
            raise DrawError("no_table", message, place=found.start(1), length=len(found[1]))
        return TableRow(columns)

    def columns(self, text: str, tables: Tables) -> tuple[DataColumn, ...]:
        found = ROW_OF.match(text)
        return tables.get(found[1], ()) if found else ()
