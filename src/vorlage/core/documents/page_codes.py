"""The code on each page of a paper: which set, form and page it is, and whose, for whatever reads the page later.

It is a QR code (ISO/IEC 18004) of letters and figures, ``VORLAGE/17/K4T/2`` or ``VORLAGE/17/K4T/2/311``, with the
medium level of correction: 15 of 100 words of it may be lost.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from math import isqrt
from typing import Any

import zxingcpp

BEGINS = "VORLAGE"
FORMAT = re.compile(BEGINS + r"/(\d{1,12})/([A-Z0-9]{1,8})/(\d{1,4})(?:/(\d{1,12}))?")
# Squares of a row that are side by side, as a path draws black ones and passes over white ones: the longest first.
RUNS = [
    (square * length, said % length)
    for square, said in ((b"\x00", b"h%d"), (b"\xff", b"m%d 0"))
    for length in range(12, 0, -1)
]


@dataclass(frozen=True, slots=True)
class PageCode:
    """What the code of a page names: the set and the student by their numbers, the form by its code."""

    form_set: int
    form: str
    page: int
    student: int | None = None

    def __str__(self) -> str:
        whose = "" if self.student is None else f"/{self.student}"
        return f"{BEGINS}/{self.form_set}/{self.form}/{self.page}{whose}"

    @classmethod
    def read(cls, text: str) -> PageCode | None:
        """What a code that was read from a page names; None where it is another's.

        >>> PageCode.read("VORLAGE/17/K4T/2/311")
        PageCode(form_set=17, form='K4T', page=2, student=311)
        """
        found = FORMAT.fullmatch(text)
        if found is None:
            return None
        return cls(int(found[1]), found[2], int(found[3]), int(found[4]) if found[4] else None)

    def svg(self) -> str:
        """The code as a picture of black squares without a margin, as large as it is made."""
        rows = squares(str(self))
        # from the end of each row back to the beginning of the next
        lines = b"\n".join(rows)
        for run, said in RUNS:
            lines = lines.replace(run, said)
        wide = len(rows)
        path = "M0 .5" + lines.decode().replace("\n", f"m{-wide} 1")
        box = f"0 0 {wide} {wide}"
        return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}"><path stroke="#000" d="{path}"/></svg>'


def squares(text: str) -> list[bytes]:
    """The rows of a code for a text, a byte for each square: 0 where it is black."""
    code = zxingcpp.create_barcode(text, zxingcpp.BarcodeFormat.QRCode, ec_level="M")
    # its types do not know that it is a buffer
    drawn: Any = code.to_image(scale=1, add_quiet_zones=False)
    flat = memoryview(drawn).tobytes()
    wide = isqrt(len(flat))
    return [flat[at : at + wide] for at in range(0, len(flat), wide)]
