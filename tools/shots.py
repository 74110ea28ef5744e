"""Remakes ``docs/screenshots`` from the demo data: one picture of each main view."""

from __future__ import annotations

import io
import os
from pathlib import Path

from PIL import Image
from playwright.sync_api import Page, sync_playwright

from vorlage.operations.demo_data import PASSWORD, PEOPLE, STUDENT
from vorlage.operations.running import Demo, usable_port
from vorlage.operations.testing import chromium

FOLDER = Path(__file__).resolve().parent.parent / "docs/screenshots"
DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}

# Of the class of the demo: one as before, one renamed, one doubtful, one new.
CHANGED = """Name;Number
Abara, Ada;2401
Achterberg-Moss, Lale;2402
Almeida, Tamsin;2999
Newman, Otto;2998
"""


PASTED = """1. A crate of mass 25 kg is lifted 4 m onto the quay. How much work is done? [2]
Answer: 981 J

2. Which of these is a vector?
A) mass  B) speed  C) velocity  D) energy
Answer: C

3. Solve x^2 - 5x + 6 = 0.
Answer: x = 2 or x = 3
"""

# letters stand where they are drawn, as on most screens, and not on whole dots
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--font-render-hinting=none"]


def sign_in(page: Page, address: str) -> None:
    page.goto(f"{address}/sign-in/")
    page.get_by_label("E-mail address").fill(PEOPLE[0].email)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_url("**/questions/")


def take(page: Page, name: str) -> None:
    page.wait_for_load_state("networkidle")
    page.evaluate("document.fonts.ready")
    page.screenshot(path=FOLDER / f"{name}.png")
    print(f"{name}.png")


def at_the_desk(page: Page, address: str) -> None:
    sign_in(page, address)
    take(page, "questions")
    page.get_by_role("link", name="Harbour crane").click()
    page.get_by_label("Try an answer").first.fill("49 440")
    page.wait_for_selector(".verdict .outcome")
    take(page, "question-desk")
    page.locator("[name=view][value=solution]").check()
    page.wait_for_selector("#sheet .worked")
    take(page, "question-desk-solution")
    page.goto(f"{address}/questions/new/?ready=the-top-of-the-throw")
    page.get_by_label("Try an answer").fill("(2, 2.5)")
    page.wait_for_selector(".verdict .outcome")
    page.wait_for_selector("#sheet .tried-place")
    page.locator(".part-fields").scroll_into_view_if_needed()
    take(page, "question-desk-figure")
    page.goto(f"{address}/questions/?look=rows&sort=worked")
    for title in ("Pushing the lock gate", "Lamps in the lighthouse", "Harbour crane"):
        page.get_by_role("row", name=title).locator("td").last.click()
        page.locator("#look h2", has_text=title).wait_for()
        page.get_by_role("button", name=f"Into the tray: {title}").click()
        page.locator("#tray", has_text=title).wait_for()
    page.get_by_role("button", name="As a marker").click()
    page.locator("#look .key").first.wait_for()
    take(page, "questions-list")
    page.get_by_role("button", name="Empty it").click()
    page.locator("#tray", has_text="Nothing collected").wait_for()
    take_fixed(page, address)
    page.goto(f"{address}/classes/")
    page.get_by_role("link", name="10 A").click()
    page.get_by_role("link", name="Add students").click()
    page.get_by_label("One student a line").fill(CHANGED)
    page.get_by_role("button", name="Show what would change").click()
    page.get_by_role("button", name="Take this list").wait_for()
    take(page, "class-list")
    page.goto(f"{address}/questions/bring/")
    page.get_by_label("Paste your questions").fill(PASTED)
    page.get_by_role("button", name="Look at them").click()
    page.get_by_role("button", name="Let it vary: look for a formula for number 1").click()
    page.get_by_text("Lifting").first.click()
    page.locator("#laid-1 .drawn").first.wait_for()
    take(page, "bring-in")
    page.goto(f"{address}/questions/")
    page.get_by_role("link", name="Lamps in the lighthouse").click()
    page.get_by_role("button", name="Look at a thousand draws").click()
    page.wait_for_selector(".spread svg")
    take(page, "question-desk-survey")
    page.goto(f"{address}/tests/")
    page.get_by_role("link", name="Harbour science, year 10").click()
    take(page, "test")
    page.get_by_role("link", name="On paper").click()
    page.get_by_alt_text("Page 1 of the paper").wait_for()
    first = "document.querySelector('.typeset-pages img')"
    before = page.evaluate(f"{first}.src")
    page.get_by_label("Room for working").select_option("squares")
    page.wait_for_function(f"before => {first} && {first}.src !== before", arg=before)
    take(page, "paper")
    page.go_back()
    page.get_by_role("link", name="Set 1").click()
    page.wait_for_selector(".paper-pages img")
    take(page, "form-set")
    page.get_by_role("link", name="10 A in Room 2.14").click()
    page.get_by_text("No neighbours have the same form.").wait_for()
    take(page, "seat-plan")
    page.goto(f"{address}/sittings/")
    page.get_by_role("link", name="Harbour science, year 10").click()
    page.locator(".paper-ruler .is-answered").first.wait_for()
    take(page, "sitting")
    page.goto(f"{address}/marking/")
    page.get_by_role("link", name="Work at the quay").click()
    page.get_by_role("link", name="1 (a) Sacks of salt").click()
    page.get_by_role("link", name="the factor 9.81 was left out").click()
    page.locator(".column tbody tr").nth(12).wait_for()
    take(page, "marking")
    page.goto(f"{address}/tests/")
    page.get_by_role("link", name="Moments, energy and waves").click()
    page.get_by_role("button", name="Show on the wall").click()
    page.locator("html[data-ready]").wait_for()
    page.keyboard.press("a")
    page.locator(".wall-key").first.wait_for()
    take(page, "wall")
    page.goto(f"{address}/department/settings/")
    page.get_by_label("a comma").check()
    page.locator("#habits").get_by_text("23544,75").wait_for()
    take(page, "department-settings")


# A formula of the book, several formulas, and none.
FIXED = (
    (
        "0.3 kg of water at 80 °C are poured into 0.5 kg of water at 20 °C. What is the temperature of the mixture?",
        "42.5 °C",
    ),
    ("Take 12, 7 and 5.", "24"),
    ("The crane driver has 17 crates and 25 ropes of 3.7 m.", "1234.567 kg"),
)


def take_fixed(page: Page, address: str) -> None:
    """*Vary a fixed question* with what it finds, one below the other."""
    pictures = []
    for text, answer in FIXED:
        page.goto(f"{address}/questions/from-fixed/")
        page.get_by_label("The question as it is").fill(text)
        page.get_by_label("Its answer").fill(answer)
        page.get_by_role("button", name="Find what can vary").click()
        page.wait_for_selector("#proposal h2")
        page.evaluate("document.fonts.ready")
        pictures.append(Image.open(io.BytesIO(page.screenshot())))
    whole = Image.new("RGB", (pictures[0].width, sum(picture.height for picture in pictures)))
    for place, picture in enumerate(pictures):
        whole.paste(picture, (0, place * picture.height))
    whole.save(FOLDER / "from-fixed.png", optimize=True)
    print("from-fixed.png")


def on_a_phone(page: Page, address: str) -> None:
    sign_in(page, address)
    page.get_by_role("link", name="Harbour crane").click()
    page.locator("#sheet").scroll_into_view_if_needed()
    take(page, "question-desk-phone")


def as_a_student(page: Page, address: str) -> None:
    """Half way through a sitting, on a phone."""
    page.goto(f"{address}/sign-in/")
    page.get_by_label("E-mail address").fill(STUDENT)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("link", name="Harbour science, year 10").click()
    page.get_by_role("button", name="Begin").click()
    page.locator("html[data-ready]").wait_for()
    page.locator("[data-answer]").first.fill("37/3")
    page.locator(".read-as math").first.wait_for()
    take(page, "sitting-phone")


def main(state: Path) -> int:
    """Start a demo of its own with fresh data, take the pictures, and take it down again."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    folder = state / f"shots-{os.getpid()}"
    folder.mkdir(parents=True)
    demo = Demo(folder)
    try:
        demo.prepare()
        port = usable_port(8765)
        demo.start(port)
        address = f"http://127.0.0.1:{port}"
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=chromium(), args=ARGUMENTS)
            at_the_desk(browser.new_page(viewport=DESK), address)  # type: ignore[arg-type]
            on_a_phone(browser.new_page(viewport=PHONE), address)  # type: ignore[arg-type]
            as_a_student(browser.new_page(viewport=PHONE), address)  # type: ignore[arg-type]
            browser.close()
    finally:
        demo.stop()
        demo.cluster.destroy()
        for path in sorted(folder.rglob("*"), reverse=True):
            path.rmdir() if path.is_dir() else path.unlink()
        folder.rmdir()
    return 0
