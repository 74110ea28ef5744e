"""What an author says of answering: parts that have to be answered, and questions without signs to type."""

from __future__ import annotations

import re

from django.test import TestCase
from django.urls import reverse

from vorlage.core.exchange.plain import read_plain, write_plain
from vorlage.core.notation import USUAL
from vorlage.core.questions import load_document
from vorlage.library import samples
from vorlage.web.bank.models import Question

from .samples import department, frozen, person, question, test_of
from .test_questions import FIELDS
from .test_sittings import MINUTE, Sat


class Required(Sat):
    """A test of two questions; the second part of the second has to be answered."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        asked = {"wording": "Which word?", "answer": {"kind": "text", "accept": ["quay"]}}
        parts = [
            {"wording": "How many?", "answer": {"kind": "number", "key": "12"}},
            asked | {"required": True},
        ]
        second = question(cls.physics, cls.author, "foghorn", parts=parts, no_signs=True, parameters=[], conditions=[])
        cls.test = test_of(cls.physics, cls.author, cls.questions[0], second, title="Words")
        cls.form_set = frozen(cls.test, 1)

    def test_one_hands_in_when_it_is_answered(self) -> None:
        sitting, student = self.give(), self.as_student()
        data = self.work(sitting, client=student)
        where = self.parts(self.taking(sitting))[-1]
        page = student.get(reverse("sit-work", args=[sitting.pk]))
        self.assertContains(page, "has to be answered", count=1)
        check = student.get(reverse("before-handing-in", args=[sitting.pk]))
        self.assertContains(check, "and has to be answered", count=1)
        self.assertNotContains(check, "Hand in now")
        answer = student.post(reverse("hand-in", args=[sitting.pk]))
        self.assertRedirects(answer, reverse("before-handing-in", args=[sitting.pk]))
        data = self.work(sitting, client=student)
        self.assertTrue(self.road("hand-in-late", data)["lacking"])
        self.save(data, (1, *where, "  "))
        self.assertTrue(self.road("hand-in-late", data)["lacking"])
        self.save(data, (2, *where, "quay"))
        self.assertContains(student.get(reverse("before-handing-in", args=[sitting.pk])), "Hand in now")
        self.assertTrue(self.road("hand-in-late", data)["receipt"])

    def test_it_keeps_nobody_whose_time_is_up(self) -> None:
        for k, time_up in enumerate(("hand_in_only", "go_on")):
            sitting, student = self.give(limit=30 * MINUTE, time_up=time_up), self.as_student(k)
            self.work(sitting, k, student)
            taking = self.taking(sitting, k)
            self.assertNotContains(student.get(reverse("before-handing-in", args=[sitting.pk])), "Hand in now")
            taking.ends = taking.begun - MINUTE
            taking.save()
            self.assertContains(student.get(reverse("before-handing-in", args=[sitting.pk])), "Hand in now")
            student.post(reverse("hand-in", args=[sitting.pk]))
            self.assertIsNotNone(self.taking(sitting, k).handed_in)

    def test_signs_are_offered_where_the_question_does(self) -> None:
        sitting, student = self.give(), self.as_student()
        self.work(sitting, client=student)
        first, second = student.get(reverse("sit-work", args=[sitting.pk])).content.decode().split('id="question-1"')
        self.assertIn("data-sign=", first)
        self.assertNotIn("data-sign=", second)


class Written(TestCase):
    """The same at the desk, and in the ways in and out."""

    def test_it_travels_as_text_and_comes_back(self) -> None:
        document, filing = samples()["harbour-crane"]
        given = document.model_dump(mode="json")
        given |= {"parts": [part | {"required": True, "before": "W ="} for part in given["parts"]], "no_signs": True}
        text = write_plain([(load_document(given), filing)])
        self.assertIn("Has to be answered: yes", text)
        self.assertIn("Signs to type: no", text)
        back = read_plain(text).questions[0].loaded(USUAL)
        assert back is not None
        self.assertTrue(back[0].no_signs)
        self.assertTrue(all(part.required and part.before == "W =" for part in back[0].parts))

    def test_the_desk_keeps_and_shows_it(self) -> None:
        author = person("writer", department("Chemistry"))
        self.client.force_login(author)
        blank = self.client.get(reverse("new-question"))
        self.assertRegex(blank.content.decode(), r'name="signs" checked')
        for ticked in (True, False):
            fields = FIELDS | ({"part-q1-required": "on"} if ticked else {"signs": "on"})
            self.client.post(reverse("save-question"), fields | {"title": f"Ticked {ticked}"})
            kept = Question.objects.get(current__title=f"Ticked {ticked}")
            self.assertEqual(kept.current.document["parts"][0]["required"], ticked)
            self.assertEqual(kept.current.document["no_signs"], ticked)
            page = self.client.get(reverse("question", args=[kept.pk])).content.decode()
            self.assertEqual(bool(re.search(r'name="part-\w+-required"\s+checked', page)), ticked)
            self.assertEqual('name="signs" checked' in page, not ticked)
