"""Quantities: units in every usual spelling, exact conversion, and where a number ends and its unit begins."""

from .splitting import split_quantity
from .units import Unit, read_unit, run_together

__all__ = ["Unit", "read_unit", "run_together", "split_quantity"]
