"""The rules of a sitting: when, how long, how it looks, what is seen. Everything about it follows from them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields, replace
from datetime import datetime, timedelta
from fractions import Fraction
from ipaddress import ip_address, ip_network
from typing import Any

from ..errors import CoreError

# What a student can see of a sitting, and from when on: a moment stands for itself and all that come after it.
ROWS = {
    "own": "your own answers",
    "outcome": "what is right, partly right or wrong",
    "marks": "the marks of each question",
    "total": "the total",
    "feedback": "feedback",
    "key": "the key",
    "solution": "worked solutions",
    "class": "how the class did",
}
MOMENTS = {
    "each": "after each answer",
    "handed_in": "after handing in",
    "no_attempt": "when no attempt is left",
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
# Who may come in.
ENTRIES = {
    "list": "students of the classes who sign in",
    "named": "also whoever has the code, with name and class",
    "anonymous": "whoever has the code, without a name",
    "paper": "nobody: it is sat on paper",
}
# Whether one practises with it, with fresh numbers and without credit.
PRACTICES = {
    "no": "nobody practises with it",
    "closed": "it may be practised after closing",
    "only": "it is practice and nothing else",
}
# Which of several attempts counts.
COUNTING = {
    "best": "the best counts",
    "latest": "the latest counts",
    "first": "the first counts",
    "mean": "the mean of all counts",
}
# What of an attempt counts that is handed in several times.
HANDED_IN_AGAIN = {
    "last": "what was handed in last",
    "best": "of each part the best",
}
# So many attempts, tries of a question and the like there are at most, where they are counted.
MOST_TIMES = 50
# What is on its way when time ends still counts, for at least as long.
GRACE = timedelta(seconds=15)
MOST_GRACE = timedelta(minutes=30)
# For how long handing in alone is possible, where nothing else is said.
HAND_IN = timedelta(minutes=5)
RELEASED = dict.fromkeys(ROWS, "released") | {"class": "never"}
# What is seen in one choice: its words, and the rows.
SEEN_AT_ONCE = {
    "nothing": ("nothing", ()),
    "own": ("their own answers alone", ("own",)),
    "total": ("the total alone", ("total",)),
    "wrong": ("which questions are wrong, not the key", ("own", "outcome", "marks", "total")),
    "all": ("everything", tuple(row for row in ROWS if row != "class")),
}


# What is a share of the marks.
COSTS = frozenset({"late_cost", "submission_cost", "try_cost", "similar_cost"})
# What opens the sittings that come after one.
OPENINGS = {
    "passed": "passing opens it",
    "word": "you open it for those who have passed",
}


class NetworkError(CoreError, ValueError):
    """What was typed is no network."""


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
    # how long each section has, by its number in the test; one with times of its own is sat section by section
    section_limits: tuple[timedelta | None, ...] = ()
    late_start: str = "full"
    time_up: str = "handed_in"
    # for how long handing in alone is possible, where it is
    hand_in: timedelta = HAND_IN
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
    practice: str = "no"
    # how many attempts there are, None for no limit; how long it is from handing in one to the next; and how many may
    # begin within a period, None for any number
    attempts: int | None = 1
    wait: timedelta = timedelta(0)
    per_period: int | None = None
    period: timedelta = timedelta(days=1)
    which: str = "best"
    # whether the questions of an attempt can be looked at once the next one has begun
    look_back: bool = True
    # how often an attempt can be handed in, what of it counts, and the share that each time after the first costs
    # where the best does
    submissions: int = 1
    resubmitted: str = "last"
    submission_cost: Fraction = Fraction(0)
    # how often a question can be tried with the same numbers, None for no limit, and the share that each further try
    # costs
    tries: int | None = 1
    try_cost: Fraction = Fraction(0)
    # how many similar questions, with fresh numbers, may be had instead of a missed one, and what each costs
    similar: int = 0
    similar_cost: Fraction = Fraction(0)
    # the marks, or the share of them, with which one has passed, of each section the share; and whether that opens what
    # comes after it, or the teacher does
    pass_marks: Fraction | None = None
    pass_share: Fraction | None = None
    section_passes: tuple[Fraction | None, ...] = ()
    opening: str = "passed"
    # who comes in, within what time after opening, one by one, and from which networks (as CIDR); from all where none
    # is said
    come_in: str = "list"
    begin_within: timedelta | None = None
    one_by_one: bool = False
    networks: tuple[str, ...] = ()
    # what is on its way when time ends counts when it arrives within it
    grace: timedelta = GRACE
    # what helps while one works
    hints: bool = False
    signs: bool = True
    examples: bool = False
    working: bool = False
    questions: bool = False
    # whether what came back may be kept as a PDF
    own_pdf: bool = True
    # what students read before they begin, above the questions, and once they have handed in
    before: str = ""
    above: str = ""
    after: str = ""

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
        for name in ("limit", "hand_in", "begin_within", "grace", "wait", "period"):
            if given.get(name) is not None:
                given[name] = timedelta(seconds=given[name])
        given["section_limits"] = tuple(
            None if each is None else timedelta(seconds=each) for each in given.get("section_limits") or ()
        )
        given["networks"] = tuple(given.get("networks") or ())
        for name in COSTS & given.keys():
            given[name] = Fraction(given[name])
        for name in ("pass_marks", "pass_share"):
            given[name] = None if given.get(name) is None else Fraction(given[name])
        given["section_passes"] = tuple(
            None if each is None else Fraction(each) for each in given.get("section_passes") or ()
        )
        if "seen" in given:
            given["seen"] = RELEASED | {row: moment for row, moment in given["seen"].items() if row in ROWS}
        return cls(**given)

    @property
    def takes_guests(self) -> bool:
        """Whether somebody comes in who does not sign in."""
        return self.come_in in {"named", "anonymous"}

    @property
    def on_paper(self) -> bool:
        """Whether it is sat on paper, by nobody on a screen."""
        return self.come_in == "paper"

    @property
    def checks(self) -> bool:
        """Whether a question can be checked before all is handed in."""
        return self.tries != 1 or self.similar > 0 or "each" in self.seen.values()

    @property
    def has_pass_mark(self) -> bool:
        """Whether one can pass."""
        sections = any(each is not None for each in self.section_passes)
        return self.pass_marks is not None or self.pass_share is not None or sections

    @property
    def staged(self) -> bool:
        """Whether sections have times of their own."""
        return any(each is not None for each in self.section_limits)

    def later(self, now: datetime) -> Rules:
        """The same on a later day: every moment so many whole days on that it opens after ``now``."""
        days = timedelta(days=max(1, (now - self.opens) // timedelta(days=1) + 1))
        moved = {
            name: moment + days
            for name in ("opens", "due", "closes", "results")
            if (moment := getattr(self, name)) is not None
        }
        return replace(self, **moved)

    def admits(self, address: str) -> bool:
        """Whether one may come in from an address on the network; from any where no networks are given."""
        if not self.networks:
            return True
        try:
            given = ip_address(address)
        except ValueError:
            return False
        # an IPv4 address in the clothes of IPv6 is what it was
        given = getattr(given, "ipv4_mapped", None) or given
        return any(given in ip_network(each) for each in self.networks)

    def lets_in(self, typed: str) -> bool:
        """Whether an entry word is the right one; any where none is asked for."""
        return not self.word or folded(typed) == folded(self.word)


def folded(word: str) -> str:
    return " ".join(word.split()).casefold()


def read_networks(text: str) -> tuple[str, ...]:
    """The networks that a text names, separated by commas or spaces, each as CIDR. Raises
    ``NetworkError``."""
    found = []
    for piece in text.replace(",", " ").replace(";", " ").split():
        try:
            found.append(str(ip_network(piece, strict=False)))
        except ValueError:
            raise NetworkError(
                "no_network",
                f"“{piece[:40]}” is no network: type one as 10.20.0.0/16, or an address such as 10.20.3.4.",
            ) from None
    return tuple(dict.fromkeys(found))


def keep(value: Any) -> Any:
    if isinstance(value, datetime):
        return value.isoformat()
    if isinstance(value, timedelta):
        return value.total_seconds()
    if isinstance(value, Fraction):
        return str(value)
    if isinstance(value, tuple):
        return [keep(each) for each in value]
    return dict(value) if isinstance(value, Mapping) else value


# Ways of working: each fills the rules, which can then be changed.
SURVEYED = dict.fromkeys(ROWS, "never") | {"own": "handed_in"}
PRACTISED: Mapping[str, Any] = {
    "seen": dict.fromkeys(ROWS, "handed_in"),
    "practice": "only",
    "counts": False,
    "hints": True,
    "examples": True,
    "questions": True,
    "working": True,
}
WAYS: dict[str, tuple[str, Mapping[str, Any]]] = {
    "test": ("Test", {"seen": dict(RELEASED), "counts": True}),
    "homework": (
        "Homework with retries",
        {
            "seen": RELEASED | {"own": "each", "outcome": "each", "feedback": "each"},
            "counts": True,
            "late_start": "until_closing",
            "take_back": True,
            "tries": 3,
            "similar": 1,
        },
    ),
    "practice": ("Practice without credit", PRACTISED),
    "survey": (
        "Survey without marks",
        {"seen": SURVEYED, "counts": False, "come_in": "anonymous", "examples": True},
    ),
}
