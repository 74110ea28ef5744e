"""Questions from plain text, tables and archives: read as people have them, written so that they read back the same."""

import io
import json
import random
import sys
import uuid
import zipfile
from contextlib import suppress
from typing import Any
from unittest import TestCase, mock

from vorlage.core.exchange import archive, office, plain
from vorlage.core.exchange.drafted import Drafted
from vorlage.core.exchange.plain import Place, read_plain, reading, write_plain
from vorlage.core.exchange.tables import QUESTIONS, TEMPLATE, NoQuestions, read_table
from vorlage.core.notation import Habits
from vorlage.core.questions import CompiledQuestion, Filing, load_document, load_filed, says_the_same, soundness
from vorlage.core.tables import read_file, read_text
from vorlage.library import ready_questions, samples

COMMA = Habits(decimal_mark="comma")


def answer_of(drafted: Drafted, part: int = 0) -> dict[str, Any]:
    """What a part asks for, without what is as usual."""
    answer = drafted.raw["parts"][part]["answer"]
    usual = {"unit_rule": "required", "convert": True, "share": "1/2"}
    return {
        name: value
        for name, value in answer.items()
        if value not in ("", [], None, False, {"mode": "exact"}) and usual.get(name) != value
    }


# an answer as people write it, and what it is taken for; beside the question where its words count
ANSWERS: list[tuple[str, dict[str, Any]]] = [
    ("980 J", {"kind": "quantity", "key": "980", "unit": "J"}),
    ("≈ 3.4 m/s²", {"kind": "quantity", "key": "3.4", "unit": "m/s²",
                    "tolerance": {"mode": "decimal_places", "value": "1"}}),
    ("12,000 N", {"kind": "quantity", "key": "12,000", "unit": "N"}),
    ("3 x 10^8 m/s", {"kind": "quantity", "key": "3 × 10^8", "unit": "m/s",
                      "tolerance": {"mode": "significant_figures", "value": "1"}}),
    ("0.643 (3 s.f.)", {"kind": "number", "key": "0.643", "tolerance": {"mode": "significant_figures", "value": "3"}}),
    ("54 g ± 1", {"kind": "quantity", "key": "54", "unit": "g", "tolerance": {"mode": "absolute", "value": "1"}}),
    ("45%", {"kind": "number", "key": "45"}),
    ("70°", {"kind": "number", "key": "70"}),
    ("12 crates", {"kind": "number", "key": "12"}),
    ("three quarters", {"kind": "text", "accept": ["three quarters"], "match": "whole"}),
    ("3/4", {"kind": "number", "key": "3/4"}),
    ("2 1/2", {"kind": "number", "key": "2 1/2"}),
    ("sqrt(2)/2", {"kind": "number", "key": "sqrt(2)/2"}),
    ("x = 5", {"kind": "number", "key": "5"}),
    ("x = 2 or x = 3", {"kind": "set", "key": "{2, 3}"}),
    ("3 or -3", {"kind": "set", "key": "{3, -3}"}),
    ("1/4 or 0.25", {"kind": "number", "key": "1/4"}),
    ("x = 2, y = 3", {"kind": "point", "key": "(2, 3)"}),
    ("(3, -4)", {"kind": "point", "key": "(3, -4)"}),
    ("x > 3", {"kind": "inequality", "key": "x > 3", "form": "any"}),
    ("y = 2x + 1", {"kind": "equation", "key": "y = 2x + 1", "form": "any"}),
    ("x^2 + x - 6", {"kind": "formula", "key": "x^2 + x - 6", "form": "any"}),
    ("2 H2 + O2 → 2 H2O", {"kind": "chemical", "key": "2 H2 + O2 → 2 H2O"}),
    ("True", {"kind": "true_false", "key": "true"}),
    ("moment or torque", {"kind": "text", "accept": ["moment", "torque"], "match": "whole"}),
    ("carbon dioxide / CO2", {"kind": "text", "accept": ["carbon dioxide", "CO2"], "match": "whole"}),
]  # fmt: skip

PASTED = """Year 9 Forces
1. A crate of mass 25 kg is lifted 4 m. How much work is done? [2]
Answer: 981 J
2) Which of these is a vector?
A. mass
B. speed
C. velocity
Answer: C
Question 3: A wave has frequency 50 Hz and wavelength 6.8 m.
(a) Calculate its speed. (2 marks)
Ans: 340 m/s
(b) Explain why the wavelength halves when the frequency doubles. (3 marks)
Answer: The speed stays the same because the medium does. So twice as many waves fit into the same length.
4. Put in order of reactivity, most reactive first.
A) Iron  B) Sodium  C) Copper
Answer: B, A, C
5. Select all noble gases.
[ ] Nitrogen
[x] Argon
[x] Neon
6. Match each substance and its formula.
• water → H2O
• ammonia → NH3
7. Water is made of ___ and ......
Answer: hydrogen; oxygen
8. What is the resistance? Answer: 12 Ω
9. a) The crane
 (i) lifts 200 kg by 3 m. Work? [1]
 Answer: 5886 J
 (ii) takes 10 s. Power? [2]
 Answer: 589 W
 b) Its efficiency? [1]
 Answer: 49%
10. Name the unit of charge.
"""

KEYED = """1.\tWhat is 15% of 240?
2.\tWhich is prime?  A) 21  B) 27  C) 29
3.\tThe mean of 4, 7, 13 is
\ta) 7  b) 8  c) 9
4.\ta) Round 3.4567 to 2 decimal places.
\tb) Write 45 000 in standard form.

Answer key
1. 36
2. C  3. b
4a. 3.46
4b. 4.5 × 10^4
7. lost
"""

CHAT = """Here are some questions:

**Question 1: Tide height**
Solve \\(2x + 7 = 15\\).

**Answer:** \\(x = 4\\)

---

### Question 2
Which gas is given off?

A) Oxygen
**B) Hydrogen**
C) Chlorine
"""


class Guesses(TestCase):
    def test_answers_are_taken_for_what_a_teacher_means(self) -> None:
        for written, expected in ANSWERS:
            with self.subTest(written):
                (read,) = read_plain(f"1. What is it?\nAnswer: {written}").questions
                self.assertEqual(answer_of(read), expected)
                self.assertIsNotNone(read.loaded(), read.faults)

    def test_words_of_the_question_say_that_a_formula_is_chemistry(self) -> None:
        (read,) = read_plain("1. Write the formula of sulfuric acid.\nAnswer: H2SO4").questions
        self.assertEqual(answer_of(read), {"kind": "chemical", "key": "H2SO4"})
        self.assertIn("The answer was taken as a chemical formula.", [guess.words for guess in read.guesses])

    def test_decimal_commas_where_people_write_them(self) -> None:
        (read,) = read_plain("1. Density?\nAnswer: 2,5 kg/l", Place(COMMA)).questions
        document, _ = read.loaded(COMMA) or self.fail()
        self.assertEqual(document.parts[0].answer.key, "2.5")
        self.assertEqual(document.parts[0].answer.tolerance.value, "1")

    def test_powers_tell_that_a_text_holds_maths(self) -> None:
        for written, expected in [
            ("Solve x^2 - 5x + 6 = 0.", "Solve $x^2 - 5x + 6 = 0$."),
            ("Expand (x + 3)^2 and find a x^2 curve.", "Expand $(x + 3)^2$ and find a $x^2$ curve."),
            ("It falls at 9.81 m/s^2, a m^2 at a time.", "It falls at 9.81 m/s^2, a m^2 at a time."),
            ("Already $x^2$ and y^2.", "Already $x^2$ and y^2."),
            ("No power: 3x + 5 = 20.", "No power: 3x + 5 = 20."),
        ]:
            with self.subTest(written):
                (read,) = read_plain(f"1. {written}\nAnswer: 5").questions
                self.assertEqual(read.raw["parts"][0]["wording"], expected)
                self.assertEqual(any("taken as maths" in guess.words for guess in read.guesses), written != expected)
        (read,) = read_plain("1. Which is right?\nA) x^2 + 1\nB) x + 1\nAnswer: A").questions
        self.assertEqual(answer_of(read)["options"][0]["text"], "$x^2 + 1$")

    def test_a_formula_that_begins_with_a_number_is_no_number(self) -> None:
        for written in ("60*s/t", "2*pi*sqrt(s)", "1000 s/t", "3s"):
            text = f"1. How fast?\nwhere s = 2..9\nwhere t = 2..5\nAnswer: {written}\nUnit: m"
            (read,) = read_plain(text).questions
            with self.subTest(written):
                self.assertEqual((answer_of(read)["key"], answer_of(read)["unit"]), (written, "m"))


class Pasting(TestCase):
    def test_a_page_of_plain_questions(self) -> None:
        reading = read_plain(PASTED)
        self.assertEqual([each.line for each in reading.unread], [1])
        kinds = [[part["answer"]["kind"] for part in each.raw["parts"]] for each in reading.questions]
        self.assertEqual(kinds, [
            ["quantity"], ["choice"], ["quantity", "essay"], ["order"], ["choice"], ["match"], ["blanks"],
            ["quantity"], ["quantity", "quantity", "number"], ["none"],
        ])  # fmt: skip
        for read in reading.questions:
            self.assertIsNotNone(read.loaded(), read.faults)
        whole = {each.line: each.raw for each in reading.questions}
        self.assertEqual([part["marks"] for part in whole[9]["parts"]], ["2", "3"])
        options = whole[4]["parts"][0]["answer"]["options"]
        self.assertEqual([(each["text"], each["share"]) for each in options][2], ("velocity", "1"))
        self.assertEqual(
            [each["text"] for each in whole[14]["parts"][0]["answer"]["items"]], ["Sodium", "Iron", "Copper"]
        )
        crane = reading.questions[8].loaded() or self.fail()
        self.assertEqual([label.full for label in crane[0].labels], ["(a)", "(a)(i)", "(b)"])
        self.assertEqual(reading.questions[9].lacking, [0])

    def test_a_list_of_answers_at_the_end(self) -> None:
        reading = read_plain(KEYED)
        answers = [answer_of(each, k) for each in reading.questions for k in range(len(each.raw["parts"]))]
        self.assertEqual(answers[0], {"kind": "number", "key": "36"})
        self.assertEqual([each["share"] for each in answers[1]["options"]], ["0", "0", "1"])
        self.assertEqual([each["share"] for each in answers[2]["options"]], ["0", "1", "0"])
        self.assertEqual([answers[3]["key"], answers[4]["key"]], ["3.46", "4.5 × 10^4"])
        self.assertEqual([remark.line for remark in reading.unread], [13])

    def test_what_a_chat_window_gives(self) -> None:
        one, other = read_plain(CHAT).questions
        self.assertEqual((one.title, answer_of(one)), ("Tide height", {"kind": "number", "key": "4"}))
        self.assertEqual(one.raw["parts"][0]["wording"], "Solve $2x + 7 = 15$.")
        self.assertEqual([each["share"] for each in answer_of(other)["options"]], ["0", "1", "0"])
        self.assertIn("The sign at B", other.guesses[0].words)

    def test_no_numbers_and_questions_with_letters_q_and_a(self) -> None:
        text = "Q: Unit of charge?\nA: coulomb\n\nQ: How many metres in 3.2 km?\nA: 3200\n"
        self.assertEqual([answer_of(each)["kind"] for each in read_plain(text).questions], ["text", "number"])
        text = "What is the acceleration?\nAnswer: 5 m/s²\n\nHow long does it take?\nAnswer: 45 min\n"
        reading = read_plain(text)
        self.assertEqual([answer_of(each)["unit"] for each in reading.questions], ["m/s²", "min"])
        self.assertIn("have no numbers", reading.questions[0].guesses[0].words)

    def test_a_list_within_a_question_is_no_question(self) -> None:
        text = "1. Do as follows.\n  1. Heat it.\n  2. Weigh it.\nWhat is left?\nAnswer: 5 g\n2. And now?\nAnswer: 6 g"
        one, other = read_plain(text).questions
        self.assertIn("2. Weigh it.", one.raw["parts"][0]["wording"])
        self.assertEqual(other.raw["parts"][0]["wording"], "And now?")

    def test_what_cannot_be_read_is_named_at_its_line(self) -> None:
        text = "1. Which?\nA) one\nB) two\nAnswer: E\n2. How many?\nAnswer: 5\nLevel: dreadful\n\nstray words"
        one, other = read_plain(text).questions
        self.assertEqual([(each.line, each.words) for each in one.faults], [(4, "“E” is none of the options.")])
        self.assertEqual([each.line for each in other.unread], [9, 7])

    def test_levels_are_called_as_the_department_calls_them(self) -> None:
        text = "1. How many?\nAnswer: 5\nLevel: Stretch\nDemand: recall"
        (read,) = read_plain(text, Place(levels=("Core", "Stretch"), demands=("recall", "method"))).questions
        self.assertEqual((read.raw["filing"]["level"], read.raw["filing"]["demand"]), (2, 1))

    def test_signs_and_answer_that_differ_are_told(self) -> None:
        (read,) = read_plain("1. Which?\n- [x] one\n- [ ] two\nAnswer: two").questions
        self.assertEqual(read.faults[0].words, "This answer and the signs at the options say different things.")

    def test_a_fixed_question_with_a_number_can_be_searched_for_its_formula(self) -> None:
        one, other = read_plain(
            "1. A crate of 25 kg is lifted 4 m. Work?\nAnswer: 981 J\n2. Gas?\nAnswer: argon"
        ).questions
        self.assertEqual((one.answer, other.answer), ("981 J", ""))
        self.assertIn("25 kg", one.asked)

    def test_far_too_much_is_refused(self) -> None:
        with self.assertRaisesRegex(plain.TooMuch, "take it in pieces"):
            read_plain("1. a\n" * plain.MOST_CHARACTERS)
        with self.assertRaisesRegex(plain.TooMuch, "at most 500"):
            read_plain("\n".join(f"{k}. How many?" for k in range(1, 600)))

    def test_shapes_of_other_people(self) -> None:
        for text, kind, key in [
            ("(1) How many seconds are in 2.5 min? (Answer: 150 s)", "quantity", "150"),
            ("Q1. Unit of pressure? [Ans: pascal]", "text", ["pascal"]),
            ("1 How fast is it?\nAnswer 20 m/s\n2 And now?\nAnswer 5 m/s", "quantity", "20"),
            ("1. Root of 49?\nSolution: 7", "number", "7"),
            ("1. Average speed?\nANS: 80 km/h\nDIF: 2", "quantity", "80"),
            ("1. Which metal is liquid?\n- iron\n- mercury\nAnswer: mercury", "choice", ["0", "1"]),
            ("1. Speed of light?\n*a) 300 000 km/s\nb) 300 000 m/s", "choice", ["1", "0"]),
            ("1. Noble gas?\na. oxygen\nb. neon (correct)", "choice", ["0", "1"]),
            ("1. Which are true?\nA. one\nB. two\nC. three\nCorrect answers: A and C", "choice", ["1/2", "0", "1/2"]),
            ("1. Around the ___.\nAnswer: Sun / sun", "text", ["Sun", "sun"]),
            ("1. Answer the following question: how many?\nAnswer: 5", "number", "5"),
            ("1. Ways?\nAnswer: binomial(8, 3)", "number", "binomial(8, 3)"),
        ]:
            with self.subTest(text):
                answer = answer_of(read_plain(text).questions[0])
                self.assertEqual(answer["kind"], kind)
                shares = [each["share"] for each in answer.get("options", ())]
                self.assertEqual(answer.get("key") or answer.get("accept") or shares, key)


class RoundTrip(TestCase):
    """What is written out reads back the same, whatever it is."""

    def all_questions(self) -> list[tuple[Any, Filing]]:
        return [*samples().values(), *((each.document, each.filing) for each in ready_questions().values())]

    def test_every_question_that_comes_along(self) -> None:
        questions = self.all_questions()
        for habits in (Habits(), COMMA):
            text = write_plain(questions, habits)
            # in the layout, and not as documents
            self.assertEqual(text.count("```document"), 0)
            reading = read_plain(text, Place(habits))
            self.assertEqual((len(reading.questions), reading.unread), (len(questions), []))
            for (document, filing), read in zip(questions, reading.questions):
                with self.subTest(document.title, mark=habits.decimal_mark):
                    again, filed = read.loaded(habits) or self.fail(str(read.faults))
                    self.assertTrue(says_the_same(again.model_dump(mode="json"), document.model_dump(mode="json")))
                    self.assertEqual(filed, filing)
                    self.assertEqual([*read.guesses, *read.unread], [])

    def test_the_example_of_the_layout_is_read_without_a_guess(self) -> None:
        reading = read_plain(plain.EXAMPLE.read_text("utf-8"))
        self.assertEqual((len(reading.questions), reading.unread), (6, []))
        for read in reading.questions:
            document, _ = read.loaded() or self.fail(str(read.faults))
            self.assertEqual([*read.guesses, *read.unread], [], read.title)
            self.assertTrue(soundness(CompiledQuestion(document), "k", 1).sound, document.title)

    def test_texts_that_look_like_something_else(self) -> None:
        hostile = [
            "1. first\n2. second", "Answer: not this", "# no heading", "a) no part", "- [x] no option", "\\Answer: 5",
            "where a = 3", "such that it holds", "```figure no\nend\n```", "It is [2]", "Marks: 3\n\n    deep\n  less",
            "| a | b |\n|---|---|\n| 1 | 2 |", "Level: 3", "---", "Answers", "**bold**", "A) 1 B) 2", "- x -> y",
            "ends in a stroke |", "x (3 marks)", "Q: what?", "(i) below", "Solution: this", "Table: t", "___",
        ]  # fmt: skip
        for text in hostile:
            for place in ("wording", "solution", "title"):
                with self.subTest(text, place=place):
                    title = text.replace("\n", " ") if place == "title" else "T"
                    raw = {
                        "title": title, "wording": text if place == "wording" else "W",
                        "parts": [
                            {"wording": text if place == "wording" else "P", "answer": {"kind": "number", "key": "1"},
                             "solution": text if place == "solution" else ""},
                            {"wording": "", "answer": {"kind": "choice", "options": [
                                {"text": text if place == "wording" else "o", "share": "1"}, {"text": "p"}]}},
                        ],
                    }  # fmt: skip
                    document = load_document(raw)
                    filing = Filing(note=text, tags=("a, b",) if place == "title" else ())
                    (read,) = read_plain(write_plain([(document, filing)])).questions
                    again, filed = read.loaded() or self.fail(str(read.faults))
                    self.assertTrue(says_the_same(again.model_dump(mode="json"), document.model_dump(mode="json")))
                    self.assertEqual(filed, filing)


def calls_of(text: str) -> int:
    """How many calls it takes to read a text."""
    count = 0

    def counted(frame: Any, event: str, argument: Any) -> None:
        nonlocal count
        count += event in {"call", "c_call"}

    sys.setprofile(counted)
    try:
        with suppress(plain.TooMuch):
            read_plain(text)
    finally:
        sys.setprofile(None)
    return count


class Hostile(TestCase):
    def test_lines_in_any_order_never_break_it(self) -> None:
        chance = random.Random(7)
        lines = "\n".join([PASTED, KEYED, CHAT, write_plain(list(samples().values())[:6])]).split("\n")
        signs = ["|", "\\", "```", "#", "-", "[x]", "(", ")", "$", "\x00", "{", "1.", "a)", ";", "→", ":", "é", "Key"]
        for _ in range(1_500):
            text = "\n".join(chance.choice(lines) for _ in range(chance.choice([1, 3, 10, 40])))
            for _ in range(chance.choice([0, 1, 5])):
                at = chance.randrange(len(text) + 1)
                text = text[:at] + chance.choice(signs) + text[at + chance.randrange(3) :]
            for read in read_plain(text).questions:
                read.loaded()

    def test_an_answer_that_takes_too_long_is_told_and_the_others_are_read(self) -> None:
        text = "1. A sum?\nAnswer: x^2 + 1\n2. How many?\n3. And now?\n"
        with mock.patch.object(reading, "STEPS", 10):
            costly, *others = read_plain(text).questions
        self.assertIn("takes too long", costly.faults[0].words)
        self.assertIsNone(costly.loaded())
        self.assertEqual([each.lacking for each in others], [[0], [0]])
        with mock.patch.object(reading, "ALTOGETHER", 0):
            self.assertIn("take the rest by itself", read_plain(text).questions[2].faults[0].words)
        # what once took minutes
        sums = "\n".join(f"{k}. A sum?\nAnswer: sum(1/k^2, k, 1, {100_000 + k})" for k in range(1, 9))
        self.assertEqual(len(read_plain(sums).questions), 8)

    def test_no_text_takes_long(self) -> None:
        """In steps that grow with the text and not with its square."""
        for line in ("Answers\n", "Key\n1. a\n", "```\n````\n", "```figure a\n", "Table: x\n| a |\n", "a) b\n", "1. 1. 1.\n",
                     "[x] a\n", "$ $ $ $\n", "A) B) C) D)\n", "_" * 50 + "\n", "(" * 60 + "\n"):  # fmt: skip
            small, large = (line * (size // len(line)) for size in (5_000, 40_000))
            with self.subTest(line):
                self.assertLess(calls_of(large), 12 * calls_of(small) + 20_000)


W = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"
M = "http://schemas.openxmlformats.org/officeDocument/2006/math"


def word(body: str) -> bytes:
    """A DOCX document with these paragraphs."""
    text = f'<w:document xmlns:w="{W}" xmlns:m="{M}"><w:body>{body}</w:body></w:document>'
    return packed({"[Content_Types].xml": "<x/>", "word/document.xml": text}).getvalue()


def paragraph(text: str, level: int | None = None) -> str:
    listed = "" if level is None else f'<w:pPr><w:numPr><w:ilvl w:val="{level}"/><w:numId w:val="1"/></w:numPr></w:pPr>'
    return f"<w:p>{listed}<w:r><w:t>{text}</w:t></w:r></w:p>"


class Office(TestCase):
    def test_lists_powers_and_formulas_of_a_word_processor(self) -> None:
        squared = '<w:r><w:rPr><w:vertAlign w:val="superscript"/></w:rPr><w:t>2</w:t></w:r>'
        fraction = (
            "<m:oMath><m:f><m:num><m:r><m:t>1</m:t></m:r></m:num><m:den><m:sSup><m:e><m:r><m:t>x</m:t></m:r></m:e>"
            "<m:sup><m:r><m:t>2</m:t></m:r></m:sup></m:sSup></m:den></m:f></m:oMath>"
        )
        content = word(
            paragraph("Expand.", 0) + paragraph("Answer: 6x")
            + f"<w:p><w:pPr><w:numPr><w:ilvl w:val='0'/><w:numId w:val='1'/></w:numPr></w:pPr><w:r><w:t>Solve x</w:t></w:r>{squared}"
            "<w:r><w:t> = 9.</w:t></w:r></w:p>" + paragraph("Answer: 3 or -3") + paragraph("Two parts.", 0)
            + paragraph("How many?", 1) + paragraph("Answer: 5") + paragraph("Why?", 1) + paragraph("Answer: 6")
            + f"<w:p><w:r><w:t>4. Simplify </w:t></w:r>{fraction}</w:p>" + paragraph("Answer: x^-2")
        )  # fmt: skip
        self.assertTrue(office.is_office(content))
        reading = read_plain(office.text_of(content))
        self.assertEqual([len(each.raw["parts"]) for each in reading.questions], [1, 1, 2, 1])
        self.assertEqual(reading.questions[1].raw["parts"][0]["wording"], "Solve $x^2 = 9$.")
        self.assertEqual(reading.questions[3].raw["parts"][0]["wording"], "Simplify $(1)/(x^(2))$")
        self.assertTrue(all(each.loaded() for each in reading.questions))

    def test_an_open_document(self) -> None:
        names = 'xmlns:o="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:t="urn:oasis:names:tc:opendocument:xmlns:text:1.0"'
        body = "<t:list><t:list-item><t:p>How <t:span>many</t:span>?</t:p></t:list-item></t:list><t:p>Answer: 5<t:s/>kg</t:p>"
        text = f"<o:document-content {names}><o:body><o:text>{body}</o:text></o:body></o:document-content>"
        content = packed({"mimetype": "application/vnd.oasis.opendocument.text", "content.xml": text}).getvalue()
        self.assertTrue(office.is_office(content))
        self.assertEqual(office.text_of(content), "1. How many?\nAnswer: 5 kg")

    def test_hostile_documents_are_refused_in_words(self) -> None:
        bomb = '<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><x>&b;</x>'
        nested = "<a>" * 100_000
        for content in (bomb, nested, "no xml", "<a>" + "b" * (office.UNPACKED + 10) + "</a>"):
            with self.subTest(content[:20]), self.assertRaises(office.OfficeError):
                office.text_of(packed({"word/document.xml": content}).getvalue())
        for content in (b"", b"PK\x03\x04 nonsense", packed({"a": "b"}).getvalue()):
            self.assertFalse(office.is_office(content))


class Tables(TestCase):
    def test_the_template_is_a_table_of_questions(self) -> None:
        read = read_table(read_file(TEMPLATE.read_bytes(), QUESTIONS))
        self.assertEqual([answer_of(each)["kind"] for each in read], ["quantity", "choice", "chemical", "number"])
        for each in read:
            document, filing = each.loaded() or self.fail(str(each.faults))
            self.assertTrue(soundness(CompiledQuestion(document), "k", 1).sound, document.title)
            self.assertTrue(filing.topics)

    def test_columns_in_any_order_by_other_names(self) -> None:
        text = (
            "Points;Correct answer;Prompt;A;B;Chapter;Colour\n"
            '2;B;"Which is prime,\nof these?";21;29;Mathematics > Number;red\n'
            "1;;;;;;\n3;7;How many?;;;;\n"
        )
        one, empty, other = read_table(read_text(text, QUESTIONS))
        self.assertEqual([each["share"] for each in answer_of(one)["options"]], ["0", "1"])
        self.assertEqual(one.raw["parts"][0]["wording"], "Which is prime,\nof these?")
        self.assertIn("“Colour”", one.unread[0].words)
        self.assertEqual(empty.faults[-1].words, "There is no question in this row.")
        self.assertEqual((other.raw["parts"][0]["marks"], answer_of(other)["key"]), ("3", "7"))

    def test_a_table_without_questions_is_told(self) -> None:
        with self.assertRaisesRegex(NoQuestions, "called “Question”"):
            read_table(read_text("Name;Number\nAdair;3", QUESTIONS))


def packed(files: dict[str, bytes | str], **listing: Any) -> io.BytesIO:
    """An archive of these files."""
    written = io.BytesIO()
    with zipfile.ZipFile(written, "w", zipfile.ZIP_DEFLATED) as made:
        for name, content in files.items():
            made.writestr(name, content)
        if listing:
            made.writestr(archive.CONTENTS, json.dumps({"format": archive.FORMAT, **listing}))
    return written


CRANE = json.dumps(samples()["harbour-crane"][0].model_dump(mode="json"))


class Archives(TestCase):
    def test_what_is_written_is_read(self) -> None:
        questions = [
            archive.Leaving(uuid.UUID(int=k), k + 1, document, filing)
            for k, (document, filing) in enumerate(samples().values())
        ]
        picture = b"a picture"
        written = io.BytesIO()
        count = archive.write_archive(
            written, questions, lambda digest: (picture, "image/png"), [("Rubric", "A | 1 b")]
        )
        self.assertEqual(count, len(questions))
        read = archive.read_archive(written)
        self.assertEqual([(each.key, each.revision) for each in read.entries], [(q.key, q.revision) for q in questions])
        self.assertEqual(read.rubrics, {"Rubric": "A | 1 b"})
        for entry, each in zip(read.entries, questions):
            self.assertEqual(load_filed(read.document(entry)), (each.document, each.filing))

    def test_documents_without_a_list_and_a_single_one(self) -> None:
        read = archive.read_archive(
            packed({"folder/one.json": CRANE, "two.json": CRANE, "__MACOSX/two.json": "x", "r.txt": "x"})
        )
        self.assertEqual([each.name for each in read.entries], ["folder/one.json", "two.json"])
        for content, count in ((CRANE, 1), (f"[{CRANE}, {CRANE}]", 2)):
            self.assertEqual(len(archive.read_archive(io.BytesIO(content.encode())).entries), count)

    def test_pictures_are_what_their_hashes_say(self) -> None:
        digest = "0" * 64
        read = archive.read_archive(
            packed(
                {"a.json": CRANE, "p.png": b"other"},
                questions=[{"file": "a.json"}], pictures=[{"digest": digest, "file": "p.png"}],
            )
        )  # fmt: skip
        self.assertIsNone(read.picture(digest))
        self.assertIsNone(read.picture("1" * 64))

    def test_hostile_files_are_refused_in_words(self) -> None:
        nested = "[" * 100_000
        huge = io.BytesIO()
        with zipfile.ZipFile(huge, "w", zipfile.ZIP_DEFLATED) as made:
            for k in range(80):
                made.writestr(f"{k}.json", b"0" * 8_000_000)
        twice = io.BytesIO()
        with zipfile.ZipFile(twice, "w") as made, self.assertWarns(UserWarning):
            made.writestr("a.json", CRANE)
            made.writestr("a.json", CRANE)
        cut = packed({"a.json": CRANE}).getvalue()[:-30]
        liar = bytearray(packed({"a.json": CRANE}).getvalue())
        end = liar.rfind(archive.LAST)
        liar[end + 12 : end + 16] = (2**31).to_bytes(4, "little")
        for name, content, words in [
            ("nothing", b"", "nothing in this file"),
            ("a picture", b"\x89PNG\r\n", "neither a question document"),
            ("no JSON", b"{not json", "no JSON"),
            ("nested", nested.encode(), "no JSON"),
            ("a bomb", huge.getvalue(), "more than 600 MB"),
            ("two of a name", twice.getvalue(), "same name"),
            ("cut off", cut, "damaged"),
            ("a lying end", bytes(liar), "too many files"),
            ("no documents", packed({"readme.txt": "hello"}).getvalue(), "no question document"),
            ("another format", packed({}, format="other").getvalue(), "not known here"),
            ("a list of what is missing", packed({}, questions=[{"file": "../../etc/passwd"}]).getvalue(), "not in it"),
            ("a list that is none", packed({}, questions={"a": 1}).getvalue(), "damaged"),
            ("garbage inside", archive.ZIPPED + b"\0" * 200, "damaged"),
        ]:
            with self.subTest(name), self.assertRaisesRegex(archive.ArchiveError, words):
                archive.read_archive(io.BytesIO(content))

    def test_a_document_that_is_too_large_or_damaged_is_told_when_it_is_read(self) -> None:
        read = archive.read_archive(packed({"large.json": b" " * (archive.DOCUMENT + 10), "nan.json": '{"a": NaN}'}))
        for entry in read.entries:
            with self.subTest(entry.name), self.assertRaises(archive.ArchiveError):
                read.document(entry)

    def test_bytes_that_are_changed_at_random_never_break_it(self) -> None:
        chance = random.Random(3)
        whole = packed(
            {f"{k}.json": CRANE for k in range(5)}, questions=[{"file": f"{k}.json"} for k in range(5)]
        ).getvalue()
        for _ in range(800):
            content = bytearray(whole)
            for _ in range(chance.choice([1, 3, 20])):
                content[chance.randrange(len(content))] = chance.randrange(256)
            try:
                read = archive.read_archive(io.BytesIO(bytes(content[: chance.choice([len(content), 200, 2_000])])))
                for entry in read.entries:
                    read.document(entry)
            except archive.ArchiveError:
                continue
