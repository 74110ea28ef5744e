"""Every ready question: sound, drawn sixty times, its keys proved, and one idea each."""

from unittest import TestCase

from vorlage.core.questions import CompiledQuestion, QuestionDrawing, diagnose
from vorlage.library import ready_questions

DRAWS = 60


class Gallery(TestCase):
    def test_there_are_many_and_each_shows_one_idea(self) -> None:
        ready = ready_questions()
        self.assertGreaterEqual(len(ready), 60)
        self.assertEqual(len({each.idea for each in ready.values()}), len(ready))
        kinds = {part.answer.kind for each in ready.values() for part in each.document.parts}
        self.assertGreaterEqual(len(kinds), 16, kinds)

    def test_every_one_can_be_used_as_it_is(self) -> None:
        for name, each in ready_questions().items():
            with self.subTest(name):
                question = CompiledQuestion(each.document)
                self.assertEqual(question.problems, [])
                self.assertTrue(each.filing.topic)
                available = question.parameters.count or DRAWS
                drawn = [
                    QuestionDrawing(question, name, 1).draw(number) for number in range(1, min(DRAWS, available) + 1)
                ]
                for item in drawn:
                    self.assertEqual(item.draw.problems, {})
                    for answer in item.answers:
                        assert answer is not None
                        self.assertEqual(answer.fault(), "")
                told = {warning.code for warning in diagnose(question, drawn)} - {"fixed", "few", "same", "negative"}
                self.assertLessEqual(told, {"zero"} if "zero" in each.idea else set(), diagnose(question, drawn))
