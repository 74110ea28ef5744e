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
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from hashlib import blake2b
from struct import Struct
from typing import BinaryIO

from pikepdf import ObjectStreamMode, Pdf, StreamDecodeLevel, String

# What a document says of itself as a whole, taken from the first.
OF_THE_WHOLE = (b"/Lang", b"/MarkInfo", b"/ViewerPreferences", b"/Metadata")
# What is known of the root of a structure; another entry would be lost.
OF_STRUCTURE = {b"/Type", b"/K", b"/ParentTree", b"/ParentTreeNextKey", b"/RoleMap", b"/IDTree"}
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
REFERENCE, REFERRED = b" 0 R", re.compile(rb"\b(\d+) 0 R\b")
DIGITS = b"0123456789"
STRINGS, BRACKET = re.compile(rb"(" + STRING + rb")", re.DOTALL), re.compile(rb"[()]")
OF_ELEMENT = b"/StructElem"
# What does not move as a reference does: names and keys.
KEY, NAME, NAMES = b"/StructP", b"/ID", b"/Headers"
FIRST, NEXT = re.compile(rb"/First\s+(\d+ 0 R)"), re.compile(rb"/Next\s+(\d+ 0 R)")
# How a document is written that can be read as it stands.
XREF = re.compile(rb"startxref\s+(\d+)\s+%%EOF\s*$")
TABLE = re.compile(rb"xref\s+0 (\d+)\s+")
LENGTH = re.compile(rb"/Length\s+(\d+)\b")
DATA = re.compile(rb"stream\r?\n")
ROOT, ABOUT = re.compile(rb"/Root (\d+) 0 R"), re.compile(rb"/Info (\d+) 0 R")
ROW = Struct(">BQH")
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
        self.roles: dict[bytes, bytes] = {}
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
        part = Part.of(content)
        root = part.entries(b"%d 0 R" % part.root)
        tree = part.entries(root[b"/StructTreeRoot"])
        unknown = tree.keys() - OF_STRUCTURE
        if unknown:
            lost = ", ".join(sorted(each.decode() for each in unknown))
            raise ValueError(f"This structure has entries that would be lost: {lost}.")
        first = not self.page_trees
        moving = Moving(len(self.page_trees), self.next_key, part.careful)
        moved = dict(part.bodies)
        moving.numbers[number(root[b"/StructTreeRoot"])] = STRUCTURE
        if not first and b"/Metadata" in root:
            del moved[number(root[b"/Metadata"])]
        # its own bookmarks stand below the one that it gets
        mark = self.reserved() if name else 0
        inner = part.entries(root[b"/Outlines"]) if b"/Outlines" in root else {}
        if inner:
            del moved[number(root[b"/Outlines"])]
            moving.numbers[number(root[b"/Outlines"])] = mark
            if not mark:
                for each in part.bookmarks(root[b"/Outlines"]):
                    del moved[number(each)]
        for own in (number(root[b"/StructTreeRoot"]), part.root, part.about):
            del moved[own]
        own_pages = number(root[b"/Pages"])
        pages, data = moved[own_pages]
        # this number is free
        moving.numbers[0] = PAGES
        moved[own_pages] = pages.replace(b"<<", b"<< /Parent 0 0 R ", 1), data
        self.move(moved, moving)

        if first:
            known = b" ".join(key + b" " + root[key] for key in OF_THE_WHOLE if key in root)
            self.of_the_whole = moving.moved(known)
            self.about = moving.moved(part.bodies[part.about][0])
        self.page_trees.append(moving.numbers[own_pages])
        count = int(part.entries(root[b"/Pages"])[b"/Count"])
        self.pages += count
        if mark:
            below = b""
            if b"/First" in inner:
                first_one, last_one = (moving.numbers[number(inner[each])] for each in (b"/First", b"/Last"))
                count_below = len(list(part.bookmarks(root[b"/Outlines"], 1)))
                # closed until somebody opens it
                below = b"/First %d 0 R /Last %d 0 R /Count %d " % (first_one, last_one, -count_below)
            self.marks.append(Mark(name, mark, moving.numbers[number(part.first_page(root[b"/Pages"]))], below))
        children = tree[b"/K"]
        for element in listed(children) if children.startswith(b"[") else [children]:
            self.elements.append(moving.moved(element))
        if b"/RoleMap" in tree:
            self.roles.update(part.entries(tree[b"/RoleMap"]))
        self.graft(part, tree, moving)
        return count

    def graft(self, part: Part, tree: Mapping[bytes, bytes], moving: Moving) -> None:
        """Note to whom in the structure the marked pieces of the pages belong, and who has a name there."""
        owners = [
            (int(key) + self.next_key, moving.moved(owner))
            for key, owner in part.leaves(tree[b"/ParentTree"], b"/Nums")
        ]
        if owners:
            told = b" ".join(b"%d %s" % each for each in owners)
            limits = owners[0][0], owners[-1][0]
            self.owners.append(b"%d 0 R" % self.write(b"<< /Limits [ %d %d ] /Nums [ %s ] >>" % (*limits, told)))
        self.next_key += int(tree[b"/ParentTreeNextKey"])
        if b"/IDTree" in tree:
            for own, element in part.leaves(tree[b"/IDTree"], b"/Names"):
                self.names.append((OPENED.sub(moving.opened, own, count=1), moving.moved(element)))

    def move(self, bodies: dict[int, Body], moving: Moving) -> None:
        """Write objects of a document, by their numbers there."""
        # whom each speaks of; what has a place in the structure speaks of its neighbours, and of the page that it is on
        spoken = {own: moving.spoken_of(text) for own, (text, _) in bodies.items() if OF_ELEMENT not in text}
        shared: set[bytes] = set()
        # what speaks only of what is shared can be shared itself
        while settled := [own for own, others in spoken.items() if others <= shared]:
            texts = moving.all_moved([bodies[own][0] for own in settled])
            for own, text in zip(settled, texts):
                del spoken[own]
                shared.add(b"%d" % own)
                _, data = bodies.pop(own)
                same = blake2b(text + b"\0" + (data or b""), digest_size=20).digest()
                if same not in self.shared:
                    self.shared[same] = self.write(text, data)
                moving.numbers[own] = self.shared[same]
        moving.numbers.update(zip(bodies, self.reserved_for(len(bodies))))
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
        return self.reserved_for(1)[0]

    def reserved_for(self, count: int) -> range:
        """The numbers of so many objects that are written later."""
        first = len(self.kinds)
        for each in (self.kinds, self.wheres, self.withins):
            each.extend([0] * count)
        return range(first, first + count)

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
        packed = zlib.compress(data, QUICKLY)
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
        rows = b"".join(map(ROW.pack, self.kinds, self.wheres, self.withins))
        same = self.digest.hexdigest().encode()
        entries = b"/Type /XRef /W [ 1 8 2 ] /Size %d /Root %d 0 R /Info %d 0 R /ID [ <%s> <%s> ]"
        self.write_packed(entries % (len(self.kinds), CATALOG, about, same, same), rows, own)
        self.put(b"startxref\n%d\n%%%%EOF\n" % start)

    def structure(self) -> bytes:
        owners = self.write(b"<< /Kids [ %s ] >>" % b" ".join(self.owners))
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

    def __init__(self, place: int, first_key: int, careful: bool) -> None:
        self.place, self.first_key = place, first_key
        # whether a string there speaks of what looks like an object
        self.careful = careful
        self.numbers: dict[int, int] = {}

    def moved(self, text: bytes) -> bytes:
        """The text of an object, speaking of the whole."""
        return MOVED.sub(self.replaced, text)

    def all_moved(self, texts: Sequence[bytes]) -> list[bytes]:
        """The texts of many objects: what ``moved`` makes of each, most of them together."""
        if self.careful:
            return [self.moved(text) for text in texts]
        # without a name or a key nothing but references moves
        found = [b"" if KEY in text or NAME in text or NAMES in text else text for text in texts]
        pieces = b"\0".join(found).split(REFERENCE)
        last = pieces.pop()
        before = [each.rstrip(DIGITS) for each in pieces]
        called = [each[len(start) :] for each, start in zip(pieces, before)]
        moved = {each: b"%d 0 R" % self.numbers[int(each)] for each in set(called)}
        whole = [last] * (2 * len(pieces) + 1)
        whole[:-1:2], whole[1::2] = before, [moved[each] for each in called]
        together = b"".join(whole).split(b"\0")
        if len(together) != len(texts):
            # what stands in one of them was taken for its end
            return [self.moved(text) for text in texts]
        return [done or self.moved(text) for text, done in zip(texts, together)]

    def spoken_of(self, text: bytes) -> set[bytes]:
        """The numbers of those that an object refers to."""
        if self.careful:
            return set(REFERRED.findall(STRINGS.sub(b"", text)))
        *found, _ = text.split(REFERENCE)
        return {each[len(each.rstrip(DIGITS)) :] for each in found}

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
        pieces = STRINGS.split(b" ".join(text for text, _ in found.values() if b"(" in text))
        if BRACKET.search(b" ".join(pieces[::2])):
            return None
        return cls(found, int(root[1]), int(about[1]), REFERENCE in b" ".join(pieces[1::2]))

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
        each = FIRST.search(STRINGS.sub(b"", self.text(held)))
        while each is not None:
            yield each[1]
            if levels > 1:
                yield from self.bookmarks(each[1], levels - 1)
            each = NEXT.search(STRINGS.sub(b"", self.text(each[1])))


def listed(text: bytes) -> list[bytes]:
    """What stands in an array, or in a dictionary, names and values in turn, one level down."""
    tokens = list(TOKENS.finditer(text))
    found, at, last = [], 1, len(tokens) - 1
    while at < last:
        end = at
        if tokens[at][0] in OPENS:
            depth = 1
            while depth:
                end += 1
                depth += (tokens[end][0] in OPENS) - (tokens[end][0] in CLOSES)
        elif at + 2 < last and tokens[at + 2][0] == b"R" and tokens[at][0].isdigit():
            end = at + 2
        found.append(text[tokens[at].start() : tokens[end].end()])
        at = end + 1
    return found


def number(reference: bytes) -> int:
    """The number of the object that is referred to."""
    return int(reference.removesuffix(REFERENCE))


def plain(content: bytes) -> dict[int, Body] | None:
    """The objects of a document as they stand in it; nothing unless it has them one by one, with one table of where
    they begin. Typst writes such documents, and reading them so takes a tenth of the time."""
    end = XREF.search(content, max(0, len(content) - 60))
    table = TABLE.match(content, int(end[1])) if end else None
    if table is None:
        return None
    found: dict[int, Body] = {}
    rows = content[table.end() : table.end() + ENTRY * int(table[1])].split()
    begins = sorted((int(at), own) for own, (at, kind) in enumerate(zip(rows[::3], rows[2::3])) if kind == IN_USE)
    ends = [begin for begin, _ in begins[1:]] + [table.start()]
    for (begin, own), after in zip(begins, ends):
        head, closed = b"%d 0 obj" % own, content.rfind(b"endobj", begin, after)
        if closed < 0 or not content.startswith(head, begin):
            return None
        text = content[begin + len(head) : closed].strip(b"\r\n ")
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
