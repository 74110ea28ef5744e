"""What is pasted is put right, and what paper cannot show is told at its field before anything is printed."""

import io
import unicodedata
from typing import Any
from unittest import TestCase

import pypdfium2

from vorlage.core.documents import Heading, Printing
from vorlage.core.forms import make_forms
from vorlage.core.plans import Place, Plan
from vorlage.core.questions import CompiledQuestion, load_document
from vorlage.core.text import printable, put_right, unprintable

SCRIPTS = "Ταχύτητα και ἀρχή · Скорость тела їхати · Vận tốc của vật nặng · Łódź, Çeşme, Tõnu, Öl, ĳ"


def document(**changes: Any) -> dict[str, Any]:
    return {
        "title": "Signs", "wording": "Work $a$ out.", "parameters": [{"name": "a", "definition": "2..9"}],
        "parts": [{"marks": "1", "answer": {"kind": "number", "key": "2*a"}, "solution": "Twice."}],
    } | changes  # fmt: skip


def told(**changes: Any) -> list[tuple[Any, str]]:
    question = CompiledQuestion(load_document(document(**changes)))
    return [(problem.path, problem.message) for problem in question.problems if problem.code == "unprintable"]


class PutRight(TestCase):
    def test_what_is_pasted(self) -> None:
        for pasted, expected in [
            ("\uf0b7\tone\n\uf0b7 two", "- one\n- two"), ("• one\n  • two", "- one\n  - two"),
            ("a\u2003b\u3000c", "a b c"), ("a\u200bb\ufeffc\u00ad", "abc"), ("one\u2028two\r\nthree\x0b", "one\ntwo\nthree\n"),
            ("well\u2010known 3\u20125", "well-known 3–5"), ("\x07bell\x00", "bell"), ("ﬁne ｈｅ", "fine he"),
            ("e\u0301", "é"), ("𝑚 = 𝟓", "m = 5"), ("don\u02bct", "don’t"), ("\u202eabc\u202c", "abc"),
        ]:  # fmt: skip
            with self.subTest(pasted):
                self.assertEqual(put_right(pasted), expected)

    def test_what_is_typed_stays(self) -> None:
        for text in [
            "a – b — c … “q” ‘r’ „s“ «t»", "3\u202f500 N, 5\u00a0kg", "x² ≤ 3·10⁻³", SCRIPTS, "-5 − 3", "a\tb", "° µ Ω ℓ"
        ]:  # fmt: skip
            with self.subTest(text):
                self.assertEqual(put_right(text), text)
                self.assertEqual(put_right(put_right(text)), put_right(text))

    def test_every_sign_is_told_once_or_can_be_printed(self) -> None:
        for code in [*range(0x20, 0x3000), *range(0x1F300, 0x1F700, 16), 0x4E00, 0xE000, 0x10FFFF]:
            sign = chr(code)
            if unicodedata.category(sign) == "Cs":
                continue
            found = list(unprintable(sign))
            self.assertEqual(bool(found), printable(sign) != put_right(sign), hex(code))


class Told(TestCase):
    def test_at_the_field_with_what_helps(self) -> None:
        for changes, path, words in [
            ({"title": "Pulleys 😀"}, ("title",), "“😀” (grinning face) cannot be printed. Leave it out, say it in words, or show it"),
            ({"wording": "漢字 $a$"}, ("wording",), "“漢字” cannot be printed. Latin, Greek and Cyrillic letters can be"),
            ({"wording": "step ② $a$"}, ("wording",), "Write 2 instead."),
            ({"wording": "\uf8ff $a$"}, ("wording",), "It is a sign of another program's font"),
        ]:  # fmt: skip
            with self.subTest(changes):
                ((where, message),) = told(**changes)
                self.assertEqual(where, path)
                self.assertIn(words, message)

    def test_in_the_fields_of_a_part(self) -> None:
        choice = {"kind": "choice", "options": [{"text": "a boat", "share": "1"}, {"text": "🚢"}]}
        part = document()["parts"][0]
        for parts, path in [
            ([part | {"solution": "So 👍"}], ("parts", 0, "solution")),
            ([part | {"wording": "Give 👍"}], ("parts", 0, "wording")),
            ([{"marks": "1", "answer": choice}], ("parts", 0, "answer", "options", 1, "text")),
        ]:
            with self.subTest(path):
                self.assertEqual([where for where, _ in told(parts=parts)], [path])

    def test_what_is_not_printed_may_have_any_sign(self) -> None:
        part = document()["parts"][0] | {"hints": [{"text": "Look up 👆"}], "feedback": {"right": "🎉"}}
        self.assertEqual(told(note="👍", parts=[part]), [])


class Printed(TestCase):
    def test_all_scripts_and_every_settable_sign_are_set(self) -> None:
        signs = [chr(code) for code in range(0xA1, 0x2FFF) if printable(chr(code)) == chr(code)]
        letters = "".join(sign for sign in signs if unicodedata.category(sign)[0] != "M" and sign.isprintable())
        text = f"{SCRIPTS} **{SCRIPTS}** *{SCRIPTS}*\n\n" + letters.translate(
            {ord(sign): f"\\{sign}" for sign in "\\`*_$"}
        )
        question = CompiledQuestion(load_document(document(wording=text)))
        self.assertEqual(question.problems, [])
        plan = Plan("Signs", [Place(question, "signs", 1)])
        # accessible PDF refuses a sign that no font has
        heading = Heading(f"Kräfte 😀 {SCRIPTS}", "漢 Physics")
        paper = Printing(plan, heading).papers(make_forms(plan, 1, "signs").forms)
        pages = pypdfium2.PdfDocument(io.BytesIO(paper))
        read = " ".join(" ".join(page.get_textpage().get_text_range().split()) for page in pages)
        for word in ("Ταχύτητα", "Скорость", "Vận", "Łódź"):
            self.assertGreaterEqual(read.count(word), 3, word)
        self.assertNotIn("😀", read)
