"""Counting what a piece of work does, for bounds that hold on every machine and at every load."""

import sys
from collections.abc import Callable
from typing import Any


def calls(work: Callable[..., Any], *arguments: Any) -> int:
    """How many functions are called, in Python and by it, until the work is done."""
    count = 0

    def note(frame: object, event: str, argument: object) -> None:
        nonlocal count
        count += event in {"call", "c_call"}

    before = sys.getprofile()
    sys.setprofile(note)
    try:
        work(*arguments)
    finally:
        sys.setprofile(before)
    return count
