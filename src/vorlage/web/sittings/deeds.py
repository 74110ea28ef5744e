"""What a teacher can do for students while they sit: each is done where it can be, with a reason, on record."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime, timedelta

from django.db import transaction
from django.db.models import Max, Q

from vorlage.core.sittings import (
    earlier,
    end_if_begun,
    length_of,
    lengthened_stage,
    with_more_time,
)
from vorlage.web.people.models import User

from .attempts import following_form
from .models import Response, Sitting, Taking
from .opening import open_for

# So long has whoever is let go on after their time was up.
REOPENED_FOR = timedelta(minutes=10)


@dataclass(frozen=True, slots=True)
class Order:
    """Something that is done for students: what, by whom, why."""

    what: str
    by: User
    reason: str
    now: datetime
    length: timedelta = timedelta(0)
    allowed: Mapping[str, int | None] = field(default_factory=dict)


@transaction.atomic
def carried_out(found: Sitting, pk: int, order: Order) -> bool:
    """Do it for one student, by the number of their attempt or of their first; False where it cannot be done where they
    are."""
    locked = Taking.objects.counted().current().select_for_update(of=("self",)).select_related("student__allowance")
    taking = locked.filter(Q(pk=pk) | Q(first=pk), sitting=found).first()
    if taking is None:
        return False
    taking.sitting = found
    if order.what == "hand-in":
        return taking.begun is not None and taking.hand_in(order.now, by=order.by, reason=order.reason)
    deed = DEEDS.get(order.what)
    if deed is None or not deed(taking, order):
        return False
    taking.save()
    if order.what in OF_ALL_ATTEMPTS and taking.attempt > 1:
        taking.own.update(released=taking.released, withheld=taking.withheld)
    data = {"seconds": order.length.total_seconds(), **order.allowed}
    found.note(order.what, order.by, taking, reason=order.reason, data=data)
    return True


def give_more(taking: Taking, order: Order) -> bool:
    if taking.ends is None or taking.handed_in is not None:
        return False
    taking.ends = with_more_time(taking.record, order.length, order.now)
    if (stage := taking.stage) is not None:
        taking.put(lengthened_stage(stage, order.length, taking.paused or order.now))
    return True


def pause(taking: Taking, order: Order) -> bool:
    if taking.begun is None or taking.paused is not None or taking.handed_in is not None:
        return False
    taking.paused = order.now
    return True


def go_on(taking: Taking, order: Order) -> bool:
    if taking.paused is None:
        return False
    taking.resume(order.now)
    return True


def reopen(taking: Taking, order: Order) -> bool:
    if taking.handed_in is None:
        return False
    taking.handed_in, taking.receipt, taking.marked, taking.by_time = None, "", None, False
    if taking.ends is not None and taking.ends <= order.now:
        taking.ends = order.now + REOPENED_FOR
    if taking.section_ends is not None and taking.section_ends <= order.now:
        taking.section_ends = earlier(taking.ends, order.now + REOPENED_FOR)
    return True


def let_in(taking: Taking, order: Order) -> bool:
    if taking.let_in is not None:
        return False
    taking.let_in = order.now
    return True


def another_form(taking: Taking, order: Order) -> bool:
    """A form with other numbers than they have had; what was answered on the one before stays on record and counts no
    more."""
    other = following_form(taking)
    if taking.handed_in is not None or other == taking.form_id:
        return False
    last = Response.objects.filter(taking=taking).aggregate(last=Max("pk"))["last"]
    taking.form_id, taking.since, taking.tab, taking.place = other, last or 0, "", 0
    return True


def unlock(taking: Taking, order: Order) -> bool:
    """Open a sitting that comes after another one, for a student of the lists who has not passed that."""
    if not taking.sitting.behind or taking.student_id is None or taking.begun is not None:
        return False
    open_for(taking.sitting, [taking.student_id], order.by)
    return True


def absent(taking: Taking, order: Order) -> bool:
    """Not there when it was sat on paper."""
    done = taking.sitting.held.on_paper and not taking.absent
    taking.absent = taking.absent or done
    return done


def present(taking: Taking, order: Order) -> bool:
    done, taking.absent = taking.absent, False
    return done


def withhold(taking: Taking, order: Order) -> bool:
    done, taking.withheld = not taking.withheld, True
    return done


def release(taking: Taking, order: Order) -> bool:
    """Their results alone."""
    done, taking.released = not taking.released or taking.withheld, True
    taking.withheld = False
    return done


def give_back(taking: Taking, order: Order) -> bool:
    done, taking.withheld = taking.withheld, False
    return done


def allow(taking: Taking, order: Order) -> bool:
    """Other allowances here; who has begun has their end moved with them."""
    before = taking.allowed
    for name, value in order.allowed.items():
        setattr(taking, name, value)
    if taking.begun is not None and taking.handed_in is None and taking.allowed != before:
        rules = taking.sitting.held
        was, ends = (end_if_begun(rules, taking.begun, each) for each in (before, taking.allowed))
        if was is not None and ends is not None and taking.ends is not None:
            # what was given or paused beyond it stays theirs; nobody's time is made shorter
            taking.ends = max(taking.ends, taking.ends + (ends - was))
        if (stage := taking.stage) is not None and stage.ends is not None:
            had, has = (length_of(rules, stage.section, each) for each in (before, taking.allowed))
            if had is not None and has is not None:
                taking.put(lengthened_stage(stage, max(timedelta(0), has - had), stage.ends))
    return True


# What can be done for students; each says whether it could.
DEEDS: dict[str, Callable[[Taking, Order], bool]] = {
    "more": give_more, "pause": pause, "go-on": go_on, "reopen": reopen, "let-in": let_in, "form": another_form,
    "withhold": withhold, "release": release, "give-back": give_back, "allow": allow,
    "open": unlock, "absent": absent, "present": present,
}  # fmt: skip
# What is done for a student in all of their attempts, and not in the last alone.
OF_ALL_ATTEMPTS = frozenset({"withhold", "release", "give-back"})
