"""Where a question is filed and what is said about it: nothing of what it asks.

Topics are written as paths, ``Physics > Moments > Levers``, several with semicolons between. They stand in a tree of
three levels: subject, topic, objective.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from decimal import Decimal
from difflib import get_close_matches
from typing import Annotated, Any

from pydantic import Field, field_validator

from ..answers import Strict

DEEP = 3
MOST_TOPICS, MOST_TAGS = 12, 30
# what stands between the names of a path where it is shown
ARROW = " ▸ "
ARROWS = re.compile(r"\s*[>▸→]\s*")

Name = Annotated[str, Field(min_length=1, max_length=100)]
Path = tuple[str, ...]
Tag = Annotated[str, Field(min_length=1, max_length=60)]
# of the levels and of the kinds of demand
LEVELS, DEMANDS = range(1, 6), range(1, 7)


class Filing(Strict):
    """Where a question is filed. It belongs to the question and not to what one revision of it says.

    ``demand`` is the number of a kind of demand, 0 where none is said; ``minutes`` is the time it is expected to take.
    """

    topics: tuple[Annotated[tuple[Name, ...], Field(min_length=1, max_length=DEEP)], ...] = Field(
        default=(), max_length=MOST_TOPICS
    )
    level: int = Field(default=1, ge=1, le=5)
    demand: int = Field(default=0, ge=0, le=6)
    calculator: bool = True
    minutes: Decimal | None = Field(default=None, gt=0, le=999, max_digits=5, decimal_places=2)
    tags: tuple[Tag, ...] = Field(default=(), max_length=MOST_TAGS)
    # codes of a curriculum
    references: tuple[Tag, ...] = Field(default=(), max_length=MOST_TAGS)
    source: str = Field(default="", max_length=300)
    licence: str = Field(default="", max_length=100)
    # to colleagues
    note: str = Field(default="", max_length=5_000)

    @field_validator("topics", "tags", "references", mode="before")
    @classmethod
    def each_once(cls, given: Any) -> Any:
        """Blanks are as one, and nothing stands twice."""
        if not isinstance(given, list | tuple):
            return given
        return list({folded(each): tidied(each) for each in reversed(given)}.values())[::-1]

    @field_validator("source", "licence", "note")
    @classmethod
    def without_edges(cls, given: str) -> str:
        return given.strip()

    @property
    def topic(self) -> Path:
        """The topic that it stands under first; empty where it is under none."""
        return self.topics[0] if self.topics else ()


def tidied(given: Any) -> Any:
    """A name, or a path of names, with single blanks; what is neither stays."""
    if isinstance(given, str):
        return " ".join(given.split())
    if isinstance(given, list | tuple):
        return tuple(tidied(each) for each in given)
    return given


def folded(given: Any) -> Any:
    """What two names, or paths, that mean the same have in common."""
    if isinstance(given, str):
        return " ".join(given.split()).casefold()
    if isinstance(given, list | tuple):
        return tuple(folded(each) for each in given)
    return str(given)


def listed(text: str, between: str = ",;") -> list[str]:
    """What stands in a field with commas or semicolons between, without blanks around and without what is empty."""
    pieces = (" ".join(piece.split()) for piece in re.split(f"[{between}\n]", text))
    return [piece for piece in pieces if piece]


def read_paths(text: str) -> list[Path]:
    """The paths that stand in a field."""
    return [tuple(name for name in ARROWS.split(each) if name) for each in listed(text, ";") if ARROWS.sub("", each)]


def written_paths(paths: Iterable[Path]) -> str:
    """The paths as they are typed."""
    return "; ".join(ARROW.join(path) for path in paths)


@dataclass
class FoundTopics:
    """What is meant by typed paths: those of the tree, those that are to be made, and what cannot be told."""

    paths: list[Path] = field(default_factory=list)
    new: list[Path] = field(default_factory=list)
    doubts: list[str] = field(default_factory=list)


def topics_meant(typed: Sequence[Path], tree: Sequence[Path]) -> FoundTopics:
    """What is meant by typed paths in a tree that has these.

    A path may leave out names from its beginning when what is left stands once in the tree. One of several names that
    begins with a subject, or of any where nothing is there yet, is made; a single name that is unknown is not, since
    where it belongs is not said.
    """
    found = FoundTopics()
    ends: dict[Path, list[Path]] = {}
    for path in tree:
        for k in range(len(path)):
            ends.setdefault(folded(path[k:]), []).append(path)
    for path in typed:
        name = ARROW.join(path)
        whole = [each for each in ends.get(folded(path), []) if len(each) == len(path)]
        meant = whole or ends.get(folded(path), [])
        if len(path) > DEEP:
            found.doubts.append(f"“{name}” has {len(path)} names: at most subject, topic and objective.")
        elif any(len(each) > 100 for each in path):
            found.doubts.append(f"“{name[:40]}…”: a name has at most 100 characters.")
        elif len(meant) == 1:
            found.paths.append(meant[0])
        elif meant:
            places = " or ".join(f"“{ARROW.join(each)}”" for each in meant[:3])
            found.doubts.append(f"“{name}” stands there more than once: write {places}.")
        elif len(path) > 1 or not tree:
            found.new.append(as_in_tree(path, ends))
            found.paths.append(found.new[-1])
        else:
            found.doubts.append(unknown(name, ends))
    return found


def as_in_tree(path: Path, ends: dict[Path, list[Path]]) -> Path:
    """A new path whose beginning is written as it stands in the tree, and whose subject is found from its topic."""
    for k in range(len(path) - 1, 0, -1):
        known = ends.get(folded(path[:k]), [])
        whole = [each for each in known if len(each) == k] or known
        if len(whole) == 1 and len(whole[0]) + len(path) - k <= DEEP:
            return whole[0] + path[k:]
    return path


def unknown(name: str, ends: dict[Path, list[Path]]) -> str:
    """What is said of a single name that is not in the tree."""
    near = get_close_matches(folded(name), [each[0] for each in ends if len(each) == 1], n=1, cutoff=0.75)
    subjects = sorted({path[0] for paths in ends.values() for path in paths})
    subject = subjects[0] if subjects else "Physics"
    meant = f" Did you mean “{ends[(near[0],)][0][-1]}”?" if near else ""
    return f"There is no topic “{name}” yet.{meant} To make it, write where it belongs: {subject}{ARROW}{name}."
