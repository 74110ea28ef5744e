"""Typst at work: documents become PDF, or tell where their questions stand."""

from __future__ import annotations

import json
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory
from threading import Lock

import typst

from ..notation import quoted
from .filling import Spot, read_spots
from .heading import USUAL_LOOK
from .look import Look, look_markup

FOLDER = Path(__file__).parent
LAYOUT = (FOLDER / "layout.typ").read_text(encoding="utf-8")
MEASURED = "paper.typ"
FIXED_TIME = datetime(2026, 1, 1, tzinfo=UTC)


@cache
def compiler() -> typst.Compiler:
    """The Typst compiler with the fonts that ship with the application, and no others."""
    return typst.Compiler(font_paths=[str(FOLDER / "fonts")], ignore_system_fonts=True)


def load_compiler() -> None:
    """Load the fonts and the layout now; otherwise the first paper does."""
    compiled(f"\n#setup({quoted('Vorlage')}, [])\n")


# One compiler remembers what it has laid out, and works for one thread at a time.
TYPESETTING = Lock()


def compiled(source: str, look: Look = USUAL_LOOK) -> bytes:
    """The PDF of a Typst document; the same source gives the same bytes."""
    with TYPESETTING:
        finished = compiler().compile(
            (look_markup(look) + LAYOUT + source).encode(), format="pdf", pdf_standards=["ua-1"], timestamp=FIXED_TIME
        )
    assert isinstance(finished, bytes)
    return finished


@cache
def measuring() -> tuple[TemporaryDirectory[str], typst.Compiler]:
    """A compiler that is asked where things stand, and the folder with what it reads."""
    folder = TemporaryDirectory()
    Path(folder.name, MEASURED).write_text("")
    fonts = [str(FOLDER / "fonts")]
    return folder, typst.Compiler(
        str(Path(folder.name, MEASURED)), root=folder.name, font_paths=fonts, ignore_system_fonts=True
    )


def spots(source: str, look: Look) -> list[Spot]:
    """Where the questions of a document begin and end."""
    with TYPESETTING:
        folder, asked = measuring()
        Path(folder.name, MEASURED).write_text(look_markup(look) + LAYOUT + source, encoding="utf-8")
        return read_spots(json.loads(asked.query("<spot>", field="value")))
