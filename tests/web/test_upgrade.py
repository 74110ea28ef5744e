"""A database that the version before filled: everything in it is there after the upgrade, and as it was."""

import hashlib
import io
import json
import lzma
import os
import subprocess
import sys
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any
from unittest import TestCase

import psycopg
from django.db import connection
from psycopg import sql

from tests.upgrades import numbers
from vorlage.library import samples
from vorlage.operations.cluster import SUPERUSER, binaries

ROOT = Path(__file__).resolve().parents[2]
DUMP = ROOT / "tests/upgrades/database-of-format-1.sql.xz"


def sha(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()


class Upgraded(TestCase):
    """The dump holds the demo, every ready question in a set, revisions, a picture, drafts, and sets in every state."""

    begins_early = True

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        known = connection.settings_dict
        cls.server = f"postgresql://{SUPERUSER}:{known['PASSWORD']}@{known['HOST']}:{known['PORT']}"
        name = f"upgraded_{os.getpid()}"
        cls.url = f"{cls.server}/{name}"
        with cls.as_admin() as admin:
            admin.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(name)))
        cls.addClassCleanup(cls.drop, name)
        cls.psql(lzma.decompress(DUMP.read_bytes()))
        with psycopg.connect(cls.url) as before:
            cls.before = cls.read(before)
        cls.run_apart("-m", "django", "migrate", "-v", "0")
        cls.after = json.loads(cls.run_apart("-m", "tests.upgrades.after"))

    @classmethod
    @contextmanager
    def as_admin(cls) -> Iterator[Any]:
        with psycopg.connect(f"{cls.server}/postgres", autocommit=True) as admin:
            yield admin

    @classmethod
    def drop(cls, name: str) -> None:
        with cls.as_admin() as admin:
            admin.execute(sql.SQL("DROP DATABASE {} WITH (FORCE)").format(sql.Identifier(name)))

    @classmethod
    def psql(cls, dump: bytes) -> None:
        done = subprocess.run(
            [binaries() / "psql", "-q", "-v", "ON_ERROR_STOP=1", cls.url], input=dump, capture_output=True
        )
        if done.returncode:
            raise AssertionError(done.stderr.decode())

    @classmethod
    def run_apart(cls, *words: str) -> str:
        environment = os.environ | {"VORLAGE_DATABASE": cls.url, "DJANGO_SETTINGS_MODULE": "vorlage.web.settings.test"}
        done = subprocess.run([sys.executable, *words], env=environment, cwd=ROOT, capture_output=True, text=True)
        if done.returncode:
            raise AssertionError(done.stderr)
        return done.stdout

    @classmethod
    def read(cls, before: Any) -> dict[str, Any]:
        """What the version before kept, as it kept it."""
        prints: dict[int, dict[str, bytes]] = {}
        for form_set, kind, content in before.execute("SELECT form_set_id, kind, content FROM papers_print"):
            prints.setdefault(form_set, {})[kind] = bytes(content)
        sets = before.execute(
            "SELECT id, test_id, number, state, failure, forms, repeats FROM papers_formset"
        ).fetchall()
        revisions = before.execute(
            "SELECT q.key, r.number, r.document FROM questions_revision r JOIN questions_question q ON q.id = r.question_id"
        ).fetchall()
        questions = before.execute(
            "SELECT key, latest, title, subject, topic, level FROM questions_question"
        ).fetchall()
        pictures = before.execute("SELECT digest, content FROM questions_picture").fetchall()
        return {"prints": prints, "sets": sets, "revisions": revisions, "questions": questions, "pictures": pictures}

    def test_every_revision_says_what_it_said(self) -> None:
        self.assertGreater(len(self.before["revisions"]), 80)
        self.assertEqual(len(self.after["revisions"]), len(self.before["revisions"]))
        for key, number, document in self.before["revisions"]:
            found = self.after["revisions"][f"{key} {number}"]
            with self.subTest(found["title"]):
                self.assertEqual((found["title"], found["format"]), (document["title"], "vorlage-question-3"))
                self.assertEqual(found["marks"], str(sum(part["marks"] for part in document["parts"])))
                kinds = [part["answer"]["kind"] for part in document["parts"]]
                self.assertEqual(found["kinds"], list(dict.fromkeys(kinds)))
                self.assertTrue(all(identity for identity, _ in found["parts"]))
                self.assertTrue(found["sheet"].strip())

    def test_questions_are_filed_where_they_were(self) -> None:
        for key, latest, title, subject, topic, level in self.before["questions"]:
            filed = [latest, title, subject.capitalize(), topic, level]
            self.assertEqual(self.after["questions"][str(key)], filed)
        # versions before kept what cannot be drawn as well
        titles = {facts[1] for facts in self.after["questions"].values()}
        self.assertTrue({document.title for document, _ in samples().values()} - {"Harbour crane"} <= titles)
        self.assertIn("Kept though unsound", titles)

    def test_parts_are_joined_across_revisions(self) -> None:
        revised = [key for key, facts in self.after["questions"].items() if facts[0] > 1]
        self.assertTrue(revised)
        for key in revised:
            older, newer = (self.after["revisions"][f"{key} {number}"]["parts"] for number in (1, 2))
            # a part was put before the others, which have other labels now
            self.assertEqual([identity for identity, _ in newer][1:], [identity for identity, _ in older])
            self.assertNotEqual([label for _, label in newer][1:], [label for _, label in older])

    def test_every_set_has_its_keys_and_the_same_files(self) -> None:
        frozen = [row for row in self.before["sets"] if row[3] == "frozen"]
        self.assertGreaterEqual(len(frozen), 4)
        for pk, test, number, _, _, forms, repeats in frozen:
            found, prints = self.after["sets"][str(pk)], self.before["prints"][pk]
            name = f"test-{test}-set-{number}"
            archive = zipfile.ZipFile(io.BytesIO(prints["archive"]))
            self.assertEqual(found["files"], {kind: sha(content) for kind, content in prints.items()})
            self.assertEqual((list(found["forms"]), found["repeats"]), ([form["code"] for form in forms], repeats))
            for form in forms:
                kept = found["forms"][form["code"]]
                with self.subTest(f"{name} {form['code']}"):
                    self.assertEqual(kept["draws"], [item["draw"] for item in form["items"]])
                    keys = [[key | {"marks": str(key["marks"])} for key in item["keys"]] for item in form["items"]]
                    self.assertEqual(kept["keys"], keys)
                    printed = archive.read(f"{name}/papers/{name}-{form['code']}.pdf")
                    # a paper that is asked for now has the bytes that it was made with
                    self.assertEqual(kept["paper"], sha(printed))
                    self.assertTrue(all(all(parts) for parts in kept["parts"]))
                    # and what is frozen of it shows the same numbers in the same places
                    self.assertEqual(kept["numbers"], numbers(printed))

    def test_pictures_and_drafts_are_there(self) -> None:
        self.assertEqual(
            self.after["pictures"], {digest: sha(bytes(content)) for digest, content in self.before["pictures"]}
        )
        self.assertEqual(self.after["drafts"], 2)

    def test_sets_that_were_not_made_wait_or_say_why(self) -> None:
        states = {
            "frozen": "done",
            "waiting": "waiting",
            "making": "waiting",
            "failed": "failed",
            "cancelled": "cancelled",
        }
        self.assertEqual({row[3] for row in self.before["sets"]}, set(states))
        for pk, _, _, state, failure, *_ in self.before["sets"]:
            self.assertEqual(self.after["jobs"][str(pk)], [states[state], failure])

    def test_every_page_of_it_is_shown(self) -> None:
        self.assertGreater(len(self.after["pages"]), 90)
        self.assertEqual([page for page, status in self.after["pages"] if status != 200], [])
