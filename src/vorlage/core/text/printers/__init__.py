"""The forms in which texts are written. A new one is a module here and its line in ``PRINTERS``."""

from .base import TextPrinter
from .html import HTML
from .typst import TYPST

PRINTERS: tuple[TextPrinter, ...] = (HTML, TYPST)

__all__ = ["HTML", "PRINTERS", "TYPST", "TextPrinter"]
