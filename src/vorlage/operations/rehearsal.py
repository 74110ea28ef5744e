"""A rehearsal of what goes wrong: people save, order forms and send pictures while processes are killed at random
moments. In the end nothing that was confirmed is lost, nothing is there twice, and nothing is stuck:
``./vorlage rehearse --kill 100``."""

from __future__ import annotations

import hashlib
import http.client
import io
import os
import random
import re
import shutil
import signal
import threading
import time
import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

from .cluster import ClusterError
from .running import Demo, usable_port

# How long everything may take to come to rest after the last kill, in seconds.
REST = 180.0
FORMS = 6


@dataclass
class Confirmed:
    """What the server said that it has."""

    # the title of a question by the number that its revision got
    saves: dict[str, int] = field(default_factory=dict)
    sets: list[int] = field(default_factory=list)
    pictures: list[str] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)


class Person:
    """A browser of somebody who has signed in, and tries again what was not answered."""

    def __init__(self, port: int, cookies: dict[str, str]) -> None:
        self.port, self.cookies = port, cookies

    def ask(self, method: str, address: str, body: bytes = b"", kind: str = "") -> tuple[int, str, str]:
        """Status, where one is led, and the page; status 0 where nothing answered."""
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        try:
            headers = {"Cookie": "; ".join(f"{name}={value}" for name, value in self.cookies.items())}
            if kind:
                headers["Content-Type"] = kind
            line.request(method, address, body or None, headers)
            answer = line.getresponse()
            return answer.status, answer.getheader("Location") or "", answer.read().decode("utf-8", "replace")
        except (OSError, http.client.HTTPException):
            return 0, "", ""
        finally:
            line.close()

    def sent(self, address: str, fields: dict[str, str]) -> tuple[int, str, str]:
        form = {**fields, "csrfmiddlewaretoken": self.cookies["token"]}
        return self.ask("POST", address, urlencode(form).encode(), "application/x-www-form-urlencoded")


def saving(person: Person, confirmed: Confirmed, chance: random.Random) -> None:
    """A new question, sent until it is confirmed, the same form each time."""
    title = f"Rehearsed {uuid.UUID(int=chance.getrandbits(128))}"
    form = {
        "title": title, "key": str(uuid.UUID(int=chance.getrandbits(128))), "wording": "Double $a$.", "stroke": "1",
        "leaf": "r1", "parameter": "p1", "parameter-p1-name": "a", "parameter-p1-definition": "2..9", "part": "q1",
        "part-q1-kind": "number", "part-q1-marks": "1", "part-q1-key": "2*a", "level": "1", "subject": "physics",
        "angle": "degrees",
    }  # fmt: skip
    status, _, _ = person.sent("/questions/save/", form)
    if status == 302:
        with confirmed.lock:
            confirmed.saves[title] = 1


def ordering(person: Person, confirmed: Confirmed, test: int) -> None:
    status, place, _ = person.sent(f"/tests/{test}/make/", {"count": str(FORMS), "once": str(uuid.uuid4())})
    found = re.search(r"/form-sets/(\d+)/", place)
    if status == 302 and found:
        with confirmed.lock:
            confirmed.sets.append(int(found[1]))


def uploading(person: Person, confirmed: Confirmed, chance: random.Random) -> None:
    from PIL import Image

    drawn = io.BytesIO()
    Image.frombytes("RGB", (24, 24), chance.randbytes(24 * 24 * 3)).save(drawn, "PNG")
    mark, token = uuid.uuid4().hex, person.cookies["token"]
    says = "Content-Disposition: form-data; name"
    head = (
        f'--{mark}\r\n{says}="csrfmiddlewaretoken"\r\n\r\n{token}\r\n'
        f'--{mark}\r\n{says}="picture_file"; filename="x.png"\r\nContent-Type: image/png\r\n\r\n'
    )
    body = head.encode() + drawn.getvalue() + f"\r\n--{mark}--\r\n".encode()
    status, _, page = person.ask("POST", "/questions/pictures/", body, f"multipart/form-data; boundary={mark}")
    digests = re.findall(r"\b[0-9a-f]{64}\b", page)
    if status == 200 and digests:
        with confirmed.lock:
            confirmed.pictures.append(digests[0])


def families(root: int) -> dict[int, list[int]]:
    """The processes below one, and what each of them began."""
    parents: dict[int, list[int]] = {}
    for entry in Path("/proc").iterdir():
        if entry.name.isdecimal():
            try:
                parents.setdefault(int((entry / "stat").read_text().rpartition(")")[2].split()[1]), []).append(
                    int(entry.name)
                )
            except (OSError, IndexError, ValueError):
                continue
    found, waiting = dict[int, list[int]](), [root]
    while waiting:
        found[waiting[0]] = parents.get(waiting[0], [])
        waiting += found[waiting.pop(0)]
    return found


# What may be killed, by what it belongs to.
VICTIMS = {
    "web": ("web process", "web server"), "worker": ("worker", "job"), "database": ("database process", "database"),
}  # fmt: skip


def victim(demo: Demo, chance: random.Random, among: Sequence[str] = tuple(VICTIMS)) -> tuple[str, int]:
    """A process to be killed, and what it is."""
    web, worker = (part.process.pid for part in demo.parts)
    database = int((demo.cluster.data / "postmaster.pid").read_text().split()[0])
    choice = chance.choice([each for kind in among for each in VICTIMS[kind]])
    root = {"web": web, "worker": worker, "job": worker, "database": database}[choice.split()[0]]
    below = [pid for pid in families(root) if pid != root]
    if choice in {"web process", "job", "database process"} and below:
        return choice, chance.choice(below)
    return choice.split()[0], root


def rehearse(folder: Path, kills: int, seed: int, say: Callable[[str], None] = print) -> int:
    """Kill so many processes while people work; exit status 1 when anything was lost, doubled or stuck."""
    chance, confirmed = random.Random(seed), Confirmed()
    ended, over = threading.Event(), threading.Event()
    shutil.rmtree(folder, ignore_errors=True)
    folder.mkdir(parents=True)
    demo = Demo(folder)
    try:
        demo.prepare()
        port = usable_port(8790)
        demo.start(port)
        minding = threading.Thread(target=minded, args=(demo, over), daemon=True)
        minding.start()
        person, test = signed_in(port)
        acts: list[Callable[[random.Random], None]] = [
            lambda own: saving(person, confirmed, own),
            lambda own: ordering(person, confirmed, test),
            lambda own: uploading(person, confirmed, own),
        ]
        workers = [
            threading.Thread(target=busy, args=(act, random.Random(f"{seed} {k}"), ended)) for k, act in enumerate(acts)
        ]
        for thread in workers:
            thread.start()
        for number in range(1, kills + 1):
            answers(person)
            time.sleep(chance.uniform(0.05, 1.5))
            try:
                what, pid = victim(demo, chance)
                os.kill(pid, signal.SIGKILL)
                say(f"{number:4}  {what}")
            except (OSError, ValueError, IndexError):
                # it is just being started
                say(f"{number:4}  nothing was there")
        time.sleep(3)
        ended.set()
        for thread in workers:
            thread.join()
        faults = what_is_wrong(confirmed)
        counts = (
            f"{len(confirmed.saves)} saves, {len(confirmed.sets)} sets, {len(confirmed.pictures)} pictures confirmed"
        )
        say(f"{counts}; {len(faults)} of them lost, doubled or stuck")
        for fault in faults:
            say(f"  {fault}")
        return 1 if faults or not (confirmed.saves and confirmed.sets and confirmed.pictures) else 0
    finally:
        ended.set()
        over.set()
        demo.stop()
        shutil.rmtree(folder, ignore_errors=True)


def answers(person: Person) -> None:
    """Wait until the server answers again, with its database, so that something can be confirmed between two kills."""
    until = time.monotonic() + REST
    while time.monotonic() < until:
        if person.ask("GET", "/health/")[0] == 200:
            return
        time.sleep(0.1)


def busy(act: Callable[[random.Random], None], chance: random.Random, ended: threading.Event) -> None:
    while not ended.is_set():
        act(chance)
        time.sleep(chance.uniform(0.05, 0.6))


def minded(demo: Demo, ended: threading.Event) -> None:
    """Start again what was killed, as often as it is."""
    while not ended.wait(0.2):
        try:
            if not demo.cluster.lives():
                demo.cluster.revive()
            for part in demo.parts:
                if part.ended:
                    part.start()
        except ClusterError:
            continue


def signed_in(port: int) -> tuple[Person, int]:
    """The head of physics, who has a test of one question."""
    from django.conf import settings
    from django.test import Client

    from vorlage.web.bank.models import Question
    from vorlage.web.people.models import User
    from vorlage.web.plans.models import Test

    lead = User.objects.filter(memberships__role="lead", memberships__department__name="Physics")[0]
    department = lead.memberships.get(role="lead").department
    test = Test.objects.create(department=department, title="Rehearsed", author=lead)
    test.add(Question.objects.filter(department=department)[0])
    client = Client()
    client.force_login(lead)
    token = "r" * 32
    session = client.cookies[settings.SESSION_COOKIE_NAME].value
    cookies = {settings.SESSION_COOKIE_NAME: session, settings.CSRF_COOKIE_NAME: token, "token": token}
    return Person(port, cookies), test.pk


def what_is_wrong(confirmed: Confirmed) -> list[str]:
    """What was confirmed and is not there once, whole and at rest."""
    from django.db import OperationalError, connection

    from vorlage.web.bank.models import Question, Revision
    from vorlage.web.files.models import Stored
    from vorlage.web.forms.models import FormItem, FormSet, ItemKey
    from vorlage.web.jobs.models import Job

    until = time.monotonic() + REST
    while True:
        try:
            if not Job.objects.filter(state__in=["waiting", "running"]).exists() or time.monotonic() > until:
                break
        except OperationalError:
            connection.close()
        time.sleep(0.5)
    faults: list[Any] = [f"stuck: {job}" for job in Job.objects.filter(state__in=["waiting", "running"])]
    for title in confirmed.saves:
        found = Revision.objects.filter(title=title).count()
        if found != 1:
            faults.append(f"saved {found} times: {title}")
    if Question.objects.count() != Revision.objects.values("question").distinct().count():
        faults.append("a question without a revision")
    for pk in confirmed.sets:
        form_set = FormSet.objects.filter(pk=pk).select_related("job").first()
        if form_set is None:
            faults.append(f"lost: form set {pk}")
            continue
        items, keys = FormItem.objects.filter(form__form_set=pk), ItemKey.objects.filter(item__form__form_set=pk)
        made = (form_set.forms.count(), items.count(), keys.count(), form_set.prints.count())
        state, reason = form_set.work.state, form_set.work.reason
        whole = made == (FORMS, FORMS, FORMS, 3) and state == "done"
        nothing = made == (0, 0, 0, 0) and state == "failed" and reason
        if not (whole or nothing):
            faults.append(f"half made: form set {pk}: {made}, {state} {reason}")
    for digest in confirmed.pictures:
        stored = Stored.objects.filter(digest=digest).first()
        if stored is None or hash_of(stored) != digest:
            faults.append(f"lost: picture {digest[:12]}")
    return [str(fault) for fault in faults]


def hash_of(stored: Any) -> str:
    return hashlib.sha256(stored.read()).hexdigest()
