"""Patterns that answers have to fit, on an engine whose time is linear in the length of the text (RE2)."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import re2

from ..notation import NotationError


@lru_cache(maxsize=256)
def pattern(text: str, case: bool = True) -> Any:
    """A pattern ready to be used. Raises ``NotationError`` with what stands against it."""
    options = re2.Options()
    options.case_sensitive = case
    options.log_errors = False
    options.max_mem = 1 << 20
    try:
        return re2.compile(text, options)
    except re2.error as problem:
        reason = problem.args[0] if problem.args else ""
        words = reason.decode() if isinstance(reason, bytes) else str(reason)
        raise NotationError("pattern", f"This pattern cannot be used: {words}.") from problem
