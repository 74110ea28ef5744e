"""Quantities: units in every usual spelling, exact conversion, and where a number ends and its unit begins."""

from .dimensions import Measure, UnitMismatch, compared_units, measure, unit_words
from .splitting import split_quantity
from .units import Unit, load_units, read_unit, refuse_run_together

__all__ = [
    "Measure",
    "Unit",
    "UnitMismatch",
    "compared_units",
    "load_units",
    "measure",
    "read_unit",
    "refuse_run_together",
    "split_quantity",
    "unit_words",
]
