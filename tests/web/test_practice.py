"""Practice: fresh numbers, feedback at once, no key before it is asked for, and nothing of it in any mark."""

from __future__ import annotations

import json
import re
from datetime import timedelta
from typing import Any

from django.db import connection
from django.test import Client
from django.urls import reverse
from django.utils import timezone

from vorlage.core.forms import values_text
from vorlage.core.sittings import WAYS
from vorlage.web.forms.models import FormItem, FormSetCandidate
from vorlage.web.sittings.models import Mark, Practised, Response, Sitting, Taking
from vorlage.web.sittings.practice import A_MINUTE, drawn_of, practice_of

from .samples import frozen, question, test_of
from .test_sittings import MINUTE, Sat

PRACTISED = WAYS["practice"][1]


class Practising(Sat):
    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        part = {
            "wording": "Work out $a + b$.",
            "answer": {"kind": "number", "key": "a + b"},
            "solution": "SOLVED $a + b$",
        }
        few = [{"name": "a", "definition": "3..4"}, {"name": "b", "definition": "5"}]
        cls.few = question(cls.physics, cls.author, "foghorn", title="A sum", wording="", parameters=few, conditions=[],
                           parts=[part | {"hints": [{"text": "HINTED", "cost": "1/2"}]}])  # fmt: skip
        cls.test = test_of(cls.physics, cls.author, cls.few, cls.questions[0], title="Sums")
        cls.form_set = frozen(cls.test, 1)

    def candidate(self, k: int = 0) -> FormSetCandidate:
        return FormSetCandidate.objects.filter(place__form_set=self.form_set).order_by("place__position")[k]

    def draw(self, client: Client, sitting: Sitting, k: int = 0) -> Practised:
        args = [sitting.pk, self.candidate(k).pk]
        self.assertRedirects(client.post(reverse("practice-draw", args=args)), reverse("practise", args=args))
        return Practised.objects.filter(candidate=self.candidate(k)).latest("pk")

    def page(self, client: Client, sitting: Sitting, k: int = 0) -> str:
        return client.get(reverse("practise", args=[sitting.pk, self.candidate(k).pk])).content.decode()

    def check(self, client: Client, sitting: Sitting, said: Any, k: int = 0) -> str:
        part = Practised.objects.filter(candidate=self.candidate(k)).latest("pk").shown["parts"][0]["id"]
        args = [sitting.pk, self.candidate(k).pk]
        client.post(reverse("practice-check", args=args), {"answers": json.dumps({part: said})})
        return self.page(client, sitting, k)

    def key_of(self, row: Practised) -> str:
        return str(row.values["a"]["value"] if isinstance(row.values["a"], dict) else row.values["a"])


class Alone(Practising):
    """A sitting that is practice and nothing else."""

    def test_fresh_numbers_checked_at_once_and_no_key_before_it_is_asked_for(self) -> None:
        sitting, student = self.give(**PRACTISED), self.as_student()
        self.assertContains(student.get(reverse("mine")), "practice")
        self.assertRedirects(student.get(reverse("sit", args=[sitting.pk])), reverse("practice", args=[sitting.pk]))
        self.assertContains(student.get(reverse("practice", args=[sitting.pk])), "A sum")
        row = self.draw(student, sitting)
        drawn = drawn_of(self.form_set, row.candidate.revision_id, row.frozen_draw)
        key = str(drawn.values["a"] + 5)
        shown = self.page(student, sitting)
        self.assertIn("HINTED", shown)
        self.assertNotIn("SOLVED", shown)
        wrong = self.check(student, sitting, "999")
        self.assertIn("is-wrong", wrong)
        self.assertIn("Check again", wrong)
        for secret in ("SOLVED", f"<mn>{key}</mn>"):
            self.assertNotIn(secret, wrong.split('id="practise"')[1])
        right = self.check(student, sitting, key)
        self.assertIn("is-right", right)
        self.assertIn("SOLVED", right)
        row.refresh_from_db()
        self.assertEqual((row.checks, row.right, row.told), (2, True, True))
        # what is told stays as it is
        self.check(student, sitting, "1")
        row.refresh_from_db()
        self.assertTrue(row.right)

    def test_blank_and_unreadable_are_no_try(self) -> None:
        sitting, student = self.give(**PRACTISED), self.as_student()
        row = self.draw(student, sitting)
        self.assertIn("Nothing stands there yet", self.check(student, sitting, "  "))
        self.assertIn("is-unreadable", self.check(student, sitting, "3 +* 4"))
        row.refresh_from_db()
        self.assertEqual(row.checks, 0)

    def test_the_solution_is_shown_when_it_is_asked_for_and_ends_these_numbers(self) -> None:
        sitting, student = self.give(**PRACTISED), self.as_student()
        row = self.draw(student, sitting)
        student.post(reverse("practice-show", args=[sitting.pk, self.candidate().pk]))
        self.assertIn("SOLVED", self.page(student, sitting))
        self.assertNotIn("Check", self.check(student, sitting, "8").split('class="steps"')[1])
        row.refresh_from_db()
        self.assertEqual((row.checks, row.told), (0, True))

    def test_no_numbers_come_twice_and_when_there_are_no_others_it_is_said(self) -> None:
        sitting, student = self.give(**PRACTISED), self.as_student()
        on_form = set(map(str, FormItem.objects.filter(candidate=self.candidate()).values_list("values", flat=True)))
        first = self.draw(student, sitting)
        self.assertNotIn(str(first.values), on_form)
        self.assertFalse(first.repeats)
        self.assertNotIn("no other numbers", self.page(student, sitting))
        again = self.draw(student, sitting)
        self.assertTrue(again.repeats)
        self.assertIn("no other numbers", self.page(student, sitting))
        first.refresh_from_db()
        self.assertEqual(first.shown, {})
        had = [values_text(self.draw(student, sitting, 1).frozen_draw) for _ in range(6)]
        self.assertEqual(len(set(had)), 6)

    def test_it_is_their_own_and_of_nobody_else(self) -> None:
        sitting, one, other = self.give(**PRACTISED), self.as_student(0), self.as_student(1)
        self.draw(one, sitting)
        args = [sitting.pk, self.candidate().pk]
        self.assertRedirects(other.get(reverse("practise", args=args)), reverse("practice", args=[sitting.pk]))
        answer = other.post(reverse("practice-read", args=args), "{}", "application/json")
        self.assertEqual(answer.status_code, 400)
        stranger = self.candidate()
        other_set = frozen(self.test, 1)
        wrong = FormSetCandidate.objects.filter(place__form_set=other_set).first()
        assert wrong is not None
        self.assertNotEqual(wrong.pk, stranger.pk)
        self.assertEqual(one.post(reverse("practice-draw", args=[sitting.pk, wrong.pk])).status_code, 404)

    def test_answers_are_read_while_they_are_typed(self) -> None:
        sitting, student = self.give(**PRACTISED), self.as_student()
        part = self.draw(student, sitting).shown["parts"][0]["id"]
        where = reverse("practice-read", args=[sitting.pk, self.candidate().pk])
        read = student.post(where, json.dumps({"p": part, "r": "1/2"}), "application/json").json()["read"]
        self.assertIn("mfrac", read[0]["shown"])
        read = student.post(where, json.dumps({"p": part, "r": "1 +* 2"}), "application/json").json()["read"]
        self.assertTrue(read[0]["problem"])
        for nonsense in ("", "[]", "{", '{"p": 3, "r": {}}', "[" * 5000):
            self.assertEqual(student.post(where, nonsense, "application/json").status_code, 400, nonsense[:20])

    def test_nonsense_is_kept_nowhere(self) -> None:
        sitting, student = self.give(**PRACTISED), self.as_student()
        row = self.draw(student, sitting)
        part, nested = row.shown["parts"][0]["id"], json.loads("[" * 450 + "]" * 450)
        where = reverse("practice-check", args=[sitting.pk, self.candidate().pk])
        for answers in (
            "",
            "[]",
            "{",
            "[" * 9000,
            json.dumps({part: nested}),
            json.dumps({part: "1" * 9000}),
            json.dumps({"other": "3"}),
            '{"x": "\\u0000"}',
        ):
            self.assertEqual(student.post(where, {"answers": answers}).status_code, 302, answers[:20])
        row.refresh_from_db()
        self.assertEqual((row.checks, row.answers, row.right), (0, {}, False))

    def test_there_is_a_limit_a_minute(self) -> None:
        sitting, student = self.give(**PRACTISED), self.as_student()
        for _ in range(A_MINUTE):
            self.draw(student, sitting)
        args = [sitting.pk, self.candidate().pk]
        self.assertRedirects(student.post(reverse("practice-draw", args=args)), reverse("practice", args=[sitting.pk]))
        self.assertEqual(Practised.objects.count(), A_MINUTE)

    def test_nobody_begins_it_and_it_ends_with_closing(self) -> None:
        sitting, student = self.give(**PRACTISED), self.as_student()
        self.assertEqual(Taking.objects.filter(sitting=sitting).count(), 0)
        student.post(reverse("begin-sitting", args=[sitting.pk]))
        self.assertFalse(Taking.objects.filter(sitting=sitting).exclude(begun=None).exists())
        self.draw(student, sitting)
        sitting.rules["closes"] = (timezone.now() - MINUTE).isoformat()
        sitting.save()
        self.assertRedirects(student.get(reverse("practice", args=[sitting.pk])), reverse("sit", args=[sitting.pk]))
        self.assertContains(student.get(reverse("sit", args=[sitting.pk])), "It has closed.")
        self.assertNotContains(student.get(reverse("mine")), "Sums")


class After(Practising):
    """A sitting that may be practised after closing."""

    def closed(self, **changes: Any) -> Sitting:
        """A sitting in which one student answered one of two questions; it has closed and results are out."""
        sitting = self.give(practice="closed", **changes)
        data = self.work(sitting)
        self.save(data, (1, *self.parts(self.taking(sitting))[0], "999"))
        self.taking(sitting).hand_in(timezone.now())
        held = sitting.held
        sitting.rules |= {
            "opens": (held.opens - timedelta(days=1)).isoformat(),
            "closes": (timezone.now() - MINUTE).isoformat(),
        }
        sitting.save()
        return Sitting.objects.get(pk=sitting.pk)

    def everything(self) -> list[Any]:
        """All that marks, tables and statistics are made of."""
        return [list(model.objects.order_by("pk").values()) for model in (Mark, Response, Taking)]

    def test_nobody_practises_before_it_closes(self) -> None:
        sitting, student = self.give(practice="closed"), self.as_student()
        self.assertRedirects(student.get(reverse("practice", args=[sitting.pk])), reverse("sit", args=[sitting.pk]))
        args = [sitting.pk, self.candidate().pk]
        student.post(reverse("practice-draw", args=args))
        self.assertEqual(Practised.objects.count(), 0)

    def test_no_mark_changes_and_no_statistic_moves(self) -> None:
        sitting, student = self.closed(), self.as_student()
        student.get(reverse("sitting-done", args=[sitting.pk]))
        self.client.force_login(self.author)

        def table() -> str:
            return re.sub(
                r"csrf\w+\" value=\"\w+",
                "",
                self.client.get(reverse("sitting-table", args=[sitting.pk])).content.decode(),
            )

        before, shown = self.everything(), table()
        for k in (0, 1):
            self.draw(student, sitting, k)
            self.check(student, sitting, "8", k)
        self.draw(self.as_student(2), sitting)
        self.assertEqual(self.everything(), before)
        self.assertEqual(table(), shown)
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM sittings_practised")
            self.assertEqual(cursor.fetchone()[0], 3)
        self.assertEqual([(each.title, each.people, each.drawn) for each in practice_of(sitting)],
                         [("A sum", 1, 1), ("Foghorn of the lighthouse", 1, 1)])  # fmt: skip
        self.assertContains(self.client.get(reverse("sitting", args=[sitting.pk])), "Nothing of it is in any mark")

    def test_what_went_wrong_comes_first_with_its_solution_where_that_may_be_seen(self) -> None:
        sitting, student = self.closed(), self.as_student()
        page = student.get(reverse("practice", args=[sitting.pk]))
        self.assertNotContains(page, "What did not go well")
        sitting.released = timezone.now()
        sitting.save()
        page = student.get(reverse("practice", args=[sitting.pk]))
        self.assertContains(page, "What did not go well")
        self.assertContains(page, "SOLVED", count=1)
        self.assertContains(page, "not right")
        self.assertContains(student.get(reverse("mine")), "Practise</a>")
        self.assertContains(student.get(reverse("sitting-done", args=[sitting.pk])), "Practise with fresh numbers")
        # who did not sit it practises as well
        other = self.as_student(3)
        self.assertNotContains(other.get(reverse("practice", args=[sitting.pk])), "SOLVED")
        self.draw(other, sitting)

    def test_a_teacher_tries_it_and_is_counted_nowhere(self) -> None:
        sitting = self.closed()
        self.client.force_login(self.author)
        self.client.post(reverse("try-sitting", args=[sitting.pk]), {})
        self.draw(self.client, sitting)
        self.check(self.client, sitting, "8")
        self.assertEqual(practice_of(sitting), [])
