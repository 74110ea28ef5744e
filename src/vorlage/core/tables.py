"""Tables from files and pasted text: CSV with whatever separator and encoding, and XLSX.

Nothing is guessed about what the cells mean; what cannot be read is told by the row where it stands.
"""

from __future__ import annotations

import csv
import io
import zipfile
from collections import Counter
from dataclasses import dataclass
from datetime import date, datetime
from warnings import catch_warnings, simplefilter

import openpyxl

from .errors import CoreError
from .zips import DAMAGED_ZIP

MAXIMUM_BYTES = 5_000_000
# What an archive may hold when it is unpacked, in bytes.
MAXIMUM_UNPACKED = 25_000_000


@dataclass(frozen=True, slots=True)
class Bounds:
    """What a table of one kind may have, and what it is called: what is larger is none."""

    what: str
    rows: int
    columns: int
    cell: int
    # of all cells together: what is read is sent with the page until it is taken
    text: int
    # what is done where there are too many rows
    cure: str = ""
    # whether a cell keeps its lines
    lines: bool = False


SEPARATORS = {"\t": "tab", ";": "semicolon", ",": "comma", "|": "bar"}
MARKS = {b"\xef\xbb\xbf": "utf-8-sig", b"\xff\xfe": "utf-16", b"\xfe\xff": "utf-16"}
ZIPPED, OLD_OFFICE = b"PK\x03\x04", b"\xd0\xcf\x11\xe0"


class TableError(CoreError, ValueError):
    """Why a file is no table."""


@dataclass(frozen=True, slots=True)
class Table:
    """Rows of cells as text, each with its number in the file, counted from 1; rows with nothing in them are left out.

    ``faults`` are what could not be read, by the number of the row.
    """

    rows: tuple[tuple[int, tuple[str, ...]], ...]
    faults: tuple[tuple[int, str], ...] = ()

    @property
    def width(self) -> int:
        return max((len(cells) for _, cells in self.rows), default=0)


def read_file(content: bytes, bounds: Bounds) -> Table:
    """The table in a file. Raises ``TableError`` where it is none."""
    if len(content) > MAXIMUM_BYTES:
        raise TableError("too_large", f"This file is larger than {MAXIMUM_BYTES // 1_000_000} MB: no {bounds.what} is.")
    if not content.strip():
        raise TableError("empty", "There is nothing in this file.")
    if content.startswith(ZIPPED):
        return read_workbook(content, bounds)
    if content.startswith(OLD_OFFICE):
        raise TableError("old", "This is a file of an older kind. Save it as XLSX or as CSV, then choose it again.")
    text, mixed = decoded(content, bounds)
    return read_text(text, bounds, mixed)


def decoded(content: bytes, bounds: Bounds) -> tuple[str, tuple[int, ...]]:
    """The text of a file, and the lines (from 1) that are in another encoding than the others."""
    for mark, encoding in MARKS.items():
        if content.startswith(mark):
            try:
                return content.decode(encoding), ()
            except UnicodeDecodeError:
                break
    if b"\0" in content:
        raise TableError(
            "no_table", f"This file is no table. Save the {bounds.what} as CSV or XLSX, then choose it again."
        )
    try:
        return content.decode("utf-8"), ()
    except UnicodeDecodeError:
        pass
    lines = content.removeprefix(b"\xef\xbb\xbf").split(b"\n")
    kinds = {number: encoding_of(line) for number, line in enumerate(lines, 1) if not line.isascii()}
    text = "\n".join(line.decode(kinds.get(number, "ascii"), "replace") for number, line in enumerate(lines, 1))
    counted = Counter(kinds.values())
    if len(counted) == 1:
        return text, ()
    # that of fewer lines is the other one; where they are as many, every line with such a letter is doubtful
    least = min(counted.values())
    return text, tuple(number for number, kind in kinds.items() if counted[kind] == least)


def encoding_of(line: bytes) -> str:
    try:
        line.decode("utf-8")
    except UnicodeDecodeError:
        return "cp1252"
    return "utf-8"


def read_text(text: str, bounds: Bounds, mixed: tuple[int, ...] = ()) -> Table:
    """The table in a text, pasted or from a file; ``mixed`` are lines in another encoding."""
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    # a line that says which separator is used is what some programs write
    told = text.split("\n", 1)[0].strip().strip('"').lower()
    given = told[4:] if told.startswith("sep=") and told[4:] in SEPARATORS else ""
    rows = split(text, given or separator_of(text), bounds.lines)
    if given:
        rows = rows[1:]
    faults = [
        (number, "This row is written in another encoding than the others: letters of names are lost.")
        for number in mixed
    ]
    for number, cells in rows:
        if any("�" in cell for cell in cells) and number not in mixed:
            faults.append((number, "A letter of this row is lost: save the file as UTF-8, or type the name anew."))
    return bounded(rows, faults, bounds)


def split(text: str, separator: str, lines: bool) -> list[tuple[int, tuple[str, ...]]]:
    """The rows of a text by the line on which each begins."""
    found, begins = list[tuple[int, tuple[str, ...]]](), 1
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator)
    while True:
        try:
            cells = next(reader, None)
        except csv.Error as problem:
            raise TableError("no_table", f"Line {begins} cannot be read as a row: a quote is not closed.") from problem
        if cells is None:
            return found
        found.append((begins, tuple(tidied(cell, lines) for cell in cells)))
        begins = reader.line_num + 1


def separator_of(text: str) -> str:
    """What parts the columns of a text: of the signs that part most rows alike, and the first of them, the one that is
    the rarest in names."""
    lines = [line for line in text.split("\n")[:200] if line.strip()]
    for sign in SEPARATORS:
        if not lines or sign not in lines[0]:
            continue
        try:
            widths = Counter(len(cells) for cells in csv.reader(lines, delimiter=sign))
        except csv.Error:
            continue
        parted = [width for width in widths.elements() if width > 1]
        if len(parted) * 2 >= widths.total():
            return sign
    return next(iter(SEPARATORS))


def read_workbook(content: bytes, bounds: Bounds) -> Table:
    """The first sheet of a workbook that has anything in it; a formula in a cell is a fault, whatever it shows."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            names = archive.namelist()
            unpacked = sum(entry.file_size for entry in archive.infolist())
    except DAMAGED_ZIP as problem:
        raise TableError("broken", "This file is damaged. Save it once more, then choose it again.") from problem
    if unpacked > MAXIMUM_UNPACKED:
        raise TableError("too_large", f"This file is far larger than a {bounds.what} when it is unpacked.")
    if "xl/workbook.xml" not in names:
        raise TableError(
            "no_table", f"This is no XLSX file. Save the {bounds.what} as XLSX or CSV, then choose it again."
        )
    try:
        # what a program keeps beside its tables (rules for drop-down lists and the like) is of no concern
        with catch_warnings():
            simplefilter("ignore")
            book = openpyxl.load_workbook(io.BytesIO(content), read_only=True, keep_links=False)
            rows, faults = cells_of(book, bounds)
    except TableError:
        raise
    # a damaged file ends in whatever its reader stumbles over
    except Exception as problem:
        raise TableError("broken", "This file is damaged. Save it once more, then choose it again.") from problem
    return bounded(rows, faults, bounds)


def cells_of(
    book: openpyxl.Workbook, bounds: Bounds
) -> tuple[list[tuple[int, tuple[str, ...]]], list[tuple[int, str]]]:
    for sheet in book.worksheets:
        # how large it is may be told wrongly
        sheet.reset_dimensions()
        rows, faults = list[tuple[int, tuple[str, ...]]](), list[tuple[int, str]]()
        for number, row in enumerate(sheet.iter_rows(max_col=bounds.columns + 1), start=1):
            if number > bounds.rows * 2:
                raise too_many(bounds)
            cells = tuple(as_cell(cell.value, bounds.lines) for cell in row)
            faults += [
                (number, f"Cell {cell.coordinate} holds a formula: put its value there instead.")
                for cell in row
                if getattr(cell, "data_type", "") == "f"
            ]
            while cells and not cells[-1]:
                cells = cells[:-1]
            rows.append((number, cells))
        if any(cells for _, cells in rows):
            return rows, faults
    return [], []


def as_cell(value: object, lines: bool = False) -> str:
    """A value as a person reads it in the sheet: a number without a point where it is whole, a date by the calendar."""
    if value is None:
        return ""
    if isinstance(value, float) and value.is_integer():
        return str(int(value))
    if isinstance(value, datetime):
        return value.date().isoformat()
    if isinstance(value, date):
        return value.isoformat()
    return tidied(str(value), lines)


def tidied(cell: str, lines: bool = False) -> str:
    """A cell without blanks around it and with single ones within, its lines one after the other or kept."""
    if lines and "\n" in cell:
        return "\n".join(tidied(line) for line in cell.strip().split("\n"))
    return " ".join(cell.replace("\N{ZERO WIDTH NO-BREAK SPACE}", "").split())


def too_many(bounds: Bounds) -> TableError:
    return TableError("too_many", f"There are more than {bounds.rows} rows. {bounds.cure}".rstrip())


def bounded(rows: list[tuple[int, tuple[str, ...]]], faults: list[tuple[int, str]], bounds: Bounds) -> Table:
    """The table within its bounds."""
    kept = [(number, cells) for number, cells in rows if any(cells)]
    if not kept and not faults:
        raise TableError("empty", "There is nothing in this table.")
    if len(kept) > bounds.rows:
        raise too_many(bounds)
    if sum(len(cell) for _, cells in kept for cell in cells) > bounds.text:
        raise TableError("too_large", f"There is more in this table than a {bounds.what} has.")
    for number, cells in kept:
        if len(cells) > bounds.columns:
            raise TableError(
                "no_table", f"Row {number} has more than {bounds.columns} cells: this is no {bounds.what}."
            )
        if any(len(cell) > bounds.cell for cell in cells):
            raise TableError("no_table", f"Row {number} has a cell of more than {bounds.cell} characters.")
    return Table(tuple(kept), tuple(sorted(set(faults))))


def as_text(table: Table) -> str:
    """The table as text in which it can be mended, columns parted by tabs: read again it is the same table."""
    lines: list[str] = []
    for number, cells in table.rows:
        # rows keep their numbers
        lines += [""] * (number - 1 - len(lines))
        written = io.StringIO()
        csv.writer(written, delimiter="\t", lineterminator="").writerow(cells)
        lines.append(written.getvalue())
    return "\n".join(lines)
