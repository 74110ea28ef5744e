"""Papers and keys as PDF: typeset by Typst with the fonts that ship here, tagged to PDF/UA-1."""

from .papers import Heading, Printing

__all__ = ["Heading", "Printing"]
