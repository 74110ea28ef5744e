"""Papers and keys as PDF: typeset by Typst with the fonts that ship here, tagged to PDF/UA-1."""

from .joining import joined
from .pages import page_count, page_picture
from .papers import Heading, Printing, load_compiler, pack
from .press import Order, Press, PressError, joined_meanwhile

__all__ = [
    "Heading",
    "Order",
    "Press",
    "PressError",
    "Printing",
    "joined",
    "joined_meanwhile",
    "load_compiler",
    "pack",
    "page_count",
    "page_picture",
]
