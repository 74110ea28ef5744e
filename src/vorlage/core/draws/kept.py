"""Values as plain data that is kept for ever, and back, without anything being worked out again."""

from __future__ import annotations

from typing import Any

from flint import fmpq

from ..algebra import Real, Value
from ..notation import Settings, line, read_authored


def keep_value(value: Value) -> Any:
    """A value as JSON: a rational as ``"3/4"``, everything else as an object that says what it is."""
    if isinstance(value, fmpq):
        return str(value)
    if isinstance(value, str):
        return {"words": value}
    if isinstance(value, Real):
        return {"real": line(value.tree), "angle": value.angle}
    return {"formula": line(value)}


def kept_value(kept: Any, settings: Settings) -> Value:
    """The value that was kept. Raises ``ValueError`` for what ``keep_value`` did not write."""
    if isinstance(kept, str):
        return fmpq(*map(int, kept.split("/")))
    match kept:
        case {"words": str(words)}:
            return words
        case {"real": str(text), "angle": str(angle)}:
            return Real(read_authored(text, settings), angle)
        case {"formula": str(text)}:
            return read_authored(text, settings)
    raise ValueError(f"This is no value that was kept: {kept!r}")
