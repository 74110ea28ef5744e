"""What is printed with a paper and is none of its questions: a sheet of data or formulas, or a PDF that was given."""

from __future__ import annotations

import subprocess
import sys

from ..draws import DrawError
from ..errors import CoreError
from ..notation import USUAL, Habits, quoted
from ..questions import CompiledQuestion, QuestionDrawing, load_document, written
from ..text import TYPST
from . import given
from .markup import content
from .typesetting import compiled

MOST_BYTES = 10 * 2**20
# Seconds to wait for the process that reads a PDF.
WAITING = 20
# What the process that reads a PDF says when it ends, beside that it succeeded.
SAID = {
    given.LOCKED: ("locked", "This PDF is locked with a password. Save a copy without one."),
    given.UNREADABLE: ("not_a_pdf", "This file cannot be read as a PDF. Open it, print it into a PDF, and take that."),
    given.TOO_MANY: ("too_many_pages", f"This PDF has more than {given.MOST_PAGES} pages: take fewer."),
}
TOO_COSTLY = ("too_costly", "This PDF takes too long to be read. Print it into a new PDF, and take that.")


class InsertError(CoreError, ValueError):
    """Why something cannot be printed with a paper."""


def typeset_insert(title: str, text: str, department: str = "", habits: Habits = USUAL) -> bytes:
    """A sheet of words, tables and formulas as PDF. Raises ``InsertError`` for what cannot be read or drawn."""
    question = compiled_insert(title, text, habits)
    try:
        drawn = QuestionDrawing(question, "insert", 1).draw(1)
    except DrawError as problem:
        raise InsertError("not_drawn", problem.message) from problem
    body = written(drawn, question.wording, TYPST)
    heads = f"title: {content(title)}, department: {content(department)}"
    return compiled(f"\n#setup({quoted(title)}, [\n#insert({heads}, [\n{body}\n])\n])\n")


def compiled_insert(title: str, text: str, habits: Habits = USUAL) -> CompiledQuestion:
    """A sheet as a question that asks nothing. Raises ``InsertError`` with the first thing that is wrong with it."""
    nothing = {"wording": "", "marks": "0", "answer": {"kind": "none"}}
    try:
        question = CompiledQuestion(load_document({"title": title, "wording": text, "parts": [nothing]}), habits)
    except CoreError as problem:
        raise InsertError("not_read", problem.message) from problem
    if question.problems:
        raise InsertError("not_read", question.problems[0].message)
    return question


def laid_insert(title: str, pdf: bytes) -> bytes:
    """A PDF that was given, as it is printed. Raises ``InsertError`` for what cannot be."""
    if len(pdf) > MOST_BYTES:
        raise InsertError("too_large", f"This PDF is larger than {MOST_BYTES // 2**20} MB. Save it smaller.")
    command = [sys.executable, "-I", "-W", "ignore", given.__file__, title]
    try:
        done = subprocess.run(command, input=pdf, capture_output=True, timeout=WAITING)
    except subprocess.TimeoutExpired:
        raise InsertError(*TOO_COSTLY) from None
    if done.returncode:
        raise InsertError(*SAID.get(done.returncode, TOO_COSTLY))
    return done.stdout
