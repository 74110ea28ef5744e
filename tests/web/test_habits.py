"""The habits of a place: what a department sets holds for what is typed, shown, tried and printed there."""

import json
import re
from copy import deepcopy
from html import unescape
from typing import Any

from django.test import TestCase
from django.urls import reverse

from tests.web.reading import read_page
from vorlage.core.documents import Heading, Printing
from vorlage.core.forms import make_forms
from vorlage.core.notation import Habits
from vorlage.core.plans import Place, Plan
from vorlage.core.questions import CompiledQuestion, load_document
from vorlage.library import ready_questions, samples
from vorlage.web.bank.models import Question
from vorlage.web.desk.form import Desk
from vorlage.web.desk.local import by_habits, opened
from vorlage.web.desk.models import Draft
from vorlage.web.people.models import Department

from .samples import department, frozen, person, question, test_of
from .test_mistakes import FIELDS

COMMA = Habits("comma", "apostrophe", "dot", True, True)
SET = {
    "decimal_mark": "comma", "thousands": "apostrophe", "times": "dot", "colon": "on", "tg": "on",
    "name": "Physics", "first_marks": "2", "rounding": "exact",
}  # fmt: skip


class OnTheDesk(TestCase):
    def test_every_question_is_typed_with_the_comma_and_kept_with_the_point(self) -> None:
        everything = [(each.document, each.filing) for each in ready_questions().values()] + list(samples().values())
        self.assertGreater(len(everything), 60)
        for document, filing in everything:
            with self.subTest(document.title):
                desk = opened(document, filing, COMMA)
                self.assertEqual((desk.read.problems, desk.read.document), ([], document))

    def test_a_draft_of_other_habits_is_turned(self) -> None:
        document, filing = samples()["harbour-crane"]
        begun = opened(document, filing, COMMA)
        kept = Desk.from_draft(json.loads(json.dumps(begun.as_draft())))
        self.assertEqual(kept.habits, COMMA)
        turned = by_habits(kept, Habits())
        self.assertEqual(turned.read.document, document)
        self.assertEqual(by_habits(turned, COMMA), begun)

    def test_what_cannot_be_turned_stays_as_it_was_typed(self) -> None:
        desk = Desk.from_document(samples()["harbour-crane"][0])
        desk.parameters[0].definition, desk.wording = "1,2,3", "a $ and $1,2,3$"
        turned = by_habits(by_habits(desk, COMMA), Habits())
        self.assertEqual((turned.parameters[0].definition, turned.wording), ("1,2,3", "a $ and $1,2,3$"))


class InADepartment(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        Department.objects.filter(pk=cls.physics.pk).update(
            decimal_mark="comma", thousands="apostrophe", times="dot", colon=True, tg=True
        )
        cls.physics.refresh_from_db()
        cls.author = person("author", cls.physics)

    def setUp(self) -> None:
        self.client.force_login(self.author)

    def preview(self, **changes: Any) -> str:
        return read_page(
            self.client.post(reverse("preview-question"), FIELDS | changes, headers={"HX-Request": "true"})
        )

    def test_what_is_typed_is_read_tried_and_shown_so(self) -> None:
        page = self.preview(**{
            "wording": "A crate of $m$ is lifted at $1,5 : 2$.", "parameter-p1-definition": "2,5..40 step 0,5",
            "part-q1-key": "m*9,81*h", "part-q1-tolerance": "2,5%", "draw": "1", "active": "q1",
            "part-q1-marks": "1,5", "try-q1": "1.000,5",
        })  # fmt: skip
        self.assertNotIn("field-error", page)
        self.assertIn("<mn>1,5</mn>", page)
        self.assertIn("1,5 marks", page)
        self.assertIn("read as", page)
        self.assertIn("<mn>1000,5</mn>", page)
        self.assertIn("within 2,5 %", page)
        self.assertNotRegex(page, r"<m[no]>\d+\.\d|read as[^<]*\.\d")

    def test_a_point_is_told_beside_its_field_and_cured_with_a_press(self) -> None:
        cases = [
            ("part-q1-key", "m*9.81*h", "part-q1-key", "m*9,81*h"),
            ("parameter-p1-definition", "2.5..40", "parameter-p1-definition", "2,5..40"),
            ("parameter-p1-definition", "one of 3,5,7", "parameter-p1-definition", "one of 3; 5; 7"),
            ("condition-c1", "h > 1.5", "condition-c1", "h > 1,5"),
            ("part-q1-tolerance", "0.5", "part-q1-tolerance", "0,5"),
            ("part-q1-marks", "1.5", "part-q1-marks", "1,5"),
        ]
        for name, typed, field, cured in cases:
            with self.subTest(typed):
                page = self.preview(**{"part-q1-key": "m*9,81*h", name: typed})
                self.assertIn(f'{{"{field}": "{cured}"}}', unescape(page))
                said = re.findall(r'<div class="row-message" id="message-[\w-]+"[^>]*>(.*?)</div>', page)
                self.assertEqual(sum("comma" in each for each in said), 1, said)

    def test_a_message_shows_examples_as_they_are_typed_here(self) -> None:
        page = self.preview(**{"parameter-p1-definition": "2..40 step"})
        self.assertIn("<code>step 0,5</code>", page)

    def test_it_is_saved_with_the_point_and_opened_with_the_comma(self) -> None:
        sent = FIELDS | {"part-q1-key": "m*9,81*h : 2", "part-q1-marks": "1,5", "part-q1-hint": ["h1"],
                         "hint-h1-text": "Use $9,81$.", "hint-h1-cost": "0,25"}  # fmt: skip
        self.client.post(reverse("save-question"), sent, headers={"HX-Request": "true"})
        kept = load_document(Question.objects.get().newest.document)
        self.assertEqual(kept.parts[0].answer.lines()[0][1], "m*9.81*h / 2")
        self.assertEqual((str(kept.parts[0].marks), kept.parts[0].hints[0].text), ("1.5", "Use $9.81$."))
        page = read_page(self.client.get(reverse("question", args=[Question.objects.get().pk])))
        for shown in ('value="m*9,81*h / 2"', 'value="1,5"', "Use $9,81$.", 'value="1/4"'):
            self.assertIn(shown, page)

    def test_a_question_of_a_place_with_the_point_is_the_same_one(self) -> None:
        made = question(self.physics, self.author)
        page = read_page(self.client.get(reverse("question", args=[made.pk])))
        self.assertRegex(page, r'value="4,0\.\.9,0 step 0,2"')
        self.assertIn(f"Revision {made.latest}", page)
        listed = read_page(self.client.get(reverse("questions")))
        self.assertRegex(listed, r"<mn>\d+,\d</mn>")
        self.assertNotRegex(listed, r"<mn>\d+\.\d</mn>")
        self.assertRegex(listed, "9,81(?:.|&nbsp;)N/\N{WORD JOINER}kg")

    def test_the_history_is_read_so(self) -> None:
        made = question(self.physics, self.author)
        document = made.newest.document | {"conditions": ["E < 50", "E/t > 0.45"]}
        Question.save_revision(self.physics, self.author, load_document(document), question=made)
        page = re.sub("<[^>]+>", "", read_page(self.client.get(reverse("question-history", args=[made.pk]))))
        self.assertIn("E/t > 0,45", unescape(page))
        self.assertNotIn("0.4", page)

    def test_papers_and_keys_are_printed_so_and_stay_so(self) -> None:
        made = frozen(test_of(self.physics, self.author, question(self.physics, self.author)))
        Department.objects.update(decimal_mark="point")
        page = read_page(self.client.get(reverse("form-set", args=[made.pk])))
        self.assertRegex(page, r"<mn>\d+,\d+</mn>")
        plain, comma = (self.paper(habits) for habits in (Habits(), COMMA))
        self.assertNotIn('"6,', plain)
        self.assertRegex(comma, r'"\d,\d["\u2006]')

    def paper(self, habits: Habits) -> str:
        plan = Plan("Quay", [Place(CompiledQuestion(samples()["harbour-crane"][0], habits), "crane", 1)], "", habits)
        return Printing(plan, Heading("Quay")).paper(make_forms(plan, 1, "seed").forms[0])

    def test_a_fixed_question_is_read_and_varied_so(self) -> None:
        sent = {
            "text": "A crate of mass 350 kg is lifted to a quay 6,4 m above the water. Find the work.",
            "answer": "22,0 kJ",
        }
        page = read_page(self.client.post(reverse("look-for-numbers"), sent, headers={"HX-Request": "true"}))
        self.assertIn("6,4", page)
        self.assertNotRegex(page, r'name="definition[^>]*value="[^"]*\d\.\d')
        self.client.post(
            reverse("vary"), sent | {"vary-d": "on", "definition-d": "4,5..9 step 0,5", "formula": "m*g*h"}
        )
        desk = Desk.from_draft(deepcopy(Draft.objects.get().fields))
        self.assertEqual([row.definition for row in desk.parameters], ["4,5..9 step 0,5"])


class Settings(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.lead, cls.author = person("lead", cls.physics, "lead"), person("author", cls.physics)

    def test_the_head_changes_them_and_others_see_them(self) -> None:
        self.client.force_login(self.author)
        page = read_page(self.client.get(reverse("department-settings")))
        self.assertIn("The head of department changes them.", page)
        self.assertEqual(self.client.post(reverse("department-settings"), SET).status_code, 403)
        self.client.force_login(self.lead)
        page = read_page(self.client.post(reverse("department-settings"), SET, follow=True))
        self.physics.refresh_from_db()
        self.assertEqual(self.physics.habits, COMMA)
        self.assertIn("23544,75", page)
        self.assertIn("<mn>23’544,75</mn>", page)

    def test_examples_follow_what_is_chosen_before_it_is_saved(self) -> None:
        self.client.force_login(self.lead)
        shown = self.client.get(reverse("department-settings"), SET, headers={"HX-Request": "true"})
        page = read_page(shown)
        self.assertIn("<mi>tg</mi>", page)
        self.assertNotIn("<form", page)
        self.physics.refresh_from_db()
        self.assertEqual(self.physics.habits, Habits())

    def test_nonsense_is_told_and_nothing_changes(self) -> None:
        self.client.force_login(self.lead)
        answer = self.client.post(reverse("department-settings"), {"decimal_mark": "semicolon"})
        self.assertEqual(answer.status_code, 422)
        self.assertIn("field-error", read_page(answer))
        self.physics.refresh_from_db()
        self.assertEqual(self.physics.habits, Habits())
