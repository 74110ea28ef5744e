"""A question large for the class, worked by keys, and answered from phones; and a survey that joins nobody to anything."""

from datetime import timedelta

from django.utils import timezone
from playwright.sync_api import Page, expect

from tests.web.samples import test_of
from tests.web.test_sittings import do_jobs
from vorlage.core.sittings import WAYS, Rules
from vorlage.web.classes.models import Class, Student
from vorlage.web.people.models import User
from vorlage.web.sittings.models import Event, Response, Sitting, Taking, Wall, WallAnswer

from .base import PHONE, BrowserTest

HOUR = timedelta(hours=1)


class OnTheWall(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.test = test_of(self.physics, self.author, self.questions["foghorn"], self.questions["lock-gate"])
        self.sign_in()

    def phone(self) -> Page:
        """A phone whose owner types the code."""
        page = self.open(PHONE)
        page.goto(self.address("/sit/"))
        page.get_by_label("Code").fill(str(Wall.objects.get().code).lower())
        page.get_by_role("button").click()
        expect(page.locator("html")).to_have_attribute("data-ready", "1")
        return page

    def test_a_lesson_by_keys_with_phones(self) -> None:
        wall = self.page
        wall.goto(self.address(f"/tests/{self.test.pk}/"))
        wall.get_by_role("button", name="Show on the wall").click()
        expect(wall.get_by_role("heading", name="Question 1 of 2")).to_be_visible()
        self.assert_accessible(wall, "a question on the wall")
        sheet = wall.locator(".wall-sheet")
        self.assertEqual(wall.locator(".wall-key, .worked").count(), 0)
        before = sheet.inner_text()
        wall.keyboard.press("n")
        expect(sheet).not_to_have_text(before)
        phones = [self.phone() for _ in range(5)]
        self.assert_accessible(phones[0], "a phone")
        for number, phone in enumerate(phones):
            phone.locator("[data-answer]").fill("12" if number else "1/2")
            if not number:
                expect(phone.locator(".read-as mfrac")).to_be_visible()
            phone.get_by_role("button", name="Send", exact=True).click()
            expect(phone.get_by_text("Sent. Until the next question comes")).to_be_visible()
        expect(wall.get_by_text("5 phones answered.")).to_be_visible()
        self.assertEqual(wall.locator(".tallies").count(), 0)
        wall.keyboard.press("u")
        expect(wall.locator(".tallies tr").first).to_contain_text("4")
        wall.keyboard.press("a")
        expect(wall.locator(".wall-key")).to_be_visible()
        wall.keyboard.press("s")
        expect(wall.locator(".worked")).to_be_visible()
        wall.keyboard.press("t")
        expect(wall.locator("#wall-timer")).to_contain_text("1:5")
        self.assert_accessible(wall, "a wall with everything shown")
        wall.keyboard.press("ArrowRight")
        expect(wall.get_by_role("heading", name="Question 2 of 2")).to_be_visible()
        self.assertEqual(wall.locator(".wall-key, .worked, .tallies").count(), 0)
        # phones come to the next question by themselves
        expect(phones[0].get_by_text("hinge").first).to_be_visible()
        expect(phones[0].get_by_text("Sent.")).to_have_count(0)
        # keys in a field are typed
        wall.get_by_label("Minutes").fill("")
        wall.get_by_label("Minutes").press_sequentially("3")
        wall.get_by_label("Minutes").press("n")
        self.assertEqual(Wall.objects.get().turn, 3)
        # and nobody can tell which answers came from one phone
        self.assertEqual(WallAnswer.objects.filter(turn=2).values("phone").distinct().count(), 5)


class Survey(BrowserTest):
    def test_a_survey_whose_rows_cannot_be_joined_to_people(self) -> None:
        test = test_of(self.physics, self.author, self.questions["foghorn"], title="How it goes")
        held = Class.objects.create(department=self.physics, name="10 A", year="2026/27")
        held.teachers.add(self.author)
        students = []
        for number in range(5):
            user = User.objects.create(
                sign_in_name=f"s{number}", name=f"S{number}", school=self.physics.school, studies=True
            )
            students.append(
                Student.objects.create(
                    school=self.physics.school, family=f"Fam{number}", given="Mia", number=str(number), user=user
                )
            )
        held.enrol([each.pk for each in students])
        now = timezone.localtime()
        rules = Rules(now - HOUR, closes=now + HOUR, **WAYS["survey"][1])
        sitting = Sitting.give(test, [held], rules, self.author)
        do_jobs()
        for number, student in enumerate(students):
            page = self.open(PHONE)
            self.let_in(student.user, page)
            page.goto(self.address("/mine/"))
            page.get_by_role("link", name="How it goes").click()
            page.get_by_role("button", name="Go in without a name").click()
            expect(page.get_by_text("neither your name nor your sign-in is stored")).to_be_visible()
            page.get_by_role("button", name="Begin").click()
            expect(page.locator("html")).to_have_attribute("data-ready", "1")
            page.locator("[data-answer]").first.fill(f"{1 + number % 2}")
            page.locator("[data-answer]").first.blur()
            expect(page.locator("#saved")).to_have_text("saved")
            page.locator("#to-hand-in").click()
            page.get_by_role("button", name="Hand in now").click()
            expect(page.get_by_text("Receipt")).to_be_visible()
        own = Taking.objects.filter(sitting=sitting)
        self.assertEqual(own.count(), 5)
        self.assertEqual(
            set(own.values_list("student", "name", "group", "tried_by", "tried_as")), {(None, "", "", None, None)}
        )
        self.assertEqual(set(Event.objects.filter(sitting=sitting).exclude(kind="given").values_list("by")), {(None,)})
        # an answer leads to a place in the sitting, and from there to nobody
        fields = {each.name for each in Response._meta.get_fields()}
        self.assertEqual(fields & {"student", "user", "by"}, set())
        self.assertEqual(Response.objects.filter(taking__in=own).count(), 5)
        self.sign_in()
        self.page.goto(self.address(f"/sittings/{sitting.pk}/answers/"))
        self.assertEqual(self.page.locator(".tallies").count(), 0)
        self.page.get_by_role("link", name="Uncover it").click()
        expect(self.page.locator(".tallies tr").first).to_contain_text("3")
        self.assert_accessible(self.page, "what the class answered")
