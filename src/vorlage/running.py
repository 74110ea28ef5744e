"""Starting and stopping: the demo with everything of its own, and the parts of a production installation."""

from __future__ import annotations

import fcntl
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

from .cluster import Cluster, ClusterError, free_port

SERVING = "python:vorlage.web.serving"


def manage(*words: str) -> None:
    """Run a management command in this process."""
    from django.core.management import call_command

    call_command(*words)


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
    """Whether this is the only demo of the checkout that runs."""
    with open(folder / "lock", "w") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            yield False
            return
        yield True


def stop_on_signals() -> None:
    """Ctrl-C, a closed terminal and a polite kill all end in the same orderly way."""

    def stop(number: int, frame: object) -> None:
        raise KeyboardInterrupt

    for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
        signal.signal(number, stop)


class Demo:
    """Everything the demo runs: database, web and worker."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.cluster = Cluster(folder / "postgres")
        self.children: list[subprocess.Popen[bytes]] = []

    def prepare(self) -> None:
        """Database, tables, static files and sample data; quick when they are there already."""
        self.cluster.start()
        self.cluster.ensure_database("vorlage")
        os.environ.update(
            VORLAGE_DATABASE=self.cluster.url("vorlage"),
            VORLAGE_SECRET_KEY=kept_secret(self.folder),
            VORLAGE_STATIC=str(self.folder / "static"),
            DJANGO_SETTINGS_MODULE="vorlage.web.settings.demo",
        )
        setup("vorlage.web.settings.demo")
        manage("migrate", "--verbosity", "0")
        manage("collectstatic", "--noinput", "--verbosity", "0")
        from vorlage.demo_data import load

        load()

    def spawn(self, *words: str) -> None:
        # a process group of its own: Ctrl-C reaches only the parent, which ends its children in order
        with open(self.folder / "log", "ab") as log:
            self.children.append(
                subprocess.Popen([sys.executable, *words], stdout=log, stderr=log, start_new_session=True)
            )

    def start(self, port: int) -> None:
        self.spawn(
            "-m", "gunicorn", "vorlage.web.wsgi", "--bind", f"127.0.0.1:{port}", "--workers", "2", "--preload",
            "--config", SERVING, "--no-control-socket",
        )  # fmt: skip
        self.spawn("-m", "vorlage.command", "worker")
        for _ in range(100):
            try:
                with urllib.request.urlopen(f"http://127.0.0.1:{port}/sign-in/", timeout=2):
                    return
            except urllib.error.HTTPError as problem:
                raise ClusterError(
                    f"The web server answers with a fault; {self.folder / 'log'} has the details."
                ) from problem
            except OSError:
                if self.children[0].poll() is not None:
                    break
                time.sleep(0.1)
        raise ClusterError(f"The web server did not start; {self.folder / 'log'} has the details.")

    def stop(self) -> None:
        for child in reversed(self.children):
            child.terminate()
        for child in self.children:
            try:
                child.wait(timeout=8)
            except subprocess.TimeoutExpired:
                child.kill()
        self.children.clear()
        self.cluster.stop()


def demo(folder: Path, port: int) -> int:
    """Start the demo and keep it running until Ctrl-C."""
    from .demo_data import PASSWORD, PEOPLE

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
            print("\nCtrl-C ends it.", flush=True)
            while all(child.poll() is None for child in running.children):
                time.sleep(0.5)
            print(f"A part of the demo ended by itself; {folder / 'log'} has the details.", file=sys.stderr)
            return 1
        except ClusterError as problem:
            print(f"Vorlage: {problem}", file=sys.stderr)
            return 1
        except KeyboardInterrupt:
            print("\nStopping.")
            return 0
        finally:
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
    manage("migrate", "--verbosity", "0")
    manage("collectstatic", "--noinput", "--verbosity", "0")
    words = ["-m", "gunicorn", "vorlage.web.wsgi", "--bind", bind, "--workers", str(workers), "--config", SERVING]
    os.execv(sys.executable, [sys.executable, *words])


def work() -> int:
    """A worker for the jobs that wait; as many as wanted may run, on any number of machines."""
    setup("vorlage.web.settings.production")
    from procrastinate.contrib.django import app

    from vorlage.web.papers import tasks  # noqa: F401 (registers the task)

    with app.replace_connector(app.connector.get_worker_connector()) as working:
        working.run_worker(install_signal_handlers=True, listen_notify=True)
    return 0
