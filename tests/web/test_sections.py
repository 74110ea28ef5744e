"""Sections with times of their own: one after the other, whatever the browser does, and without a way back."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.test import Client
from django.urls import reverse
from django.utils import timezone

from vorlage.core.sittings import RELEASED
from vorlage.web.classes.models import Allowance
from vorlage.web.sittings.models import Response, Sitting, Taking
from vorlage.web.sittings.tasks import hand_in_what_ran_out

from .samples import frozen, question, test_of
from .test_sittings import MINUTE, Sat


class Sections(Sat):
    """Three sections of one question each; the first two have times of their own."""

    @classmethod
    def setUpTestData(cls) -> None:
        super().setUpTestData()
        cls.test = test_of(cls.physics, cls.author, cls.questions[0], title="In sections")
        cls.test.sections.update(title="Part A")
        for k, name in enumerate(("lock-gate", "ice-plant"), start=1):
            section = cls.test.sections.create(position=k, title=f"Part {chr(65 + k)}")
            cls.test.add(question(cls.physics, cls.author, name), section=section)
        cls.form_set = frozen(cls.test, 2)

    def staged(self, **changes: Any) -> Sitting:
        return self.give(**{"section_limits": (10 * MINUTE, 20 * MINUTE, None)} | changes)

    def test_a_question_is_checked_in_its_own_section_alone(self) -> None:
        sitting, student = self.staged(tries=3, similar=1, seen=RELEASED | {"outcome": "each"}), self.as_student()
        data = self.work(sitting, client=student)
        self.save(data, (1, *self.parts(self.taking(sitting))[0], "-98765"))
        for name in ("check-question", "similar-question"):
            self.assertEqual(self.road(name, data, {"q": 1}, 409)["stop"], "not_now")
            self.road(name, data, {"q": 0})
        # what was had instead of a missed one belongs to the same section
        page = student.get(reverse("sit-work", args=[sitting.pk]))
        self.assertContains(page, "Question 1 once more")
        data = self.work(sitting, client=student)
        self.save(data, (2, 3, self.parts(self.taking(sitting))[0][1], "5"))
        self.assertTrue(Response.objects.latest("pk").counts)
        student.post(reverse("go-on-to-section", args=[sitting.pk]), {"section": "0"})
        self.assertNotContains(student.get(reverse("sit-work", args=[sitting.pk])), "once more")
        data = self.work(sitting, client=student)
        for name in ("check-question", "similar-question"):
            self.assertEqual(self.road(name, data, {"q": 0}, 409)["stop"], "not_now")

    def later(self, taking: Taking, length: timedelta) -> None:
        """Let so much time pass for a student: all their moments move back."""
        names = ("begun", "ends", "section_begun", "section_ends")
        taking.refresh_from_db()
        moved = {name: value - length for name in names if (value := getattr(taking, name)) is not None}
        Taking.objects.filter(pk=taking.pk).update(**moved)
        taking.refresh_from_db()

    def shown(self, client: Client, sitting: Sitting) -> list[str]:
        page = client.get(reverse("sit-work", args=[sitting.pk])).content.decode()
        return [name for name in ("question-0", "question-1", "question-2") if f'id="{name}"' in page]

    def test_one_section_after_the_other_and_no_way_back(self) -> None:
        sitting, student = self.staged(), self.as_student()
        self.assertContains(student.get(reverse("sit", args=[sitting.pk])), "the first has 10 minutes")
        data = self.work(sitting, client=student)
        self.assertAlmostEqual(data["state"]["left"], 600, delta=5)
        self.assertEqual(self.shown(student, sitting), ["question-0"])
        page = student.get(reverse("sit-work", args=[sitting.pk]))
        self.assertContains(page, "Go on to Part B")
        self.assertNotContains(page, "Hand in")
        # nobody hands in what lies ahead
        student.post(reverse("hand-in", args=[sitting.pk]))
        self.assertRedirects(
            student.get(reverse("before-handing-in", args=[sitting.pk])), reverse("sit-work", args=[sitting.pk])
        )
        self.assertIsNone(self.taking(sitting).handed_in)
        data = self.work(sitting, client=student)
        where = self.parts(self.taking(sitting))
        self.save(data, (1, *where[0], "1"), (2, *where[-1], "2"))
        self.assertEqual([each.counts for each in Response.objects.order_by("number")], [True, False])
        go_on = reverse("go-on-to-section", args=[sitting.pk])
        for _ in range(2):
            # pressing twice leaves one
            student.post(go_on, {"section": "0"})
        self.assertEqual(self.taking(sitting).section, 1)
        self.assertEqual(self.shown(student, sitting), ["question-1"])
        data = self.work(sitting, client=student)
        self.assertAlmostEqual(data["state"]["left"], 1200, delta=5)
        student.post(go_on, {"section": "1"})
        page = student.get(reverse("sit-work", args=[sitting.pk]))
        self.assertContains(page, "Hand in")
        self.assertNotContains(page, "Go on to")
        check = student.get(reverse("before-handing-in", args=[sitting.pk]))
        self.assertNotContains(check, "Question 1")
        self.assertContains(check, "Question 3")
        student.post(go_on, {"section": "2"})
        student.post(reverse("hand-in", args=[sitting.pk]))
        self.assertIsNotNone(self.taking(sitting).handed_in)

    def test_time_brings_the_next_and_what_was_on_its_way_counts(self) -> None:
        sitting = self.staged()
        data = self.work(sitting)
        taking = self.taking(sitting)
        first, second = self.parts(taking)[0], next(each for each in self.parts(taking) if each[0] == 1)
        self.later(taking, 10 * MINUTE + timedelta(seconds=5))
        said = self.save(data, (1, *first, "1"), (2, *second, "2"))
        self.assertEqual(said["section"], 1)
        self.assertAlmostEqual(said["left"], 1195, delta=5)
        self.later(taking, timedelta(seconds=20))
        self.save(data, (3, *first, "3"))
        found = Response.objects.filter(taking=taking).order_by("number")
        self.assertEqual([(each.response, each.counts) for each in found], [("1", True), ("2", True), ("3", False)])
        # asleep for half an hour: two are over
        self.later(taking, 25 * MINUTE)
        self.assertEqual(self.road("what-changed", data)["section"], 2)
        self.assertEqual(self.shown(self.as_student(), sitting), ["question-2"])

    def test_when_the_last_is_over_all_is(self) -> None:
        sitting = self.staged(section_limits=(10 * MINUTE, 20 * MINUTE, 5 * MINUTE), closes=None)
        data, late = self.work(sitting), self.work(sitting, 1)
        one, other = self.taking(sitting), self.taking(sitting, 1)
        self.assertEqual(one.ends, one.begun + 35 * MINUTE)
        student = self.as_student()
        for k in ("0", "1"):
            student.post(reverse("go-on-to-section", args=[sitting.pk]), {"section": k})
        one.refresh_from_db()
        self.assertEqual(one.ends, one.section_ends)
        data = self.work(sitting, client=student)
        self.assertAlmostEqual(data["state"]["left"], 300, delta=5)
        # who never looks again is handed in all the same
        self.later(one, 6 * MINUTE)
        self.later(other, 36 * MINUTE)
        hand_in_what_ran_out()
        for taking in (one, other):
            taking.refresh_from_db()
            self.assertTrue(taking.by_time)
        self.assertEqual(self.road("what-changed", late)["stop"], "handed_in")

    def test_more_time_a_pause_and_allowances_move_the_section_too(self) -> None:
        Allowance.objects.create(student=self.students[1], more_time_percent=50)
        sitting = self.staged()
        self.work(sitting), self.work(sitting, 1)
        one, other = self.taking(sitting), self.taking(sitting, 1)
        self.assertEqual(other.section_ends - other.begun, 15 * MINUTE)
        self.client.force_login(self.author)

        def act(what: str, **more: str) -> None:
            sent = {"what": what, "who": [str(one.pk)], "reason": "noise", **more}
            self.client.post(reverse("act-in-sitting", args=[sitting.pk]), sent)
            one.refresh_from_db()

        act("more", length="5")
        self.assertEqual(one.section_ends - one.begun, 15 * MINUTE)
        act("pause")
        self.assertIsNotNone(one.paused)
        Taking.objects.filter(pk=one.pk).update(
            paused=one.paused - 30 * MINUTE, section_ends=one.section_ends - 30 * MINUTE
        )
        act("go-on")
        self.assertAlmostEqual((one.section_ends - one.begun).total_seconds(), 900, delta=2)
        self.assertEqual(self.road("what-changed", self.work(sitting))["section"], 0)

    def test_rules_for_sections_are_said_where_there_are_several(self) -> None:
        sitting = self.give()
        self.client.force_login(self.author)
        page = self.client.get(reverse("sitting-rules", args=[sitting.pk]))
        self.assertContains(page, "Time for Part B")
        fields = {each.name: each.value() for each in page.context["form"]}
        fields = {name: value for name, value in fields.items() if value not in (None, False)}
        wrong = self.client.post(reverse("keep-sitting-rules", args=[sitting.pk]), fields | {"section_1": "soon"})
        self.assertContains(wrong, "soon", status_code=422)
        self.client.post(reverse("keep-sitting-rules", args=[sitting.pk]), fields | {"section_1": "25"})
        sitting = Sitting.objects.get(pk=sitting.pk)
        self.assertEqual(sitting.held.section_limits, (None, 25 * MINUTE, None))
        self.assertContains(self.client.get(reverse("sitting-rules", args=[sitting.pk])), 'value="25 minutes"')
        self.work(sitting)
        again = self.client.post(reverse("keep-sitting-rules", args=[sitting.pk]), fields | {"section_1": "5"})
        self.assertContains(again, "the times of the sections", status_code=422)
        other = self.give_other()
        self.assertNotContains(self.client.get(reverse("sitting-rules", args=[other.pk])), "Time for")

    def give_other(self) -> Sitting:
        """A sitting of a test without sections."""
        plain = test_of(self.physics, self.author, *self.questions, title="Plain")
        before, self.test, self.form_set = (self.test, self.form_set), plain, frozen(plain, 1)
        made = self.give()
        self.test, self.form_set = before
        return made

    def test_a_teacher_goes_through_the_sections_too(self) -> None:
        sitting = self.staged()
        self.client.force_login(self.author)
        self.client.post(reverse("try-sitting", args=[sitting.pk]), {})
        self.assertEqual(self.shown(self.client, sitting), ["question-0"])
        self.client.post(reverse("go-on-to-section", args=[sitting.pk]), {"section": "0"})
        self.assertEqual(self.shown(self.client, sitting), ["question-1"])
        self.assertLess(timezone.now(), Taking.objects.get(tried_by=self.author).section_ends)
