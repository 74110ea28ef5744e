"""Places pointed at in a figure: regions in its coordinates, each with what it earns.

A response is a list of places ``[[3, 4]]``, or a string ``(3, 4); (5, 6.5)``.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import TYPE_CHECKING, Any

from ....algebra import Values
from ....figures import DrawnRegion, Region
from ....notation import Collection, Habits, Node, NotationError, Settings, line, literal, to_document
from ...answer import DrawnAnswer, of_field
from ...chosen import PROVED, REFUTED, Unreadable, is_blank
from ...spaces import NOWHERE, Space
from ...verdict import NOTHING, Verdict, of_share, unread

if TYPE_CHECKING:
    from .document import HotspotAnswer

NUMBER = r"([-−]?\d+(?:\.\d+)?)"
PLACE = re.compile(rf"\(\s*{NUMBER}\s*[,;|]\s*{NUMBER}\s*\)")
BARE = re.compile(rf"\s*{NUMBER}\s*[,;|]\s*{NUMBER}\s*\Z")


class HotspotChecker:
    """The regions of a figure, their formulas read once."""

    def __init__(self, answer: HotspotAnswer, settings: Settings) -> None:
        self.answer = answer
        self.comma = settings.decimal_mark == "comma"
        with of_field("regions"):
            self.regions = [Region(spot.region, settings, settings.names) for spot in answer.regions]

    def drawn(self, values: Values) -> DrawnHotspot:
        """The regions of one draw. Raises ``EvaluationError`` where one has no place."""
        return DrawnHotspot(self.answer, tuple(region.drawn(values) for region in self.regions), self.comma)


@dataclass(frozen=True, slots=True)
class DrawnHotspot(DrawnAnswer):
    """The regions of one draw."""

    answer: HotspotAnswer
    regions: tuple[DrawnRegion, ...]
    # whether places are typed with the decimal comma
    comma: bool = False

    @property
    def best(self) -> list[int]:
        """The regions that earn marks; of one click those that earn the most."""
        worths = self.answer.worths
        wanted = max(worths) if self.answer.clicks == 1 else Fraction(0)
        return [k for k, worth in enumerate(worths) if worth > 0 and worth >= wanted]

    @property
    def outlined(self) -> tuple[str, Sequence[DrawnRegion]]:
        return self.answer.figure, self.key_regions

    def space(self) -> Space:
        return NOWHERE

    @property
    def pointed_regions(self) -> Sequence[DrawnRegion]:
        return self.regions

    def troubles(self) -> list[tuple[str, str]]:
        worths = self.answer.worths
        return [
            ("region_covered", f"region {k + 1} lies inside region {j + 1}, which earns more: it never decides.")
            for k, covered in enumerate(self.regions)
            for j, other in enumerate(self.regions)
            if worths[j] > worths[k] and other.covers(covered)
        ]

    @property
    def key_regions(self) -> list[DrawnRegion]:
        """The regions of a full answer, to be outlined in a key."""
        return [self.regions[k] for k in self.best]

    def right_response(self) -> list[list[float]]:
        """A response that is right."""
        places = [list(region.middle) for region in self.key_regions]
        return places[:1] if self.answer.clicks == 1 else places

    def key_tree(self) -> Node:
        """A place in every region that earns marks."""
        return places_tree(region.middle for region in self.key_regions)

    def closeness(self) -> str:
        """How it is counted, in words."""
        if self.answer.clicks > 1:
            return "a place in every region"
        return "anywhere in the region" if len(self.best) == 1 else "anywhere in one of the regions"

    def check(self, response: Any) -> Verdict:
        """The verdict for the places that were marked."""
        if is_blank(response):
            return NOTHING
        try:
            places = marked_places(with_points(response) if self.comma else response)
            if len(places) > self.answer.clicks:
                most = self.answer.clicks
                raise Unreadable(f"Mark {most} place{'' if most == 1 else 's'} at most.")
        except Unreadable as problem:
            return unread(problem)
        hit: list[int] = []
        outside = 0
        for place in places:
            found = [k for k, region in enumerate(self.regions) if region.holds(place)]
            # where regions lie over each other, the one that earns most counts
            found.sort(key=lambda k: -self.answer.worths[k])
            if found and found[0] not in hit:
                hit.append(found[0])
            elif not found:
                outside += 1
        share = sum((self.answer.worths[k] for k in hit), Fraction(0))
        if self.answer.clicks > 1:
            # marking everywhere earns nothing
            share -= Fraction(outside, len(self.best))
        share = min(Fraction(1), share)
        told = tuple(self.answer.regions[k].feedback for k in hit if self.answer.regions[k].feedback)
        tree = places_tree(places)
        certainty = PROVED if share == 1 else REFUTED
        return Verdict(of_share(share), share, line(tree), told, "the regions that were hit", certainty, tree=tree)


def places_tree(places: Iterable[tuple[float, float]]) -> Node:
    """Places as points; two and more as a list of points."""
    points = [
        Collection("point", tuple(literal(Fraction(f"{coordinate:.4g}")) for coordinate in place)) for place in places
    ]
    return points[0] if len(points) == 1 else Collection("list", tuple(points))


def with_points(response: Any) -> Any:
    """A response that is typed with decimal commas, with points. Raises ``Unreadable``."""
    try:
        return to_document(response, Habits("comma")) if isinstance(response, str) else response
    except NotationError as problem:
        raise Unreadable(problem.message) from None


def marked_places(response: Any) -> list[tuple[float, float]]:
    """The places that a response names. Raises ``Unreadable``."""
    if isinstance(response, str):
        found = [BARE.match(response)] if BARE.match(response) else list(PLACE.finditer(response))
        rest = PLACE.sub("", response).strip(" ;,")
        if not found or (rest and not BARE.match(response)):
            raise Unreadable("A place is written as (3, 4), in the coordinates of the figure.")
        pairs: list[Any] = [match.groups() for match in found if match]
    else:
        pairs = response if isinstance(response, list) else [response]
        if len(pairs) == 2 and all(isinstance(each, int | float) for each in pairs):
            pairs = [pairs]
    places = []
    for pair in pairs[:100]:
        try:
            x, y = (float(str(each).replace("−", "-")) for each in pair)
        except (TypeError, ValueError):
            raise Unreadable("A place has two numbers, as in (3, 4).") from None
        if not (abs(x) < 1e12 and abs(y) < 1e12):
            raise Unreadable("This place lies too far away.")
        places.append((x, y))
    return places
