"""Done by hand on the desk: regions of a figure, the habits of a place, a page at twice its size, a reader's tree."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.base import BrowserTest
from vorlage.web.bank.models import Question

# what a page of 1280 by 800 has room for at twice its size
ZOOMED = {"width": 640, "height": 400}


class Regions(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        page = self.sign_in()
        page.goto(self.address("/questions/new/?ready=the-top-of-the-throw"))
        self.rows = page.locator("[data-cell=region]")
        self.before = self.rows.count()

    def drawn(self) -> Locator:
        return self.page.locator("#sheet svg.regions .region")

    def line(self, row: int = -1) -> str:
        return self.rows.nth(row).input_value()

    def at(self, across: float, up: float) -> tuple[float, float]:
        """A place on the figure, in shares of its width and height."""
        # asked at once: between finding it and measuring it, a new sheet may come
        box = self.page.evaluate("document.querySelector('#sheet svg.figure').getBoundingClientRect().toJSON()")
        return box["x"] + across * box["width"], box["y"] + (1 - up) * box["height"]

    def pulled(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        self.page.mouse.move(*start)
        self.page.mouse.down()
        self.page.mouse.move(*end, steps=4)
        self.page.mouse.up()

    def middle(self, shape: Locator) -> tuple[float, float]:
        box = shape.bounding_box()
        assert box
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    def test_a_box_is_drawn_moved_and_resized(self) -> None:
        page = self.page
        page.get_by_role("button", name="a box").click()
        expect(page.get_by_text("Press in one corner in the figure")).to_be_visible()
        self.pulled(self.at(0.6, 0.3), self.at(0.8, 0.5))
        expect(self.rows).to_have_count(self.before + 1)
        drawn = self.line()
        self.assertRegex(drawn, r"^box \([\d.]+, [\d.]+\) \([\d.]+, [\d.]+\)$")
        expect(self.drawn()).to_have_count(self.before + 1)
        x, y = self.middle(self.drawn().last)
        self.pulled((x, y), (x + 30, y))
        expect(self.rows.last).not_to_have_value(drawn)
        moved = self.line()
        numbers = [[float(each) for each in re.findall(r"[\d.]+", line)] for line in (drawn, moved)]
        self.assertGreater(numbers[1][0], numbers[0][0])
        self.assertAlmostEqual(numbers[1][2] - numbers[1][0], numbers[0][2] - numbers[0][0])
        self.assertEqual((numbers[1][1], numbers[1][3]), (numbers[0][1], numbers[0][3]))
        # by the keyboard: it keeps the focus through every change
        expect(self.drawn().last).to_be_focused()
        page.keyboard.press("Shift+ArrowRight")
        expect(self.rows.last).not_to_have_value(moved)
        self.assertGreater([float(each) for each in re.findall(r"[\d.]+", self.line())][2], numbers[1][2])
        expect(self.drawn().last).to_be_focused()
        page.keyboard.press("Delete")
        expect(self.rows).to_have_count(self.before)
        page.get_by_role("button", name="Put it back").click()
        expect(self.rows).to_have_count(self.before + 1)
        self.assert_accessible(page, "desk with regions")

    def test_a_region_with_parameters_keeps_its_formulas(self) -> None:
        first = self.line(0)
        x, y = self.middle(self.drawn().first)
        self.pulled((x, y), (x + 25, y))
        expect(self.rows.first).to_have_value(re.compile(r"\+ [\d.]+"))
        names = [set(re.findall(r"[a-zA-Z]\w*", line)) for line in (first, self.line(0))]
        self.assertEqual(*names)

    def test_a_polygon_is_drawn_and_a_drawing_given_up(self) -> None:
        page = self.page
        page.get_by_role("button", name="a polygon").click()
        for place in ((0.3, 0.2), (0.5, 0.2), (0.4, 0.45), (0.3, 0.2)):
            page.mouse.click(*self.at(*place))
        expect(self.rows.last).to_have_value(re.compile(r"^polygon( \([\d.]+, [\d.]+\)){3}$"))
        expect(self.drawn()).to_have_count(self.before + 1)
        page.get_by_role("button", name="a circle").click()
        page.keyboard.press("Escape")
        page.mouse.click(*self.at(0.9, 0.9))
        expect(page.get_by_label("Try an answer")).to_have_value(re.compile(r"^\([\d.]+, [\d.]+\)$"))
        expect(self.rows).to_have_count(self.before + 1)
        expect(page.locator("#sheet .tried-place")).to_have_count(1)


class Places(BrowserTest):
    def test_a_department_with_the_comma_writes_a_question(self) -> None:
        page = self.sign_in()
        page.get_by_role("button", name="Physics · Author").click()
        page.get_by_role("link", name="Settings of Physics").click()
        page.get_by_label("a comma").check()
        expect(page.locator("#habits")).to_contain_text("23544,75")
        page.get_by_label("a dot").check()
        self.assert_accessible(page, "settings of a department")
        page.get_by_role("button", name="Save settings").click()
        expect(page.get_by_text("It holds from now on for everybody")).to_be_visible()
        page.goto(self.address("/questions/new/?empty=1"))
        page.get_by_label("Title", exact=True).fill("Rope")
        page.get_by_label("Wording", exact=True).fill("A rope of $l$ is cut at $0,5$.")
        page.get_by_label("Name of the parameter").fill("l")
        page.get_by_label("Definition").fill("2.5..40 step 0,5")
        page.get_by_role("button", name="Write 2,5").click()
        expect(page.get_by_label("Definition")).to_have_value("2,5..40 step 0,5")
        page.locator("[data-key]").fill("l*0,5")
        page.get_by_label("Try an answer").fill("0,75")
        expect(page.locator(".reading")).to_contain_text("0,75")
        expect(page.locator("#sheet")).to_contain_text("cut at 0,5")
        page.get_by_role("button", name="Save revision").click()
        expect(page.locator("#state")).to_contain_text("revision 1")
        document = Question.objects.get(current__title="Rope").newest.document
        self.assertEqual(document["parameters"][0]["definition"], "2.5..40 step 0.5")

    def test_at_twice_its_size_everything_is_reached(self) -> None:
        page = self.sign_in(page=self.open(ZOOMED))
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        self.assert_accessible(page, "desk at twice its size")
        page.get_by_role("button", name="Sheet", exact=True).click()
        expect(page.get_by_label("Try an answer to (a)")).to_be_in_viewport()
        page.get_by_label("Try an answer to (a)").fill("12")
        expect(page.locator(".verdict .outcome").first).to_be_visible()
        page.get_by_role("button", name="Draws", exact=True).click()
        expect(page.locator("#draws table")).to_be_in_viewport()
        page.get_by_role("button", name="Fields", exact=True).click()
        expect(page.get_by_label("Title", exact=True)).to_be_in_viewport()

    def test_every_control_says_which_part_it_belongs_to(self) -> None:
        page = self.sign_in()
        page.goto(self.address(f"/questions/{self.questions['harbour-crane'].pk}/"))
        page.get_by_role("button", name="Add a part").click()
        page.get_by_label("under the last letter").last.check()
        names = page.locator("#parts > .part-fields").evaluate_all("all => all.map(each => each.ariaLabel)")
        self.assertEqual(names, ["Part (a)", "Part (b)", "Part (b)(i)"])
        page.locator(".fields details").evaluate_all("all => all.forEach(each => { each.open = true; })")
        self.assertEqual(self.nameless(page), [])
        slip = page.get_by_role("group", name="Part (a)", exact=True).get_by_role("group", name="Slips 2")
        expect(slip.get_by_role("textbox", name="Slip", exact=True)).to_be_visible()
        on_sheet = page.get_by_role("group", name="Part (b) on the sheet")
        expect(on_sheet.get_by_role("textbox", name="Try an answer to (b)")).to_be_visible()

    def nameless(self, page: Page) -> list[str]:
        """The controls of the parts that have no name, or stand in no part with one."""
        found: list[str] = page.locator("#parts :is(input:not([type=hidden]), select, textarea, button)").evaluate_all(
            """all => all.filter((each) => each.checkVisibility()).filter((each) => {
                const part = each.closest("[role=group][aria-label^=Part]");
                const name = each.ariaLabel || each.labels?.[0]?.textContent.trim() || each.textContent.trim();
                return !part || !name;
            }).map((each) => each.outerHTML.slice(0, 100))"""
        )
        return found
