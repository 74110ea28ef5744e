"""The text of a document of a word processor (DOCX, ODT), as it would be pasted: lists with their numbers and letters,
raised and lowered figures, and formulas as line maths.

Only words are taken. The XML is read without entities, and no more is unpacked than a text may have.
"""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator
from xml.etree.ElementTree import Element, ParseError

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from ..errors import CoreError
from ..zips import DAMAGED_ZIP

MOST_BYTES, UNPACKED = 20 * 2**20, 20 * 2**20
DOCX, ODT = "word/document.xml", "content.xml"
DAMAGED = "This document is damaged. Save it once more, or paste its text."
LETTERS = "abcdefghijklmnopqrstuvwxyz"


class OfficeError(CoreError, ValueError):
    """A file that is no document of a word processor."""


def is_office(content: bytes) -> bool:
    """Whether a file is a document of a word processor, and not a table or another archive."""
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            names = archive.namelist()
            if ODT in names and "mimetype" in names:
                with archive.open("mimetype") as opened:
                    return opened.read(100).startswith(b"application/vnd.oasis.opendocument.text")
            return DOCX in names
    except DAMAGED_ZIP:
        return False


def text_of(content: bytes) -> str:
    """The text of a document. Raises ``OfficeError``."""
    if len(content) > MOST_BYTES:
        raise OfficeError("too_large", f"This document is larger than {MOST_BYTES // 2**20} MB.")
    try:
        with zipfile.ZipFile(io.BytesIO(content)) as archive:
            names = archive.namelist()
            name = DOCX if DOCX in names else ODT
            with archive.open(name) as opened:
                written = opened.read(UNPACKED + 1)
    # a damaged archive ends in whatever its reader stumbles over
    except DAMAGED_ZIP as problem:
        raise OfficeError("damaged", DAMAGED) from problem
    if len(written) > UNPACKED:
        raise OfficeError("too_large", f"Unpacked, this document has more than {UNPACKED // 2**20} MB.")
    root = parsed(written)
    try:
        return "\n".join(Word(root).lines() if name == DOCX else Open(root).lines())
    except RecursionError as problem:
        raise OfficeError("damaged", DAMAGED) from problem


def parsed(written: bytes) -> Element:
    """XML without a document type, so that nothing in it stands for anything else. Raises ``OfficeError``."""

    try:
        root: Element = fromstring(written, forbid_dtd=True)
    except DefusedXmlException as problem:
        raise OfficeError("damaged", "This document has declarations that no word processor writes.") from problem
    except (ParseError, ValueError, RecursionError) as problem:
        raise OfficeError("damaged", DAMAGED) from problem
    return root


def local(element: Element) -> str:
    """The name of an element or attribute without its namespace."""
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def attribute(element: Element | None, name: str) -> str:
    found = ({} if element is None else element.attrib).items()
    return next((value for key, value in found if key.rpartition("}")[2] == name), "")


def child(element: Element | None, *names: str) -> Element | None:
    """What is found below by a way of names; None where there is none."""
    for name in names:
        element = next((each for each in element if local(each) == name), None) if element is not None else None
    return element


def raised(text: str, way: str) -> str:
    """A text above or below the line."""
    plain = text.strip()
    if not plain or way not in {"superscript", "subscript"}:
        return text
    sign = "^" if way == "superscript" else "_"
    return f"{sign}{plain}" if plain.isalnum() or plain.lstrip("-−+").isdigit() else f"{sign}({plain})"


class Word:
    """The lines of a DOCX document."""

    def __init__(self, root: Element) -> None:
        self.root = root
        # how far each list is, by its number and depth
        self.counted: dict[tuple[str, int], int] = {}

    def lines(self) -> Iterator[str]:
        for element in self.root.iter():
            if local(element) == "p" and not element.tag.endswith("math}p"):
                yield self.numbered(element) + "".join(self.inside(element))

    def numbered(self, paragraph: Element) -> str:
        """What stands before a line of a list: ``3. `` or ``b) ``."""
        held = child(paragraph, "pPr", "numPr")
        listed = attribute(child(held, "numId"), "val")
        if not listed or listed == "0":
            return ""
        depth = attribute(child(held, "ilvl"), "val")
        level = int(depth) if depth.isdigit() else 0
        self.counted = {key: count for key, count in self.counted.items() if key[0] != listed or key[1] <= level}
        count = self.counted[listed, level] = self.counted.get((listed, level), 0) + 1
        return f"{count}. " if level == 0 else f"{LETTERS[(count - 1) % 26]}) "

    def inside(self, element: Element) -> Iterator[str]:
        for each in element:
            name = local(each)
            if name == "r":
                way = attribute(child(each, "rPr", "vertAlign"), "val")
                yield raised("".join(self.run(each)), way)
            elif name in {"oMath", "oMathPara"}:
                yield f"${maths(each).strip()}$"
            elif name in {"hyperlink", "ins", "smartTag", "sdt", "sdtContent"}:
                yield from self.inside(each)

    def run(self, element: Element) -> Iterator[str]:
        for each in element:
            name = local(each)
            if name == "t":
                yield each.text or ""
            elif name in {"tab", "br", "cr"}:
                yield "\t" if name == "tab" else "\n"


def maths(element: Element) -> str:
    """A formula of a DOCX document as line maths."""
    name = local(element)
    inner = {local(each): maths(each) for each in element}
    match name:
        case "t":
            return element.text or ""
        case "f":
            return f"({inner.get('num', '')})/({inner.get('den', '')})"
        case "sSup":
            return f"{inner.get('e', '')}^({inner.get('sup', '')})"
        case "sSub":
            return f"{inner.get('e', '')}_{inner.get('sub', '')}"
        case "rad":
            degree = inner.get("deg", "").strip()
            return f"root({degree}, {inner.get('e', '')})" if degree else f"sqrt({inner.get('e', '')})"
        case "d":
            return f"({inner.get('e', '')})"
        case "rPr" | "ctrlPr" | "fPr" | "sSupPr" | "sSubPr" | "radPr" | "dPr":
            return ""
    return "".join(maths(each) for each in element)


class Open:
    """The lines of an ODT document."""

    def __init__(self, root: Element) -> None:
        self.root = root

    def lines(self) -> Iterator[str]:
        yield from self.below(self.root, 0)

    def below(self, element: Element, depth: int) -> Iterator[str]:
        count = 0
        for each in element:
            name = local(each)
            if name in {"p", "h"}:
                yield "".join(self.inside(each))
            elif name == "list":
                yield from self.below(each, depth + 1)
            elif name == "list-item":
                count += 1
                first, *rest = [*self.below(each, depth), ""]
                yield (f"{count}. " if depth == 1 else f"{LETTERS[(count - 1) % 26]}) ") + first
                yield from rest[:-1]
            else:
                yield from self.below(each, depth)

    def inside(self, element: Element) -> Iterator[str]:
        yield element.text or ""
        for each in element:
            name = local(each)
            if name in {"tab", "line-break"}:
                yield "\t" if name == "tab" else "\n"
            elif name == "s":
                yield " "
            elif name in {"span", "a"}:
                yield from self.inside(each)
            yield each.tail or ""
