"""How close is close enough, in one line: ``2%``, ``0.5``, ``1 dp``, ``2 sf``, ``3..4``."""

from __future__ import annotations

from typing import Any

ENDINGS = {
    "%": "relative",
    " of the key": "relative",
    " dp": "decimal_places",
    " sf": "significant_figures",
}


def tolerance(mode: str, value: str) -> dict[str, Any]:
    """The tolerance of a document from its mode and what is typed beside it."""
    if mode == "exact" or not mode:
        return {"mode": "exact"}
    if mode == "between":
        low, _, high = value.partition("..")
        return {"mode": mode, "low": low.strip(), "high": high.strip()}
    return {"mode": mode, "value": value}


def tolerance_of(text: str) -> dict[str, Any]:
    """``10%`` is a share of the key, ``0.5`` a distance, ``1 dp`` and ``2 sf`` a rounding."""
    text = text.strip()
    for ending, mode in ENDINGS.items():
        if text.endswith(ending):
            return {"mode": mode, "value": text if ending == "%" else text.removesuffix(ending).strip()}
    if ".." in text:
        return tolerance("between", text)
    return {"mode": "absolute", "value": text}


def closeness_words(given: dict[str, Any]) -> str:
    """A tolerance as it is typed on the desk; nothing for an exact one."""
    mode, value = given["mode"], str(given["value"])
    if mode == "exact":
        return ""
    if mode == "between":
        return f"{given['low']}..{given['high']}"
    for ending, known in ENDINGS.items():
        if mode == known and (ending != "%" or value.endswith("%")):
            return value if ending == "%" else f"{value}{ending}"
    return value
