"""Backup and restore: everything in one archive, checked by restoring it.

The archive is a tar file of the dump (PostgreSQL's own format; files and pictures are in the database too) and of a
record of what it should hold: the count of the rows of every table, and a sum over what is stored as files.
"""

from __future__ import annotations

import hashlib
import io
import json
import os
import secrets
import subprocess
import tarfile
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit, urlunsplit

import psycopg
from psycopg import sql

from .cluster import binaries

DUMP, RECORD = "database.dump", "record.json"
FORMAT = "vorlage-backup-1"
# Rows of these come and go while nobody does anything.
PASSING = frozenset(
    [
        "django_session",
        "vorlage_cache",
        "jobs_pulse",
        "procrastinate_workers",
        "procrastinate_jobs",
        "procrastinate_events",
    ]
)


class KeepingError(Exception):
    """What stands against a backup or a restore, in words."""


def database() -> str:
    """The address of the database that this installation uses. Raises ``KeepingError``."""
    found = os.environ.get("VORLAGE_DATABASE", "")
    if not found:
        raise KeepingError("VORLAGE_DATABASE is not set: it says which database is meant.")
    return found


def run(name: str, address: str, *words: str) -> None:
    """Run one of PostgreSQL's programs on a database. Its password is told apart: what stands in a command, everybody
    on the machine can read. Raises ``KeepingError`` with the program's last word."""
    parts = urlsplit(address)
    user, _, place = parts.netloc.rpartition("@")
    plain = urlunsplit(parts._replace(netloc=f"{user.partition(':')[0]}@{place}"))
    done = subprocess.run(
        [str(binaries() / name), f"--dbname={plain}", *words],
        capture_output=True,
        text=True,
        stdin=subprocess.DEVNULL,
        env={**os.environ, "PGPASSWORD": unquote(parts.password or "")},
    )
    if done.returncode:
        said = done.stderr.strip().splitlines() or ["it gave no reason"]
        raise KeepingError(f"{name}: {said[-1]}")


def counted(address: str) -> dict[str, int]:
    """How many rows every table has."""
    with connected(address) as connection:
        connection.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
        return rows_of(connection)


def rows_of(connection: psycopg.Connection[Any]) -> dict[str, int]:
    names = connection.execute("SELECT tablename FROM pg_tables WHERE schemaname = 'public' ORDER BY 1").fetchall()
    found = {}
    for (name,) in names:
        if name not in PASSING:
            counting = sql.SQL("SELECT count(*) FROM {}").format(sql.Identifier(name))
            found[name] = int((connection.execute(counting).fetchone() or (0,))[0])
    return found


@contextmanager
def connected(address: str, autocommit: bool = False) -> Iterator[psycopg.Connection[Any]]:
    try:
        with psycopg.connect(address, autocommit=autocommit, connect_timeout=10) as connection:
            yield connection
    except psycopg.OperationalError as problem:
        raise KeepingError(f"The database does not answer: {str(problem).strip()}") from problem


def backup(into: Path) -> dict[str, int]:
    """Write everything into an archive, while people work, and check it by restoring it into a scratch database.

    Returns the rows of every table. The archive appears under its name only once it is whole. Raises ``KeepingError``.
    """
    address = database()
    half = into.with_name(f".{into.name}.{secrets.token_hex(4)}")
    try:
        with tempfile.TemporaryDirectory(dir=into.parent) as folder, connected(address) as connection:
            # what is counted and what is dumped is one moment of the database
            connection.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ, READ ONLY")
            (snapshot,) = connection.execute("SELECT pg_export_snapshot()").fetchone() or ("",)
            rows, dump = rows_of(connection), Path(folder) / DUMP
            run(
                "pg_dump", address, "--format=custom", "--no-owner", "--no-privileges", "--no-comments",
                f"--snapshot={snapshot}", f"--file={dump}",
            )  # fmt: skip
            record = {
                "format": FORMAT,
                "made": datetime.now(UTC).isoformat(timespec="seconds"),
                "sha256": sum_of(dump),
                "rows": rows,
            }
            with tarfile.open(half, "w") as archive:
                written = json.dumps(record, indent=1).encode()
                about = tarfile.TarInfo(RECORD)
                about.size = len(written)
                archive.addfile(about, io.BytesIO(written))
                archive.add(dump, DUMP)
        os.chmod(half, 0o600)
        check(half, address)
        half.replace(into)
    except OSError as problem:
        raise KeepingError(f"The archive cannot be written: {problem.strerror or problem}.") from problem
    finally:
        half.unlink(missing_ok=True)
    return rows


def sum_of(path: Path) -> str:
    with open(path, "rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


@contextmanager
def opened(archive: Path) -> Iterator[tuple[Path, dict[str, Any]]]:
    """The dump of an archive in a folder that is gone afterwards, and its record. Raises ``KeepingError``."""
    try:
        with tempfile.TemporaryDirectory() as folder, tarfile.open(archive) as held:
            for name in (RECORD, DUMP):
                source = held.extractfile(name)
                if source is None:
                    raise KeepingError(f"{archive} is no backup of Vorlage: it holds no {name}.")
                with source, open(Path(folder) / name, "wb") as target:
                    while piece := source.read(1 << 20):
                        target.write(piece)
            record = json.loads((Path(folder) / RECORD).read_text("utf-8"))
            if record.get("format") != FORMAT:
                raise KeepingError(f"{archive} is a backup of a form that this version does not read.")
            if sum_of(Path(folder) / DUMP) != record["sha256"]:
                raise KeepingError(f"{archive} is damaged: its sum is not the one that it was written with.")
            yield Path(folder) / DUMP, record
    except (tarfile.TarError, KeyError, json.JSONDecodeError, OSError) as problem:
        raise KeepingError(f"{archive} cannot be read as a backup: {problem}") from problem


def check(archive: Path, address: str) -> None:
    """Restore an archive into a scratch database of the same server, compare, and drop it. Raises ``KeepingError``."""
    name = f"vorlage_check_{secrets.token_hex(4)}"
    with connected(address, autocommit=True) as connection:
        try:
            connection.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(name)))
        except psycopg.errors.InsufficientPrivilege as problem:
            message = "The backup cannot be checked: the database user may not make a database (ALTER ROLE … CREATEDB)."
            raise KeepingError(message) from problem
        try:
            put_into(archive, elsewhere(address, name))
        finally:
            connection.execute(sql.SQL("DROP DATABASE {} WITH (FORCE)").format(sql.Identifier(name)))


def elsewhere(address: str, name: str) -> str:
    """The address of another database of the same server."""
    parts = urlsplit(address)
    return urlunsplit(parts._replace(path=f"/{name}"))


def put_into(archive: Path, address: str) -> dict[str, int]:
    """Restore an archive into an empty database, whoever owns it, and compare. Raises ``KeepingError``."""
    with opened(archive) as (dump, record):
        run(
            "pg_restore", address, "--no-owner", "--no-privileges", "--no-comments", "--exit-on-error",
            "--single-transaction", str(dump),
        )  # fmt: skip
        rows = counted(address)
        expected: dict[str, int] = record["rows"]
        if rows != expected:
            differing = sorted(name for name in rows.keys() | expected if rows.get(name) != expected.get(name))
            raise KeepingError(f"What was restored differs from what was kept, in: {', '.join(differing)}.")
        wrong = damaged_files(address)
        if wrong:
            raise KeepingError(f"{wrong} of the files that were restored are not what they were.")
    return rows


# The sum of every stored file, over its pieces in their order; its name is the sum that it should have.
DAMAGED = """
    SELECT count(*) FROM files_stored AS s WHERE s.digest <> (
        SELECT encode(sha256(coalesce(string_agg(p.content, ''::bytea ORDER BY p.number), '')), 'hex')
        FROM files_piece AS p WHERE p.stored_id = s.digest)
"""


def damaged_files(address: str) -> int:
    """How many stored files are not what their names say."""
    with connected(address) as connection:
        if connection.execute("SELECT to_regclass('public.files_stored')").fetchone() == (None,):
            return 0
        return int((connection.execute(DAMAGED).fetchone() or (0,))[0])


def restore(archive: Path, replace: bool) -> dict[str, int]:
    """Restore an archive into the database of this installation; one that is not empty is replaced only where that is
    asked for, and only after the archive has been restored elsewhere once. Raises ``KeepingError``."""
    address = database()
    with connected(address) as connection:
        tables = len(rows_of(connection))
    if tables and not replace:
        raise KeepingError(
            f"The database is not empty: it has {tables} tables. Restore into an empty one, or say --replace: then all "
            "that is in it now is gone."
        )
    if tables:
        check(archive, address)
        with connected(address) as connection:
            connection.execute("DROP SCHEMA public CASCADE")
            connection.execute("CREATE SCHEMA public")
    return put_into(archive, address)
