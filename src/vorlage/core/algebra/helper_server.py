"""The helper's side of symbolic work: a process that carries out one operation after the other."""

from __future__ import annotations

import pickle
import resource
import sys

from ..notation import Node, read
from . import sympy_steps
from .errors import EvaluationError
from .helper import LENGTH, READY, TOO_COSTLY
from .steps import size
from .symbolic import IN_SYMPY

# What is not counted is ended all the same: after so many seconds of the processor, whatever else it does meanwhile. A
# busy machine needs several times as long for the steps that are allowed.
PROCESSOR_SECONDS = 20
MAXIMUM_MEMORY = 2 << 30
MAXIMUM_NODES = 3000
# SymPy makes its tables when they are first needed. They are made as the helper starts, so that no step of theirs
# counts as somebody's.
AT_FIRST = [
    ("simplify", ["sin(x)^2 + cos(x)^2 + ln(x)/x + sqrt(x^2 + 1)"]),
    ("integral", ["x e^x sin(x)", "x"]),
    ("solve", ["x^3 - 2x + a", "x"]),
    ("limit", ["sin(x)/x", "x", "0"]),
    ("sum", ["k^2", "k", "1", "n"]),
    ("factor", ["x^4 - y^4"]),
]


def serve() -> None:
    """Carry out one request after the other until there are no more."""
    requests, answers = sys.stdin.buffer, sys.stdout.buffer
    sympy_steps.install()
    for name, arguments in AT_FIRST:
        carried_out(name, tuple(map(read, arguments)))
    resource.setrlimit(resource.RLIMIT_AS, (MAXIMUM_MEMORY, MAXIMUM_MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    answers.write(LENGTH.pack(len(READY)) + READY)
    answers.flush()
    while head := requests.read(LENGTH.size):
        name, arguments, most = pickle.loads(requests.read(LENGTH.unpack(head)[0]))
        used = resource.getrusage(resource.RUSAGE_SELF)
        seconds = int(used.ru_utime + used.ru_stime) + 1 + PROCESSOR_SECONDS
        resource.setrlimit(resource.RLIMIT_CPU, (seconds, resource.RLIM_INFINITY))
        with sympy_steps.counted(most) as count:
            try:
                answer = carried_out(name, arguments)
            except sympy_steps.OutOfSympySteps:
                answer = TOO_COSTLY
        written = pickle.dumps((answer, count.steps))
        answers.write(LENGTH.pack(len(written)) + written)
        answers.flush()


def carried_out(name: str, arguments: tuple[Node, ...]) -> Node | tuple[str, str]:
    """The result of an operation, or the code and the message of what stands against it."""
    try:
        result = IN_SYMPY[name](*arguments)
    except EvaluationError as problem:
        return problem.code, problem.message
    except (MemoryError, RecursionError):
        return "too_large", "This is too large to be worked out with letters."
    except Exception:
        # SymPy raises errors of many kinds for what it cannot do
        return "no_symbolic", "This cannot be worked out with letters."
    if size(result) > MAXIMUM_NODES:
        return "too_large", "The result is too large to be shown."
    return result
