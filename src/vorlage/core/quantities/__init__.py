"""Quantities: units in every usual spelling, exact conversion, and where a number ends and its unit begins."""

from .dimensions import Measure, UnitMismatch, compared_units, measure, unit_words
from .prose import as_document, as_read
from .splitting import split_quantity
from .units import Unit, is_unit, load_units, read_unit, refuse_run_together, same_unit

__all__ = [
    "Measure",
    "Unit",
    "UnitMismatch",
    "as_document",
    "as_read",
    "compared_units",
    "is_unit",
    "load_units",
    "measure",
    "read_unit",
    "refuse_run_together",
    "same_unit",
    "split_quantity",
    "unit_words",
]
