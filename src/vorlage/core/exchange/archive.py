"""Question documents in files: one, or thousands in an archive with their pictures and rubrics.

An archive is a ZIP file with ``vorlage.json``, which says what is in it; documents stand in ``questions``, pictures in
``pictures`` under their hashes. What comes from elsewhere is not trusted: everything is bounded before it is unpacked,
nothing is ever written to a path that an archive names, and an archive that is no such thing is refused as a whole.
"""

from __future__ import annotations

import hashlib
import io
import json
import re
import uuid
import zipfile
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field
from typing import IO, Any

from ..errors import CoreError
from ..questions import Filing, QuestionDocument
from ..zips import DAMAGED_ZIP

FORMAT = "vorlage-bank-1"
CONTENTS = "vorlage.json"
MOST_BYTES = 150 * 2**20
MOST_QUESTIONS, MOST_PICTURES, MOST_ENTRIES = 10_000, 10_000, 25_000
# Unpacked, in bytes: of a document, of a picture, of the list of contents, and of everything.
DOCUMENT, PICTURE, LISTING, EVERYTHING = 2 * 2**20, 10 * 2**20, 16 * 2**20, 600 * 2**20
ZIPPED = b"PK\x03\x04"
DIGEST = re.compile(r"[0-9a-f]{64}")
SUFFIXES = {"image/png": "png", "image/jpeg": "jpg"}


class ArchiveError(CoreError, ValueError):
    """A file that is no archive of questions, or more than is read at once."""


@dataclass(frozen=True, slots=True)
class Entry:
    """A document in a file: what it is called there, and the identity and revision that it had where it comes from."""

    name: str
    key: uuid.UUID | None = None
    revision: int = 0


@dataclass
class Archive:
    """What is in a file. Documents and pictures are read one at a time."""

    entries: list[Entry]
    # kept rubrics, by their names
    rubrics: dict[str, str] = field(default_factory=dict)
    source: zipfile.ZipFile | None = None
    # the names of the pictures by their hashes
    pictures: dict[str, str] = field(default_factory=dict)
    # the documents of a file that is no archive, by the names they are given
    loose: dict[str, Any] = field(default_factory=dict)

    def document(self, entry: Entry) -> Any:
        """What an entry holds, as JSON. Raises ``ArchiveError``."""
        if entry.name in self.loose:
            return self.loose[entry.name]
        return parsed(self.content(entry.name, DOCUMENT), entry.name)

    def picture(self, digest: str) -> bytes | None:
        """The content of a picture; None where it is not there or is another. Raises ``ArchiveError``."""
        if digest not in self.pictures:
            return None
        content = self.content(self.pictures[digest], PICTURE)
        return content if hashlib.sha256(content).hexdigest() == digest else None

    def content(self, name: str, most: int) -> bytes:
        if self.source is None:
            raise ArchiveError("missing", f"“{shown(name)}” is not in this file.")
        try:
            with self.source.open(name) as opened:
                content = opened.read(most + 1)
        # a damaged archive ends in whatever its reader stumbles over
        except DAMAGED_ZIP as problem:
            raise ArchiveError("damaged", f"“{shown(name)}” is damaged or missing.") from problem
        if len(content) > most:
            raise ArchiveError("too_large", f"“{shown(name)}” is larger than {most // 2**20} MB.")
        return content


def shown(name: str) -> str:
    """A name from an archive, as it may be told."""
    plain = "".join(sign if sign.isprintable() else "·" for sign in name)
    return plain if len(plain) <= 60 else f"…{plain[-58:]}"


def parsed(content: bytes, name: str) -> Any:
    """A JSON text. Raises ``ArchiveError``."""

    def refused(constant: str) -> Any:
        raise ValueError(constant)

    try:
        return json.loads(content.decode("utf-8-sig"), parse_constant=refused)
    except (ValueError, RecursionError) as problem:
        raise ArchiveError("no_json", f"“{shown(name)}” is no JSON text.") from problem


def read_archive(file: IO[bytes], name: str = "question.json") -> Archive:
    """What is in a file that was brought: an archive, or one JSON text with a document or several.

    The archive stays open as long as it is used. Raises ``ArchiveError``.
    """
    file.seek(0, io.SEEK_END)
    size = file.tell()
    file.seek(0)
    if size > MOST_BYTES:
        raise ArchiveError("too_large", f"This file has {size / 2**20:.0f} MB; at most {MOST_BYTES // 2**20} are read.")
    start = file.read(4)
    file.seek(0)
    return zipped(file) if start == ZIPPED else single(file, name)


def single(file: IO[bytes], name: str) -> Archive:
    """A JSON text with one document, or a list of them."""
    content = file.read(LISTING + 1)
    if not content.strip():
        raise ArchiveError("empty", "There is nothing in this file.")
    if len(content) > LISTING:
        raise ArchiveError("too_large", f"A text of more than {LISTING // 2**20} MB comes as an archive (ZIP).")
    if not content.lstrip(b"\xef\xbb\xbf \t\r\n").startswith((b"{", b"[")):
        raise ArchiveError("no_archive", "This is neither a question document (JSON) nor an archive of them (ZIP).")
    raw = parsed(content, name)
    documents = raw if isinstance(raw, list) else [raw]
    if len(documents) > MOST_QUESTIONS:
        raise too_many(len(documents))
    names = [name if len(documents) == 1 else f"{name}, number {k}" for k in range(1, len(documents) + 1)]
    return Archive([Entry(each) for each in names], loose=dict(zip(names, documents)))


def too_many(count: int) -> ArchiveError:
    return ArchiveError("too_many", f"There are {count} questions; at most {MOST_QUESTIONS} are brought in at once.")


# The list of files at the end of an archive, in bytes; and what its last record begins with and holds at most.
DIRECTORY = 8 * 2**20
LAST, LAST_SIZE, LONGEST_REMARK = b"PK\x05\x06", 22, 2**16


def listing_size(file: IO[bytes]) -> int:
    """How large the list of files of an archive is, as its last record says: the reader takes all of it into memory."""
    size = file.seek(0, io.SEEK_END)
    file.seek(max(0, size - LAST_SIZE - LONGEST_REMARK))
    end = file.read()
    file.seek(0)
    place = end.rfind(LAST)
    if place < 0 or len(end) < place + LAST_SIZE:
        raise ArchiveError("damaged", "This archive is damaged: its end is missing. Make it once more.")
    return int.from_bytes(end[place + 12 : place + 16], "little")


def zipped(file: IO[bytes]) -> Archive:
    if listing_size(file) > DIRECTORY:
        raise ArchiveError("too_many", f"There are too many files in this archive; at most {MOST_ENTRIES}.")
    try:
        source = zipfile.ZipFile(file)
        listed = source.infolist()
    except DAMAGED_ZIP as problem:
        raise ArchiveError("damaged", "This archive is damaged. Make it once more, then choose it again.") from problem
    files = [each for each in listed if not each.is_dir()]
    if len(listed) > MOST_ENTRIES:
        raise ArchiveError("too_many", f"There are {len(listed)} files in this archive; at most {MOST_ENTRIES}.")
    if sum(each.file_size for each in files) > EVERYTHING:
        raise ArchiveError("too_large", f"Unpacked, this archive has more than {EVERYTHING // 2**20} MB.")
    if any(each.flag_bits & 1 for each in files):
        raise ArchiveError("locked", "This archive has a password. Make it once more without one.")
    names = [each.filename for each in files]
    if len(set(names)) < len(names):
        raise ArchiveError("twice", "Two files in this archive have the same name.")
    archive = Archive([], source=source)
    # the list may stand in a folder that was packed as a whole
    contents = sorted((name for name in names if name.split("/")[-1] == CONTENTS), key=len)[:1]
    if contents:
        as_listed(archive, contents[0], set(names))
    else:
        found = [each for each in names if each.lower().endswith(".json") and not each.startswith("__MACOSX/")]
        archive.entries = [Entry(each) for each in found]
        archive.pictures = {
            each.split("/")[-1].split(".")[0]: each for each in names if DIGEST.match(each.split("/")[-1])
        }
    if not archive.entries:
        raise ArchiveError("empty", "There is no question document in this archive.")
    if len(archive.entries) > MOST_QUESTIONS:
        raise too_many(len(archive.entries))
    return archive


def as_listed(archive: Archive, contents: str, names: set[str]) -> None:
    """What the list of contents of an archive says is in it."""
    raw = parsed(archive.content(contents, LISTING), contents)
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        found = str(raw.get("format", "none"))[:40] if isinstance(raw, dict) else "none"
        raise ArchiveError("unknown_format", f"The format of this archive is not known here ({found}): {FORMAT} is.")
    folder = contents.removesuffix(CONTENTS)
    questions, pictures, rubrics = (raw.get(name, []) for name in ("questions", "pictures", "rubrics"))
    if not all(isinstance(each, list) for each in (questions, pictures, rubrics)):
        raise ArchiveError("no_list", "The list of contents of this archive is damaged.")
    if len(questions) > MOST_QUESTIONS:
        raise too_many(len(questions))
    for each in questions:
        name = each.get("file") if isinstance(each, dict) else None
        if not isinstance(name, str) or folder + name not in names:
            raise ArchiveError("missing", f"The archive lists “{shown(str(name))}”, which is not in it.")
        revision = each.get("revision")
        archive.entries.append(
            Entry(folder + name, key_of(each.get("key")), revision if isinstance(revision, int) and revision > 0 else 0)
        )
    for each in pictures[:MOST_PICTURES]:
        digest, name = (each.get("digest"), each.get("file")) if isinstance(each, dict) else (None, None)
        if isinstance(digest, str) and DIGEST.fullmatch(digest) and isinstance(name, str) and folder + name in names:
            archive.pictures[digest] = folder + name
    for each in rubrics[:1000]:
        name, text = (each.get("name"), each.get("text")) if isinstance(each, dict) else (None, None)
        if isinstance(name, str) and isinstance(text, str) and 0 < len(name) <= 100 and len(text) <= 20_000:
            archive.rubrics[name] = text


def key_of(given: Any) -> uuid.UUID | None:
    try:
        return uuid.UUID(given) if isinstance(given, str) else None
    except ValueError:
        return None


@dataclass(frozen=True, slots=True)
class Leaving:
    """A question on its way elsewhere."""

    key: uuid.UUID
    revision: int
    document: QuestionDocument
    filing: Filing


def filed_document(document: QuestionDocument, filing: Filing) -> dict[str, Any]:
    """A document with its filing, as it leaves."""
    return {**document.model_dump(mode="json"), "filing": filing.model_dump(mode="json")}


def write_archive(
    file: IO[bytes],
    questions: Iterable[Leaving],
    picture: Callable[[str], tuple[bytes, str] | None],
    rubrics: Iterable[tuple[str, str]] = (),
) -> int:
    """Write an archive; ``picture`` gives the content of a picture and its media type by its hash. The number of
    questions that are in it."""
    listed: list[dict[str, Any]] = []
    pictures: dict[str, str] = {}
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        for number, each in enumerate(questions, start=1):
            name = f"questions/{number:05d}-{slug(each.document.title)}.json"
            text = json.dumps(filed_document(each.document, each.filing), ensure_ascii=False, indent=1)
            archive.writestr(name, text)
            listed.append({"file": name, "key": str(each.key), "revision": each.revision})
            for source in each.document.pictures:
                content = picture(source.digest) if source.digest not in pictures else None
                if content is not None:
                    pictures[source.digest] = f"pictures/{source.digest}.{SUFFIXES.get(content[1], 'png')}"
                    # it is packed already
                    archive.writestr(pictures[source.digest], content[0], zipfile.ZIP_STORED)
        contents = {
            "format": FORMAT,
            "questions": listed,
            "pictures": [{"digest": digest, "file": name} for digest, name in pictures.items()],
            "rubrics": [{"name": name, "text": text} for name, text in rubrics],
        }
        archive.writestr(CONTENTS, json.dumps(contents, ensure_ascii=False, indent=1))
    return len(listed)


def slug(title: str) -> str:
    return "-".join(re.findall(r"[a-z0-9]+", title.lower()))[:40] or "question"


def digests_in(raw: Any) -> Iterator[str]:
    """The hashes of the pictures that a document names."""
    pictures = raw.get("pictures") if isinstance(raw, dict) else None
    for each in pictures if isinstance(pictures, list) else []:
        digest = each.get("digest") if isinstance(each, dict) else None
        if isinstance(digest, str) and DIGEST.fullmatch(digest):
            yield digest
