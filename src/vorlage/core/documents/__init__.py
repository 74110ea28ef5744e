"""Papers and keys as PDF: typeset by Typst with the fonts that ship here, tagged to PDF/UA-1."""

from .joining import Joined
from .packing import Archive
from .pages import page_count, page_picture
from .papers import Heading, Printing, load_compiler
from .press import Order, Press, PressError

__all__ = [
    "Archive",
    "Heading",
    "Joined",
    "Order",
    "Press",
    "PressError",
    "Printing",
    "load_compiler",
    "page_count",
    "page_picture",
]
