"""``vorlage check`` and ``vorlage draw`` as a technician uses them, and the examples in the docstrings."""

import doctest
import importlib
import json
import pkgutil
import subprocess
import sys
from pathlib import Path
from unittest import TestCase

from tools.make_docs import PAGES

import vorlage.core

ROOT = Path(__file__).resolve().parents[2]


def run(*words: str, given: str = "") -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "vorlage.command", *words], input=given, capture_output=True, text=True, cwd=ROOT
    )


class Commands(TestCase):
    def test_check_marks_a_stream_and_goes_on_after_a_bad_line(self) -> None:
        case = {"id": 1, "answer": {"kind": "number", "key": "m*2"}, "parameters": {"m": "6"}, "response": "12"}
        finished = run(
            "check", "-", given=f"{json.dumps(case)}\nnot json\n{json.dumps(case | {'id': 2, 'response': '13'})}\n"
        )
        written = [json.loads(text) for text in finished.stdout.splitlines()]
        self.assertEqual([row.get("outcome") for row in written], ["right", None, "wrong"])
        self.assertEqual(written[1]["error"], "This line is not JSON.")
        self.assertEqual(finished.returncode, 1)

    def test_mistakes_go_on_after_a_line_that_is_no_class(self) -> None:
        draws = [(2, 3), (4, 7), (5, 9)]
        answers = [{"values": {"m": str(m), "v": str(v)}, "response": f"{m * v / 2} J"} for m, v in draws]
        good = {"id": "a", "key": "m*v^2/2", "unit": "J", "answers": answers}
        lines = [json.dumps(good), "{", json.dumps({"id": 2, "key": "m*(", "answers": []}), json.dumps({"id": 3}), "7"]
        finished = run("mistakes", "-", given="\n".join(lines))
        first, *others = map(json.loads, finished.stdout.splitlines())
        self.assertEqual(first["id"], "a")
        self.assertEqual([first["claims"][0][name] for name in ("formula", "explains")], ["m*v/2", [0, 1, 2]])
        self.assertEqual([each["id"] for each in others], [None, 2, 3, None])
        self.assertTrue(all(each["error"] for each in others))
        self.assertEqual(finished.returncode, 1)

    def test_check_does_not_need_the_web(self) -> None:
        script = "import sys, vorlage.core.answers; sys.exit('django' in sys.modules)"
        self.assertEqual(subprocess.run([sys.executable, "-c", script], cwd=ROOT).returncode, 0)

    def test_draw_prints_values_and_keys(self) -> None:
        finished = run("draw", "demo/questions/harbour-crane.json", "--count", "3")
        rows = [json.loads(text) for text in finished.stdout.splitlines()]
        self.assertEqual([row["draw"] for row in rows], [1, 2, 3])
        self.assertEqual(set(rows[0]["values"]), {"m", "h", "t", "E"})
        self.assertEqual(run("draw", "no-such-file.json").returncode, 1)


class Docstrings(TestCase):
    def test_examples_hold(self) -> None:
        tried = 0
        for module in pkgutil.walk_packages(vorlage.core.__path__, "vorlage.core."):
            with self.subTest(module.name):
                result = doctest.testmod(importlib.import_module(module.name))
                self.assertEqual(result.failed, 0)
                tried += result.attempted
        self.assertGreater(tried, 10)


class Documentation(TestCase):
    def test_the_page_on_typing_maths_is_what_the_tables_say(self) -> None:
        for name, write in PAGES.items():
            with self.subTest(name):
                self.assertEqual((ROOT / "docs" / name).read_text("utf-8"), write(), "run tools/make_docs.py")
