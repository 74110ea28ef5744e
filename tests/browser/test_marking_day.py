"""A day of marking: a class sits, one group is marked at once, long answers by rubric with the keyboard, a tolerance is
changed and taken back, one draw is annulled, results go out, and a student sees their marked work."""

from __future__ import annotations

import re
from datetime import timedelta
from typing import Any

from django.utils import timezone
from playwright.sync_api import Page, expect

from tests.web.samples import frozen, question, test_of
from tests.web.test_marking import PARTS
from tests.web.test_sittings import do_jobs
from vorlage.core.algebra import approximate
from vorlage.core.sittings import Rules
from vorlage.web.classes.models import Class, Student
from vorlage.web.forms.models import FormItem
from vorlage.web.people.models import User
from vorlage.web.sittings.models import Change as Answer
from vorlage.web.sittings.models import Mark, Sitting, Taking
from vorlage.web.sittings.place import keep
from vorlage.web.sittings.questions import questions_had

from .base import PHONE, BrowserTest

GIVEN = ("Ada", "Ben", "Cleo", "Dan", "Eva")


class MarkingDay(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        parameters = [{"name": "m", "definition": "100..900 step 10"}, {"name": "h", "definition": "3..40"}]
        asked = question(
            self.physics, self.author, conditions=[], parts=PARTS, parameters=parameters, title="Sacks",
            wording="$m$ kg up by $h$ m.",
        )  # fmt: skip
        held = Class.objects.create(department=self.physics, name="10 A", year="2026/27")
        held.teachers.add(self.author)
        self.students = []
        for number, given in enumerate(GIVEN, start=1):
            user = User.objects.create(sign_in_name=given.lower(), name=given, school=self.physics.school, studies=True)
            self.students.append(
                Student.objects.create(school=user.school, family="Abara", given=given, number=str(number), user=user)
            )
        held.enrol([each.pk for each in self.students])
        self.held = held
        test = test_of(self.physics, self.author, asked)
        now = timezone.localtime()
        self.sitting = Sitting.give(
            test, [held], Rules(now - timedelta(hours=1)), self.author, frozen(test, len(GIVEN))
        )
        do_jobs()

    def taking(self, k: int) -> Taking:
        return Taking.objects.select_related("sitting__form_set", "student", "form").get(
            sitting=self.sitting, student=self.students[k]
        )

    def work_of(self, k: int, share: float = 1.0) -> float:
        values: Any = questions_had(self.taking(k))[0].drawn.values
        return approximate(values["m"]) * approximate(values["h"]) * share / 1000

    def sits(self, k: int, work: str, why: str) -> None:
        """A student of whom nothing is looked at but what they hand in."""
        now = timezone.now()
        taking = Taking.begin(self.sitting, self.students[k], now)
        Taking.objects.filter(pk=taking.pk).update(tab="day")
        answers = [Answer(1, 0, "work", work), Answer(2, 0, "why", why)]
        keep(taking.pk, [(each, "day") for each in answers], "day", now)
        taking.hand_in(now)

    def press(self, page: Page, keys: str) -> None:
        """Keys, once the page listens to them; then what was chosen is given, and the next page is there."""
        expect(page.locator("html")).to_have_attribute("data-ready", "1")
        for key in keys:
            page.keyboard.press(key)
        with page.expect_navigation():
            page.keyboard.press("Enter")

    def marks(self, part: str) -> list[str]:
        return [next(each.marks for each in self.taking(k).marks() if each.part == part) for k in range(len(GIVEN))]

    def test_thirty_long_answers_with_the_keys_alone(self) -> None:
        rubric = "Where | 0 | 1 | 2 with its cause\nHow | 0 | 1 a way\nWords | 0 | 1 of physics"
        part = {"id": "why", "wording": "Why?", "marks": 4, "answer": {"kind": "essay", "rubric": rubric}}
        asked = question(
            self.physics, self.author, conditions=[], parts=[part], parameters=[], wording="It gets warm.", title="Warm"
        )
        school, test = self.physics.school, test_of(self.physics, self.author, asked, title="Warm")
        more = [
            Student.objects.create(school=school, family="Bello", given=f"Student {k}", number=str(k))
            for k in range(9, 34)
        ]
        self.students += more
        self.held.enrol([each.pk for each in more])
        rules = Rules(timezone.localtime() - timedelta(hours=1))
        self.sitting = Sitting.give(test, [self.held], rules, self.author, frozen(test, 1))
        do_jobs()
        for student in self.students:
            now = timezone.now()
            taking = Taking.begin(self.sitting, student, now)
            Taking.objects.filter(pk=taking.pk).update(tab="day")
            keep(taking.pk, [(Answer(1, 0, "why", "Because of friction."), "day")], "day", now)
            taking.hand_in(now)
        do_jobs()
        page = self.page
        self.sign_in()
        page.goto(self.address(f"/marking/{self.sitting.pk}/"))
        page.get_by_role("link", name="Mark what waits").click()
        # three levels and Enter for each: the next one is there by itself
        for k in range(30):
            self.press(page, ("210", "111", "001")[k % 3])
        expect(page.get_by_text("That was the last one here.")).to_be_visible()
        given = Mark.objects.filter(taking__sitting=self.sitting).exclude(by=None)
        self.assertEqual(sorted(given.values_list("marks", flat=True)), [*["1"] * 10, *["3"] * 20])
        self.assertEqual(given.values("taking").distinct().count(), 30)
        self.assertEqual({len(each.levels) for each in given}, {3})

    def test_a_day_of_marking(self) -> None:
        # one sits on a phone, the others meanwhile
        phone = self.open(PHONE)
        self.let_in(self.students[0].user, phone)
        phone.goto(self.address("/mine/"))
        phone.get_by_role("link", name=self.sitting.title).click()
        phone.get_by_role("button", name="Begin").click()
        expect(phone.locator("html")).to_have_attribute("data-ready", "1")
        phone.locator("#answer-0-work [data-answer]").fill(f"{self.work_of(0):.4f} kJ")
        phone.locator("#answer-0-why [data-answer]").fill("It heats the rope.")
        phone.locator("#to-hand-in").click()
        phone.get_by_role("button", name="Hand in now").click()
        expect(phone.get_by_text("Receipt")).to_be_visible()
        self.sits(1, f"{self.work_of(1):.4f} kJ", "Friction.")
        self.sits(2, f"{self.work_of(2):.4f} kJ", "")
        self.sits(3, f"{self.work_of(3, 9.81 * 1.04):.4f} kJ", "")
        self.sits(4, "see the sheet", "")
        do_jobs()

        # one mistake in three draws is marked once
        page = self.page
        self.sign_in()
        page.goto(self.address("/marking/"))
        page.get_by_role("link", name=self.sitting.title).click()
        expect(page.locator(".where .state")).to_contain_text("1 cannot be read, 2 wait for a mark")
        self.assert_accessible(page, "marking")
        page.get_by_role("link", name=re.compile(r"^1 \(a\)")).click()
        page.get_by_role("link", name=re.compile("the factor 9.81 was left out")).click()
        expect(page.locator(".column tbody tr")).to_have_count(3)
        self.assert_accessible(page, "marking")
        self.press(page, "1")
        expect(page.get_by_text("3 answers marked.")).to_be_visible()
        self.assertEqual(self.marks("work")[:3], ["1", "1", "1"])

        # two long answers by rubric, with keys alone
        page.goto(self.address(f"/marking/{self.sitting.pk}/"))
        page.get_by_role("link", name=re.compile(r"^1 \(b\)")).click()
        expect(page.get_by_role("heading", name=re.compile(r"1 \(b\)"))).to_be_visible()
        for levels in ("21", "10"):
            self.press(page, levels)
        expect(page.get_by_text("That was the last one here.")).to_be_visible()
        self.assertEqual(sorted(self.marks("why")[:2]), ["1", "3"])

        # a wider tolerance: seen before, made, undone
        page.goto(self.address(f"/marking/{self.sitting.pk}/"))
        page.get_by_role("link", name=re.compile(r"^1 \(a\)")).click()
        page.get_by_role("link", name="Change it afterwards").click()
        page.get_by_label("Close enough within").fill("5%")
        page.locator("#of-answer").get_by_role("button", name="Show what changes").click()
        expect(page.get_by_text("1 gains, 0 lose.")).to_be_visible()
        expect(page.get_by_text("given by hand would be")).to_have_count(0)
        self.assert_accessible(page, "marking")
        self.assertEqual(self.marks("work")[3], "0")
        page.get_by_label("Reason, which students").fill("the scale was coarse")
        page.get_by_role("button", name="Change it for all").click()
        expect(page.locator(".messages")).to_contain_text("1 mark moved.")
        self.assertEqual(self.marks("work")[3], "2")
        page.get_by_role("button", name=re.compile("^Undo: ")).click()
        expect(page.get_by_text("1 mark is as before.")).to_be_visible()
        self.assertEqual(self.marks("work")[3], "0")

        # one draw is annulled
        code = FormItem.objects.get(form=self.taking(4).form_id).form.code
        page.goto(self.address(f"/marking/{self.sitting.pk}/"))
        page.get_by_role("link", name=re.compile(r"^1 \(a\)")).click()
        page.get_by_role("link", name="Change it afterwards").click()
        page.get_by_label("for those with the numbers of a form").check()
        page.get_by_label("Codes of the forms").fill(code)
        page.locator("#of-annulling").get_by_role("button", name="Show what changes").click()
        expect(page.get_by_text("1 gains, 0 lose.")).to_be_visible()
        page.get_by_label("Reason, which students").fill("the sheet was smudged")
        page.get_by_role("button", name="Change it for all").click()
        expect(page.locator(".messages")).to_contain_text("1 mark moved.")
        self.assertEqual(self.marks("work"), ["1", "1", "1", "0", "2"])

        # released, and seen by a student on the phone
        self.assertFalse(Mark.objects.filter(taking__released=True).exists())
        phone.goto(self.address(f"/sit/{self.sitting.pk}/done/"))
        expect(phone.get_by_text("of 5 marks")).to_have_count(0)
        page.goto(self.address(f"/sittings/{self.sitting.pk}/"))
        page.get_by_role("button", name="Release results").click()
        expect(page.get_by_text("Results are released.")).to_be_visible()
        phone.reload()
        expect(phone.get_by_text(re.compile(r"of 5\b")).first).to_be_visible()
        self.assert_accessible(phone, "marked work")
        page.goto(self.address(f"/marking/{self.sitting.pk}/results/"))
        expect(page.locator(".results tbody tr")).to_have_count(5)
        self.assert_accessible(page, "marking")
