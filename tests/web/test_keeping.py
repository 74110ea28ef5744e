"""Backup and restore: while people work, into another role, and never half."""

import os
import secrets
import shutil
import tarfile
import tempfile
import threading
from pathlib import Path
from unittest import mock
from urllib.parse import quote, urlsplit, urlunsplit

import psycopg
from django.db import connection, connections
from django.test import TransactionTestCase

from vorlage.operations import keeping
from vorlage.operations.keeping import KeepingError, backup, counted, elsewhere, restore
from vorlage.web.bank.models import Question
from vorlage.web.files.models import Stored

from .samples import department, frozen, person, question, test_of


def address() -> str:
    """The database of this test, as an address."""
    given = connection.settings_dict
    who = f"{quote(given['USER'])}:{quote(given['PASSWORD'])}"
    return f"postgresql://{who}@{given['HOST']}:{given['PORT']}/{given['NAME']}"


class Keeping(TransactionTestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder)
        self.archive = self.folder / "kept.tar"
        self.enterContext(mock.patch.dict(os.environ, VORLAGE_DATABASE=address()))
        self.physics = department("Physics")
        self.lead = person("lead", self.physics, "lead")
        self.test = test_of(self.physics, self.lead, question(self.physics, self.lead))

    def elsewhere(self) -> str:
        """An empty database of another role, which is no superuser."""
        name = f"other_{secrets.token_hex(4)}"
        with psycopg.connect(address(), autocommit=True) as admin:
            admin.execute(f"CREATE ROLE {name} LOGIN PASSWORD '{name}' CREATEDB")
            admin.execute(f"CREATE DATABASE {name} OWNER {name}")
        self.addCleanup(self.drop, name)
        parts = urlsplit(elsewhere(address(), name))
        return urlunsplit(parts._replace(netloc=f"{name}:{name}@{parts.hostname}:{parts.port}"))

    def drop(self, name: str) -> None:
        with psycopg.connect(address(), autocommit=True) as admin:
            admin.execute(f"DROP DATABASE {name} WITH (FORCE)")
            admin.execute(f"DROP ROLE {name}")

    def restored(self, target: str, replace: bool = False) -> dict[str, int]:
        with mock.patch.dict(os.environ, VORLAGE_DATABASE=target):
            return restore(self.archive, replace)

    def test_everything_comes_back_in_another_role(self) -> None:
        frozen(self.test)
        kept = backup(self.archive)
        self.assertEqual(self.archive.stat().st_mode & 0o777, 0o600)
        target = self.elsewhere()
        rows = self.restored(target)
        self.assertEqual(rows, kept)
        self.assertGreater(rows["forms_form"], 0)
        with psycopg.connect(target) as there:
            found = there.execute("SELECT title FROM bank_revision").fetchall()
        self.assertEqual(found, [(self.test.places.get().revision.title,)])

    def test_people_go_on_meanwhile(self) -> None:
        ended = threading.Event()

        def work() -> None:
            while not ended.is_set():
                question(self.physics, self.lead)
            connections.close_all()

        worker = threading.Thread(target=work)
        worker.start()
        try:
            kept = backup(self.archive)
        finally:
            ended.set()
            worker.join()
        # as many questions as revisions: one moment of the database, and not two
        self.assertEqual(kept["bank_question"], kept["bank_revision"])
        self.assertEqual(self.restored(self.elsewhere()), kept)
        self.assertGreaterEqual(Question.objects.count(), kept["bank_question"])

    def test_what_is_there_is_replaced_only_where_that_is_said(self) -> None:
        backup(self.archive)
        target = self.elsewhere()
        self.restored(target)
        with psycopg.connect(target) as there:
            there.execute("UPDATE bank_revision SET title = 'changed'")
        with self.assertRaisesMessage(KeepingError, "The database is not empty"):
            self.restored(target)
        self.restored(target, replace=True)
        with psycopg.connect(target) as there:
            self.assertNotEqual(there.execute("SELECT title FROM bank_revision").fetchone(), ("changed",))

    def test_a_damaged_archive_changes_nothing(self) -> None:
        backup(self.archive)
        target = self.elsewhere()
        self.restored(target)
        before = counted(target)
        whole = self.archive.read_bytes()
        for damaged in [b"", b"no archive", whole[: len(whole) // 2], whole[:6000] + b"XXXX" + whole[6004:]]:
            self.archive.write_bytes(damaged)
            with self.subTest(len(damaged)), self.assertRaises(KeepingError):
                self.restored(target, replace=True)
            self.assertEqual(counted(target), before)

    def test_a_file_that_is_not_what_it_was_is_found(self) -> None:
        kept = Stored.keep(b"a paper")
        with connection.cursor() as cursor:
            cursor.execute("UPDATE files_piece SET content = 'another' WHERE stored_id = %s", [kept.digest])
        with self.assertRaisesMessage(KeepingError, "1 of the files that were restored are not what they were"):
            backup(self.archive)
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_nothing_is_left_where_it_cannot_be_written(self) -> None:
        with mock.patch.object(keeping, "run", side_effect=OSError(28, "No space left on device")):
            with self.assertRaisesMessage(KeepingError, "The archive cannot be written: No space left on device."):
                backup(self.archive)
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_an_archive_of_something_else_is_refused(self) -> None:
        with tarfile.open(self.archive, "w") as archive:
            archive.add(__file__, "notes.py")
        with self.assertRaisesMessage(KeepingError, "cannot be read as a backup"):
            self.restored(self.elsewhere())


class WithoutADatabase(TransactionTestCase):
    def test_it_is_said(self) -> None:
        for environment, words in [({}, "VORLAGE_DATABASE is not set"), ({"VORLAGE_DATABASE": "postgresql://x@127.0.0.1:1/x"}, "does not answer")]:  # fmt: skip
            with mock.patch.dict(os.environ, environment):
                if not environment:
                    os.environ.pop("VORLAGE_DATABASE", None)
                with self.subTest(words), self.assertRaisesMessage(KeepingError, words):
                    backup(Path(tempfile.gettempdir()) / "never.tar")
