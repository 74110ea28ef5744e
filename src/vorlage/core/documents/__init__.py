"""Papers and keys as PDF: typeset by Typst with the fonts that ship here, tagged to PDF/UA-1."""

from .pages import page_count, page_picture
from .papers import Heading, Printing, load_compiler, pack

__all__ = ["Heading", "Printing", "load_compiler", "pack", "page_count", "page_picture"]
