"""Taking a class list: everything that it says, or nothing of it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import count

from django.db import transaction

from vorlage.core.roster import Decision, Entry, Kind, Known, Line, compare
from vorlage.core.text import unaccented
from vorlage.web.people.models import School

from .models import Class, Student


@dataclass(frozen=True)
class Taken:
    """What a class list has changed: the students who are new, who came from elsewhere in the school, who were taken
    out, and every field that is another now: student, field, before, after."""

    new: list[int]
    joined: list[int]
    changed: list[tuple[int, str, str, str]]
    left: list[int]

    @property
    def anything(self) -> bool:
        return bool(self.new or self.joined or self.changed or self.left)

    @property
    def in_words(self) -> str:
        counts = (len(self.new), len(self.joined), len({each[0] for each in self.changed}), len(self.left))
        words = ("new", "already at the school", "changed", "taken out")
        told = [f"{number} {word}" for number, word in zip(counts, words) if number]
        return f"{', '.join(told)}." if told else "The class was like that already: nothing has changed."


def decided(line: Line, decisions: Mapping[int, str]) -> tuple[str, Known | None]:
    """What is done about a row: ``new``, ``known`` with whom, or ``leave``."""
    if line.kind != Kind.DOUBTFUL:
        return ("new", None) if line.kind == Kind.NEW else ("known", line.student)
    decision = decisions.get(line.entry.row)
    if decision == Decision.SAME and line.student is not None:
        return "known", line.student
    if decision == Decision.OTHER and line.may_be_other:
        return "new", None
    return "leave", None


@transaction.atomic
def take(held: Class, entries: Sequence[Entry], decisions: Mapping[int, str], unwanted: Iterable[int]) -> Taken:
    """Make the class what a list says; ``decisions`` are about its doubtful rows, ``unwanted`` who is taken out."""
    school = held.department.school
    # of two lists that are taken at once, the second is compared with what the first has made
    School.objects.select_for_update().get(pk=school.pk)
    comparison = compare(entries, Student.objects.all().known(held))
    fresh, known = list[Entry](), list[tuple[Line, Known]]()
    for line in comparison.lines:
        what, who = decided(line, decisions)
        if what == "new":
            fresh.append(line.entry)
        elif who is not None:
            known.append((line, who))
    numbers = own_numbers(school, entries)
    made = Student.objects.bulk_create(student_of(school, entry, numbers) for entry in fresh)
    changed = [each for line, who in known for each in change(who.id, line)]
    joined = [who.id for _, who in known if not who.here]
    held.enrol([each.pk for each in made] + [who.id for _, who in known])
    gone = {each.id for each in comparison.gone}
    left = held.take_out(each for each in unwanted if each in gone)
    return Taken([each.pk for each in made], joined, changed, left)


def own_numbers(school: School, entries: Sequence[Entry]) -> Iterator[str]:
    """Numbers for whoever comes without one: V1001, V1002 …, each that nobody has and nobody in the list brings."""
    own = Student.objects.filter(school=school, number__istartswith="V").values_list("number", flat=True)
    taken = {number.upper() for number in [*own, *(entry.number for entry in entries)]}
    return (number for k in count(1001) if (number := f"V{k}") not in taken)


def student_of(school: School, entry: Entry, numbers: Iterator[str]) -> Student:
    number = entry.number or next(numbers)
    searched = unaccented(f"{entry.family} {entry.given} {number}")
    return Student(
        school=school, family=entry.family, given=entry.given, number=number, email=entry.email, search_text=searched
    )


def change(student: int, line: Line) -> list[tuple[int, str, str, str]]:
    """Give a student what a row says of them; what it leaves empty stays. What was before and is now."""
    if not line.changes:
        return []
    found = Student.objects.select_related("user").get(pk=student)
    for name, _, after in line.changes:
        setattr(found, name, after)
    found.save()
    found.tell_user()
    return [(student, *each) for each in line.changes]
