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
from typing import IO, Any, TypeAlias

from ..budget import BUDGET
from ..memory import Memory
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
# So many answers are remembered.
REMEMBERED = 4000
# A step of SymPy's, in those that other work is counted in.
STEPS_OF_SYMPY = 5

# A formula, or the code and the message of what stands against it.
Answer: TypeAlias = Node | tuple[str, str]
Question: TypeAlias = tuple[str, tuple[Node, ...]]


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

    def ask(self, name: str, arguments: tuple[Node, ...], most: int) -> tuple[Answer, int]:
        """The answer to an operation that may take so many steps, and how many it took."""
        with self.lock:
            found: tuple[Answer, int] = self.exchange(pickle.dumps((name, arguments, most)), most)
        return found

    def exchange(self, request: bytes, most: int) -> Any:
        try:
            process = self.running()
            assert process.stdin is not None
            process.stdin.write(LENGTH.pack(len(request)) + request)
            process.stdin.flush()
            return pickle.loads(self.read(process))
        except (OSError, EOFError, ValueError):
            # it was ended from outside, ran out of memory or used up its time
            if self.stop() == -signal.SIGXCPU:
                return TOO_COSTLY, most
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

    def stop(self) -> int | None:
        """End the process, if it is ours and still there; how it ended."""
        ended = None
        if self.process is not None and self.owner == os.getpid():
            self.process.kill()
            ended = self.process.wait()
            for pipe in (self.process.stdin, self.process.stdout):
                if pipe is not None:
                    try:
                        pipe.close()
                    except OSError:
                        # what was still to be written cannot be delivered any more
                        continue
        self.process = None
        return ended


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


class Helpers:
    """The helpers of this process, and the latest answers: the same question is asked once."""

    def __init__(self, count: int) -> None:
        self.all = [Helper() for _ in range(count)]
        self.turn = 0
        # the answer, the steps it took, and how many it might have taken
        self.answers: Memory[Question, tuple[Answer, int, int]] = Memory(REMEMBERED)

    def ask(self, name: str, arguments: tuple[Node, ...], most: int) -> tuple[Answer, int]:
        """The answer to an operation that may take so many steps, and how many it took."""
        known = self.known((name, arguments), most)
        if known is not None:
            return known
        answer, steps = self.idle().ask(name, arguments, most)
        self.answers.keep((name, arguments), (answer, steps, most))
        return answer, steps

    def known(self, question: Question, most: int) -> tuple[Answer, int] | None:
        found = self.answers.get(question)
        if found is None:
            return None
        answer, steps, allowed = found
        if answer == TOO_COSTLY and most > allowed:
            return None
        return (TOO_COSTLY, most) if steps > most else (answer, steps)

    def idle(self) -> Helper:
        """A helper that nobody waits for, where there is one; otherwise they take turns."""
        for helper in self.all:
            if not helper.lock.locked():
                return helper
        self.turn += 1
        return self.all[self.turn % len(self.all)]

    def stop(self) -> None:
        for helper in self.all:
            helper.stop()


HELPERS = Helpers(2)
atexit.register(HELPERS.stop)


def in_helper(name: str, arguments: tuple[Node, ...]) -> Node:
    """The result of an operation that a helper carries out, its steps counted.

    Raises ``EvaluationError``, ``TooCostly`` among them, and what is raised where nothing is left.
    """
    most, budget = MAXIMUM_STEPS, BUDGET.get()
    if budget is not None:
        # one operation leaves something for the others
        most = max(1, min(most, budget.steps // (4 * STEPS_OF_SYMPY), budget.left // STEPS_OF_SYMPY))
    answer, steps = HELPERS.ask(name, arguments, most)
    spend(steps * STEPS_OF_SYMPY)
    if isinstance(answer, Node):
        return answer
    if answer == TOO_COSTLY:
        raise TooCostly
    raise EvaluationError(*answer)


def start_helper() -> None:
    """Start a helper of this process, unless it is there; otherwise the first work does."""
    first = HELPERS.all[0]
    with first.lock:
        first.running()
