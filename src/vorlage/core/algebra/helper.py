"""Symbolic work in a process of its own, so that it can be ended when it takes too long or too much memory.

A request is a pickled (name, arguments), an answer a pickled tree or an error; both travel between our own
two processes only. The helper is started when the first work comes and ends with the process that started it.
"""

from __future__ import annotations

import atexit
import os
import pickle
import resource
import selectors
import struct
import subprocess
import sys
import threading
import time
from functools import lru_cache
from typing import IO, Any

from ..notation import Node, walk
from .errors import EvaluationError

SECONDS = 5.0
STARTING_SECONDS = 60.0
MAXIMUM_MEMORY = 2 << 30
MAXIMUM_NODES = 3000
LENGTH = struct.Struct("!I")
READY = b"ready"


class TooSlow(EvaluationError):
    """Symbolic work that was ended."""

    def __init__(self) -> None:
        super().__init__("too_slow", f"This takes longer than {SECONDS:g} seconds to work out; make it simpler.")


class Helper:
    """The other process, seen from this one. One request is under way at a time."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.process: subprocess.Popen[bytes] | None = None
        self.owner = 0

    def ask(self, name: str, arguments: tuple[Node, ...]) -> Node:
        """The result of an operation. Raises ``EvaluationError``, ``TooSlow`` among them."""
        with self.lock:
            answer = self.exchange(pickle.dumps((name, arguments)))
        if isinstance(answer, Node):
            return answer
        raise EvaluationError(*answer)

    def exchange(self, request: bytes) -> Any:
        process = self.running()
        assert process.stdin is not None
        try:
            process.stdin.write(LENGTH.pack(len(request)) + request)
            process.stdin.flush()
            return pickle.loads(self.read(process, SECONDS))
        except (OSError, EOFError, ValueError):
            # it ran out of memory, or was ended from outside
            self.stop()
            raise EvaluationError("too_large", "This is too large to be worked out with letters.") from None
        except TooSlow:
            self.stop()
            raise

    def running(self) -> subprocess.Popen[bytes]:
        if self.owner != os.getpid():
            # after a fork the pipes belong to the parent
            self.process, self.owner = None, os.getpid()
        if self.process is None or self.process.poll() is not None:
            path = os.pathsep.join(place for place in sys.path if place)
            self.process = subprocess.Popen(
                [sys.executable, "-c", f"from {__name__} import serve; serve()"],
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                env={**os.environ, "PYTHONPATH": path},
            )
            if self.read(self.process, STARTING_SECONDS) != READY:
                raise OSError("The helper did not start.")
        return self.process

    def read(self, process: subprocess.Popen[bytes], seconds: float) -> bytes:
        """One answer, or ``TooSlow`` when it has not come in time."""
        assert process.stdout is not None
        deadline = time.monotonic() + seconds
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
                raise TooSlow
            piece = os.read(pipe.fileno(), length - len(found))
            if not piece:
                raise EOFError
            found += piece
    return found


HELPER = Helper()
atexit.register(HELPER.stop)


@lru_cache(maxsize=4000)
def in_helper(name: str, arguments: tuple[Node, ...]) -> Node:
    """An operation carried out by the helper; the same question is asked once."""
    return HELPER.ask(name, arguments)


def serve() -> None:
    """The helper's side: carry out one request after the other until there are no more."""
    requests, answers = sys.stdin.buffer, sys.stdout.buffer
    from .symbolic import IN_SYMPY

    resource.setrlimit(resource.RLIMIT_AS, (MAXIMUM_MEMORY, MAXIMUM_MEMORY))
    answers.write(LENGTH.pack(len(READY)) + READY)
    answers.flush()
    while head := requests.read(LENGTH.size):
        name, arguments = pickle.loads(requests.read(LENGTH.unpack(head)[0]))
        answer: Any
        try:
            answer = IN_SYMPY[name](*arguments)
            if sum(1 for _ in walk(answer)) > MAXIMUM_NODES:
                answer = ("too_large", "The result is too large to be shown.")
        except EvaluationError as problem:
            answer = (problem.code, problem.message)
        except (MemoryError, RecursionError):
            answer = ("too_large", "This is too large to be worked out with letters.")
        except Exception:
            # SymPy raises errors of many kinds for what it cannot do
            answer = ("no_symbolic", "This cannot be worked out with letters.")
        written = pickle.dumps(answer)
        answers.write(LENGTH.pack(len(written)) + written)
        answers.flush()
