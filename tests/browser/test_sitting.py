"""A student sits: on a phone, by keyboard alone, without a network, in two windows; a teacher meanwhile."""

import re
from dataclasses import replace
from datetime import timedelta
from typing import Any

from django.utils import timezone
from playwright.sync_api import Page, expect

from tests.web.samples import frozen, person, question, test_of
from tests.web.test_sittings import do_jobs
from vorlage.core.documents import typeset_insert
from vorlage.core.sittings import WAYS, Rules
from vorlage.library import ready_questions
from vorlage.web.bank.models import Question
from vorlage.web.classes.models import Allowance, Class, Student
from vorlage.web.files.models import Stored
from vorlage.web.sittings.models import Mark, Practised, Response, Sitting, Taking

from .base import DESK, PHONE, BrowserTest

# a question with an answer of each of these kinds
KINDS = ("number", "choice", "true_false", "order", "match", "blanks", "hotspot", "essay", "formula")
MINUTE = timedelta(minutes=1)


class SittingTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        chosen = []
        for kind in KINDS:
            of_kind = (each for each in ready_questions().values() if each.document.parts[0].answer.kind == kind)
            found = next(of_kind)
            chosen.append(Question.save_revision(self.physics, self.author, found.document, found.filing).question)
        self.test = test_of(self.physics, self.author, *chosen)
        self.form_set = frozen(self.test, 1)
        self.held = Class.objects.create(department=self.physics, name="10 A", year="2026/27")
        self.held.teachers.add(self.author)
        user = person("ada")
        user.studies, user.school = True, self.physics.school
        user.save()
        self.student = Student.objects.create(
            school=self.physics.school, family="Abara", given="Ada", number="1", user=user
        )
        self.held.enrol([self.student.pk])

    def give(self, **changes: Any) -> Sitting:
        now = timezone.localtime()
        rules = replace(Rules(now - MINUTE, closes=now + 90 * MINUTE), **changes)
        made = Sitting.give(self.test, [self.held], rules, self.author, self.form_set)
        do_jobs()
        return made

    def as_student(self, size: dict[str, int] = PHONE) -> Page:
        page = self.open(size)
        page.goto(self.address("/sign-in/"))
        page.get_by_label("E-mail address").fill("ada@sandhaven.example")
        page.get_by_label("Password").fill("lighthouse keeper 12")
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("heading", name="Ada Abara")).to_be_visible()
        return page

    def begin(self, sitting: Sitting, size: dict[str, int] = PHONE) -> Page:
        page = self.as_student(size)
        page.goto(self.address(f"/sit/{sitting.pk}/"))
        page.get_by_role("button", name="Begin").click()
        self.is_ready(page)
        return page

    def is_ready(self, page: Page) -> None:
        expect(page.locator("html")).to_have_attribute("data-ready", "1")

    def of_kind(self, kind: str) -> int:
        return KINDS.index(kind)

    def answers(self) -> dict[tuple[int, str], Any]:
        return Taking.objects.get().answers()

    def test_the_whole_way_on_a_phone(self) -> None:
        sitting = self.give(before="Bring a ruler.")
        page = self.as_student()
        page.get_by_role("link", name="At the quay").click()
        expect(page.get_by_text("Bring a ruler.")).to_be_visible()
        self.assert_accessible(page, "before beginning, on a phone")
        page.get_by_role("button", name="Begin").click()
        self.is_ready(page)
        self.assert_accessible(page, "blank, on a phone")
        answer = page.locator("#question-0 [data-answer]")
        answer.fill("2*(")
        expect(page.locator("#question-0 .read-as")).to_have_text("Something is missing after “(”.")
        answer.fill("1/2")
        expect(page.locator("#question-0 .read-as mfrac")).to_be_visible()
        # a sign of the palette goes to where one types
        page.locator("#question-0").get_by_role("button", name="Type π").click()
        expect(answer).to_have_value("1/2π")
        expect(answer).to_be_focused()
        answer.blur()
        expect(page.locator("#saved")).to_have_text("saved")
        expect(page.locator("#how-far")).to_have_text(f"1 of {len(KINDS)}")
        self.assertEqual(list(self.answers().values()), ["1/2π"])
        self.assert_accessible(page, "half done, on a phone")
        page.reload()
        self.is_ready(page)
        expect(answer).to_have_value("1/2π")
        page.locator("#to-hand-in").click()
        expect(page.get_by_text("is empty").first).to_be_visible()
        self.assert_accessible(page, "before handing in, on a phone")
        page.get_by_role("button", name="Hand in now").click()
        expect(page.get_by_text("Receipt")).to_be_visible()
        self.assert_accessible(page, "receipt, on a phone")
        do_jobs()
        self.assertTrue(Mark.objects.exists())
        Sitting.objects.filter(pk=sitting.pk).update(released=timezone.now())
        page.reload()
        expect(page.get_by_text("Key").first).to_be_visible()
        self.assert_accessible(page, "results, on a phone")

    def test_every_kind_by_keyboard_alone(self) -> None:
        page = self.begin(self.give(), DESK)
        self.assert_accessible(page, "blank, at a desk")

        def into(kind: str, inside: str) -> None:
            page.locator(f"#question-{self.of_kind(kind)} {inside}").first.focus()

        def press(*keys: str) -> None:
            for key in keys:
                page.keyboard.press(key)

        into("number", "[data-answer]")
        page.keyboard.type("12")
        into("choice", "input")
        press("Space")
        into("true_false", "input")
        press("Space")
        into("order", "[data-move='1']")
        press("Enter")
        into("match", "[data-left]")
        press("ArrowDown")
        into("blanks", "[data-piece]")
        if (
            page.locator(f"#question-{self.of_kind('blanks')} [data-piece]").first.evaluate("x => x.tagName")
            == "SELECT"
        ):
            press("ArrowDown")
        else:
            page.keyboard.type("5")
        into("hotspot", "svg.figure")
        press("ArrowRight", "ArrowUp", "Enter")
        into("essay", "textarea")
        page.keyboard.type("Because the tide turns.")
        into("formula", "[data-answer]")
        page.keyboard.type("x+1")
        press("Tab")
        expect(page.locator("#how-far")).to_contain_text(re.compile(r"^[789] of 9"))
        expect(page.locator("#saved")).to_have_text("saved")
        found = {position: response for (position, _), response in self.answers().items()}
        self.assertEqual(sorted(found), list(range(len(KINDS))))
        self.assertEqual(len(found[self.of_kind("hotspot")]), 1)
        self.assertRegex(found[self.of_kind("order")], r"^B, A")
        # nothing is doubled, and everything is there again
        page.reload()
        self.is_ready(page)
        expect(page.locator("#how-far")).to_contain_text(re.compile(r"^[789] of 9"))
        expect(page.locator(f"#question-{self.of_kind('essay')} textarea")).to_have_value("Because the tide turns.")
        self.assert_accessible(page, "half done, at a desk")
        Taking.objects.get().hand_in(timezone.now())
        do_jobs()
        outcomes = {each.position: each.outcome for each in Taking.objects.get().marks()}
        self.assertEqual(outcomes[self.of_kind("essay")], "waiting")
        for kind in ("choice", "true_false", "order", "match", "hotspot"):
            self.assertIn(outcomes[self.of_kind(kind)], {"right", "partly", "wrong"}, kind)

    def test_without_a_network_nothing_is_lost(self) -> None:
        page = self.begin(self.give())
        first = page.locator("#question-0 [data-answer]")
        page.context.set_offline(True)
        first.fill("41")
        first.blur()
        expect(page.locator("#saved")).to_have_text("1 not sent yet")
        page.locator("#to-hand-in").click()
        expect(page.get_by_text("There is no network")).to_be_visible()
        page.get_by_role("button", name="Go on working").click()
        self.assertFalse(Response.objects.exists())
        # the page is gone before the network is back; another one in the same browser sends what it kept
        address = page.url
        page.context.set_offline(False)
        page.evaluate("window.stop()")
        page.goto("about:blank")
        page.goto(address)
        self.is_ready(page)
        expect(first).to_have_value("41")
        expect(page.locator("#saved")).to_have_text("saved")
        self.assertEqual(list(self.answers().values()), ["41"])
        self.complaints.clear()

    def test_handing_in_waits_for_the_network(self) -> None:
        page = self.begin(self.give())
        page.context.set_offline(True)
        page.locator("#question-0 [data-answer]").fill("41")
        page.locator("#to-hand-in").click()
        expect(page.get_by_text("There is no network")).to_be_visible()
        page.context.set_offline(False)
        expect(page.get_by_text("Receipt")).to_be_visible()
        self.assertEqual(list(self.answers().values()), ["41"])
        self.complaints.clear()

    def test_of_two_windows_the_older_one_stops(self) -> None:
        page = self.begin(self.give(), DESK)
        # another window of another device: what the first has kept is not there
        other = self.as_student(DESK)
        other.goto(page.url)
        self.is_ready(other)
        page.locator("#question-0 [data-answer]").fill("1")
        page.locator("#question-0 [data-answer]").blur()
        expect(page.get_by_text("You went on in another window")).to_be_visible()
        expect(page.locator("#question-0 [data-answer]")).to_be_disabled()
        other.locator("#question-0 [data-answer]").fill("2")
        other.locator("#question-0 [data-answer]").blur()
        expect(other.locator("#saved")).to_have_text("saved")
        self.assertEqual(list(self.answers().values()), ["2"])

    def test_one_question_at_a_time_without_a_way_back_asks_once(self) -> None:
        page = self.begin(self.give(layout="one", back=False))
        expect(page.locator("#question-0")).to_be_visible()
        expect(page.locator("#question-1")).to_be_hidden()
        page.get_by_role("button", name="Next").click()
        expect(page.get_by_text("Question 1 is empty")).to_be_visible()
        page.get_by_role("button", name="Next").click()
        expect(page.locator("#question-1")).to_be_visible()
        expect(page.get_by_role("button", name="Back")).to_be_hidden()
        self.assert_accessible(page, "one question at a time")

    def test_a_section_at_a_time_with_a_data_sheet_beside_it(self) -> None:
        first = self.test.first_section()
        first.title = "Part A"
        first.save()
        second = self.test.sections.create(position=1, title="Part B")
        self.test.places.filter(pk__in=[each.pk for each in self.test.places.order_by("pk")[5:]]).update(section=second)
        pdf = typeset_insert("Data sheet", "The value of $g$ is $9.81$.", "Physics", self.physics.habits)
        self.test.inserts.create(position=0, name="Data sheet", text="x", file=Stored.keep(pdf), pages=1)
        self.form_set = frozen(self.test, 1)
        page = self.begin(self.give(layout="section"))
        expect(page.get_by_role("heading", name="Part A")).to_be_visible()
        expect(page.get_by_role("heading", name="Part B")).to_be_hidden()
        page.get_by_text("Data sheet").click()
        picture = page.get_by_alt_text("Data sheet, page 1 of 1")
        expect(picture).to_be_visible()
        expect(picture).to_have_js_property("complete", True)
        self.assertGreater(picture.evaluate("x => x.naturalWidth"), 500)
        self.assert_accessible(page, "a section with a data sheet")
        page.get_by_text("Data sheet").click()
        page.get_by_role("button", name="Next").click()
        expect(page.get_by_role("heading", name="Part B")).to_be_visible()
        expect(page.locator("#question-0")).to_be_hidden()
        page.get_by_role("button", name="Back").click()
        expect(page.locator("#question-0")).to_be_visible()

    def test_sections_with_times_of_their_own(self) -> None:
        second = self.test.sections.create(position=1, title="Part B")
        self.test.places.filter(pk__in=[each.pk for each in self.test.places.order_by("pk")[1:]]).update(section=second)
        self.form_set = frozen(self.test, 1)
        sitting = self.give(section_limits=(20 * MINUTE, 30 * MINUTE))
        page = self.begin(sitting)
        expect(page.locator("#time-left")).to_have_text(re.compile("20 min|19 min"))
        expect(page.locator("article[data-position]")).to_have_count(1)
        onward = page.get_by_role("button", name="Go on to Part B")
        onward.click()
        expect(page.get_by_text("Question 1 is empty, and there is no way back.")).to_be_visible()
        page.locator("#question-0 [data-answer]").first.fill("12.5")
        self.assert_accessible(page, "a section with its time")
        onward.click()
        expect(page.locator("#question-1")).to_be_visible()
        self.is_ready(page)
        expect(page.locator("#question-0")).to_have_count(0)
        expect(page.locator("#time-left")).to_have_text(re.compile("30 min|29 min"))
        taking = Taking.objects.get(sitting=sitting)
        self.assertEqual(taking.answers()[0, taking.responses.get().part], "12.5")
        # time brings the end of the last by itself
        Taking.objects.update(ends=timezone.now(), section_ends=timezone.now())
        expect(page.get_by_text("Receipt")).to_be_visible()

    def test_practice_of_every_kind_on_a_phone(self) -> None:
        sitting = self.give(**WAYS["practice"][1])
        page = self.as_student()
        page.get_by_role("link", name=self.test.title).click()
        expect(page.get_by_role("heading", name=f"Practice: {self.test.title}")).to_be_visible()
        self.assert_accessible(page, "what there is to practise")
        for k, kind in enumerate(KINDS):
            page.goto(self.address(f"/sit/{sitting.pk}/practice/"))
            page.get_by_role("button", name="Practise").nth(k).click()
            self.is_ready(page)
            self.assert_accessible(page, f"practice of {kind}")
            wide = page.evaluate("document.documentElement.scrollWidth")
            self.assertLessEqual(wide, PHONE["width"], kind)
            if kind == "number":
                page.locator("[data-answer]").first.press_sequentially("1/0.5")
                expect(page.locator(".read-as").first).to_contain_text("read as")
                expect(page.locator(".palette").first).to_be_visible()
                # what is pressed stays under the finger although the signs go away
                page.get_by_role("button", name="Check").click()
                expect(page.get_by_role("button", name="Check again")).to_be_visible()
                expect(page.locator("[data-answer]").first).to_have_value("1/0.5")
            page.get_by_role("button", name="Show the solution").click()
            expect(page.get_by_role("button", name="Check")).to_have_count(0)
            expect(page.locator(".came-back dt", has_text="Key").or_(page.locator(".worked")).first).to_be_visible()
        self.assertEqual(Practised.objects.filter(told=True).count(), len(KINDS))
        self.assertEqual(Taking.objects.count(), 0)

    def test_large_letters_and_spoken_maths(self) -> None:
        Allowance.objects.create(
            student=self.student, larger_letters=True, wider_lines=True, spoken_maths=True, one_at_a_time=True
        )
        page = self.begin(self.give())
        expect(page.locator("#question-1")).to_be_hidden()
        self.assertEqual(page.locator("#question-0").evaluate("x => getComputedStyle(x).fontSize"), "21.6px")
        self.assert_accessible(page, "with allowances")

    def test_an_order_is_dragged(self) -> None:
        page = self.begin(self.give())
        items = page.locator(f"#question-{self.of_kind('order')} [data-letter]")
        items.first.scroll_into_view_if_needed()
        first, last = items.first.locator("b").first, items.last
        start, end = first.bounding_box(), last.bounding_box()
        assert start is not None and end is not None
        page.mouse.move(start["x"] + 8, start["y"] + start["height"] / 2)
        page.mouse.down()
        page.mouse.move(start["x"] + 8, end["y"] + end["height"] - 2, steps=6)
        page.mouse.up()
        expect(items.last).to_have_attribute("data-letter", "A")
        expect(page.locator("#saved")).to_have_text("saved")
        (found,) = self.answers().values()
        self.assertTrue(found.startswith("B, ") and found.endswith(", A"), found)

    def test_hints_working_and_a_question_to_the_teacher(self) -> None:
        crane = question(self.physics, self.author, "harbour-crane")
        self.test = test_of(self.physics, self.author, crane)
        self.form_set = frozen(self.test, 1)
        Allowance.objects.create(student=self.student, breaks=True)
        sitting = self.give(hints=True, working=True, questions=True, examples=True, limit=40 * MINUTE)
        page = self.begin(sitting)
        self.assert_accessible(page, "with all that helps")
        page.get_by_role("button", name="Hint 1 of 2, costs nothing").click()
        expect(page.get_by_text("Power is the energy divided")).to_be_visible()
        page.get_by_role("button", name="Hint 2 of 2, costs 25 %").click()
        expect(page.locator(".hints-taken li")).to_have_count(2)
        page.get_by_text("Working", exact=True).click()
        page.get_by_label("Your working for question 1").fill("E = m g h")
        page.get_by_text("Ask about this question").click()
        page.get_by_label("What do you want to know?").fill("Which g?")
        page.get_by_role("button", name="Send to your teacher").click()
        expect(page.get_by_text("An answer appears at the top")).to_be_visible()
        expect(page.locator("#saved")).to_have_text("saved")
        page.get_by_role("button", name="Take a break").click()
        expect(page.get_by_text("the clock stands still")).to_be_visible()
        expect(page.get_by_label("Your working for question 1")).to_be_disabled()
        page.reload()
        self.is_ready(page)
        page.get_by_role("button", name="Go on", exact=True).click()
        expect(page.get_by_label("Your working for question 1")).to_be_enabled()
        expect(page.get_by_label("Your working for question 1")).to_have_value("E = m g h")
        expect(page.locator(".hints-taken li")).to_have_count(2)
        teacher = self.sign_in()
        teacher.goto(self.address(f"/sittings/{sitting.pk}/"))
        teacher.get_by_role("link", name="Answer", exact=True).click()
        teacher.get_by_label("Note, on this page alone").fill("9.81 N/kg.")
        teacher.get_by_role("button", name="Tell them").click()
        page.evaluate("window.dispatchEvent(new Event('online'))")
        expect(page.get_by_text("9.81 N/kg.")).to_be_visible()

    def test_a_guest_comes_in_by_the_code_on_a_phone(self) -> None:
        sitting = self.give(come_in="named", word="heron")
        page = self.open(PHONE)
        page.goto(self.address("/sit/"))
        self.assert_accessible(page, "where a code is typed")
        page.get_by_label("Code").fill(str(sitting.code).lower())
        page.get_by_role("button", name="Go on").click()
        self.assert_accessible(page, "where a name is typed")
        page.get_by_role("button", name="Go in").click()
        expect(page.get_by_text("Type your name, given name and family name.")).to_be_visible()
        page.get_by_label("Your name").fill("Kai Berg")
        page.get_by_label("Your class").fill("10 B")
        page.get_by_role("button", name="Go in").click()
        page.get_by_label("Entry word").fill("Heron")
        page.get_by_role("button", name="Begin").click()
        self.is_ready(page)
        page.locator("#question-0 [data-answer]").fill("7")
        page.locator("#to-hand-in").click()
        page.get_by_role("button", name="Hand in now").click()
        expect(page.get_by_text("Receipt")).to_be_visible()
        self.assert_accessible(page, "a guest's receipt")
        self.assertEqual(list(Taking.objects.get(name="Kai Berg").answers().values()), ["7"])
        teacher = self.sign_in()
        teacher.goto(self.address(f"/sittings/{sitting.pk}/wall/"))
        expect(teacher.get_by_text(str(sitting.code))).to_be_visible()
        self.assert_accessible(teacher, "how to come in")
        teacher.goto(self.address(f"/sittings/{sitting.pk}/"))
        expect(teacher.get_by_text("Kai Berg, 10 B")).to_be_visible()
        teacher.get_by_role("button", name="Go through it").click()
        self.is_ready(teacher)
        expect(teacher.get_by_text("Nothing of it is counted").first).to_be_visible()
        teacher.locator("#to-hand-in").click()
        teacher.get_by_role("button", name="Hand in now").click()
        expect(teacher.get_by_text("a marker sees")).to_be_visible()
        self.assert_accessible(teacher, "what a teacher sees who tried it")

    def test_time_runs_out_and_it_is_handed_in(self) -> None:
        page = self.begin(self.give(limit=30 * MINUTE))
        page.locator("#question-0 [data-answer]").fill("7")
        page.locator("#question-0 [data-answer]").blur()
        expect(page.locator("#saved")).to_have_text("saved")
        Taking.objects.update(ends=timezone.now() - timedelta(seconds=14))
        # the page asks when it is looked at again
        page.evaluate("window.dispatchEvent(new Event('online'))")
        expect(page.get_by_text("Time is up.")).to_be_visible()
        expect(page.get_by_text("Receipt")).to_be_visible()
        self.assertTrue(Taking.objects.get().by_time)

    def test_a_teacher_meanwhile(self) -> None:
        sitting = self.give(limit=30 * MINUTE)
        page = self.begin(sitting)
        teacher = self.sign_in()
        teacher.goto(self.address(f"/sittings/{sitting.pk}/"))
        self.assert_accessible(teacher, "table of a sitting")
        page.locator("#question-0 [data-answer]").fill("7")
        page.locator("#question-0 [data-answer]").blur()
        expect(teacher.locator(".paper-ruler .is-answered")).to_have_count(1)
        teacher.get_by_label("Choose Ada Abara").check()
        teacher.get_by_label("Reason, on record").fill("fire alarm")
        teacher.get_by_role("button", name="Give more time").click()
        expect(teacher.get_by_text("1 student: 10 minutes more.")).to_be_visible()
        page.evaluate("window.dispatchEvent(new Event('online'))")
        expect(page.locator("#time-left")).to_have_text(re.compile("^(39|40) min"))
        teacher.get_by_label("Note, on every page").fill("Open the window.")
        teacher.get_by_role("button", name="Tell them").click()
        page.evaluate("window.dispatchEvent(new Event('online'))")
        expect(page.get_by_text("Open the window.")).to_be_visible()
        teacher.goto(self.address(f"/sittings/{sitting.pk}/rules/"))
        self.assert_accessible(teacher, "rules of a sitting")
        teacher.get_by_label("Limit").fill("2 h")
        teacher.get_by_label("Who begins late has").select_option(label="until closing")
        expect(teacher.get_by_text("Nobody has 2 hours")).to_be_visible()
        teacher.goto(self.address(f"/sittings/{sitting.pk}/?covered"))
        expect(teacher.get_by_text("Abara")).to_have_count(0)
        self.assert_accessible(teacher, "covered table")
        teacher.goto(self.address("/sittings/"))
        self.assert_accessible(teacher, "list of sittings")
