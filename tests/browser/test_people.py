"""A school from nothing to its classes, class lists, colleagues who leave, allowances: as people do it."""

import csv
import io
from pathlib import Path
from tempfile import TemporaryDirectory
from urllib.parse import urlparse

from playwright.sync_api import Page, expect

from vorlage.operations.install import make_administrator
from vorlage.web.classes.models import Allowance, Class, Student
from vorlage.web.people.models import User

from .base import DESK, PHONE, BrowserTest

PASSWORD = "lighthouse keeper 12"
HEADS = ("Family name", "Given name", "School number")
STUDENTS = [("Abara", "Ada", "2401"), ("Bielski", "Idris", "2402"), ("Łaskowska", "Freya", "2403")]


def listed(rows: list[tuple[str, ...]], separator: str = ";", encoding: str = "utf-8") -> bytes:
    written = io.StringIO()
    csv.writer(written, delimiter=separator).writerows([HEADS, *rows])
    return written.getvalue().encode(encoding)


class PeopleTest(BrowserTest):
    def choose_password(self, page: Page, link: str) -> None:
        page.goto(self.address(urlparse(link).path))
        page.get_by_label("New password", exact=True).fill(PASSWORD)
        page.get_by_label("New password once more").fill(PASSWORD)
        page.get_by_role("button", name="Keep this password").click()

    def sign_in_as(self, page: Page, login: str, password: str = PASSWORD) -> None:
        page.get_by_label("E-mail address").fill(login)
        page.get_by_label("Password").fill(password)
        page.get_by_role("button", name="Sign in").click()

    def file(self, content: bytes, name: str = "list.csv") -> Path:
        folder = TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        path = Path(folder.name) / name
        path.write_bytes(content)
        return path

    def a_class(self, name: str = "10 A") -> Class:
        made = Class.objects.create(department=self.physics, name=name, year="2026/27")
        made.teachers.add(self.author)
        return made

    def names(self, held: Class) -> list[str]:
        return [str(each) for each in Student.objects.filter(enrolments__held=held, enrolments__left=None)]


class FromNothing(PeopleTest):
    def test_a_new_school_to_a_class_that_could_sit_a_test(self) -> None:
        page = self.page
        self.choose_password(page, make_administrator("marit@sandhaven.example", "Marit Osei", "Tidewater School"))
        self.sign_in_as(page, "marit@sandhaven.example")
        expect(page.get_by_role("heading", name="People", exact=True)).to_be_visible()
        page.get_by_role("link", name="School and departments").first.click()
        page.get_by_label("Name of the department").fill("Mathematics")
        page.get_by_role("button", name="Add the department").click()
        expect(page.get_by_role("link", name="Mathematics")).to_be_visible()
        self.assert_accessible(page, "school")
        page.get_by_role("link", name="People", exact=True).click()
        page.get_by_label("Name", exact=True).fill("Tomas Brandt")
        page.get_by_label("E-mail address", exact=True).fill("tomas@sandhaven.example")
        page.get_by_label("Department").select_option("Mathematics")
        page.get_by_label("Role there").select_option("Head of department")
        self.assert_accessible(page, "people")
        page.get_by_role("button", name="Invite").click()
        link = page.locator("code").inner_text()
        self.assert_accessible(page, "link")

        head = self.open(DESK)
        self.choose_password(head, link)
        self.sign_in_as(head, "tomas@sandhaven.example")
        head.get_by_role("button", name="Mathematics · Tomas Brandt").click()
        head.get_by_role("link", name="Classes and students").click()
        head.get_by_label("Name", exact=True).fill("9 C")
        self.assert_accessible(head, "classes")
        head.get_by_role("button", name="Begin the class").click()
        head.get_by_role("link", name="Add students").first.click()
        head.get_by_label("One student a line").fill("Abara, Ada\nBielski, Idris")
        head.get_by_role("button", name="Show what would change").click()
        expect(head.get_by_role("status").filter(has_text="2 new")).to_be_visible()
        self.assert_accessible(head, "preview")
        head.get_by_role("button", name="Take this list").click()
        expect(head.get_by_role("link", name="Bielski, Idris")).to_be_visible()
        self.assert_accessible(head, "class")
        head.get_by_role("button", name="Make 2 slips").click()
        self.assert_accessible(head, "slips")
        slip = head.locator(".slips li", has_text="Ada Abara")
        login, password = slip.locator(".typed").all_inner_texts()

        student = self.open(PHONE)
        student.goto(self.address("/"))
        self.sign_in_as(student, login, password)
        expect(student.get_by_role("heading", name="Ada Abara")).to_be_visible()
        expect(student.get_by_text("9 C, Mathematics")).to_be_visible()
        self.assert_accessible(student, "mine")
        student.goto(self.address("/classes/"))
        expect(student.get_by_text("Abara, Ada")).to_have_count(0)


class Lists(PeopleTest):
    def test_a_list_twice_and_once_more_with_changes(self) -> None:
        held, page = self.a_class(), self.sign_in()
        for separator, encoding, said in ((";", "utf-8", "3 new"), (",", "utf-8-sig", "nothing would change")):
            page.goto(self.address(f"/classes/{held.pk}/add/"))
            page.set_input_files("#file", self.file(listed(STUDENTS, separator, encoding)))
            page.get_by_role("button", name="Show what would change").click()
            expect(page.get_by_role("status").filter(has_text=said)).to_be_visible()
            take = page.get_by_role("button", name="Take this list")
            if take.count():
                take.click()
                expect(page.get_by_role("link", name="Abara, Ada")).to_be_visible()
        changed = [("Abara-Lund", "Ada", "2401"), ("Bielski", "Idris", "9402"), ("Newman", "Otto", "2404")]
        page.goto(self.address(f"/classes/{held.pk}/add/"))
        page.set_input_files("#file", self.file(listed(changed, ",", "cp1252")))
        page.get_by_role("button", name="Show what would change").click()
        expect(page.get_by_text("Abara → Abara-Lund")).to_be_visible()
        page.get_by_label("the same student: 2402 → 9402").check()
        page.get_by_label("Łaskowska, Freya").check()
        page.get_by_role("button", name="Take this list").click()
        expect(page.get_by_text("1 new, 2 changed, 1 taken out.")).to_be_visible()
        self.assertEqual(self.names(held), ["Abara-Lund, Ada", "Bielski, Idris", "Newman, Otto"])
        page.get_by_role("button", name="Undo").click()
        expect(page.get_by_role("link", name="Łaskowska, Freya")).to_be_visible()
        self.assertEqual(self.names(held), [f"{family}, {given}" for family, given, _ in STUDENTS])

    def test_a_broken_file_is_told_at_its_row_and_mended_in_place(self) -> None:
        held, page = self.a_class(), self.sign_in()
        page.goto(self.address(f"/classes/{held.pk}/add/"))
        page.set_input_files("#file", self.file(listed([STUDENTS[0], ("=1+1", "Idris", "2402")])))
        page.get_by_role("button", name="Show what would change").click()
        expect(page.get_by_text("Row 3: “=1+1” begins like a formula.")).to_be_visible()
        self.assert_accessible(page, "faults")
        text = page.get_by_label("One student a line")
        text.fill(text.input_value().replace("=1+1", "Bielski"))
        page.get_by_role("button", name="Show what would change").click()
        page.get_by_role("button", name="Take this list").click()
        expect(page.get_by_role("link", name="Bielski, Idris")).to_be_visible()
        page.goto(self.address(f"/classes/{held.pk}/add/"))
        page.set_input_files("#file", self.file(b"\x89PNG\r\n\x1a\n\0\0 no list"))
        page.get_by_role("button", name="Show what would change").click()
        expect(page.get_by_text("This file is no table.")).to_be_visible()
        self.assertEqual(len(self.names(held)), 2)

    def test_by_keyboard_alone(self) -> None:
        held, page = self.a_class(), self.sign_in()
        page.goto(self.address(f"/classes/{held.pk}/add/"))
        # what is typed is asked for first
        page.keyboard.type("Abara, Ada")
        page.keyboard.press("Enter")
        page.keyboard.type("Bielski, Idris")
        page.keyboard.press("Tab")
        page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        take = page.get_by_role("button", name="Take this list")
        expect(take).to_be_visible()
        take.focus()
        page.keyboard.press("Enter")
        box = page.get_by_role("checkbox", name="Abara, Ada")
        expect(box).to_be_visible()
        box.focus()
        page.keyboard.press("Space")
        expect(page.get_by_text("With the 1 ticked:")).to_be_visible()
        out = page.get_by_role("button", name="Take out of the class")
        out.focus()
        page.keyboard.press("Enter")
        expect(page.get_by_text("1 student taken out of 10 A.")).to_be_visible()
        self.assertEqual(self.names(held), ["Bielski, Idris"])


class Staff(PeopleTest):
    def test_a_colleague_leaves_and_hands_over(self) -> None:
        held, colleague = self.a_class(), self.colleague("colleague")
        leaver = self.colleague("leaver")
        held.teachers.set([leaver])
        page = self.sign_in()
        page.goto(self.address(f"/people/{leaver.pk}/"))
        expect(page.get_by_text("Physics: 1 class")).to_be_visible()
        self.assert_accessible(page, "person")
        page.get_by_label("Hand all of it over to").select_option("Colleague")
        page.get_by_role("button", name="Hand over").click()
        expect(page.get_by_text("Colleague has now what was Leaver's: 1 class in Physics.")).to_be_visible()
        page.get_by_label("Physics").select_option("none")
        page.get_by_role("button", name="Save the roles").click()
        expect(page.get_by_text("The roles of Leaver are saved.")).to_be_visible()
        self.assertEqual([list(held.teachers.all()), User.objects.get(pk=leaver.pk).roles], [[colleague], []])

    def colleague(self, name: str) -> User:
        from tests.web.samples import person

        return person(name, self.physics, "author")

    def test_allowances_on_a_phone(self) -> None:
        held = self.a_class()
        ada = Student.objects.create(school=self.physics.school, family="Abara", given="Ada", number="2401")
        held.enrol([ada.pk])
        page = self.sign_in(page=self.open(PHONE))
        page.goto(self.address(f"/students/{ada.pk}/"))
        self.assert_accessible(page, "student")
        page.get_by_label("More time, in per cent").fill("25")
        page.get_by_label("or in minutes").fill("10")
        page.get_by_role("button", name="Save the allowances").click()
        expect(page.get_by_text("either in per cent or in minutes")).to_be_visible()
        page.get_by_label("or in minutes").fill("")
        page.get_by_label("Large print on paper").check()
        page.get_by_role("button", name="Save the allowances").click()
        page.goto(self.address(f"/classes/{held.pk}/"))
        expect(page.get_by_text("25 % more time, large print on paper")).to_be_visible()
        self.assert_accessible(page, "class")
        self.assertEqual(Allowance.objects.get().student, ada)
