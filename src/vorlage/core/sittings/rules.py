"""The rules of a sitting: when, how long, how it looks, what is seen. Everything about it follows from them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from datetime import datetime, timedelta
from fractions import Fraction
from typing import Any

# What a student can see of a sitting, and from when on: a moment stands for itself and all that come after it.
ROWS = {
    "own": "your own answers",
    "outcome": "right, partly right or wrong",
    "marks": "the marks of each question",
    "total": "the total",
    "feedback": "feedback",
    "key": "the key",
    "solution": "worked solutions",
}
MOMENTS = {
    "handed_in": "after handing in",
    "closed": "after closing",
    "released": "once results are released",
    "never": "never",
}
LATE_STARTS = {"full": "the full time", "until_closing": "until closing"}
TIMES_UP = {
    "handed_in": "it is handed in as it stands",
    "hand_in_only": "students may only hand in",
    "go_on": "students may go on, and the minutes over are noted",
}
LAYOUTS = {
    "all": "all questions on one page",
    "section": "a section at a time",
    "one": "one question at a time",
}
# What is on its way when time ends still counts.
GRACE = timedelta(seconds=15)
RELEASED = dict.fromkeys(ROWS, "released")


@dataclass(frozen=True, slots=True)
class Rules:
    """What holds in a sitting for everybody; allowances change it for one student.

    Moments have a time zone. ``seen`` says from which of ``MOMENTS`` on each of ``ROWS`` is seen.
    """

    opens: datetime
    due: datetime | None = None
    closes: datetime | None = None
    # when results are released by themselves; None when somebody releases them
    results: datetime | None = None
    limit: timedelta | None = None
    late_start: str = "full"
    time_up: str = "handed_in"
    # for how long handing in alone is possible, where it is
    hand_in: timedelta = timedelta(minutes=5)
    # the share of the marks that each day late costs
    late_cost: Fraction = Fraction(0)
    layout: str = "all"
    # whether one can go back to an earlier question
    back: bool = True
    # whether what was handed in can be taken back until the end
    take_back: bool = False
    seen: Mapping[str, str] = field(default_factory=lambda: dict(RELEASED))
    # the word that lets one in; compared without case and surrounding spaces
    word: str = ""
    counts: bool = True
    # what students read before they begin, and above the questions
    before: str = ""
    above: str = ""

    @property
    def kept(self) -> dict[str, Any]:
        """As plain data."""
        return {each.name: keep(getattr(self, each.name)) for each in fields(self)}

    @classmethod
    def of(cls, kept: Mapping[str, Any]) -> Rules:
        """Rules from what was kept; what a version before did not know is as usual."""
        known = {each.name: each for each in fields(cls)}
        given = {name: value for name, value in kept.items() if name in known}
        for name in ("opens", "due", "closes", "results"):
            if given.get(name):
                given[name] = datetime.fromisoformat(given[name])
        for name in ("limit", "hand_in"):
            if given.get(name) is not None:
                given[name] = timedelta(seconds=given[name])
        if "late_cost" in given:
            given["late_cost"] = Fraction(given["late_cost"])
        if "seen" in given:
            given["seen"] = RELEASED | {row: moment for row, moment in given["seen"].items() if row in ROWS}
        return cls(**given)

    def lets_in(self, typed: str) -> bool:
        """Whether an entry word is the right one; any where none is asked for."""
        return not self.word or folded(typed) == folded(self.word)


def folded(word: str) -> str:
    return " ".join(word.split()).casefold()


def keep(value: Any) -> Any:
    if isinstance(value, datetime):
        return value.isoformat()
    if isinstance(value, timedelta):
        return value.total_seconds()
    if isinstance(value, Fraction):
        return str(value)
    return dict(value) if isinstance(value, Mapping) else value


# Ways of working: each fills the rules, which can then be changed.
WAYS: dict[str, tuple[str, Mapping[str, Any]]] = {
    "test": ("Test", {"seen": dict(RELEASED), "counts": True}),
    "homework": (
        "Homework",
        {"seen": RELEASED | {"own": "handed_in"}, "counts": True, "late_start": "until_closing", "take_back": True},
    ),
    "practice": ("Practice without credit", {"seen": dict.fromkeys(ROWS, "handed_in"), "counts": False}),
    "survey": ("Survey without marks", {"seen": dict.fromkeys(ROWS, "never") | {"own": "handed_in"}, "counts": False}),
}
