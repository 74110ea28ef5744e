"""What a class list would change: who is new, changed, the same, doubtful, and who is no longer in it."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from .people import Entry, letters_of


@dataclass(frozen=True, slots=True)
class Known:
    """A student of the school; ``here`` says that they are in the class now."""

    id: int
    family: str
    given: str
    number: str
    email: str = ""
    here: bool = False

    @property
    def name(self) -> str:
        return f"{self.family}, {self.given}"


class Kind(StrEnum):
    NEW = "new"
    JOINS = "joins"
    CHANGED = "changed"
    DOUBTFUL = "doubtful"
    SAME = "same"


class Decision(StrEnum):
    """What is done about a doubtful row."""

    SAME = "same"
    OTHER = "other"
    LEAVE = "leave"


@dataclass(frozen=True, slots=True)
class Line:
    """What becomes of a row. ``student`` is who it speaks of, or may speak of where that is doubtful; ``changes`` are
    the fields that differ, each as it is and as it would be."""

    entry: Entry
    kind: Kind
    student: Known | None = None
    changes: tuple[tuple[str, str, str], ...] = ()
    why: str = ""
    # whether it can be somebody else under another number: not where the number is taken
    may_be_other: bool = True


@dataclass(frozen=True, slots=True)
class Comparison:
    lines: tuple[Line, ...]
    # who is in the class and not in the list
    gone: tuple[Known, ...]
    counts: Mapping[Kind, int] = field(default_factory=dict)

    def of(self, kind: Kind) -> list[Line]:
        return [line for line in self.lines if line.kind == kind]

    @property
    def changes_nothing(self) -> bool:
        """Whether the class is as the list has it."""
        return not self.gone and all(line.kind == Kind.SAME for line in self.lines)


def compare(entries: Sequence[Entry], school: Iterable[Known]) -> Comparison:
    """Compare a class list with the students of the school.

    A student is known by the school number; without one, by the name within the class. The same name under another
    number, and a number under another name altogether, are doubtful and for a person to decide.
    """
    known = list(school)
    # a1 is A1 unless somebody has that number as it is written
    numbers = {each.number.casefold(): each for each in known if each.number}
    numbers |= {each.number: each for each in known if each.number}
    names: dict[tuple[str, str], list[Known]] = defaultdict(list)
    addresses = {each.email.lower(): each for each in known if each.email}
    for each in known:
        names[named(each)].append(each)
    # whoever is meant by a number is not meant by a name as well
    meant = {who.id for entry in entries if (who := of_number(entry.number, numbers)) is not None}
    lines = [judged(entry, numbers, names, meant) for entry in entries]
    lines = [with_address(line, addresses) for line in lines]
    spoken = {line.student.id for line in lines if line.student}
    gone = tuple(each for each in known if each.here and each.id not in spoken)
    return Comparison(tuple(lines), gone, {kind: sum(line.kind == kind for line in lines) for kind in Kind})


def of_number(number: str, numbers: Mapping[str, Known]) -> Known | None:
    """Whoever has a number, as it is written or else whatever its capitals."""
    return numbers.get(number) or numbers.get(number.casefold())


def named(each: Known | Entry) -> tuple[str, str]:
    return letters_of(each.family), letters_of(each.given)


def judged(
    entry: Entry, numbers: Mapping[str, Known], names: Mapping[tuple[str, str], list[Known]], meant: set[int]
) -> Line:
    """What becomes of a row."""
    if entry.number:
        by_number = of_number(entry.number, numbers)
        if by_number is not None:
            if set(named(entry)) & set(named(by_number)):
                return settled(entry, by_number)
            why = f"The number {entry.number} is that of {by_number.name}."
            # whoever is in another class is not renamed from here
            who = by_number if by_number.here else None
            return Line(entry, Kind.DOUBTFUL, who, differences(entry, by_number), why, may_be_other=False)
        alike = [each for each in names.get(named(entry), ()) if each.id not in meant]
        # of several with this name, whoever is in the class
        here = [each for each in alike if each.here] or alike
        if len(here) == 1:
            why = f"{here[0].name} has the number {here[0].number}."
            return Line(entry, Kind.DOUBTFUL, here[0], differences(entry, here[0]), why)
        return Line(entry, Kind.NEW)
    alike = [each for each in names.get(named(entry), ()) if each.id not in meant]
    here = [each for each in alike if each.here]
    if len(here) == 1:
        return settled(entry, here[0])
    if len(here) > 1:
        told = " and ".join(each.number for each in here)
        why = f"Several in this class are called so ({told}): give the school number."
        return Line(entry, Kind.DOUBTFUL, None, (), why)
    if len(alike) == 1:
        why = f"{alike[0].name} is at the school already, with the number {alike[0].number}."
        return Line(entry, Kind.DOUBTFUL, alike[0], differences(entry, alike[0]), why)
    if alike:
        told = " and ".join(each.number for each in alike)
        return Line(
            entry, Kind.DOUBTFUL, None, (), f"Several at the school are called so ({told}): give the school number."
        )
    return Line(entry, Kind.NEW)


def settled(entry: Entry, student: Known) -> Line:
    """A row that surely speaks of a student."""
    changes = differences(entry, student)
    if not student.here:
        return Line(entry, Kind.JOINS, student, changes)
    return Line(entry, Kind.CHANGED if changes else Kind.SAME, student, changes)


def differences(entry: Entry, student: Known) -> tuple[tuple[str, str, str], ...]:
    """The fields in which a row differs; what it leaves empty it does not speak of."""
    fields = ("family", "given", "number", "email")
    pairs = [(name, getattr(student, name), getattr(entry, name)) for name in fields]
    return tuple((name, before, after) for name, before, after in pairs if after and before != after)


def with_address(line: Line, addresses: Mapping[str, Known]) -> Line:
    """A row whose address is that of somebody else is doubtful, since an address is one person's."""
    holder = addresses.get(line.entry.email) if line.entry.email else None
    if holder is None or (line.student is not None and holder.id == line.student.id):
        return line
    why = f"The address {line.entry.email} is that of {holder.name} ({holder.number})."
    return Line(line.entry, Kind.DOUBTFUL, None, (), why, may_be_other=False)
