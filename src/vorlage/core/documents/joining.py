"""Joining finished documents into one, with everything that makes them accessible: the structure of every page stays,
and so do the words of every formula and figure.

What is joined is written as it comes, so a thousand papers need no more memory than one. What stands in several
documents in the same way, a picture or a font, is written once.

An object keeps its number, and the place of its document is written behind it: of a thousand documents, object 12 of
the third is 12002 in the whole. So all references of a document move at once, by what ends them; with numbers that
follow each other every one of them would be sought by itself.
"""

from __future__ import annotations

import io
import re
import zlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from hashlib import blake2b
from itertools import accumulate, chain
from typing import BinaryIO

import numpy as np
from pikepdf import ObjectStreamMode, Pdf, StreamDecodeLevel, String

# What a document says of itself as a whole, taken from the first.
OF_THE_WHOLE = (b"/Lang", b"/MarkInfo", b"/ViewerPreferences", b"/Metadata")
# What is known of the root of a structure; another entry would be lost.
OF_STRUCTURE = {b"/Type", b"/K", b"/ParentTree", b"/ParentTreeNextKey", b"/RoleMap", b"/IDTree"}
# The objects of the whole that every document speaks of.
CATALOG, PAGES, STRUCTURE = 1, 2, 3
# So many numbers has the whole itself, from 0.
OF_ITS_OWN = 10
# Some readers know of no object with a higher number.
HIGHEST = 4 * 2**20
# So many objects that wait are compressed together, and no more than can be counted.
TOGETHER, COUNTED = 200, 2**16 - 1

# A string, in which brackets may stand in pairs, as deep as this follows them.
STRING = rb"\((?:[^()\\]|\\.|\((?:[^()\\]|\\.|\((?:[^()\\]|\\.)*\))*\))*\)|<[0-9A-Fa-f]*>"
# What changes where an object moves to another document: whom it refers to, its key in the structure, its own name
# and the names of others there. Strings are passed over.
NAMING = (
    rb"(?P<named>/ID\s*(?:" + STRING + rb")|/Headers\s*\[[^\]]*\])|" + STRING + rb"|"
    rb"(?P<key>/StructParents?) (?P<at>\d+)"
)
MOVED, RENAMED = (re.compile(each, re.DOTALL) for each in (NAMING + rb"|\b(?P<number>\d+) 0 R\b", NAMING))
OPENED = re.compile(rb"\(|<")
REFERENCE, REFERRED = b" 0 R", re.compile(rb"\b(\d+) 0 R\b")
HEAD, STREAM_ENDS, END = b" 0 obj\n", b"endstream", b"\nendobj\n"
DIGITS = b"0123456789"
STRINGS, BRACKET = re.compile(rb"(" + STRING + rb")", re.DOTALL), re.compile(rb"[()]")
SIMPLE = re.compile(rb"\([^()\\]*\)")
OF_ELEMENT, OF_PAGE = b"/StructElem", b"/StructParent"
# What does not move as a reference does: keys and names.
NAMED = re.compile(rb"/(?:StructP|ID|Headers)")
# More objects with numbers of their own than this are sought each by itself.
MANY = 100
FIRST, NEXT = re.compile(rb"/First\s+(\d+ 0 R)"), re.compile(rb"/Next\s+(\d+ 0 R)")
# How a document is written that can be read as it stands.
XREF = re.compile(rb"startxref\s+(\d+)\s+%%EOF\s*$")
TABLE = re.compile(rb"xref\s+0 (\d+)\s+")
LENGTH = re.compile(rb"/Length\s+(\d+)\b")
DATA = re.compile(rb"stream\r?\n")
ROOT, ABOUT = re.compile(rb"/Root (\d+) 0 R"), re.compile(rb"/Info (\d+) 0 R")
# Of an object in the table of where they begin: 1, its place, and 0; or 2, the stream that it is in, and which it is.
ROW = np.dtype([("kind", "u1"), ("where", ">u8"), ("within", ">u2")])
# Half the time of the usual way, and a hundredth longer.
QUICKLY = 4
ENTRY, IN_USE = 20, b"n"
# What a dictionary or an array is written in.
TOKENS = re.compile(STRING + rb"|<<|>>|\[|\]|/[^\s/<>\[\]()]*|[^\s/<>\[\]()]+", re.DOTALL)
OPENS, CLOSES = (b"<<", b"["), (b">>", b"]")
Body = tuple[bytes, bytes | None]


@dataclass(frozen=True, slots=True)
class Mark:
    """A bookmark: its name, its number as an object, that of its page, and entries that say what stands below it."""

    name: str
    own: int
    page: int
    below: bytes


class Joined:
    """One PDF that so many ``documents`` at most are added to, each under a bookmark with its name where it has one.

    The same documents give the same bytes. What the whole says of itself, its title among it, the first says.
    ``finish`` writes what ends it; before that it is no PDF.
    """

    def __init__(self, into: BinaryIO, documents: int) -> None:
        self.into, self.documents = into, documents
        self.step = 10 ** len(str(max(documents, OF_ITS_OWN) - 1))
        self.digest = blake2b(digest_size=16)
        self.at = 0
        # where each object is: by itself, or in a stream with others, in their order
        self.alone: list[tuple[int, int]] = []
        self.within: list[tuple[int, np.ndarray]] = []
        self.waiting: list[tuple[int, bytes]] = []
        self.shared: dict[bytes, int] = {}
        self.marks: list[Mark] = []
        self.page_trees: list[int] = []
        self.pages = 0
        self.elements: list[bytes] = []
        self.roles: dict[bytes, bytes] = {}
        self.owners: list[bytes] = []
        self.next_key = 0
        self.names: list[tuple[bytes, bytes]] = []
        self.of_the_whole = b""
        self.about = b""
        self.next_own, self.next_free = 1 + STRUCTURE, 0
        self.put(b"%PDF-1.7\n%\xc2\xb5\xc2\xb6\n")

    def add(self, name: str, content: bytes) -> int:
        """Add the pages of a document; how many they are."""
        if len(self.page_trees) == self.documents:
            raise ValueError(f"These are more documents than {self.documents}.")
        part = Part.of(content)
        root = part.entries(b"%d 0 R" % part.root)
        tree = part.entries(root[b"/StructTreeRoot"])
        unknown = tree.keys() - OF_STRUCTURE
        if unknown:
            lost = ", ".join(sorted(each.decode() for each in unknown))
            raise ValueError(f"This structure has entries that would be lost: {lost}.")
        first = not self.page_trees
        moving = self.moving(part)
        moved = dict(part.bodies)
        moving.others[number(root[b"/StructTreeRoot"])] = STRUCTURE
        if not first and b"/Metadata" in root:
            del moved[number(root[b"/Metadata"])]
        # its own bookmarks stand below the one that it gets
        inner, mark = part.entries(root[b"/Outlines"]) if b"/Outlines" in root else {}, 0
        if inner:
            del moved[number(root[b"/Outlines"])]
            mark = moving.number(number(root[b"/Outlines"]))
            if not name:
                for each in part.bookmarks(root[b"/Outlines"]):
                    del moved[number(each)]
        for own in (number(root[b"/StructTreeRoot"]), part.root, part.about):
            del moved[own]
        own_pages = number(root[b"/Pages"])
        pages, data = moved[own_pages]
        # this number is free
        moving.others[0] = PAGES
        moved[own_pages] = pages.replace(b"<<", b"<< /Parent 0 0 R ", 1), data
        self.move(moved, moving)

        if first:
            known = b" ".join(key + b" " + root[key] for key in OF_THE_WHOLE if key in root)
            self.of_the_whole = moving.moved(known)
            self.about = moving.moved(part.bodies[part.about][0])
        self.page_trees.append(moving.number(own_pages))
        count = int(part.entries(root[b"/Pages"])[b"/Count"])
        self.pages += count
        if name:
            below = b""
            if b"/First" in inner:
                first_one, last_one = (moving.number(number(inner[each])) for each in (b"/First", b"/Last"))
                count_below = len(list(part.bookmarks(root[b"/Outlines"], 1)))
                # closed until somebody opens it
                below = b"/First %d 0 R /Last %d 0 R /Count %d " % (first_one, last_one, -count_below)
            first_page = moving.number(number(part.first_page(root[b"/Pages"])))
            self.marks.append(Mark(name, mark or moving.spare(), first_page, below))
        children = tree[b"/K"]
        for element in listed(children) if children.startswith(b"[") else [children]:
            self.elements.append(moving.moved(element))
        if b"/RoleMap" in tree:
            self.roles.update(part.entries(tree[b"/RoleMap"]))
        self.graft(part, tree, moving)
        while len(self.waiting) >= TOGETHER:
            self.write_waiting(moving.spare())
        return count

    def moving(self, part: Part) -> Moving:
        """How the objects of the next document are called."""
        place, top = len(self.page_trees), max(part.bodies)
        moving = Moving(place, self.next_key, part.careful, self.step, top)
        needed = top + OF_ITS_OWN
        columns, rows = self.step - self.documents, HIGHEST // self.step - 1
        if needed > rows and self.next_free + needed <= columns * rows:
            # what has more objects than there are numbers for its place takes those of places where no document is
            free = range(self.next_free, self.next_free + needed)
            moving.others |= {
                own: (1 + each % rows) * self.step + self.documents + each // rows for own, each in enumerate(free)
            }
            self.next_free += needed
        return moving

    def graft(self, part: Part, tree: Mapping[bytes, bytes], moving: Moving) -> None:
        """Note to whom in the structure the marked pieces of the pages belong, and who has a name there."""
        owners = [
            (int(key) + self.next_key, moving.moved(owner))
            for key, owner in part.leaves(tree[b"/ParentTree"], b"/Nums")
        ]
        if owners:
            told = b" ".join(b"%d %s" % each for each in owners)
            limits = owners[0][0], owners[-1][0]
            leaf = moving.spare()
            self.write(leaf, b"<< /Limits [ %d %d ] /Nums [ %s ] >>" % (*limits, told))
            self.owners.append(b"%d 0 R" % leaf)
        self.next_key += int(tree[b"/ParentTreeNextKey"])
        if b"/IDTree" in tree:
            for own, element in part.leaves(tree[b"/IDTree"], b"/Names"):
                self.names.append((OPENED.sub(moving.opened, own, count=1), moving.moved(element)))

    def move(self, bodies: dict[int, Body], moving: Moving) -> None:
        """Write objects of a document, by their numbers there."""
        # what has a place in the structure speaks of its neighbours and of its page, a page has a key of its own, and
        # most others speak of one of them first
        alike = {
            b"%d" % own: text for own, (text, _) in bodies.items() if OF_ELEMENT not in text and OF_PAGE not in text
        }
        spoken = {
            int(own): moving.spoken_of(text)
            for own, text in alike.items()
            if moving.careful or REFERENCE not in text or first_of(text) in alike
        }
        shared: set[bytes] = set()
        # what speaks only of what is shared can be shared itself
        while settled := [own for own, others in spoken.items() if others <= shared]:
            texts = moving.all_moved([bodies[own][0] for own in settled])
            for own, text in zip(settled, texts):
                del spoken[own]
                shared.add(b"%d" % own)
                _, data = bodies.pop(own)
                same = blake2b(text + b"\0" + (data or b""), digest_size=20).digest()
                if same in self.shared:
                    moving.others[own] = self.shared[same]
                else:
                    self.shared[same] = moving.number(own)
                    self.write(moving.number(own), text, data)
        texts = moving.all_moved([text for text, _ in bodies.values()])
        for (own, (_, data)), text in zip(bodies.items(), texts):
            # most of them
            if data is None:
                self.waiting.append((moving.number(own), text))
            else:
                self.write(moving.number(own), text, data)

    # writing

    def put(self, content: bytes) -> None:
        self.into.write(content)
        self.digest.update(content)
        self.at += len(content)

    def own(self) -> int:
        """A number for an object of the whole."""
        self.next_own += 1
        return self.next_own - 1

    def write(self, own: int, text: bytes, data: bytes | None = None) -> None:
        """Write an object, a stream if it has data."""
        if data is None:
            self.waiting.append((own, text))
        else:
            self.alone.append((own, self.at))
            self.put(b"%d 0 obj\n%s\nstream\n%s\nendstream\nendobj\n" % (own, text, data))

    def write_waiting(self, holder: int) -> None:
        """Write the objects that wait as one stream."""
        numbers, texts = zip(*self.waiting[:COUNTED])
        del self.waiting[:COUNTED]
        self.within.append((holder, np.array(numbers)))
        begins = accumulate((len(text) + 1 for text in texts), initial=0)
        front = b"%d %d " * len(texts) % tuple(chain.from_iterable(zip(numbers, begins)))
        kind = b"/Type /ObjStm /N %d /First %d" % (len(texts), len(front))
        self.write_packed(holder, kind, front + b"\n".join(texts))

    def write_packed(self, own: int, entries: bytes, data: bytes) -> None:
        packed = zlib.compress(data, QUICKLY)
        self.write(own, b"<< %s /Filter /FlateDecode /Length %d >>" % (entries, len(packed)), packed)

    def finish(self) -> None:
        """Write what holds the documents together."""
        kids = b" ".join(b"%d 0 R" % each for each in self.page_trees)
        self.write(PAGES, b"<< /Type /Pages /Count %d /Kids [ %s ] >>" % (self.pages, kids))
        self.write(STRUCTURE, self.structure())
        outlines, about = self.outlines(), self.own()
        self.write(
            CATALOG,
            b"<< /Type /Catalog /Pages %d 0 R /StructTreeRoot %d 0 R %s %s >>"
            % (PAGES, STRUCTURE, outlines, self.of_the_whole),
        )
        self.write(about, self.about)
        while self.waiting:
            self.write_waiting(self.own())
        own, start = self.own(), self.at
        self.alone.append((own, start))
        spans, table = self.table()
        same = self.digest.hexdigest().encode()
        entries = b"/Type /XRef /W [ 1 8 2 ] /Index [ %s ] /Size %d /Root %d 0 R /Info %d 0 R /ID [ <%s> <%s> ]"
        told = b" ".join(b"%d %d" % (span.start, len(span)) for span in spans)
        self.write_packed(own, entries % (told, spans[-1].stop, CATALOG, about, same, same), table)
        self.put(b"startxref\n%d\n%%%%EOF\n" % start)

    def table(self) -> tuple[list[range], bytes]:
        """Which numbers objects may have, and where each is."""
        alone = np.array(self.alone)
        numbers = np.concatenate([alone[:, 0], *(each for _, each in self.within)])
        rows, places = np.divmod(numbers, self.step)
        width = int(places.max()) + 1
        table = np.zeros((int(rows.max()) + 1, width), ROW)
        # that of no object
        table["within"][0, 0] = 65535
        found = table[rows, places]
        found["kind"], found["where"][: len(alone)] = 2, alone[:, 1]
        found["kind"][: len(alone)] = 1
        at = len(alone)
        for holder, held in self.within:
            found["where"][at : at + len(held)], found["within"][at : at + len(held)] = holder, np.arange(len(held))
            at += len(held)
        table[rows, places] = found
        return [range(at, at + width) for at in range(0, len(table) * self.step, self.step)], table.tobytes()

    def structure(self) -> bytes:
        owners = self.own()
        self.write(owners, b"<< /Kids [ %s ] >>" % b" ".join(self.owners))
        roles = b"<< " + b" ".join(role + b" " + meaning for role, meaning in sorted(self.roles.items())) + b" >>"
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
        root, items = self.own(), [mark.own for mark in self.marks]
        for place, mark in enumerate(self.marks):
            beside = b"/Prev %d 0 R " % items[place - 1] if place else b""
            beside += b"/Next %d 0 R " % items[place + 1] if place + 1 < len(items) else b""
            title = String(mark.name).unparse()
            entries = b"/Title %s /Parent %d 0 R %s%s/Dest [ %d 0 R /Fit ]"
            self.write(mark.own, b"<< " + entries % (title, root, beside, mark.below, mark.page) + b" >>")
        ends = b"/First %d 0 R /Last %d 0 R /Count %d" % (items[0], items[-1], len(items))
        self.write(root, b"<< /Type /Outlines %s >>" % ends)
        return b"/Outlines %d 0 R" % root


class Moving:
    """How the objects of one document are called in the whole: by their number there, the place of the document behind
    it, unless they are called something else."""

    def __init__(self, place: int, first_key: int, careful: bool, step: int, top: int) -> None:
        self.place, self.first_key, self.step, self.top = place, first_key, step, top
        # whether a string there speaks of what looks like an object
        self.careful = careful
        self.others: dict[int, int] = {}

    def number(self, own: int) -> int:
        """The number of an object in the whole, by that in its document."""
        return self.others.get(own, own * self.step + self.place)

    def spare(self) -> int:
        """The number of an object that the document did not have."""
        self.top += 1
        return self.number(self.top)

    def moved(self, text: bytes) -> bytes:
        """The text of an object, speaking of the whole."""
        return MOVED.sub(self.replaced, text)

    def all_moved(self, texts: Sequence[bytes]) -> list[bytes]:
        """The texts of many objects: what ``moved`` makes of each, most of them together."""
        if self.careful or len(self.others) > MANY:
            return [self.moved(text) for text in texts]
        # the digits of the place, as many for each
        ending = (b"%d" % (self.step + self.place))[1:] + REFERENCE
        together = b"\0".join(texts).replace(REFERENCE, ending)
        for own, other in self.others.items():
            together = exchanged(together, b"%d%s" % (own, ending), b"%d%s" % (other, REFERENCE))
        found = together.split(b"\0")
        if len(found) != len(texts):
            # what stands in one of them was taken for its end
            return [self.moved(text) for text in texts]
        for place in {together.count(b"\0", 0, each.start()) for each in NAMED.finditer(together)}:
            found[place] = RENAMED.sub(self.replaced, found[place])
        return found

    def spoken_of(self, text: bytes) -> set[bytes]:
        """The numbers of those that an object refers to."""
        if self.careful:
            return set(REFERRED.findall(STRINGS.sub(b"", text)))
        *found, _ = text.split(REFERENCE)
        return set(map(last_digits, found))

    def replaced(self, found: re.Match[bytes]) -> bytes:
        if found["key"]:
            return b"%s %d" % (found["key"], int(found["at"]) + self.first_key)
        if found["named"]:
            return OPENED.sub(self.opened, found[0])
        if found.lastgroup == "number":
            return b"%d 0 R" % self.number(int(found["number"]))
        return found[0]

    def opened(self, found: re.Match[bytes]) -> bytes:
        """A name that no other document has: the number of the document comes first in it."""
        own = b"%d." % self.place
        return found[0] + (own if found[0] == b"(" else own.hex().encode())


@dataclass(frozen=True, slots=True)
class Part:
    """A document that is joined: its objects as they are written, by their numbers, and which of them are its root and
    what it says about itself. A value in one of them is the text that stands there."""

    bodies: Mapping[int, Body]
    root: int
    about: int
    # whether a string speaks of what looks like an object
    careful: bool

    @classmethod
    def of(cls, content: bytes) -> Part:
        return cls.written_plainly(content) or cls.rewritten(content)

    @classmethod
    def rewritten(cls, content: bytes) -> Part:
        """A document as another writer writes it: object by object, and every bracket in a string escaped."""
        plainly = io.BytesIO()
        with Pdf.open(io.BytesIO(content)) as document:
            document.save(
                plainly, object_stream_mode=ObjectStreamMode.disable, compress_streams=False,
                stream_decode_level=StreamDecodeLevel.none, fix_metadata_version=False,
            )  # fmt: skip
        part = cls.written_plainly(plainly.getvalue())
        if part is None:
            raise ValueError("This document cannot be read.")
        return part

    @classmethod
    def written_plainly(cls, content: bytes) -> Part | None:
        """A document whose objects stand in it one by one; nothing for another, or where a bracket in a string could
        be mistaken."""
        found = plain(content)
        ends = content[content.rfind(b"trailer") :]
        root, about = ROOT.search(ends), ABOUT.search(ends)
        if found is None or root is None or about is None:
            return None
        told = b" ".join([text for text, _ in found.values()])
        strings = SIMPLE.findall(told)
        if not len(strings) == told.count(b"(") == told.count(b")"):
            pieces = STRINGS.split(told)
            if BRACKET.search(b" ".join(pieces[::2])):
                return None
            strings = pieces[1::2]
        return cls(found, int(root[1]), int(about[1]), REFERENCE in b" ".join(strings))

    def text(self, value: bytes) -> bytes:
        """What a value says: the object that it refers to, or itself."""
        return self.bodies[number(value)][0] if value.endswith(REFERENCE) else value

    def entries(self, value: bytes) -> dict[bytes, bytes]:
        """The entries of a dictionary by their names."""
        found = listed(self.text(value))
        return dict(zip(found[::2], found[1::2], strict=True))

    def leaves(self, value: bytes, kind: bytes) -> Iterator[tuple[bytes, bytes]]:
        """The pairs of a tree of numbers or names."""
        own = self.entries(value)
        if kind in own:
            found = listed(self.text(own[kind]))
            yield from zip(found[::2], found[1::2], strict=True)
        for kid in listed(self.text(own.get(b"/Kids", b"[]"))):
            yield from self.leaves(kid, kind)

    def first_page(self, value: bytes) -> bytes:
        """The first page below a node of the pages."""
        own = self.entries(value)
        return self.first_page(listed(self.text(own[b"/Kids"]))[0]) if b"/Kids" in own else value

    def bookmarks(self, held: bytes, levels: int = 9) -> Iterator[bytes]:
        """The bookmarks below one, or below the root of all, as far down as so many levels."""
        each = FIRST.search(self.unquoted(held))
        while each is not None:
            yield each[1]
            if levels > 1:
                yield from self.bookmarks(each[1], levels - 1)
            each = NEXT.search(self.unquoted(each[1]))

    def unquoted(self, value: bytes) -> bytes:
        """What a value says, without a string that speaks of objects."""
        return STRINGS.sub(b"", self.text(value)) if self.careful else self.text(value)


def listed(text: bytes) -> list[bytes]:
    """What stands in an array, or in a dictionary, names and values in turn, one level down."""
    tokens = TOKENS.findall(text)
    found, at, last = [], 1, len(tokens) - 1
    while at < last:
        end = at
        if tokens[at] in OPENS:
            depth = 1
            while depth:
                end += 1
                depth += (tokens[end] in OPENS) - (tokens[end] in CLOSES)
        elif at + 2 < last and tokens[at + 2] == b"R" and tokens[at].isdigit():
            end = at + 2
        found.append(tokens[at] if end == at else b" ".join(tokens[at : end + 1]))
        at = end + 1
    return found


def number(reference: bytes) -> int:
    """The number of the object that is referred to."""
    return int(reference.removesuffix(REFERENCE))


def first_of(text: bytes) -> bytes:
    """The number of the first object that a text refers to."""
    return last_digits(text[: text.find(REFERENCE)])


def last_digits(text: bytes) -> bytes:
    return text[len(text.rstrip(DIGITS)) :]


def exchanged(text: bytes, old: bytes, new: bytes) -> bytes:
    """A text with another reference for each of one."""
    if old not in text:
        return text
    before, *others = text.split(old)
    found = [before]
    for piece in others:
        # behind a digit it is the end of another one
        found += [old if before[-1:].isdigit() else new, piece]
        before = piece
    return b"".join(found)


def plain(content: bytes) -> dict[int, Body] | None:
    """The objects of a document as they stand in it; nothing unless it has them one by one, with one table of where
    they begin. Typst writes such documents, and reading them so takes a tenth of the time."""
    end = XREF.search(content, max(0, len(content) - 60))
    table = TABLE.match(content, int(end[1])) if end else None
    if table is None:
        return None
    return in_order(content[: table.start()], int(table[1])) or by_table(content, table)


def in_order(content: bytes, count: int) -> dict[int, Body] | None:
    """The objects of a document that stand in the order of their numbers, each divided from the next as Typst does."""
    *pieces, rest = content.split(END)
    if rest.strip() or len(pieces) != count - 1:
        return None
    pieces[0] = pieces[0][max(0, pieces[0].find(b"\n1" + HEAD) + 1) :]
    divisions = [piece.partition(HEAD) for piece in pieces]
    if [own for own, _, _ in divisions] != [b"%d" % own for own in range(1, count)]:
        return None
    found: dict[int, Body] = {own: (text, None) for own, (_, _, text) in enumerate(divisions, 1)}
    for own, (text, _) in found.items():
        if text.endswith(STREAM_ENDS):
            stream = divided(text)
            if stream is None:
                return None
            found[own] = stream
    return found


def by_table(content: bytes, table: re.Match[bytes]) -> dict[int, Body] | None:
    """The objects of a document, each where a table says that it begins."""
    found: dict[int, Body] = {}
    rows = content[table.end() : table.end() + ENTRY * int(table[1])].split()
    begins = sorted((int(at), own) for own, (at, kind) in enumerate(zip(rows[::3], rows[2::3])) if kind == IN_USE)
    ends = [begin for begin, _ in begins[1:]] + [table.start()]
    for (begin, own), after in zip(begins, ends):
        head, closed = b"%d 0 obj" % own, content.rfind(b"endobj", begin, after)
        if closed < 0 or not content.startswith(head, begin):
            return None
        text = content[begin + len(head) : closed].strip(b"\r\n ")
        if text.endswith(STREAM_ENDS):
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
        if says and text[end:].strip(b"\r\n") == STREAM_ENDS:
            return text[: before.start()].rstrip(), text[before.end() : end]
    return None
