"""A rehearsal of a sitting: so many simulated students sit it through HTTP, each saving and asking what has changed as
a page does: ``./vorlage rehearse --students 1000 --seconds 60``. Where that is asked for, processes are killed, the
network is slow and loses answers, students are without one for a while, and their browsers are killed so that they go
on at another device.

What a page was told to be saved is looked for afterwards, answer by answer; what a device was not given of it when its
student went on there is counted; and so is what was marked twice.
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
from fractions import Fraction
from pathlib import Path
from typing import Any

from .rehearsal import VICTIMS, Person, answers, minded, victim
from .running import Demo, usable_port

# How often a page saves and asks, in seconds, and within how many all begin.
SAVES, ASKS, STARTS = 20.0, 10.0, 10.0
# How long a server has been up before anybody begins, in seconds.
WARMING = 15.0
# So many requests are under way at a time, at most.
LINES = 32
TITLE, QUESTIONS, FORMS, CLASS = "Rehearsed sitting", 10, 30, 25
# How often a question may be tried, where it is tried again.
TRIES = 3
# How often the table of a teacher asks, in seconds.
TABLES = 3.0
DATA = re.compile(r'<script id="sitting-data" type="application/json">(.*?)</script>')
# Of a slow network: how long a request is on its way, in seconds, and which share of the answers gets lost.
DELAY, DROPPED = (0.2, 1.2), 0.05
# How often somebody loses the network after a save, and for how long; and how often their browser is killed.
FALLS, AWAY, MOVES = 0.08, (5.0, 40.0), 0.15
# How often a missed question is had once more, where that is so.
SIMILAR = 0.3
PLACE = re.compile(r'data-part="([^"]+)" data-question="(\d+)"')


@dataclass
class Simulated:
    """A student at a page."""

    number: int
    cookies: str
    sitting: int
    chance: random.Random
    token: str = ""
    tab: str = ""
    places: list[tuple[int, str]] = field(default_factory=list)
    # those on which nothing more can be earned
    settled: set[tuple[int, str]] = field(default_factory=set)
    sent: int = 0
    # what waits to be saved, and what was said to be
    waiting: list[dict[str, Any]] = field(default_factory=list)
    confirmed: dict[tuple[str, int], Any] = field(default_factory=dict)
    # the last answer to each part that was said to be saved
    last: dict[tuple[int, str], Any] = field(default_factory=dict)
    # until when there is no network, and whether it was handed in
    away: float = 0.0
    handed_in: bool = False


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
class Faults:
    """What goes wrong, or goes on, meanwhile."""

    # so many processes of these kinds are killed
    kills: int = 0
    kinds: Sequence[str] = tuple(VICTIMS)
    slow_network: bool = False
    offline: bool = False
    # browsers are killed, and their students go on elsewhere
    moves: bool = False
    # no faults: every class has its table open at its teacher's; questions are checked and tried again, and missed ones
    # had once more with other numbers
    tables: bool = False
    retries: bool = False


@dataclass(frozen=True)
class Outcome:
    """What a rehearsal came to; ``forgotten`` is what a page did not show when its student went on there."""

    measured: Measured
    rate: float
    confirmed: int
    lost: int
    doubled: int
    forgotten: int = 0
    moved: int = 0
    # what was tried, similar questions among it, and the parts that were tried more often than may be
    tried: int = 0
    overtried: int = 0


class Sitters:
    """Students who sit at a server."""

    def __init__(
        self, port: int, students: Sequence[Simulated], faults: Faults | None = None, teacher: str = ""
    ) -> None:
        self.port, self.students, self.faults = port, students, faults or Faults()
        # the cookies of a teacher who has the table of every sitting open; nobody where there are none
        self.teacher = teacher
        self.measured = Measured()
        self.forgotten, self.moved = 0, 0
        self.due: queue.PriorityQueue[tuple[float, int, str]] = queue.PriorityQueue()
        self.ended = threading.Event()

    def run(self, seconds: float) -> float:
        """Let them all begin and then work for so long; how many requests a second there were."""
        began = time.monotonic()
        within = STARTS * max(1.0, len(self.students) / 300)
        for student in self.students:
            self.due.put((began + within * student.number / len(self.students), student.number, "start"))
        if self.teacher:
            firsts = {student.sitting: student.number for student in reversed(self.students)}
            for k, number in enumerate(firsts.values()):
                self.due.put((began + TABLES * k / len(firsts), number, "table"))
        if self.faults.kills:
            # work is handed in and marked while processes are killed
            for student in self.students:
                at = began + within + seconds * student.chance.uniform(0.6, 1.0)
                self.due.put((at, student.number, "hand_in"))
        # who waits for a slow network keeps nobody else waiting
        lines = LINES * (4 if self.faults.slow_network else 1)
        threads = [threading.Thread(target=self.line, daemon=True) for _ in range(lines)]
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

    def table(self, student: Simulated) -> None:
        """The live table of a student's class, as a teacher has it open."""
        self.ask(student, "table", "GET", f"/sittings/{student.sitting}/table/", cookies=self.teacher)
        self.later(student, "table", TABLES)

    def ask(
        self, student: Simulated, kind: str, method: str, path: str, sent: Any = None, cookies: str = ""
    ) -> tuple[int, str]:
        """Status and page; status 0 where nothing answered."""
        headers = {"Cookie": cookies or student.cookies}
        body = None
        if student.token and path.startswith("/s/"):
            headers = {"X-Sitting": student.token}
            body = None if sent is None else json.dumps(sent).encode()
        elif method == "POST":
            body = b"csrfmiddlewaretoken=" + b"r" * 32
            headers["Content-Type"] = "application/x-www-form-urlencoded"
        dropped = False
        if self.faults.slow_network:
            time.sleep(student.chance.uniform(*DELAY))
            dropped = student.chance.random() < DROPPED
        began = time.perf_counter()
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        try:
            line.request(method, path, body, headers)
            answer = line.getresponse()
            page = answer.read().decode("utf-8", "replace")
            # what was done is done, and the page never hears of it
            status, page = (0, "") if dropped else (answer.status, page)
        except (OSError, http.client.HTTPException):
            status, page = 0, ""
        finally:
            line.close()
        self.measured.note(kind, time.perf_counter() - began, 0 < status < 500 or dropped)
        return status, page

    def start(self, student: Simulated) -> None:
        status, _ = self.ask(student, "start", "POST", f"/sit/{student.sitting}/begin/")
        if status != 302 or self.opened(student) is None:
            return self.later(student, "start", 1.0)
        # nobody begins to write at the same moment
        self.later(student, "save", student.chance.uniform(0, SAVES))
        self.later(student, "changes", student.chance.uniform(0, ASKS))

    def opened(self, student: Simulated) -> list[dict[str, Any]] | None:
        """Open the page, with what it has of the answers; None where it did not come."""
        status, page = self.ask(student, "page", "GET", f"/sit/{student.sitting}/sheet/")
        found = DATA.search(page)
        if status != 200 or found is None:
            return None
        data = json.loads(found[1])
        student.token, student.tab, student.sent = data["token"], data["tab"], 0
        student.places = [(int(q), html.unescape(p)) for p, q in PLACE.findall(page)]
        return list(data["answers"])

    def move(self, student: Simulated) -> None:
        """The browser is killed, and its student goes on elsewhere: all that was said to be saved is there."""
        if student.handed_in:
            return
        before, unsure = dict(student.last), [each["r"] for each in student.waiting]
        shown = self.opened(student)
        if shown is None:
            return self.later(student, "move", 1.0)
        there = {(each["q"], each["p"]): each["r"] for each in shown}
        self.moved += 1
        # what waits may have arrived without the page having heard of it
        self.forgotten += sum(there.get(where) not in {answer, *unsure} for where, answer in before.items())

    def hand_in(self, student: Simulated) -> None:
        if not student.token:
            return
        if self.faults.offline:
            student.away = 0.0
        self.send(student)
        status, page = self.ask(student, "hand in", "POST", "/s/hand-in/", {})
        if status == 200 and json.loads(page).get("receipt"):
            student.handed_in = True
        else:
            self.later(student, "hand_in", 1.0)

    def save(self, student: Simulated) -> None:
        if student.handed_in:
            return
        left = [each for each in student.places if each not in student.settled]
        if not left:
            return
        q, p = student.chance.choice(left)
        student.sent += 1
        answer = f"{student.chance.randint(1, 999_999)}"
        student.waiting.append({"t": student.tab, "n": student.sent, "q": q, "p": p, "r": answer})
        self.send(student)
        self.later(student, "save", SAVES)
        if self.faults.retries and not student.waiting:
            self.check(student, q)
        if self.faults.offline and student.chance.random() < FALLS:
            student.away = time.monotonic() + student.chance.uniform(*AWAY)
        if self.faults.moves and student.chance.random() < MOVES:
            self.later(student, "move", student.chance.uniform(0, SAVES / 2))

    def check(self, student: Simulated, q: int) -> None:
        """Check a question; a missed one is had once more with other numbers, some of the time."""
        status, page = self.ask(student, "check", "POST", "/s/check/", {"q": q})
        for state in json.loads(page).get("checked", []) if status == 200 else []:
            student.settled |= {(q, part) for part, came in state["parts"].items() if came["settled"]}
            if state["similar"] and student.chance.random() < SIMILAR:
                status, _ = self.ask(student, "similar", "POST", "/s/similar/", {"q": q})
                if status == 200:
                    student.settled |= {each for each in student.places if each[0] == q}
                    self.opened(student)

    def send(self, student: Simulated) -> None:
        if time.monotonic() < student.away or not student.waiting:
            return
        status, page = self.ask(student, "save", "POST", "/s/save/", {"changes": student.waiting})
        if status == 200:
            answer = json.loads(page)
            saved = {(tab, number) for tab, number in answer["saved"]}
            sent = {(each["t"], each["n"]): each for each in student.waiting}
            student.confirmed |= {key: each["r"] for key, each in sent.items() if key in saved}
            if answer["counts"]:
                student.last |= {(each["q"], each["p"]): each["r"] for key, each in sent.items() if key in saved}
            student.waiting = [each for key, each in sent.items() if key not in saved]

    def changes(self, student: Simulated) -> None:
        if student.handed_in:
            return
        if time.monotonic() < student.away:
            return self.later(student, "changes", ASKS)
        self.ask(student, "changes", "GET", "/s/changes/")
        self.later(student, "changes", ASKS)


def rehearse(
    folder: Path, students: int, seconds: float, faults: Faults | None = None, seed: int = 1,
    say: Callable[[str], None] = print,
) -> Outcome:  # fmt: skip
    """Let so many students sit for so long at a server of their own, while what is asked for goes wrong."""
    faults = faults or Faults()
    chance, over, spared = random.Random(seed), threading.Event(), threading.Event()
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    demo = Demo(folder)
    try:
        demo.prepare()
        sitters, teacher = seated(students, seed, retried() if faults.retries else None)
        port = usable_port(8850)
        demo.start(port)
        # a server in use is long past loading its fonts and its algebra, which takes each of its processes seconds
        time.sleep(WARMING)
        if faults.kills:
            threading.Thread(target=minded, args=(demo, over), daemon=True).start()
        kills = threading.Thread(target=killing, args=(demo, faults, seconds, chance, spared, say), daemon=True)
        if faults.kills:
            kills.start()
        room = Sitters(port, sitters, faults, teacher if faults.tables else "")
        rate = room.run(seconds)
        spared.set()
        if faults.kills:
            kills.join()
            # what was killed last is up again
            answers(Person(port, {}))
        room.faults = Faults()
        for student in sitters:
            student.away = 0.0
            room.send(student)
        confirmed, lost, doubled = what_became(sitters)
        tried = tries_of(sitters)
        return Outcome(room.measured, rate, confirmed, lost, doubled, room.forgotten, room.moved, *tried)
    finally:
        over.set()
        demo.stop()
        shutil.rmtree(folder, ignore_errors=True)


def killing(
    demo: Demo, faults: Faults, seconds: float, chance: random.Random, over: threading.Event, say: Callable[[str], None]
) -> None:
    """Kill processes at random moments."""
    for number in range(1, faults.kills + 1):
        if over.wait(chance.uniform(0.5, 1.5) * seconds / faults.kills):
            return
        try:
            what, pid = victim(demo, chance, faults.kinds)
            os.kill(pid, signal.SIGKILL)
            say(f"{number:4}  {what}")
        except (OSError, ValueError, IndexError):
            say(f"{number:4}  nothing was there")


def retried() -> dict[str, Any]:
    """The rules of a sitting in which questions are tried again."""
    from vorlage.core.sittings import RELEASED

    return {"tries": TRIES, "try_cost": Fraction(1, 10), "similar": 1, "seen": RELEASED | {"outcome": "each"}}


def tries_of(students: Sequence[Simulated]) -> tuple[int, int]:
    """How often something was tried, and of how many parts more often than may be."""
    from django.db.models import Count

    from vorlage.web.sittings.models import Tried

    rows = Tried.objects.filter(taking__sitting__in={student.sitting for student in students}).order_by()
    parts = rows.values("taking", "form", "position", "part").annotate(count=Count("pk"))
    return rows.count(), parts.filter(count__gt=TRIES).count()


def seated(count: int, seed: int, changes: dict[str, Any] | None = None) -> tuple[list[Simulated], str]:
    """So many students in their classes, all signed in, with a sitting of each class that is open, with changed rules
    where they are given; and the cookies of the teacher."""
    from django.conf import settings
    from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY
    from django.contrib.sessions.backends.db import SessionStore
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
    sittings = []
    for start in range(0, count, CLASS):
        held = Class.objects.create(department=department, name=f"Class {start // CLASS + 1}", year="now")
        held.enrol([each.pk for each in made[start : start + CLASS]])
        sitting = Sitting.give(test, [held], Rules(timezone.localtime(), **changes or {}), lead, form_set)
        perform(sitting.job_id or 0)
        sittings.append(sitting.pk)

    def cookies_of(user: User) -> str:
        session = SessionStore()
        session[SESSION_KEY], session[HASH_SESSION_KEY] = str(user.pk), user.get_session_auth_hash()
        session[BACKEND_SESSION_KEY] = settings.AUTHENTICATION_BACKENDS[0]
        session.create()
        return f"{settings.SESSION_COOKIE_NAME}={session.session_key}; {settings.CSRF_COOKIE_NAME}={'r' * 32}"

    found = [
        Simulated(number, cookies_of(user), sittings[number // CLASS], random.Random(f"{seed} {number}"))
        for number, user in enumerate(people)
    ]
    return found, cookies_of(lead)


def what_became(students: Sequence[Simulated]) -> tuple[int, int, int]:
    """How many saves were confirmed, how many of them are not there, and how many parts were marked twice."""
    from django.db import connection
    from django.db.models import Count
    from django.utils import timezone

    from vorlage.web.sittings.marking import mark
    from vorlage.web.sittings.models import Mark, Response, Taking

    connection.close()
    own = {student.sitting for student in students}
    rows = Response.objects.filter(taking__sitting__in=own).values_list("tab", "number", "response")
    there = {(tab, number): response for tab, number, response in rows}
    confirmed, lost = 0, 0
    for student in students:
        confirmed += len(student.confirmed)
        lost += sum(there.get(key) != answer for key, answer in student.confirmed.items())
    for taking in Taking.objects.filter(sitting__in=own).exclude(begun=None).select_related("sitting")[:200]:
        taking.hand_in(timezone.now())
        mark(taking)
        mark(taking)
    marks = Mark.objects.filter(taking__sitting__in=own).values("taking", "position", "part")
    doubled = marks.annotate(count=Count("pk")).filter(count__gt=1).count()
    return confirmed, lost, doubled


def figures(outcome: Outcome) -> dict[str, float]:
    """What a rehearsal came to, by the names of its budgets."""
    measured = outcome.measured
    return {
        "sitting_save_p95_ms": measured.at("save", 0.95),
        "sitting_start_p95_ms": measured.at("start", 0.95),
        "sitting_lost": outcome.lost + outcome.doubled + outcome.forgotten,
        "confirmed": outcome.confirmed,
    }


def told(outcome: Outcome, students: int, say: Callable[[str], None] = print) -> int:
    """Say what a rehearsal came to; exit status 1 when anything was lost or marked twice."""
    say(f"{students} students, {outcome.rate:.0f} requests a second, {outcome.measured.failed} not answered")
    for kind in outcome.measured.took:
        at = [f"{outcome.measured.at(kind, share):.0f}" for share in (0.5, 0.95, 0.99)]
        count = len(outcome.measured.took.get(kind, []))
        say(f"  {kind:8} {count:6} times, p50 {at[0]} ms, p95 {at[1]} ms, p99 {at[2]} ms")
    if outcome.moved:
        say(f"{outcome.moved} went on at another device, where {outcome.forgotten} of their saved answers were missing")
    if outcome.tried:
        say(f"{outcome.tried} tries, {outcome.overtried} parts tried more often than may be")
    say(f"{outcome.confirmed} saves confirmed, {outcome.lost} lost, {outcome.doubled} parts marked twice")
    wrong = outcome.lost or outcome.doubled or outcome.forgotten or outcome.overtried
    return 1 if wrong or not outcome.confirmed else 0
