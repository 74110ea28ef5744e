"""A test on the wall: other numbers, the answer and the worked solution by keys, and answers from phones without names."""

from __future__ import annotations

import json
import re
from datetime import timedelta
from typing import Any

from django.core.cache import cache
from django.test import Client, TestCase
from django.urls import reverse
from django.utils import timezone

from vorlage.core.notation import line
from vorlage.web.sittings.models import Wall, WallAnswer
from vorlage.web.sittings.on_wall import drawn

from .samples import department, person, question, test_of


class OnTheWall(TestCase):
    @classmethod
    def setUpTestData(cls) -> None:
        cls.physics = department("Physics")
        cls.author = person("author", cls.physics)
        cls.questions = [question(cls.physics, cls.author, name) for name in ("foghorn", "harbour-crane")]
        cls.test = test_of(cls.physics, cls.author, *cls.questions)

    def setUp(self) -> None:
        cache.clear()
        self.client.force_login(self.author)
        self.client.post(reverse("show-test", args=[self.test.pk]))
        self.wall = Wall.objects.get()

    def do(self, what: str, **more: Any) -> str:
        headers = {"HX-Request": "true"}
        answer = self.client.post(reverse("wall-do", args=[self.wall.pk]), {"what": what} | more, headers=headers)
        self.assertEqual(answer.status_code, 200)
        self.wall.refresh_from_db()
        return answer.content.decode()

    def phone(self, **answers: Any) -> Client:
        phone = Client()
        phone.get(reverse("wall-phone", args=[self.wall.code]))
        self.send(phone, **answers)
        return phone

    def send(self, phone: Client, **answers: Any) -> None:
        given = {"turn": self.wall.turn, "answers": json.dumps(answers)}
        phone.post(reverse("wall-answer", args=[self.wall.code]), given)

    @property
    def part(self) -> str:
        return str(self.wall.shown["parts"][0]["id"])

    @property
    def key(self) -> str:
        key = drawn(self.wall).key_tree(0)
        assert key is not None
        return line(key)

    def test_no_key_is_in_the_page_or_in_a_row_before_it_is_shown(self) -> None:
        page = self.client.get(reverse("on-wall", args=[self.wall.pk])).content.decode()
        self.assertIn("Question 1 of 2", page)
        self.assertNotIn('class="wall-key"', page)
        self.assertNotIn("worked", page)
        number = re.search(r"\d[\d.]*", self.key)
        assert number
        row = json.dumps([self.wall.shown, self.wall.readers])
        self.assertNotIn(number[0], re.sub(r'"id": "\w+"', "", row))
        self.assertIn('class="wall-key"', self.do("answer"))
        self.assertIn('class="worked"', self.do("solution"))
        self.assertNotIn('class="wall-key"', self.do("answer"))
        # the phone has nothing of it, whatever the wall shows
        self.do("answer")
        page = Client().get(reverse("wall-phone", args=[self.wall.code])).content.decode()
        self.assertNotIn('class="wall-key"', page)
        self.assertNotIn('class="worked"', page)

    def test_other_numbers_and_other_questions_cover_what_was_shown(self) -> None:
        self.do("answer")
        before = self.wall.draw["values"]
        self.assertNotIn('class="wall-key"', self.do("draw"))
        self.assertNotEqual(self.wall.draw["values"], before)
        self.assertEqual(self.wall.turn, 2)
        self.do("solution")
        self.assertIn("Question 2 of 2", self.do("next"))
        self.assertFalse(self.wall.solution)
        # there is nothing behind the last, and nothing before the first
        self.do("next")
        self.assertEqual(self.wall.position, 1)
        self.do("back")
        self.do("back")
        self.assertEqual(self.wall.position, 0)
        self.assertNotEqual(self.wall.draw["values"], before)
        for what in ("", "everything", "code"):
            self.do(what)

    def test_a_timer(self) -> None:
        self.do("timer", length="1 h 40")
        assert self.wall.until is not None
        self.assertAlmostEqual(
            self.wall.until.timestamp(), (timezone.now() + timedelta(minutes=100)).timestamp(), delta=9
        )
        self.do("timer", length="3")
        self.assertIsNone(self.wall.until)
        self.do("timer", length="soon")
        assert self.wall.until is not None
        self.assertAlmostEqual(
            self.wall.until.timestamp(), (timezone.now() + timedelta(minutes=2)).timestamp(), delta=9
        )

    def test_phones_are_counted_and_shown_once_uncovered_and_never_under_five(self) -> None:
        for typed in ("12", "12", "13", "14"):
            self.phone(**{self.part: typed})
        # nothing sent is nothing answered
        self.phone(**{self.part: " "})
        now = reverse("wall-now", args=[self.wall.pk])
        self.assertContains(self.client.get(now), "4 phones answered.")
        self.assertNotIn("tallies", self.do("uncovered"))
        self.assertContains(self.client.get(now), "what they gave is shown")
        phone = self.phone(**{self.part: "99"})
        self.assertContains(self.client.get(now), "tallies")
        # changed until the next one comes, and still one answer
        self.send(phone, **{self.part: "12"})
        page = self.client.get(now)
        self.assertContains(page, "5 phones answered")
        self.assertNotContains(page, ">99<")
        self.assertNotIn("tallies", self.do("uncovered"))

    def test_of_two_questions_nobody_can_tell_that_one_phone_answered_both(self) -> None:
        phone = self.phone(**{self.part: "12"})
        self.do("draw")
        self.send(phone, **{self.part: "13"})
        first, second = WallAnswer.objects.order_by("turn")
        self.assertNotEqual(first.phone, second.phone)
        fields = {each.name for each in WallAnswer._meta.get_fields()}
        self.assertEqual(fields, {"id", "wall", "turn", "part", "response", "phone"})
        # an answer to a question that is gone is not one to this one
        late = {"turn": 1, "answers": json.dumps({self.part: "77"})}
        phone.post(reverse("wall-answer", args=[self.wall.code]), late)
        self.assertFalse(WallAnswer.objects.filter(response="77").exists())

    def test_a_phone_comes_in_by_the_code_and_sees_the_next_question_by_itself(self) -> None:
        phone = Client()
        code = str(self.wall.code)
        answer = phone.post(reverse("enter-code"), {"code": f" {code[:3].lower()} {code[3:]}"})
        self.assertRedirects(answer, reverse("wall-phone", args=[code]))
        address = reverse("wall-phone", args=[code])
        self.assertEqual(phone.get(f"{address}?turn={self.wall.turn}").status_code, 204)
        self.assertNotIn("HX-Refresh", phone.get(f"{address}?turn={self.wall.turn}"))
        self.do("draw")
        self.assertEqual(phone.get(f"{address}?turn={self.wall.turn - 1}")["HX-Refresh"], "true")
        reading = phone.post(
            reverse("wall-read", args=[code]), json.dumps({"p": self.part, "r": "1/2"}), "application/json"
        )
        self.assertIn("mfrac", reading.json()["read"][0]["shown"])
        for body in ("", "[]", "{}", '{"p": 1, "r": 2}'):
            answer = phone.post(reverse("wall-read", args=[code]), body, "application/json")
            self.assertEqual(answer.status_code, 400)
        for answers in ("", "[", "[]", '{"x": "1"}', json.dumps({self.part: [[[["deep"]]]]})):
            phone.post(reverse("wall-answer", args=[code]), {"turn": self.wall.turn, "answers": answers})
        self.assertFalse(WallAnswer.objects.exists())
        self.client.post(reverse("wall-do", args=[self.wall.pk]), {"what": "end"})
        self.assertEqual(phone.get(address).status_code, 404)

    def test_it_is_the_teachers_own(self) -> None:
        other = Client()
        other.force_login(person("colleague", self.physics))
        for name in ("on-wall", "wall-now"):
            self.assertEqual(other.get(reverse(name, args=[self.wall.pk])).status_code, 404)
        self.assertEqual(other.post(reverse("wall-do", args=[self.wall.pk]), {"what": "answer"}).status_code, 404)

    def test_one_question_and_nothing_at_all(self) -> None:
        headers = {"HX-Request": "true"}
        answer = self.client.post(reverse("show-question", args=[self.questions[0].pk]), headers=headers)
        wall = Wall.objects.exclude(pk=self.wall.pk).get()
        self.assertEqual(answer["HX-Redirect"], reverse("on-wall", args=[wall.pk]))
        page = self.client.get(reverse("on-wall", args=[wall.pk]))
        self.assertContains(page, self.questions[0].current.title)
        self.assertNotContains(page, "Next question")
        empty = test_of(self.physics, self.author, title="Nothing in it")
        answer = self.client.post(reverse("show-test", args=[empty.pk]), follow=True)
        self.assertContains(answer, "There is nothing to show yet")
        # of an old one the code is free again
        Wall.objects.filter(pk=wall.pk).update(begun=timezone.now() - timedelta(days=2))
        self.client.post(reverse("show-test", args=[self.test.pk]))
        wall.refresh_from_db()
        self.assertIsNone(wall.code)
