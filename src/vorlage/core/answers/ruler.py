"""Where on the number line an answer earns what: the key, its tolerance, bands and slips, for drawing."""

from __future__ import annotations

from dataclasses import dataclass

from ..algebra import Exact, approximate, magnitude
from ..notation import line
from .kinds.number import DrawnNumber
from .tolerance import DrawnTolerance


@dataclass(frozen=True, slots=True)
class Stretch:
    """A stretch of the line with what an answer in it earns; ``mode`` and ``value`` say how it was given."""

    low: float
    high: float
    share: str
    mode: str


@dataclass(frozen=True, slots=True)
class Mark:
    """A single place: a slip, or an answer that was tried."""

    place: float
    share: str
    words: str


@dataclass(frozen=True, slots=True)
class Ruler:
    """Everything that is drawn on the line, from ``low`` to ``high``."""

    key: float
    key_text: str
    full: Stretch
    bands: tuple[Stretch, ...]
    slips: tuple[Mark, ...]
    low: float
    high: float


def ruler(answer: DrawnNumber) -> Ruler:
    """The number line around a key, wide enough for its bands and for slips that are near."""
    key = approximate(answer.key)
    full = stretch(answer.key, answer.tolerance, "1")
    specification = answer.checker.answer
    bands = tuple(
        stretch(answer.key, tolerance, str(band.share)) for band, tolerance in zip(specification.bands, answer.bands)
    )
    slips = tuple(
        Mark(approximate(value), str(slip.share), slip.key)
        for slip, value in zip(specification.slips, answer.slips)
        if value is not None
    )
    reach = max([abs(edge - key) for each in (full, *bands) for edge in (each.low, each.high)])
    if not reach:
        reach = abs(key) / 10 or 1.0
    # a slip that is near enough widens the line; others stand at its ends
    near = [abs(slip.place - key) for slip in slips if abs(slip.place - key) <= 6 * reach]
    reach = max([1.5 * reach, *(1.15 * distance for distance in near)])
    return Ruler(key, line(answer.key_tree()), full, bands, slips, key - reach, key + reach)


def stretch(key: Exact, tolerance: DrawnTolerance, share: str) -> Stretch:
    """The answers that a tolerance admits, as two ends."""
    middle = approximate(key)
    size = approximate(tolerance.value)
    if tolerance.mode == "between":
        return Stretch(approximate(tolerance.low), approximate(tolerance.high), share, "between")
    if tolerance.mode == "relative":
        size *= abs(middle)
    elif tolerance.mode in {"decimal_places", "significant_figures"}:
        places = int(tolerance.value.p)
        if tolerance.mode == "significant_figures":
            places = places - 1 - magnitude(key)
        middle, size = round(middle, places), 0.5 * 10.0**-places
    elif tolerance.mode == "exact":
        size = 0.0
    return Stretch(middle - size, middle + size, share, tolerance.mode)
