"""Questions pasted, looked at and taken, and taken out as a file and in again, as teachers do it."""

from playwright.sync_api import expect

from tests.core.test_exchange import PASTED
from tests.web.samples import department, person
from vorlage.web.bank.models import Question
from vorlage.web.desk.models import Draft

from .base import DESK, PHONE, BrowserTest


class ExchangeTest(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.sign_in()

    def test_a_page_is_pasted_and_becomes_drafts(self) -> None:
        page = self.page
        page.goto(self.address("/questions/"))
        page.get_by_role("link", name="Bring in").click()
        self.assert_accessible(page, "where questions are pasted")
        page.get_by_label("Paste your questions").fill(PASTED)
        page.get_by_role("button", name="Look at them").click()
        expect(page.get_by_role("heading", name="10 questions")).to_be_visible()
        expect(page.locator("#number-2 .sheet")).to_contain_text("velocity")
        expect(page.locator("#number-10")).to_contain_text("There is no answer yet")
        self.assert_accessible(page, "a page of questions that were pasted")
        # one of them varies from now on, and shows at once how
        page.get_by_role("button", name="Let it vary: look for a formula for number 1").click()
        page.locator("#formulas-1").get_by_text("Lifting").first.click()
        expect(page.locator("#laid-1 .drawn").first).to_be_visible()
        page.get_by_label("Tick number 9", exact=False).uncheck()
        page.get_by_label("Topic for all of them").fill("Physics ▸ Pasted")
        page.get_by_role("button", name="Take those ticked as drafts").click()
        expect(page.locator(".messages")).to_contain_text("9 drafts")
        page.get_by_role("link", name="A crate of mass …").click()
        expect(page.get_by_label("Name of the parameter").first).to_have_value("m")
        page.wait_for_load_state()
        page.get_by_role("button", name="Save revision").click()
        expect(page.locator("#state")).to_contain_text("Saved")
        self.assertEqual(Draft.objects.filter(user=self.author).count(), 8)
        kept = Question.objects.get(current__title__startswith="A crate of mass")
        self.assertEqual((kept.filing.topic, len(kept.newest.document["parameters"])), (("Physics", "Pasted"), 2))

    def test_by_keyboard_into_the_bank(self) -> None:
        page = self.page
        self.start_worker()
        page.goto(self.address("/questions/bring/"))
        # the field is where one begins
        page.keyboard.insert_text("1. How many bollards?\nAnswer: 12\n")
        for _ in range(2):
            page.keyboard.press("Tab")
        expect(page.get_by_role("button", name="Look at them")).to_be_focused()
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Prove them and put them into the bank").focus()
        page.keyboard.press("Enter")
        expect(page.locator("#brought-1")).to_contain_text("How many bollards?")
        self.assert_accessible(page, "what the worker found")
        page.get_by_role("button", name="Take 1 question").focus()
        page.keyboard.press("Enter")
        expect(page.locator("#main, main").first).to_contain_text("1 question taken")
        page.get_by_role("link", name="See them in the bank").click()
        expect(page.locator("#results")).to_contain_text("How many bollards?")

    def test_documents_go_to_another_department_as_a_file(self) -> None:
        page = self.page
        self.start_worker()
        page.goto(self.address("/questions/"))
        page.get_by_label("Tick all on this page").check()
        page.get_by_text("With the 3 ticked:").click()
        with page.expect_download() as download:
            page.get_by_role("button", name="Take out as documents").click()
        person("reckoner", department("Mathematics"))
        other = self.open(DESK)
        self.sign_in("reckoner", page=other)
        for count, words in ((3, "new"), (0, "here already")):
            other.goto(self.address("/questions/bring/"))
            other.get_by_label("or choose a file").set_input_files(download.value.path())
            other.get_by_role("button", name="Look at them").click()
            expect(other.locator(".counts")).to_contain_text(words)
            expect(other.locator("#chosen")).to_have_text(f"Take {count} questions")
            if count:
                self.assert_accessible(other, "a file of questions")
                other.get_by_role("button", name="Look at Harbour crane with its key").click()
                expect(other.locator(".whole .key").first).to_be_visible()
                other.get_by_label("What becomes of Harbour crane").select_option("nothing")
                expect(other.locator("#chosen")).to_have_text("Take 2 questions")
                other.get_by_label("What becomes of Harbour crane").select_option("question")
                expect(other.locator("#chosen")).to_have_text("Take 3 questions")
                other.locator("#chosen").click()
                expect(other.get_by_text("3 questions taken")).to_be_visible()

    def test_on_a_phone(self) -> None:
        phone = self.open(PHONE)
        self.sign_in(page=phone)
        phone.goto(self.address("/questions/bring/"))
        phone.get_by_label("Paste your questions").fill(PASTED)
        phone.get_by_role("button", name="Look at them").click()
        expect(phone.locator("#number-3 .sheet")).to_be_visible()
        self.assert_accessible(phone, "pasted questions, 390x844")
        width = phone.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(width, 390)
        phone.goto(self.address("/questions/bring/layout/"))
        self.assert_accessible(phone, "the layout, 390x844")
