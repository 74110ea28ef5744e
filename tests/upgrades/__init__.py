"""Documents and a database that versions before made, and what is read of them."""

import io
import re

from pypdf import PdfReader

# What the layout says of itself, which every version may do in its own way: totals below a question, fields
# for an order, and the foot.
OF_THE_LAYOUT = re.compile(
    r"Total for question \d+: [\d.]+\smarks?|(?<=Answer )1 2 [\d ]*(?= \d+\smark)|[^\n]*\b\d+ of \d+\s*$"
)


POWERS = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹", "0123456789")


def numbers(paper: bytes) -> list[str]:
    """Every number of a paper's questions, in order."""
    pages = [page.extract_text() for page in PdfReader(io.BytesIO(paper)).pages]
    # a power may be one sign or a digit that is raised
    return re.findall(r"\d+", " ".join(OF_THE_LAYOUT.sub("", page) for page in pages).translate(POWERS))
