"""What question documents are kept as: formats, identities, marks, the gate before them, and draws that are frozen."""

import json
from copy import deepcopy
from decimal import Decimal
from pathlib import Path
from typing import Any
from unittest import TestCase

from vorlage.core.questions import (
    FORMAT,
    CompiledQuestion,
    DocumentError,
    Filing,
    FrozenDraw,
    QuestionDocument,
    QuestionDrawing,
    adopted,
    facts,
    freeze,
    load_document,
    load_filed,
    says_the_same,
    soundness,
    thaw,
    upgraded,
    written,
    written_part,
    written_solution,
)
from vorlage.core.text import HTML, PRINTERS
from vorlage.library import ready_questions, samples

FORMAT_1 = Path(__file__).parents[1] / "upgrades/documents-of-format-1.json"


def crane(**changes: Any) -> dict[str, Any]:
    plain = {
        "title": "Crane",
        "parameters": [{"name": "m", "definition": "10..60 step 5"}, {"name": "h", "definition": "2..9"}],
        "parts": [
            {"wording": "Multiply $m$ and $h$.", "answer": {"kind": "number", "key": "m*h"}},
            {
                "wording": "Which?",
                "answer": {"kind": "choice", "options": [{"text": "A", "share": "1"}, {"text": "B"}]},
            },
        ],
    }
    return plain | changes


def identities(document: QuestionDocument) -> dict[str, str]:
    """The identity of every parameter, part and option by what it is."""
    found = {row.name: row.id for row in document.parameters}
    for part in document.parts:
        found[part.wording] = part.id
        for option in getattr(part.answer, "options", ()):
            found[option.text] = option.id
    return found


class Formats(TestCase):
    def test_documents_of_the_first_format_are_read_for_ever(self) -> None:
        for raw in json.loads(FORMAT_1.read_text("utf-8")):
            with self.subTest(raw["title"]):
                self.assertEqual(raw["format"], "vorlage-question-1")
                before = deepcopy(raw)
                document, filing = load_filed(raw)
                self.assertEqual(raw, before)
                self.assertEqual(
                    filing,
                    Filing(
                        topics=(("Physics", "Everything"),), level=3, calculator=filing.calculator, note=filing.note
                    ),
                )
                self.assertEqual(CompiledQuestion(document).problems, [])
                again = document.model_dump(mode="json")
                self.assertEqual((again["format"], load_document(again)), (FORMAT, document))
                self.assertFalse({"subject", "topic", "level", "calculator", "note"} & again.keys())
                self.assertEqual(filing.note, before.get("note", ""))
                self.assertEqual(filing.calculator, before.get("calculator", True))
                # nothing that it said is lost
                kept = {name: value for name, value in upgraded(raw).items() if name != "filing"}
                self.assertTrue(says_the_same(kept, again))

    def test_a_format_of_the_future_is_refused_in_words(self) -> None:
        for raw in ({"format": "vorlage-question-9"}, {"format": None}, {"format": ["x"]}, []):
            with self.assertRaisesRegex(DocumentError, "format|JSON object"):
                load_document(raw)

    def test_filing_stands_beside_the_document(self) -> None:
        filed = {"topics": [["Physics", "Energy"], ["Physics", " energy "]], "level": 4, "tags": ["crane", "Crane "]}
        document, filing = load_filed(crane(format=FORMAT, filing=filed))
        self.assertEqual((filing.topics, filing.level, filing.tags), ((("Physics", "Energy"),), 4, ("crane",)))
        self.assertEqual(document, load_document(crane()))
        for wrong, place in [
            ({"level": 6}, ("filing", "level")),
            ({"subject": "music"}, ("filing", "subject")),
            ({"topics": [["a", "b", "c", "d"]]}, ("filing", "topics", 0)),
        ]:
            with self.assertRaises(DocumentError) as caught:
                load_filed(crane(format=FORMAT, filing=wrong))
            self.assertEqual(caught.exception.faults[0].path, place)


class Identities(TestCase):
    def test_everything_has_one_and_it_is_the_same_wherever_it_is_made(self) -> None:
        for name, (document, _) in samples().items():
            with self.subTest(name):
                raw = document.model_dump(mode="json")
                self.assertEqual(load_document(raw), document)
                bare = json.loads(json.dumps(raw), object_hook=lambda held: {k: held[k] for k in held if k != "id"})
                first, second = load_document(bare), load_document(deepcopy(bare))
                self.assertEqual(first, second)
                given = [*(row.id for row in first.parameters), *(part.id for part in first.parts)]
                self.assertTrue(all(given))
                self.assertEqual(len(set(given)), len(given))

    def test_two_that_say_the_same_are_told_apart(self) -> None:
        part = {"wording": "Again.", "answer": {"kind": "true_false", "key": "true"}}
        document = load_document(crane(parts=[part, dict(part), {**part, "id": "x"}, {**part, "id": "x"}]))
        self.assertEqual(len({each.id for each in document.parts}), 4)
        self.assertEqual(document.parts[2].id, "x")

    def test_one_that_is_none_is_told(self) -> None:
        for identity in ("Ä", "a b", "x" * 30, "<b>"):
            with self.assertRaises(DocumentError):
                load_document(crane(parameters=[{"id": identity, "name": "m", "definition": "1"}]))

    def test_a_later_revision_takes_them_over(self) -> None:
        earlier = load_document(crane()).model_dump(mode="json")
        known = identities(load_document(earlier))
        multiply, which = crane()["parts"]
        rows = [{"name": "mass", "definition": "10..60 step 5"}, {"name": "h", "definition": "3..9"}]
        said = {"kind": "choice", "options": [{"text": "C"}, {"text": "B"}, {"text": "A", "share": "1"}]}
        changed = crane(
            parameters=rows,
            parts=[
                {"wording": "First this.", "answer": {"kind": "text", "accept": ["weight"]}},
                {**which, "answer": said},
                {**multiply, "wording": "Find $m h$.", "marks": 3},
            ],
        )
        after = identities(load_document(adopted(load_document(changed).model_dump(mode="json"), earlier)))
        # renamed with its definition, redefined under its name, moved, and reworded
        self.assertEqual((after["mass"], after["h"]), (known["m"], known["h"]))
        self.assertEqual((after["Which?"], after["Find $m h$."]), (known["Which?"], known["Multiply $m$ and $h$."]))
        self.assertEqual((after["A"], after["B"]), (known["A"], known["B"]))
        self.assertFalse({after["First this."], after["C"]} & set(known.values()))


class Marks(TestCase):
    def test_they_may_be_fractions_and_are_exact(self) -> None:
        for source, marks in [
            (2, "2"),
            (2.5, "2.5"),
            ("0.25", "0.25"),
            ("1/2", "0.5"),
            ("10.00", "10"),
            (0, "0"),
            (100, "100"),
        ]:
            part = {"answer": {"kind": "number", "key": "1"}, "marks": source}
            document = load_document(crane(parts=[part, dict(part)]))
            self.assertEqual(str(document.parts[0].marks), marks)
            self.assertEqual(document.marks, 2 * Decimal(marks))
            self.assertEqual(load_document(json.loads(json.dumps(document.model_dump(mode="json")))), document)

    def test_what_is_no_number_of_marks_is_told(self) -> None:
        for source in ("two", "", "1/3", 0.125, -1, 101, "1e999999", "nan", True, None, "1/0", [1], "½ x"):
            with self.subTest(source), self.assertRaisesRegex(DocumentError, "Marks are a number from 0 to 100"):
                load_document(crane(parts=[{"answer": {"kind": "number", "key": "1"}, "marks": source}]))

    def test_levels_of_a_rubric_have_them_too(self) -> None:
        answer = {"kind": "essay", "rubric": "Method | 0 nothing | 0.5 a start | 2 complete"}
        (part,) = load_document(crane(parts=[{"answer": answer, "marks": 2}])).parts
        self.assertEqual([str(level.marks) for level in part.answer.rubric[0].levels], ["0", "0.5", "2"])


class TheGate(TestCase):
    """What would reach students is refused wherever it comes from."""

    def judged(self, **changes: Any) -> Any:
        return soundness(CompiledQuestion(load_document(crane(**changes))), "gate", 1)

    def test_every_sample_and_ready_question_passes(self) -> None:
        documents = [document for document, _ in samples().values()]
        documents += [ready.document for ready in ready_questions().values()]
        for document in documents:
            with self.subTest(document.title):
                self.assertEqual(soundness(CompiledQuestion(document), document.title, 1).reasons, [])

    def test_what_no_student_could_answer_does_not(self) -> None:
        def keyed(key: str) -> list[Any]:
            return [{"wording": "Work it out.", "answer": {"kind": "number", "key": key}}]

        for changes, words in [
            ({"parameters": [{"name": "m", "definition": "150.."}]}, "150"),
            ({"conditions": ["m > 1000"]}, "No draw meets"),
            ({"parts": keyed("m/(h - h)")}, "divides by 0"),
            ({"parts": keyed("m*k")}, "k is not a parameter"),
            ({"parts": [{"answer": {"kind": "formula", "key": "m (x + h)", "form": "expanded"}}]}, "own check"),
            ({"wording": "It is $value(1/(m - m))$."}, "cannot be worked out"),
            ({"wording": "See $2 3$."}, ""),
            ({"figures": [{"name": "f", "lines": "frame 0..m, 0..5\\npoint (1/(h - h), 2)"}], "wording": "![x](figure:f)"}, ""),
            ({"pins": [{"values": {"m": "11", "h": "2"}}]}, "Pinned draw 1: m = 11 is not drawn any more."),
        ]:  # fmt: skip
            with self.subTest(str(changes)):
                judged = self.judged(**changes)
                self.assertFalse(judged.sound)
                self.assertIn(words, " ".join(judged.reasons))

    def test_what_is_only_ugly_does(self) -> None:
        judged = self.judged(parameters=[{"name": "m", "definition": "1..2"}, {"name": "h", "definition": "5"}])
        self.assertTrue(judged.sound)
        self.assertIn("few", {warning.code for warning in judged.warnings})


class Frozen(TestCase):
    def test_a_frozen_draw_shows_and_marks_as_it_was_drawn(self) -> None:
        documents = [document for document, _ in samples().values()]
        documents += [ready.document for ready in ready_questions().values()]
        for document in documents:
            question = CompiledQuestion(document)
            drawing = QuestionDrawing(question, document.title, 1)
            for number in range(1, 6):
                with self.subTest(f"{document.title} {number}"):
                    drawn = drawing.draw(number)
                    kept = freeze(drawn)
                    plain = json.loads(json.dumps([kept.number, kept.values, kept.orders, kept.texts]))
                    again = thaw(drawing, FrozenDraw(*plain))
                    self.assertEqual(dict(again.values), dict(drawn.values))
                    for part in range(len(document.parts)):
                        for printer in PRINTERS:
                            for write in (written_part, written_solution):
                                self.assertEqual(write(again, part, printer), write(drawn, part, printer))
                        self.assertEqual(again.key_tree(part), drawn.key_tree(part))
                        self.assertEqual(again.offered(part), drawn.offered(part))

    def test_nothing_of_it_is_drawn_or_worked_out_again(self) -> None:
        rows = [{"name": "m", "definition": "2..9"}, {"name": "d", "definition": "2m"}]
        part = {"wording": "$value(m + 1)$", "answer": {"kind": "order", "items": ["one", "two", "three"]}}
        raw = crane(parameters=rows, wording="$d$", parts=[part])
        kept = freeze(QuestionDrawing(CompiledQuestion(load_document(raw)), "k", 1).draw(1))
        # a version that drew, computed and ordered otherwise
        other = {**raw, "parameters": [{"name": "m", "definition": "20..90"}, {"name": "d", "definition": "3m"}]}
        drawn = thaw(QuestionDrawing(CompiledQuestion(load_document(other)), "another", 7), kept)
        self.assertEqual(freeze(drawn), kept)
        m = int(kept.values["m"])
        self.assertIn(f"<mn>{2 * m}</mn>", written(drawn, drawn.question.wording, HTML))
        self.assertIn(f"<mn>{m + 1}</mn>", written_part(drawn, 0, HTML))

    def test_what_was_printed_for_a_draw_is_taken_for_those_with_the_same_values_alone(self) -> None:
        rows = [{"name": "m", "definition": "-2..2"}, {"name": "d", "definition": "m/3"}]
        raw = crane(parameters=rows, wording="$m$, $d x + m$, $value(m + 1)$, $x$", parts=crane()["parts"][1:])
        drawing = QuestionDrawing(CompiledQuestion(load_document(raw)), "k", 1)
        for number in (1, 2, 3, 4, 5, 2, 1):
            drawn = drawing.draw(number)
            alone = QuestionDrawing(CompiledQuestion(load_document(raw)), "k", 1).draw(number)
            for printer in PRINTERS:
                shown = written(drawn, drawn.question.wording, printer)
                self.assertEqual(shown, written(alone, alone.question.wording, printer), number)
        # what came out was kept with the draw
        kept = freeze(drawn)
        for came_to in ("7", "8"):
            again = thaw(drawing, FrozenDraw(kept.number, kept.values, kept.orders, dict.fromkeys(kept.texts, came_to)))
            self.assertIn(f"<mn>{came_to}</mn>", written(again, again.question.wording, HTML))

    def test_what_was_not_kept_is_refused(self) -> None:
        drawing = QuestionDrawing(CompiledQuestion(load_document(crane())), "k", 1)
        for value in ("x", {"code": "1"}, None, 3, "1/2/3"):
            with self.assertRaises((ValueError, TypeError)):
                thaw(drawing, FrozenDraw(1, {"m": value}, {}, {}))


class Facts(TestCase):
    def test_they_are_those_of_the_question_and_its_first_draw(self) -> None:
        question = CompiledQuestion(load_document(crane(wording="A crate of $m$ kg.")))
        found = facts(QuestionDrawing(question, "k", 1).draw(1))
        self.assertEqual((found.title, found.marks, found.kinds, found.draws), ("Crane", 2, ["number", "choice"], 88))
        self.assertEqual([part["label"] for part in found.parts], ["(a)", "(b)"])
        self.assertEqual([part["id"] for part in found.parts], [part.id for part in question.document.parts])
        self.assertIn("A crate of", found.sheet)
