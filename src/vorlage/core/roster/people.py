"""Who is in a table: which column holds what, and every row as a student."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from ..tables import Table
from ..text import unaccented

# What a column can hold, and how it is called at its head, with nothing but letters in it.
COLUMNS: dict[str, tuple[str, frozenset[str]]] = {
    "family": (
        "Family name",
        frozenset("familyname family surname lastname last nachname familienname nom apellidos cognome".split()),
    ),
    "given": (
        "Given name",
        frozenset("givenname given givennames firstname first forename forenames vorname prenom nombre nome".split()),
    ),
    "whole": (
        "Name in one column",
        frozenset(
            "name fullname student studentname pupil pupilname familygiven familynamegivenname surnameforename "
            "schüler schueler eleve".split()
        ),
    ),
    "number": (
        "School number",
        frozenset(
            "schoolnumber number no nr studentnumber studentno studentid id pupilnumber pupilno admissionnumber "
            "nummer schülernummer schuelernummer numero matricule".split()
        ),
    ),
    "email": ("E-mail address", frozenset("email emailaddress mail address mailaddress eaddress courriel".split())),
}  # fmt: skip
LONGEST_NAME, LONGEST_NUMBER = 80, 20
NUMBER = re.compile(r"[\w][\w./-]*", re.UNICODE)
EMAIL = re.compile(r"[^\s@,;<>\"()]+@[A-Za-z0-9-]+(\.[A-Za-z0-9-]+)+")
# What no name begins with, and a spreadsheet takes for a formula.
FORMULA = ("=", "+", "@", "-")


@dataclass(frozen=True, slots=True)
class Entry:
    """A student as a row has it; ``number`` and ``email`` may be empty. ``doubt`` says what was guessed."""

    row: int
    family: str
    given: str
    number: str = ""
    email: str = ""
    doubt: str = ""


@dataclass(frozen=True, slots=True)
class Fault:
    """What is wrong with a row, and how to mend it."""

    row: int
    message: str


@dataclass(frozen=True, slots=True)
class Reading:
    """What a table says: what each column was taken for (empty: not used), the heads of the columns where there are
    any, the students, and what is wrong. Nothing is taken while anything is wrong."""

    columns: tuple[str, ...]
    heads: tuple[str, ...]
    entries: tuple[Entry, ...] = ()
    faults: tuple[Fault, ...] = field(default=())


def letters_of(text: str) -> str:
    """A head or a name by its letters alone."""
    return "".join(sign for sign in unaccented(text) if sign.isalpha())


def meaning(head: str) -> str:
    """What a column with this head holds; empty where nobody knows."""
    plain = letters_of(head)
    return next((name for name, (_, heads) in COLUMNS.items() if plain in map(letters_of, heads)), "")


def read_people(table: Table, chosen: Sequence[str] | None = None, headed: bool | None = None) -> Reading:
    """Read the students of a table. ``chosen`` says what the columns hold and ``headed`` whether the first row holds
    headings, where a person has said so."""
    width = table.width
    first = table.rows[0][1] if table.rows else ()
    found = [meaning(head) for head in first]
    has_heads = any(found) and not any("@" in cell for cell in first) if headed is None else headed
    rows = table.rows[1:] if has_heads else table.rows
    heads = (*first, *[""] * (width - len(first))) if has_heads else ()
    if chosen and len(chosen) == width:
        columns = [name if name in COLUMNS else "" for name in chosen]
    elif has_heads:
        columns = [name if name not in found[:place] else "" for place, name in enumerate(found)]
        columns += [""] * (width - len(columns))
    else:
        columns = guessed([cells for _, cells in rows], width)
    faults = [Fault(row, message) for row, message in table.faults]
    faults += unusable(columns, table)
    entries = list[Entry]()
    if not faults or any(columns):
        for row, cells in rows:
            entry, wrong = read_row(row, cells, columns, len(first) if has_heads else 0)
            faults += [Fault(row, message) for message in wrong]
            if entry is not None:
                entries.append(entry)
    faults += twice(entries)
    if not entries and not faults:
        faults.append(Fault(0, "There are headings and no students under them."))
    return Reading(tuple(columns), tuple(heads), tuple(entries), tuple(sorted(set(faults), key=lambda each: each.row)))


def unusable(columns: Sequence[str], table: Table) -> list[Fault]:
    """What is missing among the columns, or there twice."""
    row = table.rows[0][0] if table.rows else 0
    twice = {name for name in columns if name and columns.count(name) > 1}
    faults = [Fault(row, f"Two columns are taken for the {COLUMNS[name][0].lower()}.") for name in sorted(twice)]
    if "whole" in columns and ("family" in columns or "given" in columns):
        faults.append(Fault(row, "The name is in one column or in two: choose one of them."))
    elif "whole" not in columns and not {"family", "given"} <= set(columns):
        faults.append(
            Fault(
                row,
                "Which columns hold the names? One for the family name and one for the given name, or one for both.",
            )
        )
    return faults


def guessed(rows: Sequence[Sequence[str]], width: int) -> list[str]:
    """What columns without heads hold, by what is in them."""
    columns = [""] * width
    names = []
    for place in range(width):
        cells = [cells[place] for cells in rows if len(cells) > place and cells[place]]
        if not cells:
            continue
        if sum("@" in cell for cell in cells) * 2 > len(cells):
            kind = "email"
        elif sum(any(sign.isdigit() for sign in cell) for cell in cells) * 2 > len(cells):
            kind = "number"
        else:
            names.append(place)
            continue
        if kind not in columns:
            columns[place] = kind
    if len(names) == 1:
        columns[names[0]] = "whole"
    elif names:
        commas = sum("," in cells[names[0]] for cells in rows if len(cells) > names[0])
        if commas * 2 > len(rows):
            columns[names[0]] = "whole"
        else:
            columns[names[0]], columns[names[1]] = "family", "given"
    return columns


def read_row(row: int, cells: Sequence[str], columns: Sequence[str], heads: int) -> tuple[Entry | None, list[str]]:
    """A row as a student, and what is wrong with it; ``heads`` is how many headings there are, 0 without any."""
    if heads and any(cells[heads:]):
        cure = "Put what holds a separator in quotes, or use another one."
        return None, [f"There are {len(cells)} cells under {heads} headings. {cure}"]
    held: dict[str, str] = dict.fromkeys(COLUMNS, "")
    held.update({name: cells[place] if place < len(cells) else "" for place, name in enumerate(columns) if name})
    if not any(held.values()):
        return None, ["Nothing of a student is in this row: a name is missing."]
    whole, doubt = held.pop("whole"), ""
    if "whole" in columns:
        held["family"], held["given"] = split_name(whole)
        if formula := begins_like_formula(whole):
            return None, [formula]
        if whole and not (held["family"] and held["given"]):
            return None, [f"{quoted(whole)} is one name: write it as “Family, Given”."]
        if "," not in whole and held["given"]:
            doubt = f"Read as family name {held['family']}, given name {held['given']}"
    wrong = unfit(held)
    if wrong:
        return None, list(wrong.values())
    return Entry(row, held["family"], held["given"], held["number"], held["email"].lower(), doubt), []


def unfit(held: Mapping[str, str]) -> dict[str, str]:
    """What is wrong with ``family``, ``given``, ``number`` and ``email``, by the field; number and address may be
    empty."""
    wrong = {}
    for name in ("family", "given"):
        if not held[name]:
            wrong[name] = f"The {COLUMNS[name][0].lower()} is missing."
        elif why := unfit_name(held[name]):
            wrong[name] = why
    number, email = held["number"], held["email"]
    if number and (len(number) > LONGEST_NUMBER or not NUMBER.fullmatch(number)):
        may_have = f"up to {LONGEST_NUMBER} letters, digits, points and strokes"
        wrong["number"] = begins_like_formula(number) or f"{quoted(number)} is no school number: {may_have}."
    if email and (len(email) > 254 or not EMAIL.fullmatch(email) or begins_like_formula(email)):
        no_address = f"{quoted(email)} is no e-mail address. Mend it, or leave it out."
        wrong["email"] = begins_like_formula(email) or no_address
    return wrong


def begins_like_formula(cell: str) -> str:
    if not cell.startswith(FORMULA):
        return ""
    return f"{quoted(cell)} begins like a formula. Put the value there, without {cell[0]}."


def unfit_name(name: str) -> str:
    """Why something is no name; empty where it is one."""
    if formula := begins_like_formula(name):
        return formula
    if len(name) > LONGEST_NAME:
        return f"{quoted(name)} is longer than {LONGEST_NAME} characters."
    if meant := misread(name):
        return f"{quoted(name)} was read with the wrong encoding, it seems: {quoted(meant)} is meant?"
    unseen = (sign for sign in name if unicodedata.category(sign) in {"Cc", "Cf", "Co", "Cn", "Cs"})
    # joiners belong to how some scripts are written
    if any(sign not in "\u200c\u200d" for sign in unseen):
        return f"{quoted(name)} holds a sign that cannot be seen. Type the name anew."
    if not any(sign.isalpha() for sign in name):
        return f"{quoted(name)} is no name."
    return ""


def misread(name: str) -> str:
    """What a name was before its UTF-8 was taken for Windows-1252; empty where it was not.

    >>> misread("MÃ¼ller"), misread("Müller")
    ('Müller', '')
    """
    if name.isascii():
        return ""
    try:
        meant = name.encode("cp1252").decode("utf-8")
    except UnicodeError:
        return ""
    return meant


def split_name(whole: str) -> tuple[str, str]:
    """Family and given name of a name in one column: “Family, Given”, or the last word as the family name.

    >>> split_name("Adair-Lund, Kofi Maren"), split_name("Kofi Adair")
    (('Adair-Lund', 'Kofi Maren'), ('Adair', 'Kofi'))
    """
    family, comma, given = whole.partition(",")
    if comma:
        return family.strip(), given.strip(" ,")
    given, _, family = whole.rpartition(" ")
    return family.strip(), given.strip()


def twice(entries: Sequence[Entry]) -> list[Fault]:
    """Rows that speak of the same student."""
    faults = []
    seen: dict[tuple[str, ...], int] = {}
    for entry in entries:
        if entry.number:
            told = f"The number {entry.number} stands"
            key: tuple[str, ...] = ("number", entry.number.casefold())
            cure = ""
        else:
            told, key = "The same name stands", (letters_of(entry.family), letters_of(entry.given), "name")
            cure = " Give both a school number, or take one out."
        before = seen.setdefault(key, entry.row)
        if before == entry.row and entry.email:
            told, cure = f"The address {entry.email} stands", ""
            before = seen.setdefault(("address", entry.email), entry.row)
        if before != entry.row:
            faults.append(Fault(entry.row, f"{told} in row {before} as well.{cure}"))
    return faults


def quoted(text: str) -> str:
    """What somebody typed, as a message shows it."""
    return f"“{text if len(text) <= 40 else text[:39] + '…'}”"
