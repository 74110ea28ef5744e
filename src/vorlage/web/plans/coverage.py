"""The coverage grid: objectives down, levels across; in each cell the marks of the plan there, and those aimed at."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from fractions import Fraction

from vorlage.core.questions import LEVELS
from vorlage.web.bank.models import Filed, Tree

from .models import Held, Target, Test

# A question that is filed nowhere, or at no level.
NOWHERE = 0


@dataclass
class Cell:
    """The marks of an objective at a level: what every form has at least and at most, and what is aimed at."""

    topic: int
    level: int
    least: Fraction = Fraction(0)
    most: Fraction = Fraction(0)
    target: Decimal | None = None
    # what was typed for it and refused
    typed: str = ""

    @property
    def name(self) -> str:
        """The name of its field."""
        return f"t{self.topic}-{self.level}"

    @property
    def met(self) -> bool:
        return self.target is None or self.least == self.most == self.target

    @property
    def short(self) -> bool:
        return self.target is not None and self.least < self.target


@dataclass
class Row:
    """An objective with its cells, and its path."""

    topic: int
    path: tuple[str, ...]
    cells: list[Cell]

    @property
    def name(self) -> str:
        return self.path[-1] if self.path else "filed nowhere"

    @property
    def above(self) -> str:
        return " ▸ ".join(self.path[:-1])

    @property
    def least(self) -> Fraction:
        return sum((cell.least for cell in self.cells), Fraction(0))

    @property
    def most(self) -> Fraction:
        return sum((cell.most for cell in self.cells), Fraction(0))


@dataclass
class Grid:
    levels: list[int]
    rows: list[Row] = field(default_factory=list)

    @property
    def short(self) -> bool:
        """Whether there is less somewhere than is aimed at."""
        return any(cell.short for row in self.rows for cell in row.cells)


def topics_of(questions: Iterable[int]) -> dict[int, int]:
    """The topic under which each question stands first."""
    found: dict[int, int] = {}
    filed = Filed.objects.filter(question__in=list(questions)).order_by("question", "position", "pk")
    for question, topic in filed.values_list("question", "topic"):
        found.setdefault(question, topic)
    return found


def grid_of(
    test: Test, places: Sequence[Held], tree: Tree, also: Iterable[int] = (), typed: Mapping[str, str] | None = None
) -> Grid:
    """What the places of a plan cover. Of a pool, a cell has at least what every choice has, and at most what one can
    have. ``also`` are objectives that have a row whatever they have; ``typed`` is what was refused, by the field."""
    questions = {each.revision.question_id for held in places for each in held.candidates}
    topics, targets = topics_of(questions), list(test.targets.all())
    cells: dict[tuple[int, int], Cell] = {}

    def cell(topic: int, level: int) -> Cell:
        return cells.setdefault((topic, level), Cell(topic, level))

    for held in places:
        if held.place.bonus:
            continue
        counted: dict[tuple[int, int], int] = {}
        for each in held.candidates:
            question = each.revision.question
            where = topics.get(question.pk, NOWHERE), question.level
            counted[where] = counted.get(where, 0) + 1
        others = len(held.candidates)
        for where, count in counted.items():
            least = max(0, held.place.take - (others - count))
            cell(*where).least += held.each * least
            cell(*where).most += held.each * min(count, held.place.take)
    for target in targets:
        cell(target.topic_id, target.level).target = target.marks
    for topic in also:
        cell(topic, LEVELS[0])
    for name, text in (typed or {}).items():
        topic, level = (int(each) for each in name.removeprefix("t").split("-"))
        cell(topic, level).typed = text
    return Grid(list(LEVELS), rows_of(cells, tree))


def rows_of(cells: dict[tuple[int, int], Cell], tree: Tree) -> list[Row]:
    order = {topic.pk: k for k, (topic, _) in enumerate(tree.rows)}
    topics = sorted({topic for topic, _ in cells}, key=lambda topic: (topic == NOWHERE, order.get(topic, len(order))))
    return [
        Row(
            topic,
            tree.path(topic) if topic else (),
            [cells.get((topic, level), Cell(topic, level)) for level in LEVELS],
        )
        for topic in topics
    ]


def set_target(test: Test, topic: int, level: int, marks: Decimal | None) -> None:
    """Aim at so many marks of an objective at a level; None aims at nothing there."""
    if marks is None:
        Target.objects.filter(test=test, topic=topic, level=level).delete()
    else:
        Target.objects.update_or_create(test=test, topic_id=topic, level=level, defaults={"marks": marks})
