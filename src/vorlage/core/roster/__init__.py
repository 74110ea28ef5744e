"""Class lists: tables as people have them, what each column holds, who is in them, and what they would change."""

from .compare import Comparison, Decision, Kind, Known, Line, compare
from .people import COLUMNS, Entry, Fault, Reading, read_people, split_name, unfit
from .tables import MAXIMUM_BYTES, MAXIMUM_ROWS, RosterError, Table, as_text, read_file, read_text

__all__ = [
    "COLUMNS",
    "MAXIMUM_BYTES",
    "MAXIMUM_ROWS",
    "Comparison",
    "Decision",
    "Entry",
    "Fault",
    "Kind",
    "Known",
    "Line",
    "Reading",
    "RosterError",
    "Table",
    "as_text",
    "compare",
    "read_file",
    "read_people",
    "read_text",
    "split_name",
    "unfit",
]
