"""The bank as teachers use it: finding, collecting, filing many at once, changing a colleague's question for oneself."""

import re
import zipfile

from playwright.sync_api import Page, expect

from tests.web.samples import department, person, question
from tests.web.test_bank import filed
from vorlage.web.bank.models import Question
from vorlage.web.forms.models import FormSet
from vorlage.web.plans.models import Test

from .base import DESK, PHONE, BrowserTest, Held


class BankTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        for k in range(5):
            filed(
                self.physics,
                self.author,
                f"Wave {k}",
                "Physics > Waves > Crests",
                f"Wave $m$ number {k}.",
                level=k % 2 + 1,
            )
        self.sign_in()

    def settled(self, page: Page, words: str) -> None:
        """What is found is there, and has been counted."""
        expect(page.locator("#results")).to_contain_text(words)
        expect(page.locator("#facets .found-all")).to_be_visible()

    def collect(self, page: Page, title: str, count: int) -> None:
        page.get_by_role("button", name=f"the tray: {title}").first.click()
        expect(page.locator("#tray")).to_contain_text(f"{count} question")


class Collecting(BankTest):
    def test_six_questions_over_two_searches_become_a_test(self) -> None:
        page = self.page
        page.goto(self.address("/questions/"))
        self.settled(page, "8 questions")
        # by words, from anywhere
        page.get_by_label("Search all questions").fill("crane lifts")
        self.settled(page, "1 question with")
        self.assertIn("search=crane", page.url)
        self.collect(page, "Harbour crane", 1)
        page.get_by_label("Search all questions").fill("")
        self.settled(page, "8 questions")
        # by topic and level
        page.get_by_role("group", name="Topic").get_by_label("Waves").first.check()
        self.settled(page, "Topic: Waves")
        page.get_by_role("group", name="Topic").get_by_label("Crests").check()
        self.settled(page, "5 questions")
        page.get_by_role("group", name="Level").get_by_label("1").check()
        self.settled(page, "3 questions")
        for count, title in enumerate(("Wave 0", "Wave 2", "Wave 4"), start=2):
            self.collect(page, title, count)
        expect(page.get_by_role("button", name="In the tray: Wave 0")).to_be_visible()
        page.get_by_role("link", name="Level: 1").click()
        self.settled(page, "5 questions")
        for count, title in enumerate(("Wave 1", "Wave 3"), start=5):
            self.collect(page, title, count)
        # the order is changed, and what is collected stays
        page.get_by_role("button", name="Move Wave 3 to the left").click()
        expect(page.locator("#tray [data-item]").nth(4)).to_contain_text("Wave 3")
        page.reload()
        expect(page.locator("#tray [data-item]").nth(4)).to_contain_text("Wave 3")
        self.assert_accessible(page, "a full tray")
        self.start_worker()
        # thirty papers with their keys in five actions
        page.get_by_text("Make it a test").click()
        page.get_by_role("button", name="Make the test").click()
        page.get_by_label("How many forms").fill("30")
        page.get_by_role("button", name="Make 30 forms").click()
        with page.expect_download() as download:
            page.get_by_role("link", name="everything in one archive").click()
        names = [name.rpartition("/")[2] for name in zipfile.ZipFile(download.value.path()).namelist()]
        self.assertEqual(
            sum(name.endswith(".pdf") and not re.search("-(all-papers|key|answers)[.]", name) for name in names), 30
        )
        self.assertTrue(any(name.endswith("-key.pdf") for name in names))
        test = Test.objects.get(title="New test")
        self.assertEqual([each.revision.title for each in test.ordered()][::4], ["Harbour crane", "Wave 3"])
        page.goto(self.address("/questions/"))
        expect(page.locator("#tray")).to_contain_text("Nothing collected")

    def test_counts_that_are_overtaken_do_not_take_a_choice_away(self) -> None:
        page = self.page
        page.goto(self.address("/questions/"))
        self.settled(page, "8 questions")
        counts = Held(page, "**/facets/**")
        page.get_by_label("Search all questions").fill("wave")
        expect(page.locator("#results")).not_to_contain_text("8 questions")
        counts.arrived()
        waves = page.get_by_role("group", name="Topic").get_by_label("Waves").first
        found = Held(page, "**/questions/?*")
        waves.check()
        found.arrived()
        counts.let_go()
        found.let_go()
        self.settled(page, "Topic: Waves")
        expect(page.get_by_role("group", name="Topic").get_by_label("Crests")).to_be_visible()
        expect(waves).to_be_checked()

    def test_the_list_is_run_through_by_keyboard_and_the_draw_is_taken_along(self) -> None:
        page = self.page
        page.goto(self.address("/questions/?look=rows&search=harbour crane"))
        self.settled(page, "1 question")
        expect(page.locator("#look h2")).to_have_text("Harbour crane")
        page.goto(self.address("/questions/?look=rows&sort=newest"))
        expect(page.locator("#look h2")).to_have_text("Wave 4")
        page.keyboard.press("ArrowDown")
        expect(page.locator("#look h2")).to_have_text("Wave 3")
        page.keyboard.press("ArrowDown")
        page.keyboard.press("ArrowUp")
        expect(page.locator("#look h2")).to_have_text("Wave 3")
        page.keyboard.press("x")
        expect(page.get_by_label("Tick Wave 3")).to_be_checked()
        page.get_by_role("button", name="As a marker").click()
        expect(page.locator("#look")).to_contain_text("Key")
        page.get_by_role("button", name="The next draw").click()
        expect(page.locator("#look .draw-line")).to_contain_text("draw 2")
        self.assert_accessible(page, "the list with a question beside it")
        page.locator("#row-" + str(Question.objects.get(current__title="Wave 3").pk)).get_by_role("link").focus()
        page.keyboard.press("t")
        expect(page.locator("#tray")).to_contain_text("draw 2")
        page.locator("#look h2 a").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_label("Title")).to_have_value("Wave 3")

    def test_on_a_phone(self) -> None:
        phone = self.open(PHONE)
        self.sign_in(page=phone)
        phone.goto(self.address("/questions/"))
        expect(phone.locator("#results")).to_contain_text("8 questions")
        phone.get_by_role("button", name="Narrow down").click()
        phone.get_by_role("group", name="Topic").get_by_label("Waves").first.check()
        expect(phone.locator("#results")).to_contain_text("Topic: Waves")
        self.collect(phone, "Wave 0", 1)
        self.assert_accessible(phone, "questions narrowed down, 390x844")
        phone.goto(self.address("/questions/?look=rows"))
        phone.get_by_role("row", name="Wave 1").get_by_role("cell").last.click()
        expect(phone.locator("#look h2")).to_have_text("Wave 1")


class Filing(BankTest):
    def test_many_are_filed_at_once_and_it_is_taken_back(self) -> None:
        page = self.page
        page.goto(self.address("/questions/?search=crests"))
        self.settled(page, "5 questions")
        page.get_by_label("Tick Wave 1").check()
        page.get_by_label("Tick Wave 2").check()
        page.get_by_text("With the 2 ticked:").click()
        page.get_by_label("Topics").fill("mom")
        page.get_by_role("button", name="Physics ▸ Moments").click()
        expect(page.get_by_label("Topics")).to_have_value("Physics ▸ Moments")
        self.assert_accessible(page, "with those ticked")
        page.get_by_role("button", name="File under these too").click()
        expect(page.locator("#results")).to_contain_text("Filed under Moments: 2 questions.")
        self.assertEqual(len(Question.objects.get(current__title="Wave 1").filing.topics), 2)
        page.get_by_role("button", name="Undo").click()
        expect(page.locator(".messages")).to_contain_text("Taken back.")
        self.assertEqual(len(Question.objects.get(current__title="Wave 1").filing.topics), 1)

    def test_a_topic_is_chosen_on_the_desk(self) -> None:
        page = self.page
        made = Question.objects.get(current__title="Wave 1")
        page.goto(self.address(f"/questions/{made.pk}/"))
        page.get_by_text("Filing: topics").click()
        page.get_by_label("Topics").fill("Physics ▸ Waves; lock")
        expect(page.locator(".offers")).to_contain_text("makes it")
        page.get_by_label("Topics").fill("Zebra")
        page.get_by_role("button", name="Save revision").click()
        expect(page.locator("#message-topics")).to_contain_text("There is no topic “Zebra”")
        page.get_by_label("Topics").fill("Physics ▸ Waves ▸ Troughs")
        page.get_by_label("Tags, with commas between").fill("sea, tide")
        page.get_by_role("button", name="Save revision").click()
        expect(page.locator("#state")).to_contain_text("Filed anew")
        made = Question.objects.get(pk=made.pk)
        self.assertEqual(
            (made.filing.topics, made.filing.tags, made.latest),
            ((("Physics", "Waves", "Troughs"),), ("sea", "tide"), 1),
        )

    def test_the_tree_is_changed_on_screen(self) -> None:
        page = self.page
        page.goto(self.address("/topics/"))
        page.get_by_role("link", name="Crests").first.click()
        page.get_by_label("Name", exact=True).fill("Tops of waves")
        page.get_by_role("button", name="Rename").click()
        expect(page.locator(".topic-tree")).to_contain_text("Tops of waves")
        page.get_by_label("Make it one with").select_option(label="Physics ▸ Waves")
        page.get_by_role("button", name="Make one").click()
        expect(page.locator(".messages")).to_contain_text("is now one with “Waves”")
        self.assert_accessible(page, "a topic")
        page.get_by_label("Its name").fill("Waves")
        page.get_by_role("button", name="Add", exact=True).click()
        self.assertEqual(Question.objects.get(current__title="Wave 1").filing.topics, (("Physics", "Waves"),))


class Sharing(BankTest):
    def test_a_colleagues_question_is_changed_for_oneself(self) -> None:
        page = self.page
        page.goto(self.address("/questions/?search=crane"))
        maths = department("Mathematics")
        reckoner = person("reckoner", maths)
        question(maths, reckoner, "quay-quadratic")
        page.reload()
        page.get_by_label("Tick Harbour crane").check()
        page.get_by_text("With the 1 ticked:").click()
        page.get_by_label("Who may use them").select_option(label="also for Mathematics")
        page.get_by_role("button", name="Share").click()
        expect(page.locator("#results")).to_contain_text("Shared with Mathematics: 1 question.")
        other = self.open(DESK)
        self.sign_in("reckoner", page=other)
        other.goto(self.address("/questions/"))
        expect(other.locator("#results")).to_contain_text("1 question")
        other.get_by_label("of other departments").check()
        expect(other.locator("#results")).to_contain_text("Harbour crane")
        other.get_by_role("link", name="Harbour crane").click()
        expect(other.get_by_label("Title")).to_be_disabled()
        self.assert_accessible(other, "a question of another department")
        other.get_by_role("button", name="Change it for me").click()
        expect(other.locator("#around")).to_contain_text("Copied from revision 1 of Harbour crane, Physics")
        other.get_by_label("Title").fill("Dock crane")
        other.get_by_role("button", name="Save revision").click()
        expect(other.locator("#state")).to_contain_text("Saved as revision 2")
        self.assertEqual(Question.objects.get(department=self.physics, current__title="Harbour crane").latest, 1)
        self.assertFalse(FormSet.objects.exists())
