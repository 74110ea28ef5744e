"""Documents and a database that versions before made, and what is read of them."""

import io
import re

from pypdf import PdfReader


def numbers(paper: bytes) -> list[str]:
    """Every number on a paper, in order."""
    return re.findall(r"\d+", "".join(page.extract_text() for page in PdfReader(io.BytesIO(paper)).pages))
