"""Groups of answers across draws: what is the same relative to its own key is one group."""

from __future__ import annotations

from typing import Any
from unittest import TestCase

from vorlage.core.algebra import approximate
from vorlage.core.marking import Group, answered, folded, group_answers, key_formula
from vorlage.core.questions import CompiledQuestion, QuestionDrawing, load_document

DOCUMENT: dict[str, Any] = {
    "title": "A crane",
    "parameters": [
        {"name": "m", "definition": "200..900 step 10"},
        {"name": "h", "definition": "3..40"},
        {"name": "W", "definition": "m*9.81*h"},
    ],
    "wording": "A crane lifts $m$ kg by $h$ m.",
    "parts": [
        {"wording": "The work?", "marks": 2, "answer": {
            "kind": "quantity", "key": "W/1000", "unit": "kJ", "tolerance": {"mode": "relative", "value": "1%"},
            "slips": [{"key": "m*h/1000", "share": "1/4"}],
        }},
        {"wording": "Which way?", "marks": 1, "answer": {"kind": "choice", "options": [
            {"text": "up", "share": "1"}, {"text": "down to $h$"}, {"text": "nowhere"},
        ]}},
        {"wording": "Why?", "marks": 1, "answer": {"kind": "text", "accept": ["gravity"]}},
        {"wording": "Tell.", "marks": 3, "answer": {"kind": "essay"}},
    ],
}  # fmt: skip


class Groups(TestCase):
    def setUp(self) -> None:
        question = CompiledQuestion(load_document(DOCUMENT))
        self.assertEqual(question.problems, [])
        drawing = QuestionDrawing(question, "crane", 1)
        self.draws = [drawing.draw(number) for number in range(1, 31)]

    def numbers(self, k: int) -> tuple[float, float]:
        m, h = (approximate(self.draws[k].values[name]) for name in ("m", "h"))  # type: ignore[arg-type]
        return m, h

    def groups(self, part: int, responses: list[Any]) -> list[Group]:
        given = [
            answered(drawn, part, [""] * part + [response], drawn.draw.number)
            for drawn, response in zip(self.draws, responses)
        ]
        found = key_formula(self.draws[0], part)
        if found is None:
            return group_answers(given)
        tree, names = found
        values = [{name: drawn.values[name] for name in names & drawn.values.keys()} for drawn in self.draws]
        return group_answers(given, tree, "radians", values[: len(given)])

    def test_equal_mistakes_in_thirty_draws_are_one_group(self) -> None:
        responses = []
        for k in range(30):
            m, h = self.numbers(k)
            right = m * 9.81 * h / 1000
            responses.append(f"{m * 10 * h / 1000 / 2:.4g} kJ" if k < 25 else f"{right:.4g} kJ")
        first, last = self.groups(0, responses)
        self.assertEqual((first.kind, first.members), ("formula", tuple(range(25))), first)
        self.assertEqual((last.kind, len(last.members)), ("right", 5))

    def test_a_rule_a_near_miss_a_unit_and_what_cannot_be_read(self) -> None:
        responses = []
        for k in range(12):
            m, h = self.numbers(k)
            right = m * 9.81 * h / 1000
            responses.append(
                [f"{m * h / 1000:.4g} kJ", f"{-right:.4g} kJ", f"{right:.4g}", f"{right:.4g} m", "who knows", "  "][
                    k % 6
                ]
            )
        found = {(each.kind, each.words): len(each.members) for each in self.groups(0, responses)}
        self.assertEqual(
            found,
            {
                ("slip", "slip m*h/1000"): 2, ("near", "wrong sign"): 2, ("unit", "the unit is missing"): 2,
                ("unit", "the unit has the wrong dimension"): 2, ("unreadable", "who knows"): 2, ("blank", ""): 2,
            },
        )  # fmt: skip

    def test_an_option_is_the_same_whatever_letter_it_stands_under(self) -> None:
        responses = []
        for k, drawn in enumerate(self.draws):
            letters = {text.source: label for label, text in drawn.offered(1)}
            responses.append(letters[["down to $h$", "up", "down to $h$"][k % 3]])
        self.assertGreater(len(set(responses[::3])), 1)
        first, last = self.groups(1, responses)
        self.assertEqual((first.kind, first.words, len(first.members)), ("option", "down to $h$", 20))
        self.assertEqual((last.kind, len(last.members)), ("right", 10))

    def test_words_are_folded(self) -> None:
        found = self.groups(2, ["Friction", " friction. ", "the sun", "Gravity"])
        self.assertEqual(
            [(each.kind, each.words, len(each.members)) for each in found],
            [("words", "friction", 2), ("words", "the sun", 1), ("right", "", 1)],
        )

    def test_what_is_written_at_length_is_marked_one_by_one(self) -> None:
        found = self.groups(3, ["Because it is heavy.", "It is heavy."])
        self.assertEqual([(each.kind, len(each.members)) for each in found], [("hand", 1), ("hand", 1)])

    def test_equal_numbers_of_one_draw_are_equal_and_others_are_not(self) -> None:
        self.draws[1] = self.draws[0]
        found = self.groups(0, ["7.1 kJ", "7.1 kJ", "7.1 kJ"])
        self.assertEqual([(each.kind, each.members) for each in found], [("value", (0, 1)), ("one", (2,))])

    def test_a_digit_copied_wrongly_is_told(self) -> None:
        m, h = self.numbers(0)
        right = f"{m * 9.81 * h / 1000:.4f}"
        place = next(k for k, figure in enumerate(right) if figure.isdigit())
        wrong = right[:place] + str((int(right[place]) + 4) % 9 + 1) + right[place + 1 :]
        self.assertEqual(
            [(each.kind, each.words) for each in self.groups(0, [f"{wrong} kJ"])], [("near", "one digit wrong")]
        )

    def test_folding(self) -> None:
        self.assertEqual(folded("ＡＢ  c."), "ab c")
