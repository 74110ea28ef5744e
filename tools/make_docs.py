"""Writes docs/typing-maths.md and docs/how-answers-are-checked.md from the tables that the tests use."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from tests.core.test_cases import OUTCOMES, cases
from tests.core.test_notation import READINGS, REFUSALS
from tests.unit_table import DECIDED, SPELLED, TABLE

from vorlage.core.answers import chapters
from vorlage.core.notation import NotationError, line, read, speak

DOCS = Path(__file__).resolve().parent.parent / "docs"
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

The reading is always shown before it counts. Where a department uses the decimal comma, `1,5` is one and a half,
`1.200` is twelve hundred, and lists are separated by semicolons.
"""


ANSWERS_HEAD = """# How answers are checked

The same answer, the same draw and the same response always give the same verdict: **right**, **partly**, **wrong**,
**blank**, **unreadable** or **waiting**. An unreadable response says where reading stopped and what would help; it
costs nothing. One that waits has to be marked by a person: an answer at length, words without a list of accepted ones,
a check that would take too long, or an equation whose solutions cannot be told apart. Every verdict has a `code` for
programs.

This page is made from the cases of the kinds of answer (`cases.toml` in the folder of each), by
`PYTHONPATH=src:. .vorlage/venv/bin/python -m tools.make_docs`.
Every response on it is checked by the tests and gets just the outcome under which it stands.
"""
ANSWERS_TAIL = """
## Earlier answers and retries

A part may use the answer of an earlier one by its name. It is then checked against its key and against the key that
the student's own earlier answer leads to; the better one counts, and the verdict says "Right with your earlier answer".
A quantity is carried on in the unit of its key. A retry may cost a share. A share is at most 1, and negative where the
author says so: where it stops is for the test to say.

## In a batch

`./vorlage check FILE.jsonl` reads one case a line and writes one verdict a line, in order; `-` is standard input.
A line that is not a case gives an `error` and the run goes on; the exit status is 1 if any did.

    {"id": 7, "answer": {"kind": "number", "key": "m*g", "tolerance": {"mode": "relative", "value": "2%"}},
     "parameters": {"m": "12", "g": "9.81"}, "settings": {"decimal_mark": "point", "angle": "radians"},
     "response": "118"}

(on one line) gives

    {"id": 7, "outcome": "right", "share": "1", "reading": "118", "feedback": [], "because": "within 2 %",
     "code": "key", "ambiguous": false, "certainty": {"kind": "proved"}}

`"settings": {"complex": true}` makes `i` the imaginary unit. `"carried": {"W": "20"}` gives what the student's earlier
answers were worth, by the names that the key uses; `"attempt": 2` with `"retry_cost": "1/4"` takes a share off for each
attempt before.
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


def inline(text: Any) -> str:
    """The text as code in a paragraph; what is no text as JSON."""
    text = text if isinstance(text, str) else json.dumps(text, ensure_ascii=False)
    text = text.replace("\u202f", " ").replace("\u00a0", " ")
    fence = "``" if "`" in text else "`"
    return f"{fence}{text}{fence}" if text.strip() else "*nothing*"


def asked(page: dict[str, Any]) -> str:
    """What a page asks for, as a line."""
    answer = dict(page["answer"])
    answer.pop("kind")
    key = answer.pop("key", None)
    if key is not None:
        asks = f"Key {inline(key)}"
    elif "accept" in answer:
        asks = f"Key {', '.join(map(inline, answer.pop('accept')))}"
    elif not answer:
        asks = "No accepted words"
    else:
        # what is offered, or else all that is said of it
        offered = next((name for name, value in answer.items() if isinstance(value, list)), "")
        asks = f"{offered.capitalize()} {', '.join(map(offer, answer.pop(offered)))}" if offered else "Asked"
    more = [f"{name.replace('_', ' ')} {words(value)}" for name, value in answer.items()]
    more += [f"{name} = {value}" for name, value in page.get("parameters", {}).items()]
    more += [
        name if value is True else f"{name.replace('_', ' ')} {value}"
        for name, value in page.get("settings", {}).items()
    ]
    return asks + (f" ({'; '.join(more)})" if more else "")


def offer(item: Any) -> str:
    """An option, a pair or an item."""
    if isinstance(item, str):
        return item
    if "answer" in item:
        share = f" ({item['share']})" if "share" in item else ""
        return f"{item['answer']['kind']}: {asked(item)[:1].lower()}{asked(item)[1:]}{share}"
    if "region" in item:
        return str(item["region"])
    if "left" in item:
        return f"{item['left']} – {item['right']}"
    return f"{item['text']} ({item['share']})" if "share" in item else str(item["text"])


def words(value: Any) -> str:
    if isinstance(value, dict):
        if "mode" in value:
            amount = value.get("value", "")
            between = " to ".join(amount) if isinstance(amount, list) else amount
            return f"{value['mode'].replace('_', ' ')} {between}".strip()
        return ", ".join(f"{name.replace('_', ' ')} {words(inner)}" for name, inner in value.items())
    if isinstance(value, list):
        return ", ".join(words(inner) for inner in value)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return str(value)


def answers_page() -> str:
    """The whole page on checking."""
    written = ANSWERS_HEAD
    for chapter in chapters():
        written += f"\n## {chapter['title']}\n\n{chapter['text'].strip()}\n"
        for page in chapter["page"]:
            written += f"\n**{page['title']}.** {page.get('note', '')}".rstrip() + f" {asked(page)}\n\n"
            for outcome in OUTCOMES:
                listed = [
                    inline(response) + (f" ({'; '.join(filter(None, (share, because)))})" if share or because else "")
                    for response, found, share, because in cases(page)
                    if found == outcome
                ]
                if listed:
                    label = {"unreadable": "cannot be read", "waiting": "waits for a marker"}.get(outcome, outcome)
                    written += f"- {label}: {', '.join(listed)}\n"
    return written + ANSWERS_TAIL


UNITS_HEAD = """# Units

Every unit that is offered, with the prefixes that it takes. This page is made from the table against which the tests
hold each symbol with each prefix, by `PYTHONPATH=src:. .vorlage/venv/bin/python -m tools.make_docs`.

Capitals count in a symbol: `mΩ` is a thousandth and `MΩ` a million of an ohm. The name of a unit may have a capital:
`Newton`, `Metres`, `Kilohm`. Symbols that are run together are read one by one, and a power belongs to the last:
`Nm²` is N m². A symbol that is a unit by itself is never taken apart: `mm` is a millimetre. Currencies and counted
things are not units yet.

Units of one dimension that measure different things do not answer each other: hertz, becquerel and radians per second;
gray and sievert; lumen and candela; radians, steradians, decibels and shares.

| symbol | in SI units | prefixes |
|---|---|---|
"""
PREFIXES = {
    "all": "all 24", "nohecto": "all but h", "large": "k and larger", "small": "d and smaller",
    "both": "k and larger, d and smaller", "years": "k, M, G", "none": "none",
}  # fmt: skip
SPELLINGS = """
## Other ways to write them

| unit | also |
|---|---|
"""
COLLISIONS = """
## Letters that could be read twice

| written | is |
|---|---|
"""


def units_page() -> str:
    """The page on units."""
    written = UNITS_HEAD
    for row in TABLE["units"].strip().splitlines():
        symbol, factor, *dimension, prefixes = row.split()
        amount = " ".join([factor, *(each for each in dimension if each != "1")])
        written += f"| {code(symbol)} | {amount} | {PREFIXES[prefixes]} |\n"
    written += SPELLINGS
    for symbol, several in SPELLED.items():
        written += f"| {code(symbol)} | {', '.join(map(code, several))} |\n"
    return written + COLLISIONS + "".join(f"| {code(text)} | {said} |\n" for text, said in DECIDED.items())


PAGES = {"typing-maths.md": page, "how-answers-are-checked.md": answers_page, "units.md": units_page}


def main() -> None:
    for name, write in PAGES.items():
        (DOCS / name).write_text(write(), "utf-8")


if __name__ == "__main__":
    main()
