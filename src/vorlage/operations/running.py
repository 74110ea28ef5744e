"""Starting and stopping: the demo with everything of its own, and the parts of a production installation."""

from __future__ import annotations

import fcntl
import hashlib
import os
import secrets
import signal
import socket
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import NoReturn

from .cluster import Cluster, ClusterError, free_port

SERVING = "python:vorlage.web.serving"
# A part of the demo that ended by itself so many times within so many seconds stays ended.
STARTS, STARTS_WITHIN = 5, 60.0
# A demo that is stopping is waited for so long.
STOPPING_SECONDS = 40.0


def manage(*words: str) -> None:
    """Run a management command in this process."""
    from django.core.management import call_command

    call_command(*words)


def prepare_installation() -> None:
    """Tables and static files, as this version has them."""
    manage("migrate", "--verbosity", "0")
    manage("createcachetable")
    manage("collectstatic", "--noinput", "--verbosity", "0")


def setup(settings: str) -> None:
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", settings)
    import django

    django.setup()


def kept_secret(folder: Path) -> str:
    """The secret key of this installation, made on first use."""
    path = folder / "secret-key"
    if not path.exists():
        path.write_text(secrets.token_urlsafe(50))
        path.chmod(0o600)
    return path.read_text().strip()


def usable_port(wanted: int) -> int:
    """The wanted port when it is free, else another."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", wanted))
            return wanted
        except OSError:
            other = free_port()
            print(f"Port {wanted} is taken; using {other}.")
            return other


@contextmanager
def only_one(folder: Path) -> Iterator[bool]:
    """Whether this is the only demo of the checkout that runs; one that is still stopping is waited for."""
    with open(folder / "lock", "w") as lock:
        until = time.monotonic() + STOPPING_SECONDS
        told = False
        while True:
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except OSError:
                if not (folder / "stopping").exists() or time.monotonic() > until:
                    yield False
                    return
            if not told:
                print("The demo that ran here is still stopping; waiting for it.", flush=True)
                told = True
            time.sleep(0.2)
        (folder / "stopping").unlink(missing_ok=True)
        yield True


def stop_on_signals() -> None:
    """Ctrl-C, a closed terminal and a polite kill all end in the same orderly way."""

    def stop(number: int, frame: object) -> None:
        raise KeyboardInterrupt

    for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
        signal.signal(number, stop)


def web_workers() -> int:
    """How many processes answer: more than there are processors, so that one long answer keeps nobody waiting."""
    return min(2 * (os.cpu_count() or 1) + 1, 9)


def web_words(bind: str, workers: int) -> list[str]:
    """The words after ``python`` that start the web server.

    Processes and no threads: the precision of ball arithmetic belongs to a process.
    """
    return [
        "-m", "gunicorn", "vorlage.web.wsgi", "--bind", bind, "--workers", str(workers), "--preload",
        "--config", SERVING, "--no-control-socket",
    ]  # fmt: skip


class Part:
    """A process of the demo."""

    def __init__(self, name: str, words: list[str], log: Path) -> None:
        self.name, self.words, self.log = name, words, log
        self.starts: list[float] = []
        self.process: subprocess.Popen[bytes]

    def start(self) -> None:
        self.starts.append(time.monotonic())
        # a process group of its own: Ctrl-C reaches only the parent, which ends its children in order
        with open(self.log, "ab") as log:
            self.process = subprocess.Popen(
                [sys.executable, *self.words], stdout=log, stderr=log, start_new_session=True
            )

    @property
    def ended(self) -> bool:
        return self.process.poll() is not None

    def start_again(self) -> None:
        """Start it once more, unless it has ended again and again. Raises ``ClusterError``."""
        if len(self.starts) > STARTS and time.monotonic() - self.starts[-STARTS] < STARTS_WITHIN:
            raise ClusterError(f"The {self.name} ends again and again; {self.log} has the details.")
        self.start()


class Demo:
    """Everything the demo runs: database, web and worker."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.cluster = Cluster(folder / "postgres")
        self.parts: list[Part] = []

    def prepare(self) -> None:
        """Database, tables, static files and sample data; quick when they are there already."""
        self.cluster.start()
        self.cluster.ensure_database("vorlage")
        os.environ.update(
            VORLAGE_DATABASE=self.cluster.url("vorlage"),
            VORLAGE_SECRET_KEY=kept_secret(self.folder),
            VORLAGE_STATIC=str(self.folder / "static"),
            VORLAGE_DEMO=hashlib.sha256(str(self.folder).encode()).hexdigest()[:8],
            DJANGO_SETTINGS_MODULE="vorlage.web.settings.demo",
        )
        setup("vorlage.web.settings.demo")
        prepare_installation()
        from vorlage.operations.demo_data import load

        load()

    def start(self, port: int) -> None:
        web = web_words(f"127.0.0.1:{port}", web_workers())
        worker = ["-m", "vorlage.command", "worker"]
        self.parts = [Part("web server", web, self.folder / "log"), Part("worker", worker, self.folder / "log")]
        for part in self.parts:
            part.start()
        for _ in range(600):
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in/", timeout=2):
                    return
            except urllib.error.HTTPError as problem:
                raise ClusterError(
                    f"The web server answers with a fault; {self.folder / 'log'} has the details."
                ) from problem
            except OSError:
                if self.parts[0].ended:
                    break
                time.sleep(0.1)
        raise ClusterError(f"The web server did not start; {self.folder / 'log'} has the details.")

    def mind(self) -> NoReturn:
        """Start again what was killed, until stopped. Raises ``ClusterError`` when something will not stay alive."""
        while True:
            time.sleep(0.5)
            if not self.cluster.lives():
                print("The database ended by itself; it is started again.", flush=True)
                self.cluster.revive()
            for part in self.parts:
                if part.ended:
                    print(f"The {part.name} ended by itself; it is started again.", flush=True)
                    part.start_again()

    def stop(self) -> None:
        for part in reversed(self.parts):
            part.process.terminate()
        for part in self.parts:
            try:
                part.process.wait(timeout=8)
            except subprocess.TimeoutExpired:
                part.process.kill()
        self.parts.clear()
        self.cluster.stop()


def demo(folder: Path, port: int) -> int:
    """Start the demo and keep it running until Ctrl-C."""
    from .demo_data import PASSWORD, PEOPLE, STUDENT

    folder.mkdir(parents=True, exist_ok=True)
    with only_one(folder) as alone:
        if not alone:
            address = (folder / "address").read_text() if (folder / "address").exists() else "another terminal"
            print(f"The demo of this checkout is running already: {address}")
            return 1
        stop_on_signals()
        running: Demo | None = None
        try:
            running = Demo(folder)
            running.prepare()
            port = usable_port(port)
            running.start(port)
            address = f"http://127.0.0.1:{port}/"
            (folder / "address").write_text(address)
            print(f"\nVorlage is running:  {address}\n")
            print(f"Sign in with one of these, password  {PASSWORD}")
            for person in PEOPLE:
                print(f"  {person.email:42} {person.about}")
            print(f"  {STUDENT:42} a student of 10 A")
            print("\nCtrl-C ends it.", flush=True)
            running.mind()
        except ClusterError as problem:
            print(f"Vorlage: {problem}", file=sys.stderr)
            return 1
        except KeyboardInterrupt:
            print("\nStopping.")
            return 0
        finally:
            (folder / "stopping").touch()
            # a second Ctrl-C must not leave the database behind
            for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
                signal.signal(number, signal.SIG_IGN)
            if running:
                running.stop()
            (folder / "address").unlink(missing_ok=True)


def serve(bind: str, workers: int) -> int:
    """The web server with the production settings; replaces this process."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "vorlage.web.settings.production")
    setup(os.environ["DJANGO_SETTINGS_MODULE"])
    prepare_installation()
    os.execv(sys.executable, [sys.executable, *web_words(bind, workers or web_workers())])


def work() -> int:
    """A worker for the jobs that wait; as many as wanted may run, on any number of machines."""
    setup("vorlage.web.settings.production")
    from vorlage.web.jobs.worker import run

    return run()
