"""Fields that several kinds of answer ask for, and the lines in which they are spelt: ``2%``, ``1 dp``, ``3..4``."""

from __future__ import annotations

import re
from collections.abc import Iterable
from decimal import Decimal
from typing import Any

from .asking import ABSENT, Asked, Input, Row, cells_of, listed, optional, plain_cells, tabled, text
from .near_misses import NEAR_MISSES
from .records import TOLERANCE_MODES
from .written import read_written, written_words

ENDINGS = {"%": "relative", " of the key": "relative", " dp": "decimal_places", " sf": "significant_figures"}


# tolerances

# ±2 is a distance of 2
SIGNED = re.compile(r"\A\s*(?:±|\+/?[-−])\s*")
ROUNDED = re.compile(
    r"\s*(?P<count>\d+)\s*(?P<what>s\.?\s?f\.?|sig(?:nificant)?\.? ?fig(?:ure)?s?\.?|d\.?\s?p\.?|decimal places?)\s*\Z",
    re.IGNORECASE,
)


def tolerance(mode: str, value: str) -> dict[str, Any]:
    """The tolerance from its mode and what is typed beside it."""
    if mode == "exact" or not mode:
        return {"mode": "exact"}
    value = SIGNED.sub("", value)
    rounded = ROUNDED.match(value)
    if rounded:
        # the words say which rounding, whatever is chosen beside them
        figures = rounded["what"].lower().startswith("s")
        return {"mode": "significant_figures" if figures else "decimal_places", "value": rounded["count"]}
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


# what may be typed at all


def read_limit(row: Row) -> dict[str, Any]:
    """``whole``, ``0..100``, ``length ..12`` or ``pattern [a-z]+``, and what is said."""
    rule, words = row.get("rule", "").strip(), row.get("words", "").strip()
    name, _, rest = rule.partition(" ")
    if name == "pattern":
        return {"rule": "pattern", "pattern": rest.strip(), "words": words}
    if rule == "whole":
        return {"rule": "whole", "words": words}
    low, _, high = (rest if name == "length" else rule).partition("..")
    ends = {"low": low.strip(), "high": high.strip(), "words": words}
    return {"rule": "length" if name == "length" else "between", **ends}


def limit_cells(limit: dict[str, Any]) -> dict[str, str]:
    """The cells of a limit, as ``read_limit`` reads them."""
    said = {
        "whole": "whole",
        "pattern": f"pattern {limit['pattern']}",
        "between": f"{limit['low']}..{limit['high']}",
        "length": f"length {limit['low']}..{limit['high']}",
    }[limit["rule"]]
    return {"rule": said, "words": limit["words"]}


# near-misses, with shares behind them


def read_recognised(typed: str) -> dict[str, str]:
    name, _, share = typed.partition("|")
    return {"name": name, "share": share or "0"}


def recognised_words(given: dict[str, Any]) -> str:
    return str(given["name"]) if given["share"] == "0" else f"{given['name']}|{given['share']}"


# part marks


def read_band(row: Row) -> dict[str, Any]:
    """How close, its share of the marks, what is said."""
    return {
        "tolerance": tolerance_of(row.get("tolerance", "")),
        "share": row.get("share", "").strip() or "1/2",
        "feedback": row.get("feedback", "").strip(),
    }


def band_cells(band: dict[str, Any]) -> dict[str, str]:
    """The cells of part marks, as ``read_band`` reads them."""
    return {"tolerance": tolerance_words(band["tolerance"]), "share": band["share"], "feedback": band["feedback"]}


# the fields


def key_line(example: str) -> Asked:
    """The key of a typed answer."""
    return text(Input("key", label="Answer", example=example, maths=True, holds="maths"), "the answer")


def share_otherwise(only: Iterable[str] = ()) -> Asked:
    """What a right answer in another form earns."""
    return optional(SHARE, "what another form earns", "more", only)


SHARE = Input(
    "share", label="Otherwise", example="1/2", before="a right answer in another form earns", width="short",
    usual="1/2", holds="number",
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
SAID = Input("feedback", words="What is said", example="what is said", holds="text")
SHARE_CELL = Input(
    "share",
    words="Share",
    help="Share of the marks: 1/2, 0.25, 25%",
    example="1/2",
    width="tiny",
    mono=True,
    holds="number",
)
BANDS = tabled(
    Input(
        "bands", label="Part marks",
        columns=(
            Input("tolerance", words="How close", example="10%", width="short", mono=True, holds="maths"),
            SHARE_CELL,
            SAID,
        ),
    ),
    read_band,
    band_cells,
    "the part marks",
    "part marks",
)  # fmt: skip
SLIPS = tabled(
    Input(
        "slips", label="Slips",
        columns=(Input("key", words="Slip", example="m*g*h", maths=True, holds="maths"), SHARE_CELL, SAID),
    ),
    plain_cells(("key", "share", "feedback"), {"share": "0"}),
    cells_of(("key", "share", "feedback")),
    "the slips",
    "slip",
)  # fmt: skip
LIMITS = tabled(
    Input(
        "limits", label="Typed only",
        help="What may be typed at all: whole, 0..100, length ..12 or pattern [a-z]+, and what is said. It costs "
             "nothing.",
        columns=(
            Input("rule", words="What may be typed", example="whole", mono=True, holds="maths"),
            Input("words", words="What is said", example="People come in whole numbers."),
        ),
    ),
    read_limit,
    limit_cells,
    "what may be typed",
    "limit",
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
