"""A real browser against the real application, with a real worker."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path
from typing import Any

from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.db import connection
from playwright.sync_api import Page, expect, sync_playwright

from tests.web.samples import PASSWORD, department, person, question
from vorlage.cluster import SUPERUSER
from vorlage.testing import chromium

AXE = (Path(__file__).parent / "axe.min.js").read_text("utf-8")
DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
# A busy machine is slow, not wrong: waiting longer costs nothing where the page is right
expect.set_options(timeout=30_000)
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update"]


class BrowserTest(StaticLiveServerTestCase):
    """Opens Chromium once for the class, and a page of its own for every test."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.playwright = sync_playwright().start()
        cls.addClassCleanup(cls.playwright.stop)
        cls.browser = cls.playwright.chromium.launch(executable_path=chromium(), args=ARGUMENTS)
        cls.addClassCleanup(cls.browser.close)

    def setUp(self) -> None:
        self.physics = department("Physics")
        self.author = person("author", self.physics, "lead")
        self.questions = {
            name: question(self.physics, self.author, name) for name in ("harbour-crane", "lock-gate", "foghorn")
        }
        self.complaints: list[str] = []
        self.page = self.open(DESK)

    def tearDown(self) -> None:
        self.assertEqual(self.complaints, [], "the browser's console complained")

    def open(self, size: dict[str, int]) -> Page:
        page = self.browser.new_page(viewport=size, accept_downloads=True)  # type: ignore[arg-type]
        page.set_default_timeout(30_000)
        page.on("pageerror", lambda error: self.complaints.append(str(error)))
        page.on("console", self.listen)
        self.addCleanup(page.close)
        return page

    def listen(self, message: Any) -> None:
        """Errors in the console fail the test, a broken security policy above all."""
        # a request that a newer one replaces, and a refused form, are no faults
        if message.type == "error" and "htmx:" not in message.text and "status of 4" not in message.text:
            self.complaints.append(message.text)

    def address(self, path: str) -> str:
        return f"{self.live_server_url}{path}"

    def sign_in(self, name: str = "author", page: Page | None = None) -> Page:
        page = page or self.page
        page.goto(self.address("/sign-in/"))
        page.get_by_label("E-mail address").fill(f"{name}@sandhaven.example")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in").click()
        expect(page.get_by_role("heading", name="Questions", exact=True)).to_be_visible()
        return page

    def start_worker(self) -> None:
        """A worker as it runs in earnest, on the test's database."""
        known = connection.settings_dict
        url = f"postgresql://{SUPERUSER}:{known['PASSWORD']}@{known['HOST']}:{known['PORT']}/{known['NAME']}"
        worker = subprocess.Popen(
            [sys.executable, "-m", "vorlage.command", "worker"],
            env=os.environ | {"VORLAGE_DATABASE": url, "DJANGO_SETTINGS_MODULE": "vorlage.web.settings.test"},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
        )
        self.addCleanup(worker.wait, 20)
        self.addCleanup(worker.terminate)

    def assert_accessible(self, page: Page, name: str) -> None:
        """axe-core finds nothing."""
        page.evaluate(AXE)
        found = page.evaluate("axe.run(document, {resultTypes: ['violations']}).then(result => result.violations)")
        told = [
            f"{item['id']}: {node['html'][:160]} — {node['failureSummary']}" for item in found for node in item["nodes"]
        ]
        self.assertEqual(told, [], name)
        overflow = page.evaluate("document.documentElement.scrollWidth - document.documentElement.clientWidth")
        self.assertLessEqual(overflow, 0, f"{name} is wider than its window")
