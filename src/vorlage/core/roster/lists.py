"""Class lists as tables, from files and pasted text."""

from __future__ import annotations

from .. import tables
from ..tables import Bounds, Table

CLASS_LIST = Bounds("class list", 2_000, 40, 300, 400_000, "Take the lists class by class.")


def read_file(content: bytes) -> Table:
    """The table in a file. Raises ``TableError`` where it is none."""
    return tables.read_file(content, CLASS_LIST)


def read_text(text: str) -> Table:
    """The table in a text, pasted or from a file. Raises ``TableError``."""
    return tables.read_text(text, CLASS_LIST)
