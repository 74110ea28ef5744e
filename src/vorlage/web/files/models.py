"""Content by its hash, in pieces, so that no file is ever read into memory whole to be sent."""

from __future__ import annotations

import hashlib
import io
from collections.abc import Iterator
from typing import IO, Any

from django.db import connection, models, transaction

PIECE = 256 * 1024
# Pieces that are written with one statement.
TOGETHER = 50


@transaction.atomic
def keep(content: bytes | IO[bytes], stored: Any, piece: Any) -> Any:
    """Keep content in the tables of two models, which are those of a moment in their history while they change."""
    source = io.BytesIO(content) if isinstance(content, bytes) else content
    digest, size = hashlib.sha256(), 0
    for read in read_from_the_start(source):
        digest.update(read)
        size += len(read)
    kept = stored(digest=digest.hexdigest(), size=size)
    with connection.cursor() as cursor:
        # whoever keeps the same content at the same moment waits here, and finds it kept
        cursor.execute(
            f"INSERT INTO {stored._meta.db_table} (digest, size) VALUES (%s, %s) ON CONFLICT DO NOTHING",
            [kept.digest, size],
        )
        new = cursor.rowcount == 1
    if new:
        for number, read in enumerate(read_from_the_start(source)):
            piece.objects.create(stored_id=kept.digest, number=number, content=read)
    return kept


def read_from_the_start(source: IO[bytes]) -> Iterator[bytes]:
    source.seek(0)
    while read := source.read(PIECE):
        yield read


class Stored(models.Model):
    """The content of a file. The same content is kept once, whoever refers to it, and never changes."""

    digest = models.CharField(primary_key=True, max_length=64)
    size = models.BigIntegerField()

    def __str__(self) -> str:
        return self.digest[:12]

    @classmethod
    def keep(cls, content: bytes | IO[bytes]) -> Stored:
        """Keep content: bytes, or a file that can be read twice from its beginning."""
        kept: Stored = keep(content, cls, Piece)
        return kept

    @classmethod
    @transaction.atomic
    def keep_all(cls, contents: list[bytes]) -> list[Stored]:
        """Keep many small contents with few statements."""
        kept = [cls(digest=hashlib.sha256(content).hexdigest(), size=len(content)) for content in contents]
        by_digest = dict(zip((each.digest for each in kept), zip(kept, contents)))
        with connection.cursor() as cursor:
            cursor.execute(
                f"INSERT INTO {cls._meta.db_table} (digest, size) SELECT * FROM unnest(%s::text[], %s::bigint[]) "
                # everybody in the same order, so that two who keep the same wait for each other, and not in a circle
                "ORDER BY 1 ON CONFLICT DO NOTHING RETURNING digest",
                [list(by_digest), [each.size for each, _ in by_digest.values()]],
            )
            new = [digest for (digest,) in cursor.fetchall()]
        Piece.objects.bulk_create(
            (
                Piece(stored_id=digest, number=number, content=content)
                for digest in new
                for number, content in enumerate(read_from_the_start(io.BytesIO(by_digest[digest][1])))
            ),
            batch_size=TOGETHER,
        )
        return kept

    def pieces(self) -> Iterator[bytes]:
        """The content, a piece at a time."""
        number, sent = 0, 0
        while sent < self.size:
            piece = bytes(Piece.objects.values_list("content", flat=True).get(stored=self, number=number))
            yield piece
            number, sent = number + 1, sent + len(piece)

    def read(self) -> bytes:
        """The whole content; for what is surely small."""
        return b"".join(self.pieces())


class Piece(models.Model):
    """A stretch of the content of a file."""

    stored = models.ForeignKey(Stored, on_delete=models.CASCADE, related_name="+")
    number = models.PositiveIntegerField()
    content = models.BinaryField()

    class Meta:
        constraints = [models.UniqueConstraint(fields=["stored", "number"], name="one_piece_a_number")]

    def __str__(self) -> str:
        return f"{self.stored_id[:12]} {self.number}"
