"""A region of a figure that can be pointed at: a circle, a box or a polygon."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..algebra import Compiled, EvaluationError, Values
from ..notation import NotationError, Settings, names_in, read_authored
from .drawing import coordinate
from .reading import read_line
from .statements import REGISTER, STATEMENTS, Formulas, Shape, Spot, StatementError
from .statements.base import pieces_of


class Region:
    """A region as it is written, ``circle (a, b) 0.5``; raises ``NotationError`` when it cannot be used."""

    def __init__(self, written: str, settings: Settings, known: frozenset[str]) -> None:
        try:
            statement = read_line(1, written.strip(), Formulas(settings, known))
        except StatementError as problem:
            raise NotationError("region", str(problem)) from problem
        if not isinstance(statement.kind, Shape) or not statement.kind.bounds:
            words = [kind.word for kind in REGISTER if isinstance(kind, Shape) and kind.bounds]
            said = f"a {', a '.join(words[:-1])} or a {words[-1]}"
            raise NotationError("region", f"A region is {said}, as in `circle (2, 3) 0.5`.")
        self.shape = statement.kind
        self.compiled = [Compiled(tree, settings.angle) for tree in statement.formulas]

    def drawn(self, values: Values) -> DrawnRegion:
        """The region of a draw. Raises ``EvaluationError`` where a formula has no value."""
        numbers = tuple(coordinate(each, values, 1) for each in self.compiled)
        return DrawnRegion(*self.shape.drawn(numbers), self.shape.word, numbers)


@dataclass(frozen=True, slots=True)
class DrawnRegion:
    """A circle (one place and a radius) or a polygon, in the coordinates of its figure."""

    places: tuple[Spot, ...]
    radius: float = 0.0
    # how it is written: its word, and the values of its formulas in their order
    word: str = ""
    numbers: tuple[float, ...] = ()

    @property
    def middle(self) -> Spot:
        """A place inside, for the key: the centre, or where the corners are in the mean."""
        count = len(self.places)
        mean = (sum(x for x, _ in self.places) / count, sum(y for _, y in self.places) / count)
        if self.radius or self.holds(mean):
            return mean
        # a bent polygon: halfway between two neighbours' midpoint and the mean, whichever lies inside
        for (a, b), (c, d) in zip(self.places, self.places[2:] + self.places[:2]):
            between = ((a + c) / 2, (b + d) / 2)
            if self.holds(between):
                return between
        return mean

    @property
    def edge(self) -> tuple[Spot, ...]:
        """Places on its edge: its corners, or those of a circle in eight directions."""
        if not self.radius:
            return self.places
        (x, y), turns = self.places[0], [math.pi * k / 4 for k in range(8)]
        return tuple((x + self.radius * math.cos(turn), y + self.radius * math.sin(turn)) for turn in turns)

    def covers(self, other: DrawnRegion) -> bool:
        """Whether every place on the edge of another lies inside or on the edge."""
        return all(map(self.holds, other.edge))

    def holds(self, place: Spot) -> bool:
        """Whether a place lies inside or on the edge."""
        x, y = place
        if self.radius:
            (a, b) = self.places[0]
            return (x - a) ** 2 + (y - b) ** 2 <= self.radius**2 * (1 + 1e-9)
        inside = False
        for (a, b), (c, d) in zip(self.places, self.places[1:] + self.places[:1]):
            cross = (c - a) * (y - b) - (d - b) * (x - a)
            size = abs(c - a) + abs(d - b)
            if abs(cross) <= 1e-9 * size * size and min(a, c) <= x <= max(a, c) and min(b, d) <= y <= max(b, d):
                return True
            if (b > y) != (d > y) and x < (c - a) * (y - b) / (d - b) + a:
                inside = not inside
        return inside


# A formula that ends in a number that is added to the rest.
SHIFTED = re.compile(r"(?P<rest>.*[^\s+\-−*/^(,])\s*(?P<sign>[+\-−])\s*(?P<number>\d+(?:\.\d+)?)\s*\Z")


def fine_step(width: float) -> float:
    """The step in which regions of a figure are moved: about a hundredth of its width, 1, 2 or 5 times a power of ten.

    >>> fine_step(8), fine_step(100), fine_step(0.6)
    (0.05, 1.0, 0.005)
    """
    power = 10.0 ** math.floor(math.log10(abs(width) / 100 or 1.0))
    usable = (each * power for each in (1, 2, 5) if each * power <= abs(width) / 100 * (1 + 1e-9))
    return float(f"{max(usable, default=power):.12g}")


def stepped(value: float, step: float) -> str:
    """A number in whole steps, without needless noughts.

    >>> stepped(2.5000001, 0.05), stepped(-0.01, 0.05)
    ('2.5', '0')
    """
    decimals = max(0, -math.floor(math.log10(step)))
    text = f"{round(value / step) * step:.{decimals}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in {"-0", ""} else text


def region_line(word: str, places: Sequence[Spot], step: float) -> str:
    """A region as it is written, from the places at which it was drawn: of a circle the middle and a place on its edge.

    >>> region_line("circle", [(2, 3), (2.5, 3)], 0.05), region_line("box", [(0, 0), (4.02, 2)], 0.05)
    ('circle (2, 3) 0.5', 'box (0, 0) (4, 2)')
    """
    shown = [f"({stepped(x, step)}, {stepped(y, step)})" for x, y in places]
    if word == "circle":
        radius = math.dist(*places[:2]) if len(places) > 1 else 0.0
        return f"circle {shown[0]} {stepped(max(radius, 2 * step), step)}"
    return f"{word} {' '.join(shown)}"


def moved_region(written: str, shifts: Mapping[int, float], step: float) -> str:
    """A region with some of its formulas shifted, by their places in its line; a formula with names keeps them and has
    a number added. What cannot be read stays as it is written.

    >>> moved_region("circle (a, 2) 0.5", {0: 0.3, 1: 1.02}, 0.05), moved_region("box (0, 0) (a + 1, b)", {2: -1}, 0.1)
    ('circle (a + 0.3, 3) 0.5', 'box (0, 0) (a, b)')
    """
    word, _, rest = written.strip().partition(" ")
    shape = STATEMENTS.get(word)
    if not isinstance(shape, Shape):
        return written
    try:
        formulas = shape.coordinates(*pieces_of(rest))
        for k, by in shifts.items():
            if 0 <= k < len(formulas):
                formulas[k] = shifted(formulas[k], by, step)
    except (StatementError, NotationError, EvaluationError, OverflowError):
        return written
    count = len(formulas) // 2 * 2
    places = [f"({x}, {y})" for x, y in zip(formulas[:count:2], formulas[1:count:2])]
    return " ".join([word, *places, *formulas[count:]])


def shifted(formula: str, by: float, step: float) -> str:
    """A formula with a number added. Raises ``NotationError``."""
    tree = read_authored(formula)
    if not names_in(tree):
        return stepped(coordinate(Compiled(tree), {}, 1) + by, step)
    found, added = SHIFTED.match(formula), 0.0
    if found is not None and found["rest"].count("(") == found["rest"].count(")"):
        formula, added = found["rest"], float(found["number"]) * (1 if found["sign"] == "+" else -1)
    text = stepped(added + by, step)
    if text == "0":
        return formula
    return f"{formula} - {text[1:]}" if text.startswith("-") else f"{formula} + {text}"
