"""Changing a rule afterwards: what it would move, for everybody, before anything is stored; then for all, for those who
gain, or for some; and back again.

What a sitting holds apart from its questions is three pieces of plain data: what was ``changed`` of questions, how
marks are ``counting`` together, and the ``rules``. A change puts other pieces in their place, and the marks follow.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from copy import deepcopy
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from django.db import transaction
from django.utils import timezone

from vorlage.core.marking import Counting, Total, that_counts
from vorlage.core.sittings import Rules, passed
from vorlage.web.people.models import User
from vorlage.web.sittings.marking import marks_by_rule, total
from vorlage.web.sittings.models import Mark, Sitting, Taking, by_person, held_marks
from vorlage.web.sittings.opening import totals_in

from .models import Change
from .results import grade_of

# Of what a mark says, what another rule can change.
MOVED = ("outcome", "share", "marks", "most", "cost", "beyond")


@dataclass(frozen=True)
class Held:
    """What holds in a sitting beside its questions."""

    changed: Mapping[str, Any]
    counting: Mapping[str, Any]
    rules: Mapping[str, Any]

    @classmethod
    def of(cls, sitting: Sitting) -> Held:
        return cls(deepcopy(sitting.changed), deepcopy(sitting.counting), deepcopy(sitting.rules))

    @property
    def kept(self) -> dict[str, Any]:
        return {"changed": self.changed, "counting": self.counting, "rules": self.rules}

    def carried(self, was: Held, now: Held) -> Held:
        """This with what is not the same in ``now`` as it was: what somebody else changed meanwhile stays."""
        return Held(*(carried(mine, old, new) for mine, old, new in zip(self.pieces, was.pieces, now.pieces)))

    @property
    def pieces(self) -> tuple[Mapping[str, Any], ...]:
        return self.changed, self.counting, self.rules

    def put(self, sitting: Sitting) -> None:
        """Let it hold in a sitting, which is not stored by this."""
        sitting.changed, sitting.counting, sitting.rules = (
            dict(each) for each in (self.changed, self.counting, self.rules)
        )
        sitting.__dict__.pop("held", None)


def carried(mine: Mapping[str, Any], was: Mapping[str, Any], now: Mapping[str, Any]) -> dict[str, Any]:
    """Plain data with every entry that differs between two others put as it is in the second, as deep as they go."""
    found = dict(mine)
    for name in was.keys() | now.keys():
        old, new = was.get(name), now.get(name)
        if old == new:
            continue
        if name not in now:
            found.pop(name, None)
        elif isinstance(old, dict) and isinstance(new, dict) and isinstance(found.get(name), dict):
            found[name] = carried(found[name], old, new)
        else:
            found[name] = new
    return found


@dataclass(frozen=True)
class Moved:
    """An answer whose mark another rule would change; what somebody gave ``by_hand`` stays unless it is meant."""

    before: Mark
    after: Mark

    @property
    def by_hand(self) -> bool:
        return self.before.by_id is not None

    @property
    def place(self) -> str:
        return f"{self.before.taking_id}-{self.before.position}"


@dataclass
class Person:
    """Somebody with what their attempts come to, before and after."""

    takings: Sequence[Taking]
    before: Total
    after: Total
    moved: list[Moved] = field(default_factory=list)
    # passed, and the grade, before and after
    passes: tuple[bool | None, bool | None] = (None, None)
    grades: tuple[str, str] = ("", "")

    @property
    def pk(self) -> int:
        return self.takings[-1].whose

    @property
    def gain(self) -> Fraction:
        """By how much the total moves, as a share where what can be reached moves as well."""
        if self.before.most == self.after.most or not self.before.most or not self.after.most:
            return self.after.reached - self.before.reached
        return self.after.reached / self.after.most - self.before.reached / self.before.most

    @property
    def crosses(self) -> str:
        """What is crossed, in words; empty where nothing is."""
        was, now = self.passes
        if was is not None and was != now:
            return "passes now" if now else "passes no more"
        return (
            f"{self.grades[0] or 'no grade'} to {self.grades[1] or 'no grade'}"
            if self.grades[0] != self.grades[1]
            else ""
        )


@dataclass
class Preview:
    """What a change would move; nothing of it is stored."""

    people: list[Person]
    # given by hand, and moved only if that is meant
    by_hand: list[Moved]
    # what can be reached by anybody, those among them whose total does not move
    reach: frozenset[Fraction] = frozenset()

    @property
    def gaining(self) -> list[Person]:
        return [each for each in self.people if each.gain > 0]

    @property
    def losing(self) -> list[Person]:
        return [each for each in self.people if each.gain < 0]

    @property
    def crossing(self) -> list[Person]:
        return [each for each in self.people if each.crosses]


def preview(sitting: Sitting, after: Held, hands: bool = False) -> Preview:
    """What would move if something else held: everybody whose total, pass or grade would be another one, those who lose
    most first; ``hands`` says whether marks that were given by hand move too."""
    before = Held.of(sitting)
    touched = touched_by(before.changed, after.changed)
    people, by_hand, reach = [], list[Moved](), set[Fraction]()
    for own, given in given_by_person(sitting):
        held = [held_marks(Rules.of(dict(before.rules)), each) for each in given]
        moved = [moves_of(taking, marks, every, after, touched) for taking, marks, every in zip(own, held, given)]
        stay = [[each for each in found if hands or not each.by_hand] for found in moved]
        by_hand += [each for found in moved for each in found if each.by_hand]
        instead = [replaced(marks, each) for marks, each in zip(held, stay)]
        was = standing(sitting, before, own, held)
        # another way of counting several submissions chooses among other marks
        now = standing(sitting, after, own, instead)
        person = Person(
            own, was[0], now[0], [each for found in stay for each in found], (was[1], now[1]), (was[2], now[2])
        )
        reach.add(now[0].most)
        if person.moved or person.gain or person.crosses:
            people.append(person)
    before.put(sitting)
    return Preview(sorted(people, key=lambda each: (each.gain, each.pk)), by_hand, frozenset(reach))


def given_by_person(sitting: Sitting) -> list[tuple[Sequence[Taking], list[list[Mark]]]]:
    """The marked attempts of everybody with all marks that were ever given to them."""
    takings = list(
        sitting.takings.counted()
        .exclude(handed_in=None)
        .exclude(marked=None)
        .exclude(form=None)
        .select_related("student")
    )
    given: dict[int, list[Mark]] = {}
    for mark in Mark.objects.filter(taking__in=takings).order_by("pk"):
        given.setdefault(mark.taking_id, []).append(mark)
    for taking in takings:
        taking.sitting = sitting
    return [(own, [given.get(each.pk, []) for each in own]) for own in by_person(takings)]


def touched_by(before: Mapping[str, Any], after: Mapping[str, Any]) -> set[int]:
    """The questions of which something else would hold, by what the form set took."""
    found = set[int]()
    for name in ("answers", "marks", "bonus"):
        was, now = before.get(name, {}), after.get(name, {})
        found |= {int(each) for each in was.keys() | now.keys() if was.get(each) != now.get(each)}
    was, now = before.get("annulled", []), after.get("annulled", [])
    return found | {each["candidate"] for each in [*was, *now] if not (each in was and each in now)}


def moves_of(
    taking: Taking, held: Sequence[Mark], given: Sequence[Mark], after: Held, touched: Collection[int]
) -> list[Moved]:
    """The answers of an attempt that would get another mark."""
    if not touched:
        return []
    there = {(each.position, each.part): each for each in held}
    # what somebody gave by hand is touched only where the rule would give something else than it gave
    by_rule = {(each.position, each.part): each for each in given if each.by_id is None}
    found = []
    for mark in marks_by_rule(taking, given, after.changed, touched):
        before = there.get((mark.position, mark.part))
        was = by_rule.get((mark.position, mark.part)) if before is not None and before.by_id is not None else before
        if before is not None and was is not None and any(getattr(was, name) != getattr(mark, name) for name in MOVED):
            found.append(Moved(before, mark))
    return found


def replaced(held: Sequence[Mark], moved: Sequence[Moved]) -> list[Mark]:
    instead = {(each.before.position, each.before.part): each.after for each in moved}
    return [instead.get((each.position, each.part), each) for each in held]


def standing(
    sitting: Sitting, holds: Held, own: Sequence[Taking], marks: Sequence[Sequence[Mark]]
) -> tuple[Total, bool | None, str]:
    """What somebody's attempts come to, whether that passes, and which grade it is."""
    holds.put(sitting)
    rules = sitting.held
    counted = that_counts(rules.which, [total(taking, each) for taking, each in zip(own, marks)])
    done = None
    if rules.has_pass_mark:
        done = passed(rules, [totals_in(taking, each) for taking, each in zip(own, marks)])
    return counted, done, grade_of(sitting, counted)


@transaction.atomic
def apply(
    sitting: Sitting, after: Held, by: User, words: str, reason: str, whose: str = "all", some: Collection[int] = (),
    hands: bool = False,
) -> Change:  # fmt: skip
    """Let something else hold from now on, and give the marks that follow: to ``all``, to those who ``gain``, or to
    ``some``, by the number of their first attempt. It is worked out once more from what stands there now; ``after`` is
    what was seen in the sitting as it is given here, with the change."""
    seen = Held.of(sitting)
    sitting = (
        Sitting.objects.select_for_update(of=("self",))
        .select_related("form_set", "test__department")
        .get(pk=sitting.pk)
    )
    pks = [each.pk for each in sitting.takings.all()]
    list(Taking.objects.select_for_update(of=("self",)).filter(pk__in=pks).order_by("pk"))
    before = Held.of(sitting)
    after = before.carried(seen, after)
    found = preview(sitting, after, hands)
    people = {"all": found.people, "gains": found.gaining}.get(
        whose, [each for each in found.people if each.pk in some]
    )
    moved = [each for person in people for each in person.moved]
    for each in moved:
        each.after.why_changed = reason[:300]
        each.after.made = timezone.now()
    Mark.objects.bulk_create([each.after for each in moved])
    after.put(sitting)
    sitting.save(update_fields=["changed", "counting", "rules"])
    change = Change.objects.create(
        sitting=sitting, words=words[:300], reason=reason[:300], before=before.kept, after=after.kept, whose=whose,
        marks=[[each.before.pk, each.after.pk] for each in moved], by=by,
    )  # fmt: skip
    sitting.note("changed", by, reason=reason, data={"change": change.pk})
    return change


class NotUndone(ValueError):
    """Why a change cannot be undone now."""


@transaction.atomic
def undo(change: Change, by: User) -> int:
    """Let what held before hold again, and the marks too where nobody has given others since; how many there were."""
    sitting = Sitting.objects.select_for_update(of=("self",)).select_related("form_set").get(pk=change.sitting_id)
    change = Change.objects.select_for_update(of=("self",)).get(pk=change.pk)
    if change.undone is not None:
        raise NotUndone("It is undone already.")
    later = Change.objects.filter(sitting=sitting, undone=None, pk__gt=change.pk).first()
    if later is not None:
        raise NotUndone(f"“{later.words}” came after it: undo that first.")
    pairs = dict(change.marks)
    there = Mark.objects.in_bulk([*pairs, *pairs.values()])
    last: dict[tuple[int, int, str], int] = {}
    takings = {each.taking_id for each in there.values()}
    for mark in Mark.objects.filter(taking__in=takings).order_by("pk"):
        last[mark.taking_id, mark.position, mark.part] = mark.pk
    rows = []
    for before, after in pairs.items():
        old = there[before]
        if last[old.taking_id, old.position, old.part] == after:
            old.pk, old._state.adding = None, True
            old.made, old.why_changed = timezone.now(), "a change was undone"
            rows.append(old)
    Mark.objects.bulk_create(rows)
    # other rules that were set since stay
    Held.of(sitting).carried(Held(**change.after), Held(**change.before)).put(sitting)
    sitting.save(update_fields=["changed", "counting", "rules"])
    change.undone, change.undone_by = timezone.now(), by
    change.save(update_fields=["undone", "undone_by"])
    sitting.note("change undone", by, data={"change": change.pk})
    return len(rows)


def with_answer(held: Held, candidate: int, part: str, answer: Mapping[str, Any], marks: Fraction | None) -> Held:
    """What holds, with another answer of a part, and other marks for it where they are given."""
    changed = deepcopy(dict(held.changed))
    changed.setdefault("answers", {}).setdefault(str(candidate), {})[part] = answer
    if marks is not None:
        changed.setdefault("marks", {}).setdefault(str(candidate), {})[part] = str(marks)
    return Held(changed, held.counting, held.rules)


def with_annulled(held: Held, row: Mapping[str, Any]) -> Held:
    """What holds, with a question, or one part of it, that does not count for all, for some forms or some draws."""
    changed = deepcopy(dict(held.changed))
    changed.setdefault("annulled", []).append(dict(row))
    return Held(changed, held.counting, held.rules)


def with_bonus(held: Held, candidate: int, beyond: bool) -> Held:
    """What holds, with a question that is beyond the test, or is no more."""
    changed = deepcopy(dict(held.changed))
    changed.setdefault("bonus", {})[str(candidate)] = beyond
    return Held(changed, held.counting, held.rules)


def with_counting(held: Held, counting: Counting) -> Held:
    return Held(held.changed, counting.kept, held.rules)
