"""What a cell takes, shown where the cursor is: three ways to fill it, and what comes of each; and the example that a
new author begins with."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache

from vorlage.core.draws import Source, read_definition, readable
from vorlage.core.notation import USUAL, Habits, Settings, from_document, line, told

from .form import Desk
from .rows import ParameterRow, PartRow

# How a region is drawn by hand.
DRAWN_SHAPES = [
    ("circle", "a circle", "Press in its middle in the figure and draw to its edge"),
    ("box", "a box", "Press in one corner in the figure and draw to the opposite one"),
    ("polygon", "a polygon", "Click its corners in the figure; a click on the first one closes it"),
]


@dataclass(frozen=True)
class Way:
    """One way to fill a cell: what is written, and what that does."""

    written: str
    does: str


@cache
def ways(habits: Habits = USUAL) -> dict[str, tuple[Way, ...]]:
    """Three ways to fill each cell, by the cell's name, as they are typed in a place."""
    return {
        cell: tuple(Way(from_document(way.written, habits), told(way.does, habits)) for way in each)
        for cell, each in ways_in_documents().items()
    }


def ways_in_documents() -> dict[str, tuple[Way, ...]]:
    return {
        "definition": (
            *(Way(text, drawn(text)) for text in ("2..9", "150..600 step 50", "one of 3, 5, 7")),
            Way("m*g", "is computed from other parameters"),
        ),
        "unit": (Way("kg", "stands behind the number"), Way("m/s^2", "is set as a unit"), Way("", "no unit")),
        "shown": (
            Way("1 dp", "one decimal place"), Way("3 sf", "three significant figures"), Way("", "the exact value"),
        ),
        "condition": (
            Way("a != b", "draws in which both are the same are left out"), Way("E < 50", "only small results"),
            Way("mod(n, 2) = 0", "only even numbers"),
        ),
        "tolerance": (
            Way("2%", "two hundredths of the key"), Way("0.5", "with “within”: so far from the key"),
            Way("1", "with “decimal places”: how many"),
        ),
    }  # fmt: skip


def drawn(text: str) -> str:
    """What a definition draws: its first values and the last."""
    source = read_definition(text, Settings())
    assert isinstance(source, Source)
    values = [line(readable(source.value(place))) for place in (0, 1, source.size - 1)]
    return f"draws {values[0]}, {values[1]}, {'… ' if source.size > 3 else ''}{values[2]}"


def example() -> Desk:
    """A question that varies, small enough to be seen at a glance and changed at will."""
    return Desk(
        title="Across the bay",
        topics="Physics ▸ Motion",
        wording="The Sandhaven ferry crosses the bay at $v$ for $t$.",
        parameters=[ParameterRow("v", "12..30 step 2", "km/h"), ParameterRow("t", "0.5..2 step 0.25", "h", "2 dp")],
        parts=[
            PartRow(
                "How far does it travel?",
                typed={"key": "v*t", "mode": "relative", "tolerance": "1%"},
                marks="2",
                after="km",
                solution="$v*t = value(v*t)$ km",
            )
        ],
    )
