"""Fields that several kinds of answer ask for, and the lines in which they are spelt: ``2%``, ``1 dp``, ``3..4``."""

from __future__ import annotations

from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from .asking import ABSENT, Asked, Input, celled, cells, listed, optional, text
from .near_misses import NEAR_MISSES
from .records import TOLERANCE_MODES
from .written import read_written, written_words

ENDINGS = {"%": "relative", " of the key": "relative", " dp": "decimal_places", " sf": "significant_figures"}


# tolerances


def tolerance(mode: str, value: str) -> dict[str, Any]:
    """The tolerance from its mode and what is typed beside it."""
    if mode == "exact" or not mode:
        return {"mode": "exact"}
    if mode == "between":
        low, _, high = value.partition("..")
        return {"mode": mode, "low": low.strip(), "high": high.strip()}
    return {"mode": mode, "value": value}


def tolerance_value(given: dict[str, Any]) -> str:
    """What is typed beside the mode of a tolerance."""
    return f"{given['low']}..{given['high']}" if given["mode"] == "between" else str(given["value"])


def tolerance_of(typed: str) -> dict[str, Any]:
    """``10%`` is a share of the key, ``0.5`` a distance, ``1 dp`` and ``2 sf`` a rounding; nothing is exact."""
    typed = typed.strip()
    if not typed:
        return {"mode": "exact"}
    for ending, mode in ENDINGS.items():
        if typed.endswith(ending):
            return {"mode": mode, "value": typed if ending == "%" else typed.removesuffix(ending).strip()}
    return tolerance("between" if ".." in typed else "absolute", typed)


def tolerance_words(given: dict[str, Any]) -> str:
    """A tolerance as ``tolerance_of`` reads it."""
    mode, value = given["mode"], tolerance_value(given)
    if mode == "exact":
        return ""
    for ending, known in ENDINGS.items():
        if mode == known and (ending != "%" or value.endswith("%")):
            return value if ending == "%" else f"{value}{ending}"
    return value


def tolerance_reaching(distance: float, key: float, relative: bool) -> str:
    """The tolerance, to two figures, whose edge is so far from a key.

    >>> tolerance_reaching(3.0, 120.0, True), tolerance_reaching(0.25, 120.0, False)
    ('2.5%', '0.25')
    """
    size = 100 * distance / abs(key) if relative and key else distance
    return f"{Decimal(f'{max(size, 0.0):.2g}'):f}{'%' if relative else ''}"


def with_tolerance(bands: str, place: int, tolerance: str) -> str:
    """The lines of part marks with another tolerance in one of them, counted without empty ones."""
    lines = bands.splitlines()
    used = [k for k, line in enumerate(lines) if line.strip()]
    if 0 <= place < len(used):
        _, stroke, rest = lines[used[place]].partition("|")
        lines[used[place]] = f"{tolerance} {stroke}{rest}".strip()
    return "\n".join(lines)


# what may be typed at all


def read_limit(typed: str) -> dict[str, Any]:
    """``whole``, ``0..100``, ``length ..12`` or ``pattern [a-z]+``, and after a stroke what is said."""
    rule, stroke, words = typed.rpartition(" | ")
    rule, words = (rule, words) if stroke else (typed.strip().removesuffix("|"), "")
    rule, words = rule.strip(), words.strip()
    name, _, rest = rule.partition(" ")
    if name == "pattern":
        return {"rule": "pattern", "pattern": rest.strip(), "words": words}
    if rule == "whole":
        return {"rule": "whole", "words": words}
    low, _, high = (rest if name == "length" else rule).partition("..")
    ends = {"low": low.strip(), "high": high.strip(), "words": words}
    return {"rule": "length" if name == "length" else "between", **ends}


def limit_words(limit: dict[str, Any]) -> str:
    """A limit as ``read_limit`` reads it."""
    said = {
        "whole": "whole",
        "pattern": f"pattern {limit['pattern']}",
        "between": f"{limit['low']}..{limit['high']}",
        "length": f"length {limit['low']}..{limit['high']}",
    }[limit["rule"]]
    return f"{said} | {limit['words']}" if limit["words"] else said


# near-misses, with shares behind them


def read_recognised(typed: str) -> dict[str, str]:
    name, _, share = typed.partition("|")
    return {"name": name, "share": share or "0"}


def recognised_words(given: dict[str, Any]) -> str:
    return str(given["name"]) if given["share"] == "0" else f"{given['name']}|{given['share']}"


# part marks


def read_band(line: str) -> dict[str, Any]:
    """``10% | 1/2 | Close.``: how close, its share of the marks, what is said."""
    first, share, feedback = cells(line)
    return {"tolerance": tolerance_of(first), "share": share or "1/2", "feedback": feedback}


def band_words(band: dict[str, Any]) -> str:
    """A band as ``read_band`` reads it."""
    return " | ".join([tolerance_words(band["tolerance"]), band["share"], band["feedback"]])


# the fields


def key_line(example: str) -> Asked:
    """The key of a typed answer."""
    return text(Input("key", label="Answer", example=example, maths=True, holds="maths"), "the answer")


def share_otherwise(only: Iterable[str] = ()) -> Asked:
    """What a right answer in another form earns."""
    return optional(SHARE, "what another form earns", "more", only)


SHARE = Input(
    "share", label="Otherwise", example="1/2", before="a right answer in another form earns", width="short", usual="1/2"
)  # fmt: skip
TOLERANCE = Asked(
    (
        Input("mode", "choice", words="How close is close enough", choices=TOLERANCE_MODES, default="exact"),
        Input("tolerance", words="Tolerance", example="2%", width="short", mono=True, holds="maths"),
    ),
    lambda typed: tolerance(typed.get("mode") or "", typed.get("tolerance") or ""),
    lambda value: {"mode": value["mode"], "tolerance": tolerance_value(value)},
    "the tolerance",
    place="accepted",
)
WRITTEN = Asked(
    (Input("written", label="Written as", example="1 dp"), SHARE),
    lambda typed: read_written(typed.get("written") or "", typed.get("share") or "") or ABSENT,
    lambda value: {"written": written_words(value), "share": value["share"]} if value else {"written": ""},
    "how it is written",
    place="more",
)
BANDS = listed(
    Input("bands", label="Part marks", example="10% | 1/2 | Close: check your rounding.", mono=True, holds="cells"),
    read_band,
    band_words,
    "the part marks",
    each="part marks",
)
SLIPS = celled(
    Input("slips", label="Slips", example="m*g*h | 1/4 | That is in joules.", mono=True, holds="cells"),
    ("key", "share", "feedback"),
    {"share": "0"},
    "the slips",
    "slip",
)
LIMITS = listed(
    Input(
        "limits", label="Typed only", example="whole | People come in whole numbers.", mono=True,
        help="What may be typed at all, a line each: whole, 0..100, length ..12 or pattern [a-z]+, and after a stroke "
             "what is said. It costs nothing.",
    ),
    read_limit,
    limit_words,
    "what may be typed",
    each="limit",
)  # fmt: skip
RECOGNISE = Asked(
    (
        Input(
            "recognise", "ticks", label="Recognise",
            choices=tuple((name, miss.words) for name, miss in NEAR_MISSES.items()),
        ),
    ),
    lambda typed: [read_recognised(line) for line in (typed.get("recognise") or "").splitlines() if line],
    lambda value: {"recognise": "\n".join(map(recognised_words, value))},
    "the mistakes that are recognised",
    "recognised mistake",
    "more",
)  # fmt: skip
WHERE = listed(
    Input("where", label="Where", example="x > 0; y > 0", maths=True, holds="maths"),
    str,
    str,
    "where it holds",
    each="where",
    between="; ",
)
