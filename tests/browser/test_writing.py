"""Writing questions in earnest: a newcomer led by what stands on the screen, and five parts with the keyboard alone."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.base import BrowserTest
from tests.web.samples import department, person
from tests.web.test_mistakes import FIELDS, MISTAKES
from vorlage.web.bank.models import Question


class Hands:
    """What somebody does, counted: a field that is filled, a key outside of text, a click."""

    def __init__(self, page: Page) -> None:
        self.page, self.count = page, 0

    def press(self, *keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)
            self.count += 1

    def type(self, text: str) -> None:
        self.page.keyboard.type(text)
        self.count += 1

    def row(self, *cells: str) -> None:
        """Cells beside each other, with the tabulator between them."""
        for place, cell in enumerate(cells):
            if place:
                self.press("Tab")
            if cell:
                self.type(cell)

    def choose(self, words: str) -> None:
        """With the arrows in a list; letters would have to follow each other within a second."""
        field = self.page.locator("select:focus")
        field.press("Home")
        for _ in range(field.locator("option").count()):
            if field.evaluate("list => list.selectedOptions[0].text.trim()") == words:
                return
            self.press("ArrowDown")
        raise AssertionError(f"{words} is not in the list")

    def to(self, label: str, most: int = 40) -> None:
        """With the tabulator to a field that is called so."""
        for _ in range(most):
            if self.name() == label:
                return
            self.press("Tab")
        raise AssertionError(f"{label} is not reached; the focus is at {self.name()}")

    def name(self) -> str:
        named: str = self.page.evaluate(
            "(e => e.getAttribute('aria-label') ?? e.labels?.[0]?.textContent.trim() ?? e.textContent.trim())"
            "(document.activeElement)"
        )
        return " ".join(named.split())


class Mistaken(BrowserTest):
    """Typical mistakes, one after the other on one desk: each is said right below its field and cured there."""

    def setUp(self) -> None:
        super().setUp()
        page = self.sign_in()
        page.goto(self.address("/questions/new/?empty=1"))
        page.get_by_role("button", name="Add a parameter").click()
        self.identities = {
            name: page.locator(f"input[name={kind}]").nth(place).input_value()
            for name, kind, place in (
                ("p1", "parameter", 0),
                ("p2", "parameter", 1),
                ("c1", "condition", 0),
                ("q1", "part", 0),
            )
        }
        for name, value in FIELDS.items():
            if isinstance(value, str) and name not in {"topics", "level", "angle", "touched"}:
                self.put(name, value)
        expect(page.locator("#draws table")).to_be_visible()

    def here(self, name: str) -> str:
        """The name of an input on this page, whose rows have identities of their own."""
        return re.sub(r"-(p1|p2|c1|q1)\b", lambda found: f"-{self.identities[found[1]]}", name)

    def put(self, name: str, value: str) -> None:
        field = self.page.locator(f'[name="{self.here(name)}"]')
        if field.evaluate("each => each.tagName") == "SELECT":
            field.select_option(value)
        else:
            field.fill(value)

    def test_each_is_said_below_its_field_and_cured_with_a_press(self) -> None:
        page, tried = self.page, 0
        for changes, place, said, cured in MISTAKES:
            if any(
                not isinstance(value, str) or self.here(name) == name != "wording" for name, value in changes.items()
            ):
                # a row of its own
                continue
            with self.subTest(changes):
                tried += 1
                for name, value in changes.items():
                    self.put(name, value)
                message = page.locator(f"#message-{self.here(place)} p", has_text=said)
                expect(message).to_be_visible()
                (name, *_) = changes
                field = page.locator(f'[name="{self.here(name)}"]').bounding_box()
                below = message.bounding_box()
                assert field and below
                # at most a line of other fields of the same answer between
                self.assertLess(below["y"] - (field["y"] + field["height"]), 120)
                if cured is not None:
                    message.get_by_role("button").first.click()
                    expect(page.locator(f'[name="{self.here(cured[0])}"]')).to_have_value(cured[1])
                for name in changes:
                    self.put(name, FIELDS[name])
                expect(page.locator(".row-message .field-error"), str(changes)).to_have_count(0)
        self.assertGreaterEqual(tried, 15)


class Newcomer(BrowserTest):
    def test_a_varying_question_with_a_tolerance_in_few_steps(self) -> None:
        person("newcomer", department("Music"))
        page = self.sign_in("newcomer")
        hands = 0

        def fill(label: str, text: str) -> None:
            nonlocal hands
            page.get_by_label(label, exact=True).first.fill(text)
            hands += 1

        page.get_by_role("link", name="Write one").click()
        hands += 1
        # an example that varies lies on the desk, with its draws beside it
        expect(page.locator("#example")).to_contain_text("This is an example")
        expect(page.locator("#draws tbody tr")).to_have_count(8)
        fill("Title", "Beats in a bar")
        fill("Wording", "A drummer plays $v$ beats a minute for $t$ minutes.")
        names, definitions = page.get_by_label("Name of the parameter"), page.get_by_label("Definition")
        units = page.get_by_label("Unit", exact=True)
        definitions.nth(0).fill("60..120 step 5")
        units.nth(0).fill("")
        units.nth(1).fill("")
        hands += 3
        # what the cell takes is shown, and taken with a press
        definitions.nth(1).fill("")
        hands += 1
        expect(page.locator(".ways")).to_contain_text("draws 2, 3, … 9")
        page.locator(".ways").get_by_role("button", name="2..9", exact=True).click()
        hands += 1
        expect(definitions.nth(1)).to_have_value("2..9")
        fill("Wording of the part", "How many beats are that?")
        fill("Stands after the answer space, such as a unit", "beats")
        fill("Solution", "$v*t = value(v*t)$ beats")
        page.get_by_label("How close is close enough").select_option("absolute")
        fill("Tolerance", "1")
        hands += 1
        expect(names).to_have_count(2)
        expect(page.locator("#parts .field-error, #parameters .field-error")).to_have_count(0)
        page.get_by_role("button", name="Save revision").click()
        hands += 1
        expect(page.locator("#state")).to_contain_text(re.compile("Saved as revision 1|Revision 1, saved by"))
        self.assertLessEqual(hands, 25)
        made = Question.objects.get(department__name="Music")
        self.assertEqual((made.newest.title, made.newest.draws), ("Beats in a bar", 13 * 8))

    def test_the_example_can_be_left(self) -> None:
        person("newcomer", department("Music"))
        page = self.sign_in("newcomer")
        page.goto(self.address("/questions/new/"))
        page.get_by_role("link", name="Begin with an empty desk").click()
        expect(page.get_by_label("Title", exact=True)).to_have_value("")
        expect(page.locator("#example")).to_have_count(0)


PARTS = [
    ("Work out the weight.", "m*9.81", "N"),
    ("Work out the work done.", "m*9.81*h", "J"),
    ("Work out the power.", "m*9.81*h/t", "W"),
    ("Work out the speed.", "h/t", "m/s"),
    ("Work out the kinetic energy.", "m*(h/t)^2/2", "J"),
]


class Keyboard(BrowserTest):
    def test_five_parts_with_the_keyboard_alone(self) -> None:
        page = self.sign_in()
        page.goto(self.address("/questions/new/"))
        hands = Hands(page)
        expect(page.get_by_label("Title", exact=True)).to_be_focused()
        hands.row("The lift of the lighthouse", "A lift raises $m$ through $h$ in $t$.")
        # what is offered for the letters of the wording may stand between
        hands.to("Name of the parameter")
        hands.row("m", "150..600 step 50", "kg")
        for row in (("h", "4..9", "m"), ("t", "10..40", "s")):
            hands.press("Enter")
            hands.row(*row)
        hands.to("Wording of the part")
        for number, (wording, key, after) in enumerate(PARTS):
            hands.type(wording)
            hands.press("Tab")
            hands.row(key, after)
            # how close
            hands.press("Tab")
            hands.choose("within, of the key")
            hands.press("Tab")
            hands.type("2%")
            if number < len(PARTS) - 1:
                # a further part, wherever one is
                hands.press("Alt+Enter")
                expect(page.locator("#parts > .part-fields")).to_have_count(number + 2)
                self.assertEqual(hands.name(), "Wording of the part")
        expect(page.locator("#sheet .part")).to_have_count(5)
        expect(page.locator("#parts .field-error, #parameters .field-error")).to_have_count(0)
        # over to the sheet, an answer is tried, and back
        hands.press("F6")
        hands.to("Try an answer to (a)")
        hands.type("1")
        expect(page.locator(".verdict .outcome").first).to_have_text("wrong")
        hands.press("F6", "F6", "F6")
        hands.press("Control+s")
        expect(page.locator("#state")).to_contain_text(re.compile("Saved as revision 1|Revision 1, saved by"))
        self.assertLess(hands.count, 200)
        made = Question.objects.get(current__title="The lift of the lighthouse")
        self.assertEqual(
            [part["answer"]["key"] for part in made.newest.document["parts"]], [key for _, key, _ in PARTS]
        )
        self.assertEqual({part["answer"]["tolerance"]["value"] for part in made.newest.document["parts"]}, {"2%"})
