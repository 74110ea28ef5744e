"""A chemical formula or equation."""

from ...kind import InGap, Kind
from .document import ChemicalAnswer, chemical_text

KINDS = (
    Kind(
        "chemical",
        "chemistry",
        ChemicalAnswer,
        ({"key": "H2O"}, {"key": "2 H2 + O2 -> 2 H2O"}),
        in_gap=InGap("H2O"),
    ),
)

__all__ = ["KINDS", "ChemicalAnswer", "chemical_text"]
