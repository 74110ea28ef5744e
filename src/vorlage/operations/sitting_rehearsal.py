"""A rehearsal of a sitting: so many simulated students sit it through HTTP, each saving and asking what has changed as
a page does, while processes are killed if that is asked for: ``./vorlage rehearse --students 1000 --seconds 60``.

What a page was told to be saved is looked for afterwards, answer by answer, and so is what was marked twice.
"""

from __future__ import annotations

import html
import http.client
import json
import os
import queue
import random
import re
import shutil
import signal
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from .rehearsal import Person, answers, minded, victim
from .running import Demo, usable_port

# How often a page saves and asks, in seconds, and within how many all begin.
SAVES, ASKS, STARTS = 20.0, 10.0, 10.0
# So many requests are under way at a time, at most.
LINES = 32
TITLE, QUESTIONS, FORMS = "Rehearsed sitting", 10, 30
DATA = re.compile(r'<script id="sitting-data" type="application/json">(.*?)</script>')
PLACE = re.compile(r'data-part="([^"]+)" data-question="(\d+)"')


@dataclass
class Simulated:
    """A student at a page."""

    number: int
    cookies: str
    chance: random.Random
    token: str = ""
    tab: str = ""
    places: list[tuple[int, str]] = field(default_factory=list)
    sent: int = 0
    # what waits to be saved, and what was said to be
    waiting: list[dict[str, Any]] = field(default_factory=list)
    confirmed: dict[tuple[str, int], Any] = field(default_factory=dict)


@dataclass
class Measured:
    """How long each kind of request took, in seconds, and how many failed."""

    took: dict[str, list[float]] = field(default_factory=dict)
    failed: int = 0
    lock: threading.Lock = field(default_factory=threading.Lock)

    def note(self, kind: str, seconds: float, answered: bool) -> None:
        with self.lock:
            self.took.setdefault(kind, []).append(seconds)
            self.failed += not answered

    def at(self, kind: str, share: float) -> float:
        """A percentile of a kind, in milliseconds."""
        found = sorted(self.took.get(kind, [0.0]))
        return 1000 * found[min(len(found) - 1, int(share * len(found)))]


@dataclass(frozen=True)
class Outcome:
    """What a rehearsal came to."""

    measured: Measured
    rate: float
    confirmed: int
    lost: int
    doubled: int


class Sitters:
    """Students who sit at a server."""

    def __init__(self, port: int, sitting: int, students: Sequence[Simulated]) -> None:
        self.port, self.sitting, self.students = port, sitting, students
        self.measured = Measured()
        self.due: queue.PriorityQueue[tuple[float, int, str]] = queue.PriorityQueue()
        self.ended = threading.Event()

    def run(self, seconds: float) -> float:
        """Let them all begin and then work for so long; how many requests a second there were."""
        began = time.monotonic()
        within = STARTS * max(1.0, len(self.students) / 300)
        for student in self.students:
            self.due.put((began + within * student.number / len(self.students), student.number, "start"))
        threads = [threading.Thread(target=self.line, daemon=True) for _ in range(LINES)]
        for thread in threads:
            thread.start()
        time.sleep(within + seconds)
        self.ended.set()
        for thread in threads:
            thread.join()
        return sum(map(len, self.measured.took.values())) / (time.monotonic() - began)

    def line(self) -> None:
        while not self.ended.is_set():
            try:
                when, number, kind = self.due.get(timeout=0.2)
            except queue.Empty:
                continue
            wait = when - time.monotonic()
            if wait > 0 and self.ended.wait(wait):
                return
            student = self.students[number]
            getattr(self, kind)(student)

    def later(self, student: Simulated, kind: str, seconds: float) -> None:
        self.due.put((time.monotonic() + seconds, student.number, kind))

    def ask(self, student: Simulated, kind: str, method: str, path: str, sent: Any = None) -> tuple[int, str]:
        """Status and page; status 0 where nothing answered."""
        headers = {"Cookie": student.cookies}
        body = None
        if student.token and path.startswith("/s/"):
            headers = {"X-Sitting": student.token}
            body = None if sent is None else json.dumps(sent).encode()
        elif method == "POST":
            body = b"csrfmiddlewaretoken=" + b"r" * 32
            headers["Content-Type"] = "application/x-www-form-urlencoded"
        began = time.perf_counter()
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        try:
            line.request(method, path, body, headers)
            answer = line.getresponse()
            page = answer.read().decode("utf-8", "replace")
            status = answer.status
        except (OSError, http.client.HTTPException):
            status, page = 0, ""
        finally:
            line.close()
        self.measured.note(kind, time.perf_counter() - began, 0 < status < 500)
        return status, page

    def start(self, student: Simulated) -> None:
        status, _ = self.ask(student, "start", "POST", f"/sit/{self.sitting}/begin/")
        status, page = self.ask(student, "page", "GET", f"/sit/{self.sitting}/sheet/") if status == 302 else (0, "")
        found = DATA.search(page)
        if status != 200 or found is None:
            return self.later(student, "start", 1.0)
        data = json.loads(found[1])
        student.token, student.tab = data["token"], data["tab"]
        student.places = [(int(q), html.unescape(p)) for p, q in PLACE.findall(page)]
        # nobody begins to write at the same moment
        self.later(student, "save", student.chance.uniform(0, SAVES))
        self.later(student, "changes", student.chance.uniform(0, ASKS))

    def save(self, student: Simulated) -> None:
        q, p = student.chance.choice(student.places)
        student.sent += 1
        answer = f"{student.chance.randint(1, 999_999)}"
        student.waiting.append({"t": student.tab, "n": student.sent, "q": q, "p": p, "r": answer})
        self.send(student)
        self.later(student, "save", SAVES)

    def send(self, student: Simulated) -> None:
        status, page = self.ask(student, "save", "POST", "/s/save/", {"changes": student.waiting})
        if status == 200:
            saved = {(tab, number) for tab, number in json.loads(page)["saved"]}
            sent = {(each["t"], each["n"]): each for each in student.waiting}
            student.confirmed |= {key: each["r"] for key, each in sent.items() if key in saved}
            student.waiting = [each for key, each in sent.items() if key not in saved]

    def changes(self, student: Simulated) -> None:
        self.ask(student, "changes", "GET", "/s/changes/")
        self.later(student, "changes", ASKS)


def rehearse(
    folder: Path, students: int, seconds: float, kills: int = 0, seed: int = 1, say: Callable[[str], None] = print
) -> Outcome:
    """Let so many students sit for so long at a server of their own, while so many processes are killed."""
    chance, over = random.Random(seed), threading.Event()
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    demo = Demo(folder)
    try:
        demo.prepare()
        sitting, sitters = seated(students, seed)
        port = usable_port(8850)
        demo.start(port)
        if kills:
            threading.Thread(target=minded, args=(demo, over), daemon=True).start()
            threading.Thread(target=killing, args=(demo, kills, seconds, chance, over, say), daemon=True).start()
        room = Sitters(port, sitting, sitters)
        rate = room.run(seconds)
        over.set()
        if kills:
            # what was killed last is up again
            over.clear()
            threading.Thread(target=minded, args=(demo, over), daemon=True).start()
            answers(Person(port, {}))
        for student in sitters:
            if student.waiting:
                room.send(student)
        confirmed, lost, doubled = what_became(sitting, sitters)
        return Outcome(room.measured, rate, confirmed, lost, doubled)
    finally:
        over.set()
        demo.stop()
        shutil.rmtree(folder, ignore_errors=True)


def killing(
    demo: Demo, kills: int, seconds: float, chance: random.Random, over: threading.Event, say: Callable[[str], None]
) -> None:
    """Kill processes at random moments."""
    for number in range(1, kills + 1):
        if over.wait(chance.uniform(0.5, 1.5) * seconds / kills):
            return
        try:
            what, pid = victim(demo, chance)
            os.kill(pid, signal.SIGKILL)
            say(f"{number:4}  {what}")
        except (OSError, ValueError, IndexError):
            say(f"{number:4}  nothing was there")


def seated(count: int, seed: int) -> tuple[int, list[Simulated]]:
    """A class of so many students, all signed in, and a sitting that is open for them."""
    from django.conf import settings
    from django.test import Client
    from django.utils import timezone

    from vorlage.core.sittings import Rules
    from vorlage.web.bank.models import Question
    from vorlage.web.classes.models import Class, Student
    from vorlage.web.forms.models import FormSet
    from vorlage.web.jobs.tasks import perform
    from vorlage.web.people.models import User
    from vorlage.web.plans.models import Test
    from vorlage.web.sittings.models import Sitting

    lead = User.objects.filter(memberships__role="lead", memberships__department__name="Physics")[0]
    department = lead.memberships.get(role="lead").department
    test = Test.objects.create(department=department, title=TITLE, author=lead)
    for question in Question.objects.filter(department=department).order_by("pk")[:QUESTIONS]:
        test.add(question)
    form_set = FormSet.order(test, FORMS, lead)
    perform(form_set.work.pk)
    form_set.refresh_from_db()
    people = User.objects.bulk_create(
        User(sign_in_name=f"rehearsed.{k}", name=f"Student {k}", school=department.school, studies=True, password="!")
        for k in range(count)
    )
    made = Student.objects.bulk_create(
        Student(
            school=department.school, family=f"Student {k:05}", given="R.", number=f"R{k:05}", user=user,
            search_text=f"student {k:05}",
        )
        for k, user in enumerate(people)
    )  # fmt: skip
    held = Class.objects.create(department=department, name=TITLE, year="now")
    held.enrol([each.pk for each in made])
    sitting = Sitting.give(test, [held], Rules(timezone.localtime()), lead, form_set)
    perform(sitting.job_id or 0)
    found = []
    for number, user in enumerate(people):
        client = Client()
        client.force_login(user)
        session = client.cookies[settings.SESSION_COOKIE_NAME].value
        cookies = f"{settings.SESSION_COOKIE_NAME}={session}; {settings.CSRF_COOKIE_NAME}={'r' * 32}"
        found.append(Simulated(number, cookies, random.Random(f"{seed} {number}")))
    return sitting.pk, found


def what_became(sitting: int, students: Sequence[Simulated]) -> tuple[int, int, int]:
    """How many saves were confirmed, how many of them are not there, and how many parts were marked twice."""
    from django.db import connection
    from django.db.models import Count
    from django.utils import timezone

    from vorlage.web.sittings.marking import mark
    from vorlage.web.sittings.models import Mark, Response, Taking

    connection.close()
    rows = Response.objects.filter(taking__sitting=sitting).values_list("tab", "number", "response")
    there = {(tab, number): response for tab, number, response in rows}
    confirmed, lost = 0, 0
    for student in students:
        confirmed += len(student.confirmed)
        lost += sum(there.get(key) != answer for key, answer in student.confirmed.items())
    for taking in Taking.objects.filter(sitting=sitting).exclude(begun=None).select_related("sitting")[:100]:
        taking.hand_in(timezone.now())
        mark(taking)
        mark(taking)
    own = Mark.objects.filter(taking__sitting=sitting).values("taking", "position", "part")
    doubled = own.annotate(count=Count("pk")).filter(count__gt=1).count()
    return confirmed, lost, doubled


def figures(outcome: Outcome) -> dict[str, float]:
    """What a rehearsal came to, by the names of its budgets."""
    measured = outcome.measured
    return {
        "sitting_save_p95_ms": measured.at("save", 0.95),
        "sitting_start_p95_ms": measured.at("start", 0.95),
        "sitting_lost": outcome.lost + outcome.doubled,
        "confirmed": outcome.confirmed,
    }


def told(outcome: Outcome, students: int, say: Callable[[str], None] = print) -> int:
    """Say what a rehearsal came to; exit status 1 when anything was lost or marked twice."""
    say(f"{students} students, {outcome.rate:.0f} requests a second, {outcome.measured.failed} not answered")
    for kind in ("start", "page", "save", "changes"):
        at = [f"{outcome.measured.at(kind, share):.0f}" for share in (0.5, 0.95, 0.99)]
        count = len(outcome.measured.took.get(kind, []))
        say(f"  {kind:8} {count:6} times, p50 {at[0]} ms, p95 {at[1]} ms, p99 {at[2]} ms")
    say(f"{outcome.confirmed} saves confirmed, {outcome.lost} lost, {outcome.doubled} parts marked twice")
    return 1 if outcome.lost or outcome.doubled or not outcome.confirmed else 0
