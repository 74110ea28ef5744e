"""Symbolic work in a process of its own, so that it can be ended when it takes too long or too much memory.

A request is a pickled (name, arguments), an answer a pickled tree or an error; both travel between our own
two processes only. The helper is started with the web server's process, or when the first work comes, and ends with the
process that started it.
"""

from __future__ import annotations

import atexit
import os
import pickle
import selectors
import signal
import struct
import subprocess
import sys
import threading
import time
from functools import lru_cache
from typing import IO, Any

from ..notation import Node
from .errors import EvaluationError
from .steps import spend

# What an operation may take, about three seconds.
MAXIMUM_STEPS = 1_200_000
# A helper that says nothing for so long is not there any more.
PATIENCE = 120.0
LENGTH = struct.Struct("!I")
READY = b"ready"
TOO_COSTLY = ("too_costly", "")
# What the helper runs; it knows this module, and this one does not know it.
SERVER = f"{__package__}.helper_server"
# A step of SymPy's, in those that other work is counted in.
STEPS_OF_SYMPY = 5


class TooCostly(EvaluationError):
    """Symbolic work that was ended."""

    def __init__(self) -> None:
        super().__init__("too_costly", "This takes too many steps to work out; make it simpler.")


class Helper:
    """The other process, seen from this one. One request is under way at a time."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.process: subprocess.Popen[bytes] | None = None
        self.owner = 0

    def ask(self, name: str, arguments: tuple[Node, ...]) -> tuple[Node, int]:
        """The result of an operation, and the steps it took. Raises ``EvaluationError``, ``TooCostly`` among them."""
        with self.lock:
            answer, steps = self.exchange(pickle.dumps((name, arguments)))
        if isinstance(answer, Node):
            return answer, steps
        spend(steps * STEPS_OF_SYMPY)
        if answer == TOO_COSTLY:
            raise TooCostly
        raise EvaluationError(*answer)

    def exchange(self, request: bytes) -> Any:
        process = self.running()
        assert process.stdin is not None
        try:
            process.stdin.write(LENGTH.pack(len(request)) + request)
            process.stdin.flush()
            return pickle.loads(self.read(process))
        except (OSError, EOFError, ValueError):
            # it was ended from outside, ran out of memory or used up its time
            self.stop()
            if process.returncode == -signal.SIGXCPU:
                return TOO_COSTLY, MAXIMUM_STEPS
            return ("too_large", "This is too large to be worked out with letters."), 0

    def running(self) -> subprocess.Popen[bytes]:
        if self.owner != os.getpid():
            # after a fork the pipes belong to the parent
            self.process, self.owner = None, os.getpid()
        if self.process is None or self.process.poll() is not None:
            path = os.pathsep.join(place for place in sys.path if place)
            self.process = subprocess.Popen(
                [sys.executable, "-c", f"from {SERVER} import serve; serve()"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                env={**os.environ, "PYTHONPATH": path, "PYTHONHASHSEED": "0"},
            )
            if self.read(self.process) != READY:
                raise OSError("The helper did not start.")
        return self.process

    def read(self, process: subprocess.Popen[bytes]) -> bytes:
        """One answer. Raises ``EOFError`` when there will be none."""
        assert process.stdout is not None
        deadline = time.monotonic() + PATIENCE
        head = received(process.stdout, LENGTH.size, deadline)
        return received(process.stdout, LENGTH.unpack(head)[0], deadline)

    def stop(self) -> None:
        """End the process, if it is ours and still there."""
        if self.process is not None and self.owner == os.getpid():
            self.process.kill()
            self.process.wait()
            for pipe in (self.process.stdin, self.process.stdout):
                if pipe is not None:
                    try:
                        pipe.close()
                    except OSError:
                        # what was still to be written cannot be delivered any more
                        continue
        self.process = None


def received(pipe: IO[bytes], length: int, deadline: float) -> bytes:
    """So many bytes before the deadline."""
    found = b""
    with selectors.DefaultSelector() as selector:
        selector.register(pipe, selectors.EVENT_READ)
        while len(found) < length:
            if not selector.select(max(0.0, deadline - time.monotonic())):
                raise EOFError
            piece = os.read(pipe.fileno(), length - len(found))
            if not piece:
                raise EOFError
            found += piece
    return found


HELPER = Helper()
atexit.register(HELPER.stop)


@lru_cache(maxsize=4000)
def in_helper(name: str, arguments: tuple[Node, ...]) -> tuple[Node, int]:
    """An operation carried out by the helper, and the steps it took; the same question is asked once."""
    return HELPER.ask(name, arguments)


def start_helper() -> None:
    """Start the helper of this process, unless it is there; otherwise the first work does."""
    with HELPER.lock:
        HELPER.running()
