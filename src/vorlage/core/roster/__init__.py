"""Class lists: tables as people have them, what each column holds, who is in them, and what they would change."""

from ..tables import MAXIMUM_BYTES, Table, TableError, as_text
from .compare import Comparison, Decision, Kind, Known, Line, compare
from .lists import read_file, read_text
from .people import COLUMNS, Entry, Fault, Reading, read_people, split_name, unfit

__all__ = [
    "COLUMNS",
    "MAXIMUM_BYTES",
    "Comparison",
    "Decision",
    "Entry",
    "Fault",
    "Kind",
    "Known",
    "Line",
    "Reading",
    "Table",
    "TableError",
    "as_text",
    "compare",
    "read_file",
    "read_people",
    "read_text",
    "split_name",
    "unfit",
]
