"""What an author ought to know, though it keeps nobody from using the question."""

from __future__ import annotations

from dataclasses import dataclass

from .giveaways import Demand


@dataclass(frozen=True, slots=True)
class Caution:
    """One kind of trouble, with the draws that show it (none: it concerns the whole question)."""

    code: str
    message: str
    draws: tuple[int, ...] = ()
    # a condition that would end it, or what could be asked of an answer
    cure: str = ""
    demand: Demand | None = None
    # the field of the document that it is about, where it is about one; which of its characters are meant, and what
    # could stand in their place
    path: tuple[str | int, ...] = ()
    place: int = 0
    length: int = 0
    instead: str = ""
