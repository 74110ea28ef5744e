"""A kind of answer is a folder and a line in a register: everything else takes what it needs from there."""

import json
import os
import shutil
import subprocess
import sys
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any
from unittest import TestCase

from vorlage.core.answers import KINDS, LINE
from vorlage.core.questions import CompiledQuestion, QuestionDrawing
from vorlage.library import ready_questions

ROOT = Path(__file__).resolve().parents[2]
FOLDER = Path(__file__).parent / "made_up_kind"


class Registered(TestCase):
    def test_what_inputs_show_is_what_they_spell(self) -> None:
        for kind in KINDS.values():
            for sample in kind.samples:
                with self.subTest(f"{kind.name} {sample}"):
                    answer = kind.document.model_validate({"kind": kind.name, **sample})
                    shown = kind.write(answer.model_dump(mode="json"))
                    self.assertEqual(set(shown), set(shown) & kind.names)
                    self.assertEqual(kind.document.model_validate(kind.read(shown)), answer)

    def test_what_is_asked_has_a_name_that_a_reader_hears(self) -> None:
        for kind in KINDS.values():
            for entry in kind.inputs:
                with self.subTest(f"{kind.name} {entry.name}"):
                    self.assertTrue(entry.label or entry.words or entry.before or entry.after or entry.way == "hidden")

    def test_a_line_to_write_on_is_known_before_anything_is_drawn(self) -> None:
        lines = 0
        for name, ready in ready_questions().items():
            drawn = QuestionDrawing(CompiledQuestion(ready.document), name, 1).draw(1)
            for part, answer in enumerate(drawn.answers):
                with self.subTest(f"{name}, part {part + 1}"):
                    assert answer is not None
                    lined = ready.document.parts[part].answer.on_a_line
                    self.assertEqual(lined, answer.space() == LINE)
                    self.assertEqual(drawn.laid(part), drawn.space(part))
                    lines += lined
        self.assertGreater(lines, 20)

    def test_limits_come_from_the_specification(self) -> None:
        longest = {entry.name: entry.longest for kind in KINDS.values() for entry in kind.inputs}
        self.assertEqual((longest["key"], longest["unit"], longest["figure"], longest["low"]), (2000, 60, 30, 60))


class MadeUp(TestCase):
    """Ratios such as 2 : 3, in a copy of the application to which nothing is added but their folder and their line."""

    found: dict[str, Any]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        copy = TemporaryDirectory()
        cls.addClassCleanup(copy.cleanup)
        for part in ("src", "demo", "gallery"):
            ignored = shutil.ignore_patterns("__pycache__")
            shutil.copytree(ROOT / part, Path(copy.name) / part, ignore=ignored)
        kinds = Path(copy.name) / "src/vorlage/core/answers/kinds"
        shutil.copytree(FOLDER / "ratio", kinds / "ratio")
        register = kinds / "__init__.py"
        written = register.read_text("utf-8")
        register.write_text(written.replace('    "quantity",\n', '    "quantity",\n    "ratio",\n', 1), "utf-8")
        environment = os.environ | {
            "PYTHONPATH": str(Path(copy.name) / "src"),
            "VORLAGE_DATABASE": "postgresql://nobody@127.0.0.1:1/none",
            "DJANGO_SETTINGS_MODULE": "vorlage.web.settings.test",
        }
        done = subprocess.run(
            [sys.executable, FOLDER / "tried.py"], env=environment, capture_output=True, text=True, cwd=copy.name
        )
        if done.returncode:
            raise AssertionError(done.stderr)
        cls.found = json.loads(done.stdout)

    def test_the_desk_asks_for_it(self) -> None:
        page = self.found["desk"]
        self.assertIn('<option value="ratio" selected>ratio</option>', page)
        self.assertRegex(page, r'<input[^>]*name="part-p1-key" value="a : b"[^>]*maxlength="200"')
        self.assertRegex(page, r'<input[^>]*placeholder="2 : 3"')
        self.assertRegex(
            page, r'<label class="check">\s*<input type="checkbox" name="part-p1-simplest"[^>]*checked[^>]*>'
        )
        self.assertIn("in lowest terms", page)
        # and for one in a gap of a text
        self.assertIn('<option value="ratio" data-key-hint="2 : 3"', self.found["gap"])

    def test_what_is_typed_becomes_a_document_and_wrong_input_is_told(self) -> None:
        self.assertEqual(self.found["document"], {"kind": "ratio", "key": "a : b", "simplest": True})
        self.assertEqual(self.found["wrong"], {"part-p1-key": ["A ratio has two numbers with a colon between them."]})

    def test_it_is_drawn_checked_and_tried_on_the_sheet(self) -> None:
        self.assertEqual(self.found["problems"], [])
        self.assertEqual(self.found["outcomes"], ["right", "partly", "wrong", "unreadable", "blank"])
        self.assertIn("Answer", self.found["sheet"])
        self.assertIn("right", self.found["verdict"])
        self.assertIn("in every multiple", self.found["key on the sheet"])

    def test_it_is_printed_with_its_key_and_frozen(self) -> None:
        self.assertEqual(len(self.found["keys"]), 3)
        for key in self.found["keys"]:
            self.assertRegex(key, r'^"\d : \d"$')
        self.assertEqual((self.found["paper"], self.found["key"]), ("%PDF", "%PDF"))

    def test_its_cases_are_tests_and_manual_and_it_is_fuzzed(self) -> None:
        self.assertIn("Ratios", self.found["chapters"])
        self.assertGreater(self.found["fuzzed"], 0)

    def test_its_part_has_an_identity_and_its_change_has_words(self) -> None:
        self.assertEqual(self.found["changes"], ["Part ▸ answer ▸ key"])
        self.assertTrue(self.found["identities"])
