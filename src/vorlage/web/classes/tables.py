"""Tables as files to take away. Nothing in them is taken for a formula by whoever opens them."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence

import openpyxl
from openpyxl.cell import WriteOnlyCell

CSV = "text/csv; charset=utf-8"
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
# What a spreadsheet takes for the beginning of a formula.
FORMULA = ("=", "+", "-", "@", "\t", "\r")


def neutral(cell: str) -> str:
    """A cell that stays text in a spreadsheet: one that begins like a formula gets an apostrophe before it."""
    return f"'{cell}" if cell.startswith(FORMULA) else cell


def as_csv(rows: Sequence[Sequence[str]]) -> tuple[bytes, str]:
    """A CSV file in UTF-8 with its mark, which spreadsheets need to read accents right; and its media type."""
    written = io.StringIO()
    csv.writer(written, lineterminator="\r\n").writerows([neutral(cell) for cell in row] for row in rows)
    return written.getvalue().encode("utf-8-sig"), CSV


def as_workbook(title: str, rows: Sequence[Sequence[str]]) -> tuple[bytes, str]:
    """A workbook with one sheet, every cell a text; and its media type."""
    book = openpyxl.Workbook(write_only=True)
    sheet = book.create_sheet("".join(sign for sign in title if sign not in "[]:*?/\\")[:31] or "Class")
    for row in rows:
        cells = []
        for content in row:
            cell = WriteOnlyCell(sheet, content)
            # whatever it begins with
            cell.data_type = "s"
            cells.append(cell)
        sheet.append(cells)
    kept = io.BytesIO()
    book.save(kept)
    return kept.getvalue(), XLSX
