"""The desk as it is lived in: signed out, offline, back and forward, in two windows, with the keyboard alone."""

from __future__ import annotations

import re

from allauth.mfa.recovery_codes.internal.auth import RecoveryCodes
from allauth.mfa.totp.internal.auth import TOTP, generate_totp_secret
from playwright.sync_api import Page, expect

from tests.browser.base import DESK, PATIENCE, PHONE, BrowserTest, Held
from tests.web.samples import PASSWORD
from vorlage.web.bank.models import Question
from vorlage.web.desk.models import Draft


def saved(page: Page, number: int) -> None:
    """A revision is kept; what is computed right after it says so in other words."""
    expect(page.locator("#state")).to_contain_text(
        re.compile(f"Saved as revision {number}|Revision {number}, saved by")
    )


class NothingIsLost(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        # windows of one browser, which share what it keeps
        self.context = self.browser.new_context(viewport=DESK)  # type: ignore[arg-type]
        self.addCleanup(self.context.close)
        self.page = self.window()

    def window(self) -> Page:
        page = self.context.new_page()
        page.set_default_timeout(PATIENCE)
        page.on("pageerror", lambda error: self.complaints.append(str(error)))
        page.on("console", self.listen)
        return page

    def crane(self, page: Page | None = None) -> Page:
        page = page or self.page
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        return page

    def kept(self, page: Page) -> None:
        expect(page.locator("#state")).to_contain_text("draft kept")

    def test_signed_out_one_signs_in_again_in_place(self) -> None:
        page = self.crane(self.sign_in())
        other = self.window()
        other.goto(self.address("/questions/"))
        other.get_by_role("button", name="Physics · Author").click()
        other.get_by_role("button", name="Sign out").click()
        expect(other.get_by_label("Password")).to_be_visible()
        page.get_by_label("Title", exact=True).fill("Crane in the fog")
        again = page.get_by_role("dialog", name="You have been signed out")
        expect(again).to_be_visible()
        again.get_by_label("Password").fill("wrong-password")
        again.get_by_role("button", name="Sign in and go on").click()
        expect(again).to_contain_text("do not fit")
        again.get_by_label("Password").fill(PASSWORD)
        again.get_by_role("button", name="Sign in and go on").click()
        expect(again).to_be_hidden()
        self.kept(page)
        page.get_by_role("button", name="Save revision").click()
        saved(page, 2)
        self.assertEqual(Question.objects.get(pk=self.questions["harbour-crane"].pk).newest.title, "Crane in the fog")

    def test_with_a_second_step_one_signs_in_beside_and_goes_on(self) -> None:
        page = self.crane(self.sign_in())
        TOTP.activate(self.author, generate_totp_secret())
        codes = RecoveryCodes.activate(self.author).get_unused_codes()
        page.context.clear_cookies()
        page.get_by_label("Title", exact=True).fill("Crane in the fog")
        again = page.get_by_role("dialog", name="You have been signed out")
        again.get_by_label("Password").fill(PASSWORD)
        again.get_by_role("button", name="Sign in and go on").click()
        expect(again).to_contain_text("A second step is needed")
        # the password has been given already
        other = self.window()
        other.goto(self.address("/sign-in/"))
        expect(other.get_by_role("heading", name="Second step")).to_be_visible()
        self.assert_accessible(other, "second step")
        other.get_by_label("The code that your phone shows").fill("000000")
        other.get_by_role("button", name="Sign in", exact=True).click()
        expect(other.get_by_text("This is not the code")).to_be_visible()
        other.get_by_label("The code that your phone shows").fill(codes[0])
        other.get_by_role("button", name="Sign in", exact=True).click()
        expect(other.get_by_role("button", name="Physics · Author")).to_be_visible()
        again.get_by_role("button", name="Sign in and go on").click()
        expect(again).to_be_hidden()
        self.kept(page)
        expect(page.get_by_label("Title", exact=True)).to_have_value("Crane in the fog")

    def test_a_save_signed_out_is_made_after_signing_in(self) -> None:
        page = self.crane(self.sign_in())
        page.get_by_label("Title", exact=True).fill("Crane in the fog")
        self.kept(page)
        page.context.clear_cookies()
        page.get_by_role("button", name="Save revision").click()
        again = page.get_by_role("dialog", name="You have been signed out")
        again.get_by_label("Password").fill(PASSWORD)
        again.get_by_role("button", name="Sign in and go on").click()
        saved(page, 2)

    def test_saving_keeps_the_page_and_the_place(self) -> None:
        page = self.sign_in()
        page.goto(self.address("/questions/new/"))
        page.get_by_label("Title", exact=True).fill("Rope")
        page.get_by_label("Wording", exact=True).fill("A rope of $l$ is cut in half.")
        page.get_by_label("Name of the parameter").fill("l")
        page.get_by_label("Definition").fill("2..40")
        page.locator("[data-key]").fill("l/2")
        field = page.get_by_label("Wording of the part")
        field.fill("How long is a half?")
        field.press("Control+s")
        saved(page, 1)
        expect(field).to_be_focused()
        made = Question.objects.get(current__title="Rope")
        self.assertTrue(page.url.endswith(f"/questions/{made.pk}/"))
        expect(page.get_by_role("link", name="History")).to_be_visible()
        self.assertFalse(Draft.objects.exists())
        # what is typed from here on is a change of that revision
        field.fill("How long is one half?")
        self.kept(page)
        page.get_by_label("What this revision changes").fill("clearer")
        page.get_by_role("button", name="Save revision").click()
        saved(page, 2)
        self.assertEqual(made.revisions.get(number=2).note, "clearer")
        page.reload()
        expect(field).to_have_value("How long is one half?")

    def test_offline_and_back(self) -> None:
        page = self.crane(self.sign_in())
        page.context.set_offline(True)
        page.get_by_label("Title", exact=True).fill("Crane offline")
        expect(page.locator("#offline")).to_be_visible()
        # rows are made on the page itself, as many as are asked for
        rows = page.locator("#parameters [data-row]")
        before = rows.count()
        page.get_by_role("button", name="Add a parameter").click()
        page.get_by_role("button", name="Add a parameter").click()
        self.assertEqual(rows.count(), before + 2)
        page.get_by_role("button", name="Save revision").click()
        expect(page.get_by_label("Title", exact=True)).to_have_value("Crane offline")
        page.context.set_offline(False)
        self.kept(page)
        expect(page.locator("#offline")).to_be_hidden()
        # that the network is away is no fault of the page
        self.complaints = [each for each in self.complaints if "ERR_INTERNET_DISCONNECTED" not in each]

    def test_what_never_reached_the_server_is_offered_again(self) -> None:
        page = self.crane(self.sign_in())
        page.context.set_offline(True)
        page.get_by_label("Title", exact=True).fill("Crane that was lost")
        expect(page.locator("#offline")).to_be_visible()
        page.once("dialog", lambda dialog: dialog.accept())
        page.context.set_offline(False)
        page.route("**/questions/preview/", lambda route: route.abort())
        page.close(run_before_unload=False)
        later = self.crane(self.window())
        note = later.locator("#journal-note")
        expect(note).to_contain_text("“Crane that was lost”")
        note.get_by_role("button", name="Take it up again").click()
        expect(later.get_by_label("Title", exact=True)).to_have_value("Crane that was lost")
        expect(later.locator("#draft-note")).to_contain_text("This is your draft")
        expect(note).to_be_hidden()
        # the page that was cut off says so in its console
        self.complaints = [each for each in self.complaints if "ERR_INTERNET_DISCONNECTED" not in each]

    def test_two_windows_of_one_question(self) -> None:
        first = self.crane(self.sign_in())
        second = self.crane(self.window())
        first.get_by_label("Title", exact=True).fill("Crane in fog")
        self.kept(first)
        second.get_by_label("Wording", exact=True).fill("A crane lifts $m$ by $h$ in fog.")
        self.kept(second)
        for page in (first, second):
            page.close(run_before_unload=False)
        again = self.crane(self.window())
        expect(again.get_by_label("Title", exact=True)).to_have_value("Crane in fog")
        expect(again.get_by_label("Wording", exact=True)).to_have_value("A crane lifts $m$ by $h$ in fog.")
        expect(again.locator("#windows")).to_contain_text("written in more than one window")
        again.get_by_role("button", name="Save revision").click()
        saved(again, 2)
        self.assertFalse(Draft.objects.exists())

    def test_a_save_in_one_window_leaves_the_other_its_text(self) -> None:
        first = self.crane(self.sign_in())
        second = self.crane(self.window())
        second.get_by_label("Wording", exact=True).fill("A crane lifts $m$ by $h$ in fog.")
        self.kept(second)
        first.get_by_label("Title", exact=True).fill("Crane in fog")
        first.get_by_role("button", name="Save revision").click()
        saved(first, 2)
        second.close(run_before_unload=False)
        again = self.crane(self.window())
        expect(again.get_by_label("Title", exact=True)).to_have_value("Crane in fog")
        expect(again.get_by_label("Wording", exact=True)).to_have_value("A crane lifts $m$ by $h$ in fog.")

    def test_back_and_forward_show_what_is_kept(self) -> None:
        page = self.crane(self.sign_in())
        page.get_by_label("Title", exact=True).fill("Crane and back")
        self.kept(page)
        page.once("dialog", lambda dialog: dialog.accept())
        page.goto(self.address("/tests/"))
        page.go_back()
        expect(page.get_by_label("Title", exact=True)).to_have_value("Crane and back")
        page.go_back()
        page.go_forward()
        expect(page.get_by_label("Title", exact=True)).to_have_value("Crane and back")

    def test_what_is_taken_away_can_be_put_back(self) -> None:
        page = self.crane(self.sign_in())
        part = page.locator(".part-fields").first
        wording = part.get_by_label("Wording of the part").input_value()
        part.get_by_role("button", name="Take out this part").click()
        bar = page.locator("#removed")
        expect(bar).to_contain_text("The part is taken out.")
        page.get_by_role("button", name="Take out this parameter").first.click()
        expect(bar).to_contain_text("Parameter m is taken out.")
        bar.get_by_role("button", name="Put it back").click()
        expect(page.get_by_label("Name of the parameter").first).to_have_value("m")
        bar.get_by_role("button", name="Put it back").click()
        expect(page.locator(".part-fields").first.get_by_label("Wording of the part")).to_have_value(wording)
        expect(bar).to_be_hidden()
        page.get_by_role("button", name="Pin draw 2").click()
        page.get_by_role("button", name="Take out pinned draw 1").click()
        expect(bar).to_contain_text("Pinned draw 1 is taken out.")
        bar.get_by_role("button", name="Put it back").click()
        expect(page.get_by_role("button", name="Take out pinned draw 1")).to_be_visible()

    def test_a_draft_is_discarded_when_one_is_sure(self) -> None:
        page = self.crane(self.sign_in())
        page.get_by_label("Title", exact=True).fill("Crane to discard")
        self.kept(page)
        page.once("dialog", lambda dialog: dialog.accept())
        page.reload()
        page.once("dialog", lambda dialog: dialog.dismiss())
        page.get_by_role("button", name="Discard draft").click()
        expect(page.get_by_label("Title", exact=True)).to_have_value("Crane to discard")
        page.once("dialog", lambda dialog: dialog.accept())
        page.get_by_role("button", name="Discard draft").click()
        expect(page.get_by_label("Title", exact=True)).to_have_value("Harbour crane")
        self.assertFalse(Draft.objects.exists())


class Focus(BrowserTest):
    def test_focus_stays_where_one_is(self) -> None:
        page = self.sign_in()
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        tried = page.get_by_label("Try an answer to (a)")
        tried.press_sequentially("49 440", delay=60)
        expect(page.locator(".verdict .outcome").first).to_be_visible()
        expect(tried).to_be_focused()
        expect(tried).to_have_value("49 440")
        for name in ("Pin draw 2", "Eight more draws"):
            button = page.get_by_role("button", name=name)
            button.focus()
            page.keyboard.press("Enter")
            expect(page.locator("#draws :focus, #draws:focus")).to_have_count(1)
        # regions are walked through, and remember where one was
        title = page.get_by_label("Title", exact=True)
        title.focus()
        for region in (".paper-side", "#draws", "#where", ".fields"):
            page.keyboard.press("F6")
            expect(page.locator(f"{region} :focus, {region}:focus")).to_have_count(1)
        expect(title).to_be_focused()

    def test_an_answer_that_was_typed_meanwhile_stays_on_the_sheet(self) -> None:
        page = self.sign_in()
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        answers = Held(page, "**/questions/preview/")
        page.get_by_role("button", name="Eight more draws").click()
        answers.arrived()
        first, title = page.get_by_label("Try an answer to (a)"), page.get_by_label("Title", exact=True)
        # nothing is asked for anew before the answer comes
        first.evaluate("field => { field.value = '20'; }")
        title.focus()
        answers.let_go()
        expect(page.locator("#draws tbody tr")).to_have_count(16)
        expect(first).to_have_value("20")
        expect(title).to_be_focused()

    def test_an_earlier_answer_is_carried_to_later_parts(self) -> None:
        page = self.sign_in()
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        first, second = page.locator(".part-fields").all()
        first.locator("details:has([name$=-gives])").evaluate("details => { details.open = true; }")
        first.get_by_label("Error carried forward").fill("W")
        second.locator("[data-key]").fill("W/t")
        page.get_by_label("Try an answer to (a)").fill("-7")
        expect(page.locator(".verdict .outcome").first).to_have_text("wrong")
        page.get_by_label("Try an answer to (b)").fill("1")
        expect(page.locator(".verdict").last).to_contain_text("with the answers tried above, the key is")

    def test_room_is_dragged_and_remembered(self) -> None:
        page = self.sign_in()
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        fields, sheet = page.locator(".fields"), page.locator(".paper-side")
        for region in (fields, sheet):
            box = region.bounding_box()
            assert box
            self.assertGreater(box["height"], 560)
        edge = page.get_by_role("separator", name="Edge between fields and sheet")
        before = fields.bounding_box()
        self.grasp(page, edge)
        page.mouse.move(800, 300, steps=5)
        page.mouse.up()
        page.reload()
        after = fields.bounding_box()
        assert before and after
        self.assertGreater(after["width"], before["width"] + 100)

    def test_on_a_phone(self) -> None:
        phone = self.sign_in(page=self.open(PHONE))
        phone.goto(self.address("/questions/new/"))
        phone.get_by_label("Title", exact=True).fill("Rope")
        phone.get_by_label("Wording", exact=True).fill("A rope of $l$ is cut in half.")
        phone.get_by_label("Name of the parameter").fill("l")
        phone.get_by_label("Definition").fill("2..40")
        phone.locator("[data-key]").fill("l/2")
        phone.get_by_label("Try an answer").fill("1")
        expect(phone.locator(".verdict .outcome")).to_be_visible()
        phone.get_by_role("button", name="Save revision").click()
        saved(phone, 1)
        self.assert_accessible(phone, "desk on a phone")
