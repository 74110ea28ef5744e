"""Whole jobs on plans and forms: a plan from what it is to cover; sections, pools and a bonus; thirty equal forms; one
drawn anew, one put right, a retest."""

import re

from playwright.sync_api import Page, expect

from tests.web.samples import question
from vorlage.core.questions import Filing, load_document
from vorlage.web.bank.models import Question, Tree
from vorlage.web.classes.models import Class, Student
from vorlage.web.forms.models import FormItem, FormSet
from vorlage.web.plans.coverage import set_target
from vorlage.web.plans.models import Test
from vorlage.web.seating.models import SeatPlan

from .base import BrowserTest


class Plans(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        for name in ("lighthouse-lamps", "sea-chest"):
            question(self.physics, self.author, name)
        self.page = self.sign_in()

    def begin(self, title: str) -> Test:
        self.page.get_by_role("link", name="Tests", exact=True).click()
        self.page.get_by_label("Title of a new test").fill(title)
        self.page.get_by_role("button", name="Begin a test").click()
        expect(self.page.locator("h1")).to_have_text(title)
        return Test.objects.get(title=title)

    def add(self, *titles: str, into: str = "") -> None:
        for title in titles:
            self.page.get_by_label(f"Tick {title}", exact=True).check()
        if into:
            self.page.get_by_label("Where they are put").select_option(label=into)
        self.page.get_by_role("button", name="Add the ticked ones").click()

    def test_sections_pools_and_a_bonus_become_thirty_forms_and_a_retest(self) -> None:
        page, plan = self.page, self.page.locator("#plan")
        made = self.begin("Harbour")
        self.add("Harbour crane", "Foghorn of the lighthouse")
        expect(plan.get_by_role("link", name="Harbour crane")).to_be_visible()
        self.add("Pushing the lock gate", "Lamps in the lighthouse", "Buoyancy of a sea chest", into="as a new pool")
        expect(plan).to_contain_text("1 of 3: A pool")
        expect(plan).to_contain_text("These questions have different marks")
        plan.get_by_label("Change question 3").click()
        page.get_by_label("Questions that a form gets").fill("2")
        page.get_by_label("Name of the pool").fill("Physics of the harbour")
        page.locator(".change[open]").get_by_label("Marks of each question").fill("3")
        page.get_by_role("button", name="Keep", exact=True).locator("visible=true").click()
        expect(plan).to_contain_text("2 of 3: Physics of the harbour")
        # a section by keyboard: the line goes over its heading with Alt and the arrow
        page.get_by_role("button", name="Add a section").press("Enter")
        expect(plan.get_by_label("Section Part A. Alt and")).to_be_visible()
        page.get_by_role("button", name="Add a section").press("Enter")
        expect(plan.get_by_label("Section Part B. Alt and")).to_be_visible()
        plan.get_by_label(re.compile("Questions 3–4, a pool")).press("Alt+ArrowDown")
        expect(plan.locator("li[data-place]").nth(3)).to_contain_text("Part B")
        expect(plan.get_by_label(re.compile("Questions 3–4, a pool"))).to_be_focused()
        plan.get_by_label("Change question 2", exact=True).click()
        page.locator(".change[open]").get_by_label("Bonus").check()
        page.locator(".change[open]").get_by_role("button", name="Keep").click()
        expect(plan.locator(".under-total")).to_contain_text("4 marks of bonus")
        page.get_by_role("button", name=re.compile("^Undo: Changed “Harbour")).click()
        expect(plan).to_contain_text("Taken back: Changed “Harbour crane”")
        expect(plan.locator(".total")).to_contain_text("12 marks")
        page.get_by_role("link", name="Look at it whole").click()
        expect(page.locator("article.sheet")).to_have_count(4)
        page.get_by_role("link", name="As a marker").click()
        expect(page.locator(".key").first).to_be_visible()
        page.go_back()
        page.go_back()
        self.start_worker()
        page.get_by_label("How many forms").fill("30")
        page.get_by_role("button", name="Make 30 forms").click()
        expect(page.get_by_text("every key proved")).to_be_visible()
        expect(page.locator(".evenness summary")).to_contain_text("How even they are")
        expect(page.locator("svg.profile")).to_have_count(30)
        self.seat(page, made)
        self.retest(page, made)

    def seat(self, page: Page, made: Test) -> None:
        """A room is laid out, the class sits in it, somebody is dragged and somebody moved with keys, papers get names."""
        held = Class.objects.create(department=self.physics, name="10 A", year="2026/27")
        held.teachers.add(self.author)
        students = [
            Student(school=self.physics.school, family=f"Fam{k:02}", given="Mia", number=str(k)) for k in range(30)
        ]
        for each in students:
            each.save()
        held.enrol([each.pk for each in students])
        page.get_by_text("Seat plans", exact=True).click()
        page.get_by_role("link", name="Lay out the rooms of your school").click()
        page.get_by_label("Name", exact=True).fill("2.14")
        page.get_by_label("Rows").fill("6")
        page.get_by_label("Seats in a row, gaps counted").fill("7")
        page.get_by_role("button", name="Lay it out").click()
        for row in range(6):
            page.locator(f"[name=gap][value='{row}-3']").check()
        page.get_by_role("button", name="Save").click()
        expect(page.locator(".where")).to_contain_text("36 seats")
        page.goto(f"{self.live_server_url}/form-sets/{made.form_sets.get().pk}/")
        page.get_by_text("Seat plans", exact=True).click()
        page.get_by_role("button", name="Make the seat plan").click()
        expect(page.get_by_text("No neighbours have the same form.")).to_be_visible()
        desks = page.locator("button.desk")
        expect(desks.first).to_contain_text("Fam00")
        desks.first.drag_to(desks.nth(8))
        expect(desks.nth(8)).to_contain_text("Fam00")
        expect(desks.nth(8)).to_be_focused()
        page.keyboard.press("Enter")
        for key in ("ArrowUp", "ArrowLeft", "ArrowRight", "ArrowRight", "Enter"):
            page.keyboard.press(key)
        # over the aisle
        expect(desks.nth(3)).to_contain_text("Fam00")
        self.assertEqual(SeatPlan.objects.get().seats.get(row=0, column=4).student, students[0])
        # two papers change hands so that two who sit beside each other have one form: it is said at once
        plan = SeatPlan.objects.get()
        plan.seats.filter(row=3, column=1).update(form=plan.seats.get(row=0, column=1).form)
        page.get_by_label("the paper alone").check()
        desks.nth(19).click()
        desks.first.click()
        expect(page.get_by_text("1 pair of neighbours has the same form.")).to_be_visible()
        expect(page.locator(".between .same")).to_have_count(1)
        self.assert_accessible(page, "seat plan")
        page.get_by_role("button", name="Give the forms anew").click()
        expect(page.get_by_text("No neighbours have the same form.")).to_be_visible()
        page.get_by_role("button", name="Print papers with names").click()
        expect(page.get_by_role("link", name="Download the papers of 10 A")).to_be_visible()
        page.get_by_role("link", name="Set 1", exact=True).click()

    def retest(self, page: Page, made: Test) -> None:
        source = made.form_sets.get()
        code = source.forms.get(position=17).code
        page.get_by_label("Form", exact=True).fill(code.lower())
        page.get_by_role("button", name="Show").click()
        expect(page.locator("#paper")).to_contain_text(f"Form {code}")
        page.get_by_text("Another set from this one").click()
        page.get_by_label("A retest for").fill("2")
        page.get_by_role("button", name="Make the retest").click()
        expect(page.get_by_text(f"Retest for form {code} of set 1")).to_be_visible()
        expect(page.get_by_text("every key proved")).to_be_visible()
        again = FormSet.objects.get(source=source)
        had = set(FormItem.objects.filter(form__form_set=source).values_list("candidate__revision", "draw"))
        new = set(FormItem.objects.filter(form__form_set=again).values_list("candidate__revision", "draw"))
        self.assertFalse(had & new)
        page.get_by_role("link", name="Set 1", exact=True).click()
        self.put_right(page, source)

    def put_right(self, page: Page, source: FormSet) -> None:
        """A key was wrong: the question is revised, and that place alone is made anew; this set stays as it was."""
        held = Question.objects.get(current__title="Harbour crane")
        before = page.locator(".answers tbody").inner_text()
        document = load_document(held.newest.document | {"wording": "Now it is right: $m$ kg by $h$ m."})
        Question.save_revision(held.department, held.owner, document, held.filing, question=held)
        page.reload()
        page.get_by_text("Another set from this one").click()
        page.get_by_label("of form", exact=True).fill("nothing")
        page.get_by_role("button", name="Draw anew").click()
        expect(page.get_by_role("alert")).to_contain_text("There is no form NOTHING")
        expect(page.get_by_label("of form", exact=True)).to_have_value("nothing")
        page.get_by_role("button", name="Put it right").click()
        expect(page.get_by_text("Question 2 put right in set 1")).to_be_visible()
        expect(page.get_by_text("every key proved")).to_be_visible()
        page.get_by_role("link", name="Set 1", exact=True).click()
        expect(page.get_by_role("link", name="Set 3", exact=True)).to_be_visible()
        self.assertEqual(page.locator(".answers tbody").inner_text(), before)
        self.assertEqual(source.followers.count(), 2)

    def test_a_plan_from_what_it_is_to_cover(self) -> None:
        page, physics = self.page, Question.objects.get(current__title="Harbour crane").department
        author = Question.objects.get(current__title="Harbour crane").owner
        for k in range(4):
            filed = question(physics, author, "foghorn", title=f"Echo {k}")
            document, filing = load_document(filed.newest.document), Filing(topics=(("Physics", "Echoes"),), level=2)
            Question.save_revision(physics, author, document, filing, question=filed)
        made = self.begin("From a grid")
        set_target(made, Tree(physics).paths["Physics", "Echoes"], 2, 5)
        page.reload()
        page.get_by_role("button", name="Say what it is to cover").click()
        page.get_by_label("Marks of Echoes at level 2").fill("6,5")
        page.get_by_label("Another objective").select_option(label="Physics")
        expect(page.get_by_label("Marks of Physics at level 4")).to_be_visible()
        page.get_by_label("Marks of Physics at level 4").fill("some")
        page.get_by_role("button", name="Keep these marks").click()
        expect(page.get_by_text("“some” is no number of marks")).to_be_visible()
        expect(page.get_by_label("Marks of Physics at level 4")).to_have_value("some")
        page.get_by_label("Marks of Physics at level 4").fill("3")
        page.get_by_role("button", name="Keep these marks").click()
        self.start_worker()
        page.get_by_role("button", name="Choose questions for it").click()
        expect(page.get_by_text("Added 3 questions at the end.")).to_be_visible()
        expect(page.get_by_text("Echoes, level 2: 6 of 6.5 marks; 4 questions to choose from.")).to_be_visible()
        expect(page.get_by_text("Physics, level 4: 0 of 3 marks; there is no question of it.")).to_be_visible()
        expect(page.locator("#plan .total")).to_contain_text("6 marks")
        page.get_by_role("button", name=re.compile("^Undo: Chose 3 questions")).click()
        expect(page.locator("#plan")).to_contain_text("No questions yet")

    def test_a_paper_is_chosen_while_it_is_seen(self) -> None:
        page = self.page
        self.begin("On paper")
        self.add("Foghorn of the lighthouse")
        expect(page.locator("#plan .total")).to_contain_text("marks")
        page.get_by_role("link", name="On paper", exact=True).click()
        expect(page.get_by_alt_text("Page 1 of the paper")).to_be_visible()
        before = page.get_by_alt_text("Page 1 of the paper").get_attribute("src")
        # every choice is seen before it is kept, by keys alone
        page.get_by_label("Words of the paper itself").select_option(label="German")
        expect(page.get_by_alt_text("Page 1 of the paper")).not_to_have_attribute("src", before or "")
        page.get_by_label("A cover, with a table for the marker").focus()
        page.keyboard.press("Space")
        expect(page.get_by_alt_text("Page 2 of the paper")).to_be_visible()
        page.get_by_label("Minutes allowed").fill("0")
        page.get_by_role("button", name="Keep it so").click()
        expect(page.get_by_text("greater than or equal to 1")).to_be_visible()
        expect(page.get_by_label("Words of the paper itself")).to_have_value("de")
        page.get_by_label("Minutes allowed").fill("45")
        page.get_by_role("button", name="Keep it so").click()
        expect(page.get_by_label("Minutes allowed")).to_have_value("45")
        expect(page.get_by_text("2 pages with the numbers of one draw")).to_be_visible()
        self.assert_accessible(page, "a paper that is being chosen")
        page.get_by_role("link", name="On paper").first.click()
        undo = page.get_by_role("button", name=re.compile("^Undo: Changed how papers look"))
        undo.click()
        expect(undo).to_have_count(0)
        page.get_by_role("link", name="On paper", exact=True).click()
        expect(page.get_by_label("Words of the paper itself")).to_have_value("en")
