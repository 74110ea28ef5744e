"""Every screen at both sizes: nothing for axe-core to find, nothing wider than the window, all by keyboard."""

import re

from playwright.sync_api import Page, Route, expect

from tests.web.samples import SURPRISED, frozen, person, surprising, test_of
from tests.web.test_desk_tools import picture_file
from vorlage.core.questions import load_document

from .base import DESK, PHONE, BrowserTest, Held

CONVERSION = re.compile(r"/questions/parts/\w+/conversion/$")


class Screens(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.test = test_of(self.physics, self.author, *self.questions.values())
        self.empty = test_of(self.physics, self.author, title="Empty")
        self.form_set = frozen(self.test, 3)
        crane = self.questions["harbour-crane"]
        changed = load_document(crane.current.document | {"title": "Crane"})
        crane.save_revision(self.physics, self.author, changed, question=crane)
        broken = surprising(self.physics, self.author)
        self.failed = frozen(test_of(self.physics, self.author, broken, title="Broken"), SURPRISED)
        person("reader", self.physics, "reader")

    def walk(self, page: Page, size: str) -> None:
        page.goto(self.address("/sign-in/"))
        self.assert_accessible(page, f"sign in, {size}")
        page.get_by_label("E-mail address").fill("author@sandhaven.example")
        page.get_by_label("Password").fill("wrong")
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("alert")).to_be_visible()
        self.assert_accessible(page, f"refused sign in, {size}")
        self.sign_in(page=page)
        crane = self.questions["harbour-crane"].pk
        for name, path in {
            "questions": "/questions/", "rows": "/questions/?look=rows", "topics": "/topics/", "pools": "/pools/", "nothing found": "/questions/?search=zebra", "new question": "/questions/new/",
            "formula book": "/questions/formulas/", "formulas found": "/questions/formulas/?words=cone",
            "desk": f"/questions/{crane}/", "history": f"/questions/{crane}/history/?from=1&to=2", "tests": "/tests/", "test": f"/tests/{self.test.pk}/",
            "empty test": f"/tests/{self.empty.pk}/", "form set": f"/form-sets/{self.form_set.pk}/",
            "failed set": f"/form-sets/{self.failed.pk}/", "missing page": "/questions/999999/",
        }.items():  # fmt: skip
            page.goto(self.address(path))
            self.assert_accessible(page, f"{name}, {size}")
        page.goto(self.address(f"/questions/{crane}/"))
        page.locator("[name=view][value=solution]").check()
        page.get_by_label("Definition").first.fill("150..")
        expect(page.locator(".field-error")).to_be_visible()
        self.assert_accessible(page, f"desk with an error, {size}")
        page.get_by_label("Definition").first.fill("150..600 step 50")
        page.get_by_label("Try an answer").first.fill("12")
        expect(page.locator(".verdict .outcome")).to_be_visible()
        expect(page.locator("#sheet .worked").first).to_be_visible()
        self.assert_accessible(page, f"desk with a verdict, {size}")
        # what stands in the heads of the parts has room in them
        wider = page.locator(".fields").evaluate("pane => pane.scrollWidth - pane.clientWidth")
        self.assertLessEqual(wider, 0, size)

    def test_at_the_desk(self) -> None:
        self.walk(self.page, "1280x800")

    def test_on_a_phone(self) -> None:
        phone = self.open(PHONE)
        self.walk(phone, "390x844")
        phone.goto(self.address("/questions/"))
        phone.get_by_role("button", name="Menu").click()
        expect(phone.get_by_role("link", name="Tests", exact=True)).to_be_visible()
        self.assert_accessible(phone, "open menu, 390x844")

    def test_brackets_are_as_wide_as_they_are_drawn(self) -> None:
        """This browser fits letters to dots, and so takes their widths from where others do not look."""
        page = self.sign_in()
        widths = page.evaluate(
            """async () => {
              await document.fonts.load("20px 'Vorlage Schola Math'");
              document.querySelector("main").insertAdjacentHTML("beforeend", "<math><mo stretchy='false'>(</mo><mn>0</mn></math>");
              return [...document.querySelectorAll("main > math:last-child *")].map(each => each.getBoundingClientRect().width);
            }"""
        )
        self.assertEqual(len(widths), 2)
        self.assertLess(widths[0], widths[1])

    def test_a_reader_reads(self) -> None:
        page = self.sign_in("reader")
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        expect(page.get_by_label("Title")).to_be_disabled()
        page.locator("#draws").get_by_label("5", exact=True).check()
        expect(page.locator("#which")).to_contain_text("draw 5")
        self.assert_accessible(page, "desk of a reader")

    def test_by_keyboard_alone(self) -> None:
        page = self.sign_in()
        page.keyboard.press("/")
        expect(page.get_by_label("Jump to a question, a test or a class by name")).to_be_focused()
        page.keyboard.type("lock")
        expect(page.locator("#jump-results").get_by_role("link", name="Pushing the lock gate")).to_be_visible()
        page.keyboard.press("Tab")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Title")).to_have_value("Pushing the lock gate")
        page.wait_for_load_state()
        page.get_by_label("Definition").first.focus()
        page.keyboard.press("Enter")
        expect(page.get_by_label("Definition").nth(1)).to_be_focused()
        first = page.locator("#draws input[name=draw]").first
        first.focus()
        page.keyboard.press("ArrowDown")
        expect(page.locator("#which")).to_contain_text("draw 2")
        expect(page.locator("#draw-2")).to_be_focused()

    def test_typing_fast_loses_nothing(self) -> None:
        page = self.sign_in()
        page.goto(self.address("/questions/new/"))
        wording = page.get_by_label("Wording", exact=True)
        wording.press_sequentially("The tide gauge shows $h$ at noon and falls all afternoon. ", delay=5)
        page.get_by_label("Title").fill("Tide")
        page.get_by_label("Name of the parameter").fill("h")
        page.get_by_label("Definition").fill("2..9")
        expect(page.locator("#draws tbody tr")).to_have_count(8)
        expect(wording).to_have_value("The tide gauge shows $h$ at noon and falls all afternoon. ")
        expect(page.get_by_label("Title")).to_have_value("Tide")

    def test_what_is_typed_while_another_kind_of_answer_is_on_its_way_is_kept(self) -> None:
        page = self.sign_in()
        page.goto(self.address("/questions/new/"))
        asked: list[Route] = []
        page.route(CONVERSION, lambda route: asked.append(route))
        with page.expect_request(CONVERSION):
            page.get_by_label("Kind of answer").select_option("formula")
        with page.expect_request(CONVERSION):
            page.locator("[data-key]").fill("(x - 2)(x - 3)")
        while len(asked) < 2:
            page.wait_for_timeout(20)
        asked[-1].continue_()
        expect(page.get_by_label("Form asked for")).to_be_visible()
        expect(page.locator("[data-key]")).to_have_value("(x - 2)(x - 3)")

    def test_a_lost_network_is_said_and_survived(self) -> None:
        page = self.sign_in()
        page.goto(self.address(f"/questions/{self.questions['foghorn'].pk}/"))
        page.route("**/questions/preview/", lambda route: route.abort())
        with page.expect_event("requestfailed"):
            page.get_by_label("Title").fill("Foghorn at night")
        expect(page.locator("#offline")).to_be_visible()
        self.complaints.clear()
        page.unroute("**/questions/preview/")
        page.get_by_label("Title").fill("Foghorn by night")
        expect(page.locator("#offline")).to_be_hidden()
        self.complaints.clear()

    def test_a_refused_save_keeps_everything(self) -> None:
        page = self.sign_in()
        page.goto(self.address("/questions/new/"))
        page.get_by_label("Title").fill("Half a thought")
        page.get_by_label("Wording", exact=True).fill("Nothing is asked yet about $x$.")
        page.get_by_role("button", name="Save revision").click()
        expect(page.get_by_text("Nothing you typed is lost")).to_be_visible()
        expect(page.get_by_label("Title")).to_have_value("Half a thought")
        expect(page.get_by_label("Wording", exact=True)).to_have_value("Nothing is asked yet about $x$.")
        self.assert_accessible(page, "refused save")

    def test_a_demand_and_a_formula_are_taken_from_what_is_offered(self) -> None:
        page = self.sign_in()
        page.goto(self.address("/questions/new/"))
        page.get_by_label("Wording", exact=True).fill("Take $x^2 - 5x + 6$.")
        page.get_by_label("Kind of answer").select_option("formula")
        page.get_by_label("Wording of the part").fill("Factorise it.")
        answer = page.locator("[data-key]").first
        answer.fill("(x - 2)(x - 3)")
        page.get_by_role("button", name="Ask for the form factorised").click()
        expect(page.get_by_label("Form asked for")).to_have_value("factorised")
        expect(page.locator("[name$='-share']").first).to_have_value("0")
        expect(page.get_by_role("button", name="Ask for the form factorised")).to_have_count(0)

        page.get_by_label("Wording", exact=True).fill("A ball falls from a height $h$.")
        page.get_by_label("Name of the parameter").first.fill("h")
        page.get_by_label("Definition").first.fill("5..40")
        page.get_by_label("Unit", exact=True).first.fill("m")
        page.get_by_label("Kind of answer").select_option("quantity")
        page.get_by_label("Unit of the answer").fill("s")
        answer.fill("")
        page.get_by_label("Wording of the part").fill("How long does it take to fall?")
        page.get_by_role("button", name=re.compile("Free fall, time")).click()
        expect(answer).to_have_value("sqrt(2*h/9.81)")
        expect(answer).to_be_focused()
        expect(page.locator("#draws tbody tr")).to_have_count(8)

    def test_a_fixed_question_becomes_a_varying_one(self) -> None:
        page = self.sign_in()
        page.goto(self.address("/questions/from-fixed/"))
        page.get_by_label("The question as it is, with its numbers").fill(
            "A stone falls from a cliff 45 m high. How long does it take?"
        )
        page.get_by_label("Its answer").fill("3.03 s")
        page.get_by_role("button", name="Find what can vary").click()
        expect(page.get_by_role("radio").first).to_be_checked()
        self.assert_accessible(page, "vary, a formula of the book")
        page.get_by_label("The question as it is, with its numbers").fill("Take 12, 7 and 5.")
        page.get_by_label("Its answer").fill("24")
        page.get_by_role("button", name="Find what can vary").click()
        expect(page.get_by_text("More than one formula")).to_be_visible()
        expect(page.locator("[name=formula]:checked")).to_have_count(0)
        self.assert_accessible(page, "vary, several formulas")
        page.get_by_role("radio").first.check()
        page.get_by_role("button", name="Put it on the desk").click()
        expect(page.locator("[data-key]").first).to_have_value(re.compile("a"))
        expect(page.locator("#draws tbody tr")).to_have_count(8)

    def test_a_parameter_is_renamed_everywhere(self) -> None:
        page = self.sign_in()
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        page.get_by_role("button", name="Pin draw 2").click()
        expect(page.locator("#draws tbody tr")).to_have_count(9)
        name = page.get_by_label("Name of the parameter").first
        name.fill("M")
        name.press("Tab")
        page.get_by_role("button", name="Rename m to M").click()
        expect(page.get_by_label("Wording", exact=True)).to_have_value(re.compile(r"mass \$M\$"))
        expect(page.get_by_label("Definition").nth(3)).to_have_value("M*9.81*h/1000")
        expect(page.locator("#pins input[name^='pin-']")).to_have_value(re.compile(r'"M": "\d+"'))
        expect(page.locator("#draws tbody tr")).to_have_count(9)
        expect(page.get_by_text("is broken")).to_have_count(0)

    def test_the_draw_table_the_survey_and_the_ruler(self) -> None:
        page = self.sign_in()
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        page.get_by_role("button", name="Eight more draws").click()
        expect(page.locator("#draws tbody tr")).to_have_count(16)
        page.get_by_role("button", name="Look at a thousand draws").click()
        greatest = page.get_by_role("button", name=re.compile("^greatest")).first
        draw = int(greatest.get_attribute("data-go") or "")
        greatest.click()
        expect(page.locator("#which")).to_have_text(f"On the sheet: draw {draw}")
        # a draw further down stands below the others
        expect(page.locator("#draws tbody tr")).to_have_count(16 if draw <= 16 else 17)
        edge = page.get_by_role("slider", name="Edge of the full marks").last
        edge.focus()
        page.keyboard.press("ArrowRight")
        expect(page.get_by_label("Tolerance").first).not_to_have_value("2%")
        expect(page.locator("#state")).to_contain_text("Changed since revision 2")
        self.assert_accessible(page, "desk with survey and ruler")

    def test_nothing_is_replaced_under_the_hand(self) -> None:
        page = self.sign_in()
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        tolerance, edges = (
            page.get_by_label("Tolerance").first,
            page.get_by_role("slider", name="Edge of the full marks"),
        )
        expect(tolerance).to_have_value("2%")
        rows, more = page.locator("#draws tbody tr"), page.get_by_role("button", name="Eight more draws")
        # the edge of the ruler is dragged while the ruler is renewed for something that was done before
        answers = Held(page, "**/questions/preview/")
        more.click()
        answers.arrived()
        self.grasp(page, edges.last)
        self.pull(page, page.locator(".ruler .band").last, across=0.65)
        expect(tolerance).not_to_have_value("2%")
        self.assert_waits(page, answers)
        self.pull(page, page.locator(".ruler .band").last, across=0.8)
        page.mouse.up()
        self.assert_shown(page)
        expect(page.locator("#state")).to_contain_text("Changed since revision 2")
        expect(rows).to_have_count(16)
        # four fifths of the way across the part marks, which reach 10 % from the key
        expect(tolerance).to_have_value(re.compile(r"^(6|7)(\.\d)?%$"))
        # a button that is renewed between press and release is pressed all the same
        answers = Held(page, "**/questions/preview/")
        more.click()
        answers.arrived()
        self.grasp(page, page.get_by_role("button", name="Pin draw 3"))
        self.assert_waits(page, answers)
        page.mouse.up()
        expect(page.get_by_role("button", name="Take out pinned draw 1")).to_be_visible()
        expect(rows).to_have_count(25)
        # Escape puts a row back where it was
        self.grasp(page, page.locator("#parameters [data-grip]").first)
        self.pull(page, page.locator("#parameters .cells").nth(2), across=0)
        expect(page.locator("#parameters .is-dragged")).to_be_visible()
        page.keyboard.press("Escape")
        page.mouse.up()
        expect(page.get_by_label("Name of the parameter").first).to_have_value("m")
        expect(page.locator(".is-dragged")).to_have_count(0)

    def test_an_answer_that_is_overtaken_on_its_way_changes_nothing(self) -> None:
        page = self.sign_in()
        page.goto(self.address(f"/tests/{self.test.pk}/"))
        lines = page.locator("#plan .entry a")
        expect(lines).to_have_text(["Harbour crane", "Pushing the lock gate", "Foghorn of the lighthouse"])
        first = Held(page, "**/move/")
        page.get_by_role("button", name="Up: move question 3").click()
        first.arrived()
        page.get_by_role("button", name="Down: move question 1").click()
        now = ["Foghorn of the lighthouse", "Harbour crane", "Pushing the lock gate"]
        expect(lines).to_have_text(now)
        page.evaluate(
            "document.addEventListener('htmx:oobBeforeSwap', (event) => { document.body.dataset.late = event.target.id; })"
        )
        first.let_go()
        expect(page.locator("body")).to_have_attribute("data-late", "add-into")
        expect(lines).to_have_text(now)
        page.reload()
        expect(lines).to_have_text(now)

    def test_a_preview_that_arrives_after_the_save_brings_no_draft_back(self) -> None:
        page = self.sign_in()
        page.goto(self.address("/questions/new/?ready=mass-of-a-block"))
        with page.expect_request("**/questions/preview/") as asked:
            page.get_by_label("Title").fill("Mass of a bollard")
        page.get_by_role("button", name="Save revision").click()
        expect(page.locator("#state")).to_contain_text(re.compile("Saved as revision 1|Revision 1, saved by"))
        # the network brings it once more, after the save
        sent = asked.value
        answer = page.request.post(sent.url, headers=sent.headers, data=sent.post_data_buffer)
        self.assertEqual(answer.status, 200)
        page.goto(self.address("/questions/"))
        expect(page.get_by_role("link", name="Mass of a bollard")).to_have_count(1)
        expect(page.get_by_text("Your drafts")).to_have_count(0)
        self.complaints.clear()

    def test_signs_names_and_keys(self) -> None:
        page = self.sign_in()
        page.goto(self.address("/questions/new/"))
        key = page.locator("[data-key]").first
        key.click()
        page.keyboard.type("2sq")
        page.keyboard.press("Control+Space")
        page.keyboard.type("x")
        expect(key).to_have_value("2sqrt(x)")
        expect(page.locator("[id^=reading-]").first).to_contain_text("read as")
        page.get_by_role("button", name="π").click()
        expect(key).to_have_value("2sqrt(xpi)")
        page.get_by_role("heading", name="What varies").click()
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_be_visible()
        self.assert_accessible(page, "keys")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_be_hidden()

    def test_every_kind_of_answer_on_desk_and_phone(self) -> None:
        page = self.sign_in()
        for address in ("gallery/", "from-fixed/", "new/?ready=pressure-on-the-sea-bed", "new/?ready=which-unit-belongs-to-what",
                        "new/?ready=mass-of-a-block", f"{self.questions['foghorn'].pk}/history/"):  # fmt: skip
            for size in (DESK, PHONE):
                page.set_viewport_size(size)  # type: ignore[arg-type]
                page.goto(self.address(f"/questions/{address}"))
                self.assert_accessible(page, f"{address} at {size['width']}")

    def test_rows_kinds_pins_and_own_tests_by_hand(self) -> None:
        page = self.sign_in()
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        names = page.get_by_label("Name of the parameter")
        expect(page.locator("#draws tbody tr")).to_have_count(8)
        # a row is dragged by its grip below the next one, and in the middle of it a preview arrives
        page.get_by_role("button", name="Add a parameter").click()
        expect(page.locator("#parameters .cells")).to_have_count(5)
        expect(page.locator("#desk.htmx-request")).to_have_count(0)
        preview = Held(page, "**/questions/preview/")
        page.get_by_role("button", name="Eight more draws").click()
        preview.arrived()
        self.grasp(page, page.locator("#parameters [data-grip]").first)
        self.pull(page, page.locator("#parameters .cells").nth(1), across=0)
        self.assert_waits(page, preview)
        self.pull(page, page.locator("#parameters .cells").nth(1), down=0.9, across=0)
        page.mouse.up()
        self.assert_shown(page)
        expect(page.locator("#parameters .cells")).to_have_count(5)
        expect(names.nth(0)).to_have_value("h")
        expect(names.nth(1)).to_have_value("m")
        expect(names.nth(4)).to_have_value("")
        # a place that cannot be used is marked in its field, and a bracket shows its partner
        key = page.locator("[data-key]").first
        key.fill("E + (2*E")
        expect(page.locator("[data-mark$='-key']")).to_be_visible()
        expect(key).to_have_attribute("aria-invalid", "true")
        key.fill("(E)")
        expect(key).to_have_css("background-size", re.compile(r".+, .+"))
        expect(key).to_have_attribute("aria-invalid", "false")
        # the edge of the part marks is moved with a key
        key.fill("E")
        band = page.get_by_role("slider", name="Edge of part marks").last
        band.focus()
        page.keyboard.press("ArrowRight")
        expect(page.get_by_label("How close", exact=True).first).to_have_value("11%")
        # a tried answer becomes a test of its own
        page.get_by_label("Try an answer").first.fill("3 J")
        page.get_by_role("button", name="Keep as a sample answer").click()
        expect(page.get_by_label("Sample answer", exact=True)).to_have_value("3 J")
        expect(page.locator(".trials li")).to_have_text(re.compile("3 J is (wrong|unreadable), as kept"))
        page.get_by_role("button", name="Pin draw 3").click()
        expect(page.locator("#draws tbody tr")).to_have_count(17)
        page.get_by_role("button", name="Take out pinned draw 1").click()
        expect(page.locator("#draws tbody tr")).to_have_count(16)
        # another kind, made of what there is
        page.get_by_label("Kind of answer").first.select_option("choice")
        page.get_by_role("button", name="Make options from the answer and its slips").click()
        expect(page.locator(".offers.ticked li")).to_have_count(3)
        self.assert_accessible(page, "desk with options made of slips")

    def test_a_figure_a_picture_and_gaps(self) -> None:
        page = self.sign_in()
        page.goto(self.address("/questions/new/?ready=the-top-of-the-throw"))
        figure = page.locator("#sheet svg.figure")
        box = figure.bounding_box()
        assert box
        page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        expect(page.get_by_label("Try an answer")).to_have_value(re.compile(r"^\([\d.]+, [\d.]+\)$"))
        expect(page.locator(".verdict .outcome")).to_be_visible()
        figure.click(modifiers=["Shift"], position={"x": 200, "y": 100})
        expect(page.locator("[data-cell=region]").last).to_have_value(re.compile(r"^circle \([\d.]+, [\d.]+\) 0.5$"))
        page.locator("[name=view][value=solution]").check()
        expect(page.locator("#sheet .region").first).to_be_visible()
        page.locator("[name=picture_file]").set_input_files(
            {"name": "quay.png", "mimeType": "image/png", "buffer": picture_file()}
        )
        expect(page.get_by_label("Name of the picture")).to_have_value("quay")
        self.assert_accessible(page, "desk with a figure and a picture")
        phone = self.sign_in(page=self.open(PHONE))
        phone.goto(self.address("/questions/new/?ready=gas-in-a-bottle"))
        phone.get_by_label("Try an answer").fill("A; 1.4; faster")
        expect(phone.locator(".verdict .outcome")).to_be_visible()
        self.assert_accessible(phone, "desk with gaps on a phone")
        phone.get_by_role("button", name="Add a gap").click()
        expect(phone.get_by_label("What belongs in the gap")).to_have_count(4)
        phone.get_by_label("Answer of the gap").last.fill("2 +")
        expect(phone.get_by_text("and below there are 4")).to_be_visible()
