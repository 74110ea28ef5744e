"""Typst at work: documents become PDF, or tell where their questions stand."""

from __future__ import annotations

import json
import shutil
from datetime import UTC, datetime
from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory
from threading import Lock
from typing import Any

import typst

from ..notation import quoted
from .filling import Spot, read_spots
from .heading import USUAL_LOOK
from .look import Look, look_markup

FONTS = Path(__file__).parent / "fonts"
LAYOUTS = Path(__file__).parent / "layout"
# A file of its own: what it says stands at the same places in every document, so most of it is laid out once.
LAYOUT = '#import "/layout.typ": *\n'
MAIN, LOOK = "main.typ", "look.typ"
FIXED_TIME = datetime(2026, 1, 1, tzinfo=UTC)


@cache
def compiler() -> typst.Compiler:
    """The Typst compiler with the fonts that ship with the application, and no others."""
    return typst.Compiler(root=str(LAYOUTS), font_paths=[str(FONTS)], ignore_system_fonts=True)


def load_compiler() -> None:
    """Load the fonts and the layout now; otherwise the first paper does."""
    compiled(f"\n#setup({quoted('Vorlage')}, [])\n")


# One compiler remembers what it has laid out, and works for one thread at a time.
TYPESETTING = Lock()


def files(source: str, look: Look) -> dict[str, bytes]:
    """What the compiler reads beside the layout, by names. The look is a file: with an input of its own the compiler
    would look through everything that it has built in, for each document anew."""
    return {MAIN: (LAYOUT + source).encode(), LOOK: f"#let (look, w) = {look_markup(look)}\n".encode()}


def compiled(source: str, look: Look = USUAL_LOOK) -> bytes:
    """The PDF of a Typst document; the same source gives the same bytes."""
    # the compiler's own types do not know that it takes several files
    read: Any = files(source, look)
    with TYPESETTING:
        finished = compiler().compile(
            read,
            format="pdf",
            pdf_standards=["ua-1"],
            timestamp=FIXED_TIME,
        )
    assert isinstance(finished, bytes)
    return finished


@cache
def measuring() -> tuple[TemporaryDirectory[str], typst.Compiler]:
    """A compiler that is asked where things stand, and the folder with what it reads."""
    folder = TemporaryDirectory()
    paper = Path(folder.name, MAIN)
    paper.write_text("")
    for layout in LAYOUTS.iterdir():
        shutil.copy(layout, folder.name)
    return folder, typst.Compiler(str(paper), root=folder.name, font_paths=[str(FONTS)], ignore_system_fonts=True)


def spots(source: str, look: Look) -> list[Spot]:
    """Where the questions of a document begin and end."""
    with TYPESETTING:
        folder, asked = measuring()
        for name, content in files(source, look).items():
            Path(folder.name, name).write_bytes(content)
        return read_spots(json.loads(asked.query("<spot>", field="value")))
