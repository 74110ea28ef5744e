"""A week of homework: one student tries again, one has similar questions, one passes at the second attempt and goes on."""

from datetime import timedelta
from fractions import Fraction

from django.utils import timezone
from playwright.sync_api import Page, expect

from tests.web.samples import frozen, test_of
from tests.web.test_sittings import do_jobs
from vorlage.core.notation import line
from vorlage.core.sittings import RELEASED, Rules
from vorlage.web.classes.models import Class, Student
from vorlage.web.forms.models import ItemKey
from vorlage.web.people.models import User
from vorlage.web.sittings.attempts import draws_of
from vorlage.web.sittings.marking import totals_of
from vorlage.web.sittings.models import Similar, Sitting, Taking
from vorlage.web.sittings.opening import follows
from vorlage.web.sittings.questions import questions_had

from .base import DESK, PHONE, BrowserTest

DAY = timedelta(days=1)
# What is right in no draw.
WRONG = "-98765"


class HomeworkWeek(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.test = test_of(self.physics, self.author, self.questions["foghorn"], self.questions["lock-gate"])
        self.held = Class.objects.create(department=self.physics, name="10 A", year="2026/27")
        self.held.teachers.add(self.author)
        school = self.physics.school
        self.students = {}
        for number, given in enumerate(("Ada", "Ben", "Cleo"), start=1):
            user = User.objects.create(sign_in_name=given.lower(), name=given, school=school, studies=True)
            self.students[given] = Student.objects.create(
                school=school, family="Abara", given=given, number=str(number), user=user
            )
        self.held.enrol([each.pk for each in self.students.values()])
        now = timezone.localtime()
        seen = RELEASED | {"own": "each", "outcome": "each", "marks": "handed_in", "total": "handed_in"}
        rules = Rules(
            now - DAY, closes=now + 6 * DAY, attempts=2, tries=3, try_cost=Fraction(1, 10), similar=1,
            pass_share=Fraction(3, 4), seen=seen | {"key": "no_attempt"},
        )  # fmt: skip
        form_set = frozen(self.test, 6)
        self.homework = Sitting.give(self.test, [self.held], rules, self.author, form_set)
        self.step = Sitting.give(self.test, [self.held], Rules(now - DAY), self.author, form_set)
        do_jobs()
        Sitting.objects.filter(pk=self.step.pk).update(title="The second step")
        follows(self.homework, [self.step])

    def as_student(self, given: str) -> Page:
        page = self.open(PHONE)
        self.let_in(self.students[given].user, page)
        page.goto(self.address("/mine/"))
        return page

    def begin(self, page: Page, name: str = "Begin") -> None:
        page.get_by_role("button", name=name).click()
        expect(page.locator("html")).to_have_attribute("data-ready", "1")

    def taking(self, given: str) -> Taking:
        among = Taking.objects.current().select_related("sitting__form_set")
        return among.get(sitting=self.homework, student=self.students[given])

    def answers(self, page: Page, typed: str | None = None) -> None:
        """Write the keys of the form, or one thing everywhere."""
        taking = self.taking_at(page)
        for row in ItemKey.objects.filter(item__form=taking.form_id).select_related("item"):
            for part in row.parts:
                where = f"#answer-{row.item.position}-{part['part']} [data-answer]"
                page.locator(where).fill(part["key"] if typed is None else typed)

    def taking_at(self, page: Page) -> Taking:
        return Taking.objects.get(
            pk=page.evaluate("JSON.parse(document.getElementById('sitting-data').textContent).taking")
        )

    def hand_in(self, page: Page) -> None:
        page.locator("#to-hand-in").click()
        page.get_by_role("button", name="Hand in now").click()
        expect(page.get_by_text("Receipt")).to_be_visible()

    def check(self, page: Page, question: int) -> None:
        page.locator(f".checking[data-question='{question}']").get_by_role("button", name="Check this question").click()

    def test_one_tries_again(self) -> None:
        page = self.as_student("Ada")
        page.get_by_role("link", name=self.test.title, exact=True).click()
        expect(page.get_by_text("try it 3 times; a further try costs 10 %")).to_be_visible()
        self.assert_accessible(page, "before homework")
        self.begin(page)
        first = page.locator("#question-0")
        expect(first.locator("[data-tries]")).to_have_text("3 tries. Each after the first costs 10 % of the marks.")
        first.locator("[data-answer]").fill("3 +")
        self.check(page, 0)
        expect(first.get_by_text("so it was no try")).to_be_visible()
        first.locator("[data-answer]").fill(WRONG)
        self.check(page, 0)
        expect(first.get_by_text("wrong")).to_be_visible()
        expect(first.locator("[data-tries]")).to_have_text(
            "2 of 3 tries left. Each further one costs 10 % of the marks."
        )
        self.assert_accessible(page, "a question that was checked")
        # what came of an answer is not said of another one
        taking = self.taking_at(page)
        key = ItemKey.objects.get(item__form=taking.form_id, item__position=0).parts[0]["key"]
        first.locator("[data-answer]").fill(key)
        expect(first.get_by_text("wrong")).to_have_count(0)
        self.check(page, 0)
        expect(first.get_by_text("right", exact=True)).to_be_visible()
        expect(first.locator("[data-answer]")).to_be_disabled()
        # it is as it was when the page is opened again, on another device
        page.reload()
        expect(first.get_by_text("right", exact=True)).to_be_visible()
        expect(first.locator("[data-answer]")).to_be_disabled()
        self.assertNotIn("<dt>Key</dt>", page.content())
        self.hand_in(page)
        do_jobs()
        page.reload()
        expect(page.get_by_text("further tries cost 10 %")).to_be_visible()
        self.assertEqual(page.locator(".came-back dt", has_text="Key").count(), 0)
        self.assert_accessible(page, "what came back of the first attempt")

    def test_one_has_a_similar_question(self) -> None:
        page = self.as_student("Ben")
        page.get_by_role("link", name=self.test.title, exact=True).click()
        self.begin(page)
        self.answers(page, WRONG)
        self.check(page, 0)
        page.locator("#question-0").get_by_role("button", name="A similar question instead").click()
        again = page.get_by_text("Question 1 once more, with other numbers")
        expect(again).to_be_visible()
        expect(page.locator("#how-far")).to_have_text("2 of 3")
        row = Similar.objects.get()
        similar = page.locator(f"#question-{row.position}")
        expect(similar).to_be_focused()
        expect(page.locator("#question-0 [data-answer]").first).to_be_disabled()
        self.assert_accessible(page, "a similar question")
        wide = page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, PHONE["width"])
        had = next(each for each in questions_had(self.taking("Ben")) if each.position == row.position)
        key = had.drawn.key_tree(0)
        assert key is not None
        similar.locator("[data-answer]").first.fill(line(key))
        expect(similar.locator(".read-as").first).to_contain_text("read as")
        self.check(page, row.position)
        expect(similar.get_by_text("right", exact=True)).to_be_visible()
        self.hand_in(page)
        do_jobs()
        page.reload()
        expect(page.get_by_text("the better of both counts")).to_be_visible()
        (total,) = totals_of(self.homework)
        self.assertEqual(total.reached, Fraction(had.drawn.question.document.parts[0].marks))

    def test_one_passes_at_the_second_attempt_and_goes_on(self) -> None:
        page = self.as_student("Cleo")
        expect(page.get_by_text("pass “At the quay” first")).to_be_visible()
        page.get_by_role("link", name=self.test.title, exact=True).click()
        self.begin(page)
        self.hand_in(page)
        do_jobs()
        page.reload()
        expect(page.get_by_text("Not passed yet")).to_be_visible()
        expect(page.get_by_text("One attempt is left. The next may begin now.")).to_be_visible()
        page.get_by_role("link", name="Another attempt").click()
        self.assert_accessible(page, "before the second attempt")
        self.begin(page, "Begin attempt 2")
        own = self.taking("Cleo").own
        first, second = (draws_of(self.homework.form_set_id)[each.form_id or 0] for each in own)
        self.assertFalse(set(first) & set(second))
        self.answers(page)
        expect(page.locator("#saved")).to_have_text("saved")
        self.hand_in(page)
        do_jobs()
        page.reload()
        expect(page.get_by_text("Passed.")).to_be_visible()
        expect(page.get_by_text("There is no attempt left.")).to_be_visible()
        # no attempt is left: the key is seen, of the earlier attempt too
        expect(page.locator(".came-back dt", has_text="Key").first).to_be_visible()
        self.assert_accessible(page, "when no attempt is left")
        page.get_by_role("link", name="Attempt 1").click()
        expect(page.locator(".came-back dt", has_text="Key").first).to_be_visible()
        page.get_by_role("link", name="The second step").click()
        self.begin(page)
        expect(page.locator("#question-0")).to_be_visible()
        # and the teacher sees who waits at which step
        self.sign_in()
        self.page.set_viewport_size(DESK)  # type: ignore[arg-type]
        self.page.goto(self.address(f"/sittings/{self.step.pk}/"))
        expect(self.page.get_by_text("waits: “At the quay” not passed")).to_have_count(2)
        self.page.get_by_label("Choose Ada Abara").check()
        self.page.get_by_role("button", name="Open it for them").click()
        expect(self.page.get_by_text("1 student: let begin.")).to_be_visible()
        self.assert_accessible(self.page, "a sitting that comes after another")
