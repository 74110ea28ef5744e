"""Papers and keys as PDF: typeset by Typst with the fonts that ship here, tagged to PDF/UA-1."""

from .heading import Emblem, Heading, Holder
from .inserts import MOST_BYTES, InsertError, compiled_insert, laid_insert, typeset_insert
from .joining import Joined
from .look import CHOICES, MOST_MINUTES, MOST_ROOM, ROOMS, Look
from .packing import Archive
from .page_codes import PageCode
from .pages import page_count, page_picture
from .press import Order, Press
from .printing import Printing
from .returned import ReturnedPart, ReturnedWork, returned_pdf
from .typesetting import load_compiler

__all__ = [
    "CHOICES",
    "MOST_BYTES",
    "MOST_MINUTES",
    "MOST_ROOM",
    "ROOMS",
    "Archive",
    "Emblem",
    "Heading",
    "Holder",
    "InsertError",
    "Joined",
    "Look",
    "Order",
    "PageCode",
    "Press",
    "Printing",
    "ReturnedPart",
    "ReturnedWork",
    "compiled_insert",
    "laid_insert",
    "load_compiler",
    "page_count",
    "page_picture",
    "returned_pdf",
    "typeset_insert",
]
