"""A real browser against the real application, with a real worker."""

from __future__ import annotations

import contextlib
import os
import re
import signal
import subprocess
import sys
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.staticfiles.handlers import StaticFilesHandler
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.db import connection
from django.test import Client
from playwright.sync_api import APIResponse, Error, Locator, Page, Route, expect, sync_playwright

from tests.web.samples import department, person, question
from vorlage.operations.cluster import SUPERUSER
from vorlage.operations.testing import chromium
from vorlage.web.people.models import User

AXE = (Path(__file__).parent / "axe.min.js").read_text("utf-8")
DESK, PHONE = {"width": 1280, "height": 800}, {"width": 390, "height": 844}
# A busy machine is slow, not wrong: a page that is right is never waited for so long, one that is wrong ends here
PATIENCE = int(os.environ.get("VORLAGE_PATIENCE", "120000"))
expect.set_options(timeout=PATIENCE)
# What migrations wrote stays.
KEPT = {"django_migrations", "django_content_type", "auth_permission", "django_site"}
ARGUMENTS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-component-update"]


class Held:
    """The answer to the next request for some address: the server has done its work, the page has not heard of it.

    Later requests pass as usual. The interception stays: taking it away would let go what is held.
    """

    def __init__(self, page: Page, addresses: str) -> None:
        self.page, self.addresses = page, addresses
        self.route: Route | None = None
        self.answer: APIResponse | None = None
        page.route(addresses, self.keep)

    def keep(self, route: Route) -> None:
        if self.route is not None:
            route.continue_()
            return
        self.route = route
        self.answer = route.fetch()

    def arrived(self) -> None:
        """Wait until there is one."""
        for _ in range(PATIENCE // 16):
            if self.answer is not None:
                return
            self.page.evaluate("new Promise(requestAnimationFrame)")
        raise AssertionError(f"nothing was asked of {self.addresses}")

    def let_go(self) -> None:
        """The page gets it now."""
        self.arrived()
        assert self.route and self.answer
        self.route.fulfill(response=self.answer)


class Gate(StaticFilesHandler):
    """The application behind a gate: between two tests nothing is under way that would meet the emptying of the tables.

    A page that is closed may have sent something that is still being worked on, or has not even been begun.
    """

    changed = threading.Condition()
    is_open = True
    inside = 0

    def __call__(self, environ: dict[str, Any], start_response: Any) -> Any:
        with Gate.changed:
            if not Gate.is_open:
                start_response("503 Service Unavailable", [])
                return []
            Gate.inside += 1
        try:
            return super().__call__(environ, start_response)
        finally:
            with Gate.changed:
                Gate.inside -= 1
                Gate.changed.notify_all()

    @classmethod
    def open(cls) -> None:
        with cls.changed:
            cls.is_open = True

    @classmethod
    def close(cls) -> None:
        """Let nothing in any more, and wait until everything inside has come out."""
        with cls.changed:
            cls.is_open = False
            if not cls.changed.wait_for(lambda: cls.inside == 0, PATIENCE / 1000):
                raise AssertionError(f"{cls.inside} requests are still being worked on")


class BrowserTest(StaticLiveServerTestCase):
    """Opens Chromium once for the class, and a page of its own for every test."""

    static_handler = Gate

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.begin_browser()
        cls.addClassCleanup(cls.end_browser)

    @classmethod
    def begin_browser(cls) -> None:
        cls.lost = False
        cls.playwright = sync_playwright().start()
        cls.browser = cls.playwright.chromium.launch(executable_path=chromium(), args=ARGUMENTS)

    @classmethod
    def end_browser(cls) -> None:
        cls.end(cls.browser.close)
        cls.end(cls.playwright.stop)

    @classmethod
    def end(cls, ending: Callable[[], object]) -> None:
        """End a page or the browser. What there was to be seen was seen: a browser that does not end it is killed."""
        killing = threading.Timer(PATIENCE / 1000, cls.kill_browser)
        killing.start()
        try:
            ending()
        except Error:
            if not cls.lost:
                raise
        finally:
            killing.cancel()

    @classmethod
    def kill_browser(cls) -> None:
        """Kill the program that drives the browser, which ends with it."""
        cls.lost = True
        for entry in Path("/proc").iterdir():
            with contextlib.suppress(OSError, ValueError):
                parent = int((entry / "stat").read_text().rpartition(")")[2].split()[1])
                if parent == os.getpid() and b"playwright" in (entry / "cmdline").read_bytes():
                    os.kill(int(entry.name), signal.SIGKILL)

    def setUp(self) -> None:
        if self.lost:
            # in the test before
            self.end_browser()
            self.begin_browser()
        Gate.open()
        self.addCleanup(Gate.close)
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
        page.set_default_timeout(PATIENCE)
        page.on("pageerror", lambda error: self.complaints.append(str(error)))
        page.on("console", self.listen)
        self.addCleanup(self.end, page.close)
        return page

    def listen(self, message: Any) -> None:
        """Errors in the console fail the test, a broken security policy above all."""
        # a request that a newer one replaces, and a refused form, are no faults
        if message.type == "error" and "htmx:" not in message.text and "status of 4" not in message.text:
            self.complaints.append(message.text)

    def address(self, path: str) -> str:
        return f"{self.live_server_url}{path}"

    def _fixture_teardown(self) -> None:
        """Empty the tables that something is in; emptying all of them takes ten times as long."""
        with connection.cursor() as cursor:
            tables = [
                each for each in connection.introspection.django_table_names(only_existing=True) if each not in KEPT
            ]
            cursor.execute(
                " UNION ALL ".join(f"SELECT '{each}' WHERE EXISTS (SELECT FROM \"{each}\")" for each in tables)
            )
            if filled := [name for (name,) in cursor.fetchall()]:
                cursor.execute("TRUNCATE " + ", ".join(f'"{each}"' for each in filled) + " CASCADE")

    def sign_in(self, name: str = "author", page: Page | None = None) -> Page:
        """Signed in as somebody of the staff, at their questions; the way through the form has tests of its own."""
        page = page or self.page
        self.let_in(User.objects.get(email=f"{name}@sandhaven.example"), page)
        page.goto(self.address("/"))
        expect(page.get_by_role("heading", name="Questions", exact=True)).to_be_visible()
        # A heading is seen before the scripts run that listen to keys.
        page.wait_for_load_state()
        return page

    def let_in(self, user: User, page: Page) -> None:
        """Let a page be somebody's, wherever it goes next."""
        client = Client()
        client.force_login(user)
        cookie = client.cookies[settings.SESSION_COOKIE_NAME]
        page.context.add_cookies([{"name": cookie.key, "value": cookie.value, "url": self.live_server_url}])

    def grasp(self, page: Page, grip: Locator) -> None:
        """Press the mouse on something and leave it down."""
        grip.hover()
        page.mouse.down()

    def pull(self, page: Page, target: Locator, down: float = 0.5, across: float = 0.5) -> None:
        """Move the mouse, as a hand moves it, to a place in something: shares of its height and width."""
        box = target.bounding_box()
        assert box
        page.mouse.move(box["x"] + across * box["width"], box["y"] + down * box["height"], steps=8)

    def assert_waits(self, page: Page, answers: Held) -> None:
        """Answers that arrive now are not shown yet."""
        answers.let_go()
        expect(page.locator("body")).to_have_attribute("data-waiting", "1")

    def assert_shown(self, page: Page) -> None:
        expect(page.locator("body")).not_to_have_attribute("data-waiting", re.compile("."))

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
        # it ends when what it is doing is done
        self.addCleanup(worker.wait, PATIENCE / 1000)
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
