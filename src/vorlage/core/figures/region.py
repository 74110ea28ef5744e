"""A region of a figure that can be pointed at: a circle, a box or a polygon."""

from __future__ import annotations

from dataclasses import dataclass

from ..algebra import Compiled, Values
from ..notation import NotationError, Settings
from .drawing import coordinate
from .statements import Reader, Statement, StatementError

Place = tuple[float, float]
SHAPES = ("circle", "box", "polygon")


class Region:
    """A region as it is written, ``circle (a, b) 0.5``; raises ``NotationError`` when it cannot be used."""

    def __init__(self, written: str, settings: Settings, known: frozenset[str]) -> None:
        try:
            self.statement: Statement = Reader(settings, known).statement(1, written.strip())
        except StatementError as problem:
            raise NotationError("region", str(problem)) from problem
        if self.statement.word not in SHAPES:
            raise NotationError("region", "A region is a circle, a box or a polygon, as in `circle (2, 3) 0.5`.")
        self.compiled = [Compiled(tree, settings.angle) for tree in self.statement.formulas]

    def drawn(self, values: Values) -> DrawnRegion:
        """The region of a draw. Raises ``EvaluationError`` where a formula has no value."""
        numbers = [coordinate(each, values, 1) for each in self.compiled]
        radius = abs(numbers.pop()) if self.statement.word == "circle" else 0.0
        places = tuple(zip(numbers[::2], numbers[1::2]))
        if self.statement.word == "box":
            (a, b), (c, d) = places
            places = ((a, b), (c, b), (c, d), (a, d))
        return DrawnRegion(places, radius)


@dataclass(frozen=True, slots=True)
class DrawnRegion:
    """A circle (one place and a radius) or a polygon, in the coordinates of its figure."""

    places: tuple[Place, ...]
    radius: float = 0.0

    @property
    def middle(self) -> Place:
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

    def holds(self, place: Place) -> bool:
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
