"""Joining finished documents into one, with everything that makes them accessible: the structure of every page stays,
and so do the words of every formula and figure.

What is joined is written as it comes, so a thousand papers need no more memory than one. What stands in several
documents in the same way, a picture or a font, is written once.
"""

from __future__ import annotations

import io
import re
import zlib
from array import array
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from hashlib import blake2b
from typing import BinaryIO

from pikepdf import Array, Dictionary, Name, NameTree, NumberTree, Object, Pdf, Stream, String

# What a document says of itself as a whole, taken from the first.
OF_THE_WHOLE = (Name.Lang, Name.MarkInfo, Name.ViewerPreferences, Name.Metadata)
# What is known of the root of a structure; another entry would be lost.
OF_STRUCTURE = {"/Type", "/K", "/ParentTree", "/ParentTreeNextKey", "/RoleMap", "/IDTree"}
# The objects of the whole that every document speaks of.
CATALOG, PAGES, STRUCTURE = 1, 2, 3
# So many objects are compressed together.
TOGETHER = 200

# A string, in which brackets may stand in pairs, as deep as this follows them.
STRING = rb"\((?:[^()\\]|\\.|\((?:[^()\\]|\\.|\((?:[^()\\]|\\.)*\))*\))*\)|<[0-9A-Fa-f]*>"
# What changes where an object moves to another document: whom it refers to, its key in the structure, its own name
# and the names of others there. Strings are passed over.
MOVED = re.compile(
    rb"(?P<named>/ID\s*(?:" + STRING + rb")|/Headers\s*\[[^\]]*\])|" + STRING + rb"|\b(?P<number>\d+) 0 R\b|"
    rb"(?P<key>/StructParents?) (?P<at>\d+)",
    re.DOTALL,
)
OPENED = re.compile(rb"\(|<")
REFERENCE, DIGITS = b" 0 R", b"0123456789"
STRINGS, BRACKET = re.compile(STRING, re.DOTALL), re.compile(rb"[()]")
# The numbers of those that an object refers to; nothing for a string.
SPOKEN = re.compile(STRING + rb"|\b(\d+) 0 R\b", re.DOTALL)
OF_ELEMENT = re.compile(rb"/Type\s*/StructElem\b")
# How a document is written that can be read as it stands.
XREF = re.compile(rb"startxref\s+(\d+)\s+%%EOF\s*$")
TABLE = re.compile(rb"xref\s+0 (\d+)\s+")
OBJECT = re.compile(rb"(\d+) 0 obj\s*")
LENGTH = re.compile(rb"/Length\s+(\d+)\b")
DATA = re.compile(rb"stream\r?\n")
ENTRY = 20
Body = tuple[bytes, bytes | None]


@dataclass(frozen=True, slots=True)
class Mark:
    """A bookmark: its name, its number as an object, that of its page, and entries that say what stands below it."""

    name: str
    own: int
    page: int
    below: bytes


class Joined:
    """One PDF that documents are added to, each under a bookmark with its name where it has one.

    The same documents give the same bytes. What the whole says of itself, its title among it, the first says.
    ``finish`` writes what ends it; before that it is no PDF.
    """

    def __init__(self, into: BinaryIO) -> None:
        self.into = into
        self.digest = blake2b(digest_size=16)
        self.at = 0
        # of every object from 0: 1, where it begins, and 0; or 2, the stream that it is in, and its place there
        self.kinds, self.wheres, self.withins = array("B"), array("Q"), array("H")
        self.waiting: list[tuple[int, bytes]] = []
        self.shared: dict[bytes, int] = {}
        self.marks: list[Mark] = []
        self.page_trees: list[int] = []
        self.pages = 0
        self.elements: list[bytes] = []
        self.roles: dict[str, str] = {}
        self.owners: list[bytes] = []
        self.next_key = 0
        self.names: list[tuple[bytes, bytes]] = []
        self.of_the_whole = b""
        self.about = b""
        for _ in range(1 + STRUCTURE):
            self.reserved()
        self.withins[0] = 65535
        self.put(b"%PDF-1.7\n%\xc2\xb5\xc2\xb6\n")

    def add(self, name: str, content: bytes) -> int:
        """Add the pages of a document; how many they are."""
        with Pdf.open(io.BytesIO(content)) as part:
            root = part.Root
            tree = root.StructTreeRoot
            unknown = set(tree.keys()) - OF_STRUCTURE
            if unknown:
                raise ValueError(f"This structure has entries that would be lost: {', '.join(sorted(unknown))}.")
            first = not self.page_trees
            moving = Moving(len(self.page_trees), self.next_key)
            moving.numbers[number(tree)] = STRUCTURE
            moved = bodies(part, content)
            if not first and Name.Metadata in root:
                del moved[number(root.Metadata)]
            # its own bookmarks stand below the one that it gets
            mark = self.reserved() if name else 0
            inner = root.get(Name.Outlines)
            if inner is not None and Name.First not in inner:
                # nothing was asked
                del moved[number(inner)]
                inner = None
            if inner is not None:
                del moved[number(inner)]
                moving.numbers[number(inner)] = mark
                if not mark:
                    for each in bookmarks(inner):
                        del moved[number(each)]
                    inner = None
            for each in (tree, root, part.trailer.Info):
                del moved[number(each)]
            pages, data = moved[number(root.Pages)]
            # this number is free
            moving.numbers[0] = PAGES
            moved[number(root.Pages)] = pages.replace(b"<<", b"<< /Parent 0 0 R ", 1), data
            self.move(moved, moving)

            if first:
                known = b" ".join(
                    key.encode() + b" " + root[key].unparse() for key in map(str, OF_THE_WHOLE) if key in root
                )
                self.of_the_whole = moving.moved(known)
                self.about = moving.moved(part.trailer.Info.unparse(resolved=True))
            self.page_trees.append(moving.numbers[number(root.Pages)])
            self.pages += len(part.pages)
            if mark:
                below = b""
                if inner is not None:
                    ends = moving.numbers[number(inner.First)], moving.numbers[number(inner.Last)]
                    # closed until somebody opens it
                    below = b"/First %d 0 R /Last %d 0 R /Count %d " % (*ends, -len(list(bookmarks(inner, 1))))
                self.marks.append(Mark(name, mark, moving.numbers[number(part.pages[0].obj)], below))
            for element in tree.K if isinstance(tree.K, Array) else [tree.K]:
                self.elements.append(moving.moved(element.unparse()))
            self.roles.update({str(role): str(meaning) for role, meaning in tree.get(Name.RoleMap, {}).items()})
            self.graft(tree, moving)
            return len(part.pages)

    def graft(self, tree: Object, moving: Moving) -> None:
        """Note to whom in the structure the marked pieces of the pages belong, and who has a name there."""
        owners = [
            (int(key) + self.next_key, moving.moved(owner.unparse()))
            for key, owner in NumberTree(tree.ParentTree).items()
        ]
        if owners:
            listed = b" ".join(b"%d %s" % each for each in owners)
            limits = owners[0][0], owners[-1][0]
            self.owners.append(b"%d 0 R" % self.write(b"<< /Limits [ %d %d ] /Nums [ %s ] >>" % (*limits, listed)))
        self.next_key += int(tree.ParentTreeNextKey)
        if Name.IDTree in tree:
            for own, element in NameTree(tree.IDTree).items():
                called = String(own).unparse()
                self.names.append((OPENED.sub(moving.opened, called, count=1), moving.moved(element.unparse())))

    def move(self, bodies: dict[int, Body], moving: Moving) -> None:
        """Write objects of a document, by their numbers there."""
        # whom each speaks of; what has a place in the structure speaks of its neighbours, and of the page that it is on
        spoken = {
            own: set(SPOKEN.findall(text)) - {b""} for own, (text, _) in bodies.items() if not OF_ELEMENT.search(text)
        }
        shared: set[bytes] = set()
        # what speaks only of what is shared can be shared itself
        while settled := [own for own, others in spoken.items() if others <= shared]:
            for own in settled:
                del spoken[own]
                shared.add(b"%d" % own)
                text, data = bodies.pop(own)
                text = moving.moved(text)
                same = blake2b(text + b"\0" + (data or b""), digest_size=20).digest()
                if same not in self.shared:
                    self.shared[same] = self.write(text, data)
                moving.numbers[own] = self.shared[same]
        for own in bodies:
            moving.numbers[own] = self.reserved()
        texts = moving.all_moved([text for text, _ in bodies.values()])
        for (own, (_, data)), text in zip(bodies.items(), texts):
            self.write(text, data, moving.numbers[own])

    # writing

    def put(self, content: bytes) -> None:
        self.into.write(content)
        self.digest.update(content)
        self.at += len(content)

    def reserved(self) -> int:
        """The number of an object that is written later."""
        for each in (self.kinds, self.wheres, self.withins):
            each.append(0)
        return len(self.kinds) - 1

    def is_at(self, own: int, kind: int, where: int, within: int = 0) -> None:
        self.kinds[own], self.wheres[own], self.withins[own] = kind, where, within

    def write(self, text: bytes, data: bytes | None = None, own: int = 0) -> int:
        """Write an object, a stream if it has data; its number."""
        own = own or self.reserved()
        if data is None:
            self.waiting.append((own, text))
            if len(self.waiting) == TOGETHER:
                self.write_waiting()
        else:
            self.is_at(own, 1, self.at)
            self.put(b"%d 0 obj\n%s\nstream\n%s\nendstream\nendobj\n" % (own, text, data))
        return own

    def write_waiting(self) -> None:
        """Write the objects that wait to be compressed together."""
        waiting, self.waiting = self.waiting, []
        if not waiting:
            return
        holder = self.reserved()
        index, texts, at = [], [], 0
        for place, (own, text) in enumerate(waiting):
            self.is_at(own, 2, holder, place)
            index.append(b"%d %d" % (own, at))
            texts.append(text)
            at += len(text) + 1
        front = b" ".join(index) + b"\n"
        kind = b"/Type /ObjStm /N %d /First %d" % (len(waiting), len(front))
        self.write_packed(kind, front + b"\n".join(texts), holder)

    def write_packed(self, entries: bytes, data: bytes, own: int) -> None:
        packed = zlib.compress(data)
        self.write(b"<< %s /Filter /FlateDecode /Length %d >>" % (entries, len(packed)), packed, own)

    def finish(self) -> None:
        """Write what holds the documents together."""
        kids = b" ".join(b"%d 0 R" % each for each in self.page_trees)
        self.write(b"<< /Type /Pages /Count %d /Kids [ %s ] >>" % (self.pages, kids), own=PAGES)
        self.write(self.structure(), own=STRUCTURE)
        outlines = self.outlines()
        self.write(
            b"<< /Type /Catalog /Pages %d 0 R /StructTreeRoot %d 0 R %s %s >>"
            % (PAGES, STRUCTURE, outlines, self.of_the_whole),
            own=CATALOG,
        )
        about = self.write(self.about)
        self.write_waiting()
        own, start = self.reserved(), self.at
        self.is_at(own, 1, start)
        columns = zip(self.kinds, self.wheres, self.withins)
        rows = b"".join(kind.to_bytes(1) + where.to_bytes(5) + within.to_bytes(2) for kind, where, within in columns)
        same = self.digest.hexdigest().encode()
        entries = b"/Type /XRef /W [ 1 5 2 ] /Size %d /Root %d 0 R /Info %d 0 R /ID [ <%s> <%s> ]"
        self.write_packed(entries % (len(self.kinds), CATALOG, about, same, same), rows, own)
        self.put(b"startxref\n%d\n%%%%EOF\n" % start)

    def structure(self) -> bytes:
        owners = self.write(b"<< /Kids [ %s ] >>" % b" ".join(self.owners))
        roles = Dictionary({role: Name(meaning) for role, meaning in sorted(self.roles.items())}).unparse()
        named = b""
        if self.names:
            listed = b" ".join(called + b" " + element for called, element in sorted(self.names))
            named = b"/IDTree << /Names [ %s ] >>" % listed
        return b"<< /Type /StructTreeRoot /K [ %s ] /ParentTree %d 0 R /ParentTreeNextKey %d /RoleMap %s %s >>" % (
            b" ".join(self.elements), owners, self.next_key, roles, named,
        )  # fmt: skip

    def outlines(self) -> bytes:
        """The bookmarks, as an entry of the catalog."""
        if not self.marks:
            return b""
        root, items = self.reserved(), [mark.own for mark in self.marks]
        for place, mark in enumerate(self.marks):
            beside = b"/Prev %d 0 R " % items[place - 1] if place else b""
            beside += b"/Next %d 0 R " % items[place + 1] if place + 1 < len(items) else b""
            title = String(mark.name).unparse()
            entries = b"/Title %s /Parent %d 0 R %s%s/Dest [ %d 0 R /Fit ]"
            self.write(b"<< " + entries % (title, root, beside, mark.below, mark.page) + b" >>", own=mark.own)
        ends = b"/First %d 0 R /Last %d 0 R /Count %d" % (items[0], items[-1], len(items))
        return b"/Outlines %d 0 R" % self.write(b"<< /Type /Outlines %s >>" % ends, own=root)


class Moving:
    """How the objects of one document are called in the whole."""

    def __init__(self, place: int, first_key: int) -> None:
        self.place, self.first_key = place, first_key
        self.numbers: dict[int, int] = {}

    def moved(self, text: bytes) -> bytes:
        """The text of an object, speaking of the whole."""
        return MOVED.sub(self.replaced, text)

    def all_moved(self, texts: Sequence[bytes]) -> list[bytes]:
        """The texts of many objects: what ``moved`` makes of each, most of them together."""
        # without a string, a name or a key nothing but references moves
        found = [
            b""
            if b"(" in text or b"/StructP" in text or b"/ID" in text or b"/Headers" in text or b"\0" in text
            else text
            for text in texts
        ]
        *pieces, last = b"\0".join(found).split(REFERENCE)
        # what stands before a reference ends in its number; the same ends come often
        moved = dict[bytes, bytes]()
        for place, piece in enumerate(pieces):
            before, space, end = piece.rpartition(b" ")
            if end not in moved:
                other = end.rstrip(DIGITS)
                moved[end] = other + b"%d" % self.numbers[int(end[len(other) :])]
            pieces[place] = before + space + moved[end]
        together = REFERENCE.join([*pieces, last]).split(b"\0")
        return [done or self.moved(text) for text, done in zip(texts, together, strict=True)]

    def replaced(self, found: re.Match[bytes]) -> bytes:
        if found["number"]:
            return b"%d 0 R" % self.numbers[int(found["number"])]
        if found["key"]:
            return b"%s %d" % (found["key"], int(found["at"]) + self.first_key)
        if found["named"]:
            return OPENED.sub(self.opened, found[0])
        return found[0]

    def opened(self, found: re.Match[bytes]) -> bytes:
        """A name that no other document has: the number of the document comes first in it."""
        own = b"%d." % self.place
        return found[0] + (own if found[0] == b"(" else own.hex().encode())


def bookmarks(held: Object, levels: int = 9) -> Iterator[Object]:
    """The bookmarks below one, or below the root of all, as far down as so many levels."""
    each = held.get(Name.First)
    while each is not None:
        yield each
        if levels > 1:
            yield from bookmarks(each, levels - 1)
        each = each.get(Name.Next)


def number(found: Object) -> int:
    return found.objgen[0]


def bodies(part: Pdf, content: bytes) -> dict[int, Body]:
    """What every object of a document says, by its number, and its data as they are kept if it is a stream."""
    found = plain(content)
    if found is None:
        # what holds objects is none of them
        return {
            number(each): rewritten(each)
            for each in part.objects
            if not (isinstance(each, Stream) and each.get(Name.Type) in (Name.XRef, Name.ObjStm))
        }
    for own, (text, _) in list(found.items()):
        if b"(" in text and BRACKET.search(STRINGS.sub(b"", text)):
            found[own] = rewritten(part.get_object(own, 0))
    return found


def rewritten(found: Object) -> Body:
    """An object as pikepdf writes it, where every bracket in a string is escaped."""
    if isinstance(found, Stream):
        return found.stream_dict.unparse(resolved=True), found.read_raw_bytes()
    return found.unparse(resolved=True), None


def plain(content: bytes) -> dict[int, Body] | None:
    """The objects of a document as they stand in it; nothing unless it has them one by one, with one table of where
    they begin. Typst writes such documents, and reading them so takes a tenth of the time."""
    end = XREF.search(content, max(0, len(content) - 60))
    table = TABLE.match(content, int(end[1])) if end else None
    if table is None:
        return None
    first = table.end()
    rows = [content[at : at + ENTRY].split() for at in range(first, first + ENTRY * int(table[1]), ENTRY)]
    begins = sorted((int(row[0]), own) for own, row in enumerate(rows) if row[2] == b"n")
    ends = [begin for begin, _ in begins[1:]] + [table.start()]
    found: dict[int, Body] = {}
    for (begin, own), after in zip(begins, ends):
        opened = OBJECT.match(content, begin)
        text, closed, _ = content[opened.end() if opened else 0 : after].rpartition(b"endobj")
        if opened is None or int(opened[1]) != own or not closed:
            return None
        text = text.rstrip(b"\r\n ")
        if text.endswith(b"endstream"):
            stream = divided(text)
            if stream is None:
                return None
            found[own] = stream
        else:
            found[own] = text, None
    return found


def divided(text: bytes) -> Body | None:
    """A stream, divided into what it says of itself and its data, which are as long as it says."""
    for before in DATA.finditer(text):
        says = LENGTH.search(text, 0, before.start())
        end = before.end() + int(says[1]) if says else 0
        if says and text[end:].strip(b"\r\n") == b"endstream":
            return text[: before.start()].rstrip(), text[before.end() : end]
    return None
