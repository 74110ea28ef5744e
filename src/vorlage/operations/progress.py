"""What a run of the tests is doing and how far it is."""

from __future__ import annotations

import multiprocessing
import sys
import time


class Progress:
    """What is being done and how far it is, a line each, from the start of the run; the processes share one count."""

    started = time.monotonic()
    begun = multiprocessing.Value("i", 0)
    tests = 0

    @classmethod
    def tell(cls, words: str) -> None:
        minutes, seconds = divmod(int(time.monotonic() - cls.started), 60)
        # one write, so that lines of several processes do not mix
        sys.stdout.write(f"{minutes:3}:{seconds:02}  {words}\n")
        sys.stdout.flush()

    @classmethod
    def begin(cls, test: object) -> None:
        with cls.begun.get_lock():
            cls.begun.value += 1
            cls.tell(f"{cls.begun.value:4} of {cls.tests}  {test}")
