"""The live table of a sitting: who is where, in a fixed number of queries however many sit it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import lru_cache

from django.db.models import F, Max
from django.utils import timezone
from django.utils.safestring import SafeString, mark_safe

from vorlage.core.sittings import HANDED_IN, OVER, PAUSED, WORKING, earlier, moment_words

from .models import WORKING_PART, Response, Sitting, StudentItem, Taking
from .opening import waiting_in
from .road import is_empty

# Who was not heard of for so long has lost the connection.
SILENT = timedelta(seconds=40)


@dataclass(frozen=True)
class Row:
    """A student of a sitting."""

    taking: Taking
    words: str
    # whether something stands in each question, and since when
    answers: Sequence[datetime | None]
    left: str
    silent: bool
    saved: str

    @property
    def answered(self) -> int:
        return sum(at is not None for at in self.answers)

    @property
    def ruler(self) -> SafeString:
        """The questions as cells of a ruler, filled where something stands; hundreds are shown at a time, so no
        template is gone through for each."""
        cells = "".join(
            f"<span>{number}</span>" if at is None else
            f'<span class="is-answered" title="{timezone.localtime(at):%H:%M:%S}">{number}</span>'
            for number, at in enumerate(self.answers, start=1)
        )  # fmt: skip
        return mark_safe(cells)


@lru_cache(maxsize=256)
def questions_in(form_set: int) -> dict[int, int]:
    """How many questions each form of a set has; it is frozen. Raises ``LookupError`` while they are not laid out."""
    laid = StudentItem.objects.filter(form__form_set=form_set).order_by().values_list("form")
    found = dict(laid.annotate(Max("position")).values_list("form", "position__max"))
    if not found:
        raise LookupError
    return {form: last + 1 for form, last in found.items()}


def rows_of(sitting: Sitting, now: datetime) -> list[Row]:
    """A row for every student, in class order."""
    own_takings = (
        Taking.objects.filter(sitting=sitting).counted().current().select_related("student__allowance", "form")
    )
    # whoever came in without a name stands in no order that tells when
    takings = list(own_takings.order_by("student__search_text", "name", "group", "entry"))
    try:
        counts = questions_in(sitting.form_set_id)
    except LookupError:
        counts = {}
    waiting = waiting_in(sitting)
    latest: dict[int, dict[int, list[tuple[datetime, bool]]]] = {}
    responses = Response.objects.filter(taking__in=takings, counts=True, pk__gt=F("taking__since"))
    responses = responses.exclude(part=WORKING_PART).order_by("taking_id", "position", "part", "-pk")
    current = responses.distinct("taking_id", "position", "part")
    for whose, position, response, arrived in current.values_list("taking", "position", "response", "arrived"):
        latest.setdefault(whose, {}).setdefault(position, []).append((arrived, not is_empty(response)))
    found = []
    for taking in takings:
        taking.sitting = sitting
        own = latest.get(taking.pk, {})
        answers = [last_of(own.get(position, [])) for position in range(counts.get(taking.form_id or 0, 0))]
        row = row_of(taking, now, answers)
        if taking.begun is None and taking.student_id in waiting:
            row = replace(row, words=waiting[taking.student_id])
        found.append(row)
    return found


def last_of(given: Sequence[tuple[datetime, bool]]) -> datetime | None:
    """When a question was answered last; None where nothing stands in it."""
    return max(at for at, _ in given) if any(full for _, full in given) else None


def row_of(taking: Taking, now: datetime, answers: Sequence[datetime | None]) -> Row:
    where = taking.phase(now)
    running = where in {WORKING, OVER}
    silent = running and taking.asked is not None and now - taking.asked > SILENT
    left = ""
    ends = earlier(taking.ends, taking.section_ends)
    if where == WORKING and ends is not None:
        left = short(ends - now)
    if where == PAUSED and ends is not None and taking.paused is not None:
        left = short(ends - taking.paused)
    saved = timezone.localtime(taking.saved).strftime("%H:%M:%S") if taking.saved else ""
    return Row(taking, said(taking, where, silent, now, len(answers)), answers, left, silent, saved)


def short(length: timedelta) -> str:
    """A length of time as a clock shows it: to the minute where it is long."""
    seconds = max(0, round(length.total_seconds()))
    if seconds >= 172_800:
        return f"{seconds // 86_400} days"
    if seconds >= 3600:
        return f"{seconds // 3600} h {seconds % 3600 // 60} min"
    return f"{seconds // 60} min" if seconds >= 600 else f"{seconds // 60}:{seconds % 60:02}"


def said(taking: Taking, where: str, silent: bool, now: datetime, count: int) -> str:
    """Where a student is, in words; there are so many questions on their form."""
    told = said_of_attempt(taking, where, silent, now, count)
    return f"attempt {taking.attempt}: {told}" if taking.attempt > 1 else told


def said_of_attempt(taking: Taking, where: str, silent: bool, now: datetime, count: int) -> str:
    if where == HANDED_IN and taking.handed_in is not None:
        how = "time was up" if taking.by_time else "handed in"
        late = f", {taking.late} day{'' if taking.late == 1 else 's'} late" if taking.late else ""
        return f"{how} {moment_words(timezone.localtime(taking.handed_in), timezone.localtime(now))}{late}"
    words = {
        "on_paper": "was not there" if taking.absent else "on paper",
        "not_yet": "not open yet", "open": "not here", "at_the_door": "waits to be let in", "missed": "did not begin",
        "paused": "paused", "only_hand_in": "may only hand in", "over": "over time", "time_up": "time is up",
    }  # fmt: skip
    if where == WORKING:
        place = f"at question {taking.place}" if taking.place else "begun"
        if taking.place > count:
            place = "at a similar question"
        if taking.stage is not None:
            place += f", section {taking.section + 1}"
        return f"{place}, connection lost" if silent else place
    return words[where]
