"""Writes docs/typing-maths.md from the tables that the tests read line maths with."""

from __future__ import annotations

from pathlib import Path

from tests.core.test_notation import READINGS, REFUSALS

from vorlage.core.notation import NotationError, line, read, speak

TARGET = Path(__file__).resolve().parent.parent / "docs/typing-maths.md"
SECTIONS = [
    ("Numbers", "12", "xy"),
    ("Names", "xy", "-x^2"),
    ("Operators", "-x^2", "sin 2x cos x"),
    ("Functions", "sin 2x cos x", "1 < x <= 3"),
    ("Relations and structures", "1 < x <= 3", r"\frac{a}{b}"),
    ("Pasted from elsewhere", r"\frac{a}{b}", ""),
]
HEAD = """# Typing maths

What can be typed, how it is read, and what is said when it cannot be. This page is made from the tables that the tests
use, by `PYTHONPATH=src:. .vorlage/venv/bin/python -m tools.make_docs`; every line on it is checked.

The reading is always shown before it counts. Where a question uses the decimal comma, `1,5` is one and a half,
`1.200` is twelve hundred, and lists are separated by semicolons.
"""


def code(text: str) -> str:
    """The text as code in a table."""
    return "`" + text.replace("|", "\\|").replace("\u202f", " ") + "`"


def page() -> str:
    """The whole page."""
    typed = [text for text, _ in READINGS]
    written = HEAD
    for title, first, beyond in SECTIONS:
        start, end = typed.index(first), typed.index(beyond) if beyond else len(typed)
        written += f"\n## {title}\n\n| typed | read as | in words |\n|---|---|---|\n"
        for text in typed[start:end]:
            tree = read(text)
            written += f"| {code(text)} | {code(line(tree))} | {speak(tree)} |\n"
    written += "\n## What cannot be read\n\n| typed | what is said |\n|---|---|\n"
    for text, _, _ in REFUSALS:
        try:
            read(text)
        except NotationError as problem:
            if text.isprintable() and text:
                written += f"| {code(text)} | {problem.message} |\n"
    return written


def main() -> None:
    TARGET.write_text(page(), "utf-8")


if __name__ == "__main__":
    main()
