"""What passing a sitting opens: who has passed, who waits at which step, and opening by hand."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from django.core.cache import cache
from django.utils import timezone

from vorlage.core.marking import Total
from vorlage.core.sittings import missing, passed, that_count
from vorlage.web.classes.models import Student
from vorlage.web.people.models import User

from .marking import marks_of_all, that_stand, total
from .models import AnyMark, Mark, Opened, Sitting, Taking, held_marks, places_in_sections

# Where a student is for whom others have to be passed first.
LOCKED = "locked"
# For so many seconds a table that is asked again and again is told who has passed as it was.
KEPT = 10


@dataclass(frozen=True)
class Standing:
    """How somebody stands in a sitting that can be passed: whether they have, and what is missing."""

    taking: Taking
    passed: bool
    lacks: Sequence[str]


def totals_in(taking: Taking, marks: Sequence[AnyMark]) -> tuple[Total, list[Total]]:
    """The total of an attempt, and that of each of its sections."""
    places = places_in_sections(taking.form_id or 0)
    stand = that_stand(marks)
    sections = [
        total(taking, [each for each in stand if section_of(places, each) == number])
        for number in range(max(places) + 1)
    ]
    return total(taking, marks), sections


def section_of(places: Sequence[int], mark: AnyMark) -> int:
    return places[mark.place_on_form]


def standings(
    sitting: Sitting, attempts: Iterable[tuple[Sequence[Taking], Sequence[Sequence[AnyMark]]]]
) -> list[Standing]:
    """How those stand with these attempts, each given with the marks that hold of it."""
    found = []
    for own, marks in attempts:
        totals = [totals_in(taking, each) for taking, each in zip(own, marks)]
        done = passed(sitting.held, totals)
        found.append(Standing(own[-1], done, [] if done else missing(sitting.held, that_count(sitting.held, totals))))
    return found


def all_standings(sitting: Sitting) -> list[Standing]:
    """How everybody stands whose work is marked."""
    return standings(sitting, marks_of_all(sitting))


def own_standing(sitting: Sitting, student: Student) -> Standing | None:
    """How one student stands; None where nothing of theirs is marked."""
    own = list(sitting.takings.counted().filter(student=student).exclude(marked=None).order_by("attempt"))
    for each in own:
        each.sitting = sitting
    marks = [held_marks(sitting.held, Mark.objects.filter(taking=each).order_by("pk")) for each in own]
    found = standings(sitting, [(own, marks)] if own else [])
    return found[0] if found else None


@dataclass(frozen=True)
class Step:
    """A sitting that has to be passed before another, and what a student lacks there, in words."""

    sitting: Sitting
    words: str


def steps_before(sitting: Sitting, student: Student | None) -> list[Step]:
    """What a student has to pass before a sitting is open for them; nothing once it is."""
    if not sitting.behind or (student is not None and sitting.opened_for.filter(student=student).exists()):
        return []
    found = []
    for each in sitting.opened_by.select_related("form_set").order_by("pk"):
        standing = own_standing(each, student) if student is not None else None
        if standing is None or not standing.passed:
            # how it went is told to whoever may see it there
            told = standing is not None and "total" in standing.taking.seen(timezone.now())
            found.append(Step(each, f"pass “{each.title}” first" + (lacking_words(standing) if told else "")))
        elif each.held.opening == "word":
            found.append(Step(each, f"you have passed “{each.title}”; your teacher opens this"))
    return found


def lacking_words(standing: Standing | None) -> str:
    return f": {'; '.join(standing.lacks)}" if standing is not None and standing.lacks else ""


def waiting_in(sitting: Sitting) -> dict[int, str]:
    """Of the students for whom a sitting is not open yet, by their number, what they wait for; looked up every few
    seconds, however often it is asked."""
    if not sitting.behind:
        return {}
    return cache.get_or_set(f"waiting-{sitting.pk}", lambda: look_who_waits(sitting), KEPT) or {}


def look_who_waits(sitting: Sitting) -> dict[int, str]:
    opened = set(sitting.opened_for.values_list("student", flat=True))
    through = {}
    before = list(sitting.opened_by.select_related("form_set").order_by("pk"))
    for each in before:
        through[each.pk] = {row.taking.student_id for row in all_standings(each) if row.passed}
    found = {}
    for student in sitting.takings.counted().current().filter(begun=None).values_list("student", flat=True):
        words = [
            f"has passed “{each.title}”" if student in through[each.pk] else f"waits: “{each.title}” not passed"
            for each in before
            if student not in through[each.pk] or each.held.opening == "word"
        ]
        if student is not None and student not in opened and words:
            found[student] = "; ".join(words)
    return found


def may_follow(user: User, found: Sitting) -> list[Sitting]:
    """The sittings that passing one may open: those for its classes that the same person runs."""
    mine = Sitting.objects.run_by(user).filter(archived=None, classes__in=found.classes.all())
    return list(mine.exclude(pk=found.pk).distinct().order_by("-created", "-pk")[:60])


def leads_to(sitting: Sitting, other: Sitting) -> bool:
    """Whether passing a sitting, and what it opens, leads to another."""
    seen, waiting = {sitting.pk}, [sitting.pk]
    while waiting:
        following = set(Sitting.objects.filter(opened_by__in=waiting).values_list("pk", flat=True))
        waiting = list(following - seen)
        seen |= following
    return other.pk in seen


def follows(found: Sitting, chosen: Sequence[Sitting]) -> None:
    """Let passing a sitting open these, and no others."""
    before = set(found.opens_next.all())
    found.opens_next.set(chosen)
    for each in before | set(chosen):
        Sitting.objects.filter(pk=each.pk).update(behind=each.opened_by.exists())
        cache.delete(f"waiting-{each.pk}")


def open_for(sitting: Sitting, students: Iterable[int], by: User) -> None:
    """Open a sitting by hand for students."""
    Opened.objects.bulk_create(
        (Opened(sitting=sitting, student_id=student, by=by) for student in students), ignore_conflicts=True
    )
    cache.delete(f"waiting-{sitting.pk}")


def passing_of(found: Sitting) -> dict[str, object] | None:
    """Who has passed a sitting, who has not yet, and what that opens; None where nobody can pass."""
    if not found.held.has_pass_mark:
        return None
    rows = all_standings(found)
    return {
        "passed": [row.taking for row in rows if row.passed],
        "not_yet": sorted((row for row in rows if not row.passed), key=lambda row: row.taking.who),
        "next": list(found.opens_next.all()),
        "by_word": found.held.opening == "word",
    }
