"""Printers side by side: the same tree as line maths, MathML, Typst and spoken words.

Adding a target touches no node; adding a node touches each printer once.
"""

from .base import Style
from .line import LinePrinter
from .mathml import MathMLPrinter
from .spoken import SpokenPrinter
from .typst import TypstPrinter

__all__ = ["LinePrinter", "MathMLPrinter", "SpokenPrinter", "Style", "TypstPrinter"]
