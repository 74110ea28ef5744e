"""Tables as files to take away. Nothing in them is taken for a formula by whoever opens them."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal
from typing import Any

import openpyxl
from openpyxl.cell import WriteOnlyCell

CSV = "text/csv; charset=utf-8"
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
# What a spreadsheet takes for the beginning of a formula.
FORMULA = ("=", "+", "-", "@", "\t", "\r")


# What stands in a cell: a text, or a number that is one in a spreadsheet as well.
Cell = str | Decimal


def neutral(cell: Cell) -> str:
    """A cell that stays text in a spreadsheet: one that begins like a formula gets an apostrophe before it."""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(FORMULA) else str(cell)


def as_csv(rows: Iterable[Sequence[Cell]]) -> tuple[bytes, str]:
    """A CSV file in UTF-8 with its mark, which spreadsheets need to read accents right; and its media type."""
    written = io.StringIO()
    csv.writer(written, lineterminator="\r\n").writerows([neutral(cell) for cell in row] for row in rows)
    return written.getvalue().encode("utf-8-sig"), CSV


def as_workbook(sheets: Mapping[str, Iterable[Sequence[Cell]]]) -> tuple[bytes, str]:
    """A workbook with a sheet under each title, its cells texts or numbers; and its media type."""
    book = openpyxl.Workbook(write_only=True)
    for title, rows in sheets.items():
        sheet = book.create_sheet("".join(sign for sign in title if sign not in "[]:*?/\\")[:31] or "Class")
        for row in rows:
            sheet.append(written(sheet, row))
    kept = io.BytesIO()
    book.save(kept)
    return kept.getvalue(), XLSX


def written(sheet: Any, row: Sequence[Cell]) -> list[WriteOnlyCell]:
    """A row of a sheet."""
    cells = []
    for content in row:
        cell = WriteOnlyCell(sheet, content)
        # whatever it begins with
        if isinstance(content, str):
            cell.data_type = "s"
        else:
            cell.data_type, places = "n", -int(content.as_tuple().exponent)
            # as many places as it was written with
            cell.number_format = f"0.{'0' * places}" if 0 < places < 12 else "General"
        cells.append(cell)
    return cells
