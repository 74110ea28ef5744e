"""A region of a figure that can be pointed at: a circle, a box or a polygon."""

from __future__ import annotations

from dataclasses import dataclass

from ..algebra import Compiled, Values
from ..notation import NotationError, Settings
from .drawing import coordinate
from .reading import read_line
from .statements import REGISTER, Formulas, Shape, Spot, StatementError


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
        return DrawnRegion(*self.shape.drawn([coordinate(each, values, 1) for each in self.compiled]))


@dataclass(frozen=True, slots=True)
class DrawnRegion:
    """A circle (one place and a radius) or a polygon, in the coordinates of its figure."""

    places: tuple[Spot, ...]
    radius: float = 0.0

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
