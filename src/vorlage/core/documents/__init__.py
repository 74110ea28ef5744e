"""Papers and keys as PDF: typeset by Typst with the fonts that ship here, tagged to PDF/UA-1."""

from .papers import NO_LINE, Heading, Printing, load_compiler

__all__ = ["NO_LINE", "Heading", "Printing", "load_compiler"]
