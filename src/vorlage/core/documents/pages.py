"""The pages of a finished file as pictures: what is looked at is the file itself, never another typesetting of it."""

from __future__ import annotations

import io
from threading import Lock

import pypdfium2
from PIL import ImageChops

# Pixels per inch, and the points that a PDF counts in.
RESOLUTION = 96
POINTS = 72
# The library works for one thread at a time.
LOOKING = Lock()


def page_count(pdf: bytes) -> int:
    """How many pages a PDF has."""
    with LOOKING:
        document = pypdfium2.PdfDocument(pdf)
        try:
            return len(document)
        finally:
            document.close()


def page_picture(pdf: bytes, page: int, resolution: int = RESOLUTION, trimmed: bool = False) -> bytes:
    """A page (from 1) of a PDF as PNG, so many pixels an inch; ``trimmed`` without its empty margins. Raises
    ``IndexError`` when there is no such page."""
    with LOOKING:
        document = pypdfium2.PdfDocument(pdf)
        try:
            if not 1 <= page <= len(document):
                raise IndexError(page)
            picture = document[page - 1].render(scale=resolution / POINTS).to_pil()
        finally:
            document.close()
    if trimmed and (filled := ImageChops.invert(picture.convert("L")).getbbox()) is not None:
        left, top, right, bottom = filled
        edge = resolution // 6
        picture = picture.crop(
            (max(0, left - edge), max(0, top - edge), min(picture.width, right + edge),
             min(picture.height, bottom + edge))
        )  # fmt: skip
    written = io.BytesIO()
    picture.save(written, "PNG")
    return written.getvalue()
