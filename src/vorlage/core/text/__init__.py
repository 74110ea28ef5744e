"""Question text: the safe part of CommonMark with maths spans, read once and written by printers.

A printer is one module of ``printers`` and its line in the register there.
"""

from .characters import Unprintable, letters_apart, printable, put_right, raised_apart, unaccented, unprintable
from .printers import HTML, PRINTERS, TYPST, TextPrinter
from .reading import NARROW, WORKED_OUT, QuestionText, TextProblem, lone_span, read_text

__all__ = [
    "HTML",
    "NARROW",
    "PRINTERS",
    "TYPST",
    "WORKED_OUT",
    "QuestionText",
    "TextPrinter",
    "TextProblem",
    "Unprintable",
    "letters_apart",
    "lone_span",
    "printable",
    "put_right",
    "raised_apart",
    "read_text",
    "unaccented",
    "unprintable",
]
