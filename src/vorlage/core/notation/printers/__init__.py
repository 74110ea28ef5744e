"""Printers side by side: the same tree as line maths, MathML for showing and for
computing, Typst, TeX and spoken words.

Adding a target touches no node; adding a node touches each printer once.
"""

from .base import Style
from .content import ContentPrinter
from .line import LinePrinter
from .mathml import MathMLPrinter
from .spoken import SpokenPrinter
from .tex import TeXPrinter
from .typst import TypstPrinter

__all__ = [
    "ContentPrinter",
    "LinePrinter",
    "MathMLPrinter",
    "SpokenPrinter",
    "Style",
    "TeXPrinter",
    "TypstPrinter",
]
