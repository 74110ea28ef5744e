"""Passing opens what comes after it; who waits where; opening by hand; and retakes."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from django.core.cache import cache
from django.urls import reverse

from vorlage.web.forms.models import FormItem
from vorlage.web.sittings.attempts import draws_of
from vorlage.web.sittings.models import Opened, Sitting, Taking
from vorlage.web.sittings.opening import all_standings, steps_before

from .test_attempts import SOON, Again
from .test_sittings import do_jobs


class Passing(Again):
    def give(self, **changes: Any) -> Sitting:
        return super().give(**{"pass_share": Fraction(3, 5), "seen": SOON} | changes)

    def setUp(self) -> None:
        super().setUp()
        self.first = self.give()
        self.second = self.give(pass_share=None, attempts=1)
        Sitting.objects.filter(pk=self.second.pk).update(title="The next step")
        self.client.force_login(self.author)

    def let_follow(self, *following: Sitting, of: Sitting | None = None) -> str:
        address = reverse("sitting-next", args=[(of or self.first).pk])
        answer = self.client.post(address, {"next": [each.pk for each in following]}, follow=True)
        cache.clear()
        for each in (self.first, self.second):
            each.refresh_from_db()
        return answer.content.decode()

    def test_passing_at_the_second_attempt_opens_the_next(self) -> None:
        self.assertIn("Passing this opens “The next step”", self.let_follow(self.second))
        student = self.as_student()
        begin = reverse("begin-sitting", args=[self.second.pk])
        sit = reverse("sit", args=[self.second.pk])
        self.assertContains(student.get(reverse("mine")), "pass “At the quay” first")
        student.post(begin)
        self.assertFalse(Taking.objects.filter(sitting=self.second).exclude(begun=None).exists())
        self.sit_once(self.first, student, 0)
        page = student.get(sit)
        self.assertContains(page, "It is not open for you yet.")
        self.assertContains(page, "60 % are needed, and 0 % are there")
        self.assertContains(student.get(reverse("sitting-done", args=[self.first.pk])), "Not passed yet")
        cache.clear()
        table = self.client.get(reverse("sitting-table", args=[self.second.pk]))
        self.assertContains(table, "waits: “At the quay” not passed", count=4)
        page = self.client.get(reverse("sitting", args=[self.first.pk]))
        self.assertContains(page, "60 % are needed, and 0 % are there")
        # the second attempt passes, and the best of both is what counts
        self.sit_once(self.first, student, 99)
        self.assertContains(student.get(reverse("sitting-done", args=[self.first.pk])), "Passed.")
        self.assertEqual([row.passed for row in all_standings(self.first)], [True])
        self.assertContains(student.get(sit), "Begin")
        self.work(self.second, client=student)
        cache.clear()
        table = self.client.get(reverse("sitting-table", args=[self.second.pk]))
        self.assertContains(table, "waits: “At the quay” not passed", count=3)
        self.assertEqual(len(steps_before(self.second, self.students[1])), 1)

    def test_how_it_went_is_not_told_before_it_may_be_seen(self) -> None:
        self.first.keep_rules(self.first.held.of({**self.first.rules, "seen": {}}), self.author)
        self.let_follow(self.second)
        student = self.as_student()
        self.sit_once(self.first, student, 0)
        page = student.get(reverse("sit", args=[self.second.pk]))
        self.assertContains(page, "Pass “At the quay” first.")
        self.assertNotContains(page, "are there")

    def test_the_teacher_opens_it_by_hand_and_by_their_word(self) -> None:
        self.let_follow(self.second)
        self.first.keep_rules(self.first.held.of({**self.first.rules, "opening": "word"}), self.author)
        student, other = self.as_student(), self.as_student(1)
        self.sit_once(self.first, student, 99)
        self.assertContains(student.get(reverse("sit", args=[self.second.pk])), "your teacher opens this")
        self.client.post(reverse("open-next", args=[self.first.pk]))
        self.assertEqual(list(Opened.objects.values_list("student", flat=True)), [self.students[0].pk])
        self.assertContains(student.get(reverse("sit", args=[self.second.pk])), "Begin")
        self.assertContains(other.get(reverse("sit", args=[self.second.pk])), "It is not open for you yet.")
        taking = Taking.objects.get(sitting=self.second, student=self.students[1])
        act = {"what": "open", "who": [taking.pk], "reason": "passed it on paper"}
        self.client.post(reverse("act-in-sitting", args=[self.second.pk]), act)
        self.assertContains(other.get(reverse("sit", args=[self.second.pk])), "Begin")
        self.assertEqual(self.second.events.filter(kind="open").get().reason, "passed it on paper")
        # nothing opens itself again once it is no longer behind anything
        self.let_follow()
        self.assertFalse(self.second.behind)

    def test_nothing_has_to_be_passed_before_itself(self) -> None:
        third = self.give()
        self.let_follow(self.second)
        self.let_follow(third, of=self.second)
        self.assertIn("nobody could begin either", self.let_follow(self.first, of=third))
        self.assertFalse(third.opens_next.exists())
        self.let_follow(self.first)
        self.assertFalse(self.first.opens_next.exists())

    def test_marks_and_sections_as_the_teacher_says_them(self) -> None:
        posted = self.as_typed(self.first)
        self.assertEqual(posted["pass_mark"], "60 %")
        for typed, marks, share in (
            ("3 marks", 3, None),
            ("2.5", Fraction(5, 2), None),
            ("40 %", None, Fraction(2, 5)),
        ):
            self.client.post(reverse("keep-sitting-rules", args=[self.first.pk]), posted | {"pass_mark": typed})
            held = Sitting.objects.get(pk=self.first.pk).held
            self.assertEqual((held.pass_marks, held.pass_share), (marks, share), typed)
        for typed in ("-1", "120 %", "half", "0", "1/0"):
            answer = self.client.post(
                reverse("keep-sitting-rules", args=[self.first.pk]), posted | {"pass_mark": typed}
            )
            self.assertContains(answer, "such as 60 %", status_code=422)

    def test_a_retake_for_those_who_were_ill_and_for_those_who_did_not_pass(self) -> None:
        student = self.as_student()
        self.sit_once(self.first, student, 0)
        self.sit_once(self.first, self.as_student(1), 99, 1)
        had = {draw for form in draws_of(self.first.form_set_id).values() for draw in form}
        self.assertTrue(had)
        before = {(str(row.candidate.revision.question.key), row.draw) for row in rows_of(self.first)}
        for whom, who in (("failed", [0]), ("absent", [2, 3]), ("all", [0, 1, 2, 3])):
            page = self.client.get(reverse("sitting", args=[self.first.pk]))
            token = page.content.decode().split('name="once" value="')
            once = token[1].split('"')[0] if len(token) > 1 else ""
            answer = self.client.post(
                reverse("retake-sitting", args=[self.first.pk]), {"whom": whom, "once": once}, follow=True
            )
            self.assertEqual(answer.status_code, 200)
            do_jobs()
            made = Sitting.objects.order_by("-pk").first()
            assert made is not None
            self.assertEqual(made.title, "At the quay: retake")
            self.assertEqual([each.pk for each in made.students()], [self.students[k].pk for k in who], whom)
            self.assertEqual(made.form_set.count, len(who) * 3)
            self.assertGreater(made.held.opens, self.first.held.opens)
            now = {(str(row.candidate.revision.question.key), row.draw) for row in rows_of(made)}
            self.assertFalse(before & now)
        ticked = Taking.objects.filter(sitting=self.first, student=self.students[2]).values_list("pk", flat=True)
        for who, count in ((list(ticked), 1), ([], 0)):
            sittings = Sitting.objects.count()
            self.client.post(reverse("retake-sitting", args=[self.first.pk]), {"whom": "ticked", "who": who})
            self.assertEqual(Sitting.objects.count() - sittings, count)


def rows_of(sitting: Sitting) -> Any:
    return FormItem.objects.filter(form__form_set=sitting.form_set_id).select_related("candidate__revision__question")
