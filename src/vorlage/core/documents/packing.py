"""The archive of a form set: every paper by itself, all papers, the key, and the frozen record as JSON."""

from __future__ import annotations

import json
import re
import shutil
import zipfile
from collections.abc import Iterator, Mapping
from typing import IO

from ..forms import MadeSet
from .typesetting import FIXED_TIME


class Archive:
    """A ZIP archive that papers are put into as they are made. The same set gives the same bytes.

    It is closed before the file that it is written into, whether it was finished or not.
    """

    def __init__(self, into: IO[bytes], name: str) -> None:
        self.into, self.name = into, name
        self.file = zipfile.ZipFile(into, "w")
        self.papers: list[zipfile.ZipInfo] = []
        self.inserts = 0

    def add_paper(self, code: str, paper: bytes) -> None:
        # a PDF is compressed already
        entry = self.entry(f"papers/{self.name}-{code}.pdf")
        self.file.writestr(entry, paper)
        self.papers.append(entry)

    def add_insert(self, name: str, content: bytes) -> None:
        """An insert under a name that every system takes, with its number where there are several."""
        self.inserts += 1
        safe = re.sub(r"[^A-Za-z0-9]+", "-", name).strip("-").lower()
        self.file.writestr(self.entry(f"inserts/{self.inserts}-{safe or 'insert'}.pdf"), content)

    def finish(self, made: MadeSet, files: Mapping[str, IO[bytes]]) -> None:
        """Add what is of the whole set, PDF files by what they are, and end the archive."""
        with self.file:
            for kind, source in files.items():
                source.seek(0)
                with self.file.open(self.entry(f"{self.name}-{kind}.pdf"), "w") as kept:
                    shutil.copyfileobj(source, kept)
            record = json.dumps(made.as_json(), ensure_ascii=False, indent=1)
            self.file.writestr(self.entry(f"{self.name}-record.json", zipfile.ZIP_DEFLATED), record.encode())

    def close(self) -> None:
        self.file.close()

    def entry(self, name: str, how: int = zipfile.ZIP_STORED) -> zipfile.ZipInfo:
        """A file of the archive, with a fixed date."""
        entry = zipfile.ZipInfo(f"{self.name}/{name}", FIXED_TIME.timetuple()[:6])
        entry.compress_type = how
        return entry

    def each_paper(self) -> Iterator[bytes]:
        """The papers in the order in which they came; the archive is finished."""
        with zipfile.ZipFile(self.into) as file:
            for entry in self.papers:
                yield file.read(entry)
