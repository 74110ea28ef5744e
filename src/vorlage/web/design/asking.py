"""Reading what a browser sends."""

from __future__ import annotations


def chosen_number(text: str, otherwise: int = 0) -> int:
    """A whole number of up to eight figures; something else where there is none."""
    return int(text) if text.isdecimal() and len(text) < 9 else otherwise
