"""A school at work: fifty people typing and twenty taking papers, against the real web server on this machine."""

from __future__ import annotations

import http.client
import os
import random
import subprocess
import sys
import threading
import time
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import urlencode

from vorlage.operations.cluster import free_port
from vorlage.operations.running import web_words, web_workers

TYPING, TAKING = 50, 20
# A preview of each who types, a stored page of each who takes, in seconds.
PREVIEW_EVERY, PAGE_EVERY = 3.0, 10.0
SECONDS = 30.0
# What the first seconds show is the start of the server.
WARMING = 8.0


@dataclass
class Load:
    """Everybody's requests, and how long each waited for its answer, in milliseconds."""

    port: int
    until: float
    counted_from: float
    previews: list[float] = field(default_factory=list)
    pages: list[float] = field(default_factory=list)
    refused: list[int] = field(default_factory=list)

    def ask(self, cookie: str, method: str, address: str, body: str = "") -> tuple[int, float]:
        """The status of an answer, and how long it took from asking to its end."""
        began = time.perf_counter()
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=60)
        try:
            headers = {"Cookie": cookie, "HX-Request": "true"}
            if body:
                headers["Content-Type"] = "application/x-www-form-urlencoded"
                headers["X-CSRFToken"] = cookie.rpartition("=")[2]
            line.request(method, address, body or None, headers)
            answer = line.getresponse()
            answer.read()
            return answer.status, 1000 * (time.perf_counter() - began)
        finally:
            line.close()

    def typing(self, cookie: str, sent: dict[str, list[str]], chance: random.Random) -> None:
        wording = sent["wording"][0]
        sent["csrfmiddlewaretoken"] = [cookie.rpartition("=")[2]]
        for stroke in self.strokes(PREVIEW_EVERY, chance):
            # sometimes the text, sometimes the tried answer, sometimes a key
            sent["wording"] = [wording + " again" * (stroke % 4)]
            sent["stroke"] = [str(stroke)]
            status, took = self.ask(cookie, "POST", "/questions/preview/", urlencode(sent, doseq=True))
            self.note(self.previews, status, took)

    def taking(self, cookie: str, addresses: list[str], chance: random.Random) -> None:
        for _ in self.strokes(PAGE_EVERY, chance):
            self.note(self.pages, *self.ask(cookie, "GET", chance.choice(addresses)))

    def strokes(self, every: float, chance: random.Random) -> Any:
        time.sleep(chance.random() * every)
        stroke = 1
        while time.monotonic() < self.until:
            began = time.monotonic()
            yield stroke
            stroke += 1
            time.sleep(max(0.0, every * chance.uniform(0.8, 1.2) - (time.monotonic() - began)))

    def note(self, times: list[float], status: int, took: float) -> None:
        if status != 200:
            self.refused.append(status)
        elif time.monotonic() > self.counted_from:
            times.append(took)


def p95(times: list[float]) -> float:
    return sorted(times)[int(0.95 * len(times))]


def signed_in(user: Any) -> str:
    """The cookies of somebody who has signed in."""
    from django.test import Client

    client = Client()
    client.force_login(user)
    session, form = "vorlage-bench", "vorlage-bench-form"
    return f"{session}={client.cookies['sessionid'].value}; {form}={'x' * 32}"


def busy(folder: str) -> Load:
    """The demo's pages and previews while seventy people want them; the database is there, with a form set."""
    from django.conf import settings
    from django.test import Client
    from django.urls import reverse
    from tests.web.reading import sent_by

    from vorlage.web.bank.models import Question
    from vorlage.web.forms.models import FormSet
    from vorlage.web.people.models import Membership, User

    port = free_port()
    environment = os.environ | {
        "DJANGO_SETTINGS_MODULE": "vorlage.web.settings.demo", "VORLAGE_SECRET_KEY": settings.SECRET_KEY,
        "VORLAGE_STATIC": folder, "VORLAGE_DEMO": "bench",
    }  # fmt: skip
    subprocess.run([sys.executable, "-m", "django", "collectstatic", "--noinput", "-v0"], env=environment, check=True)
    server = subprocess.Popen(
        [sys.executable, *web_words(f"127.0.0.1:{port}", web_workers())], env=environment, stderr=subprocess.DEVNULL
    )
    try:
        lead = User.objects.filter(memberships__role="lead").order_by("pk")[0]
        department = lead.memberships.get(role="lead").department
        questions = list(Question.objects.filter(department=department))
        form_set = FormSet.objects.filter(test__department=department)[0]
        codes = form_set.forms.values_list("code", flat=True)
        pages = [reverse("paper-page", args=[form_set.pk, code, 1]) for code in codes]
        people = [
            User.objects.create_user(f"busy-{k}@sandhaven.example", name=f"Busy {k}") for k in range(TYPING + TAKING)
        ]
        Membership.objects.bulk_create(Membership(user=each, department=department, role="author") for each in people)
        browser = Client()
        browser.force_login(lead)
        load = Load(port, time.monotonic() + SECONDS + WARMING, time.monotonic() + WARMING)
        wait_for(port)
        threads = []
        for k, person in enumerate(people):
            chance, cookie = random.Random(k), signed_in(person)
            if k < TYPING:
                sent = sent_by(browser.get(reverse("question", args=[questions[k % len(questions)].pk])))
                threads.append(threading.Thread(target=load.typing, args=(cookie, sent, chance)))
            else:
                threads.append(threading.Thread(target=load.taking, args=(cookie, pages, chance)))
        load.until, load.counted_from = time.monotonic() + SECONDS + WARMING, time.monotonic() + WARMING
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        return load
    finally:
        server.terminate()
        server.wait()


def wait_for(port: int) -> None:
    for _ in range(600):
        try:
            line = http.client.HTTPConnection("127.0.0.1", port, timeout=2)
            line.request("GET", "/sign-in/")
            if line.getresponse().status == 200:
                return
        except OSError:
            time.sleep(0.1)
    raise AssertionError("The web server did not start.")
