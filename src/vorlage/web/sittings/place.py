"""A student's place in a sitting as their page asks for it, again and again, by the thousand.

What a save and a question for changes need is asked in statements that are written out: they are few, and having a
query put together anew each time takes longer than all the rest of the answer.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import datetime
from functools import lru_cache
from typing import Any

from django.db import connection, transaction

from vorlage.core import sittings
from vorlage.core.marking import is_settled
from vorlage.core.sittings import HANDED_IN, Record, Rules, Stage

from .models import (
    WORKING_PART,
    Change,
    Note,
    Response,
    Similar,
    Sitting,
    StudentItem,
    Taking,
    Tried,
    places_in_sections,
    replaced,
)

# The tables by their names.
TAKING, SITTING, RESPONSE, NOTE = (each._meta.db_table for each in (Taking, Sitting, Response, Note))
ASKED = f"""
    SELECT t.id, t.sitting_id, t.form_id, t.tab, t.begun, t.ends, t.paused, t.handed_in,
        t.let_in IS NOT NULL OR t.tried_by_id IS NOT NULL, t.released OR s.released IS NOT NULL, t.withheld,
        t.section, t.section_begun, t.section_ends, s.rules::text,
        (SELECT count(*) FROM "{NOTE}" n WHERE n.sitting_id = s.id AND (n.taking_id IS NULL OR n.taking_id = t.id))
    FROM "{TAKING}" t JOIN "{SITTING}" s ON s.id = t.sitting_id WHERE t.id = %s"""
ADDED = f"""
    INSERT INTO "{RESPONSE}" (taking_id, position, part, response, tab, number, arrived, counts)
    SELECT * FROM unnest(%s::bigint[], %s::smallint[], %s::text[], %s::text[]::jsonb[], %s::text[], %s::int[],
        %s::timestamptz[], %s::boolean[])
    ON CONFLICT (taking_id, tab, number) DO UPDATE SET counts = TRUE, arrived = EXCLUDED.arrived
    WHERE EXCLUDED.counts AND NOT "{RESPONSE}".counts"""
SAVED = f'UPDATE "{TAKING}" SET saved = %s, place = %s WHERE id = %s'
HEARD = f"""
    UPDATE "{TAKING}" SET asked = %s, away = away + %s, away_seconds = away_seconds + %s WHERE id = %s"""


@lru_cache(maxsize=256)
def rules_of(text: str) -> Rules:
    """The rules as they are kept, read once in a process."""
    return Rules.of(json.loads(text))


@lru_cache(maxsize=1024)
def readers_of(form: int) -> dict[int, dict[str, list[Any]]]:
    """What reads the answers to the questions of a form, by question (from 0) and part: laid out once, and the same
    ever after. Raises ``LookupError`` while it is not laid out."""
    found = dict(StudentItem.objects.filter(form=form).order_by().values_list("position", "readers"))
    if not found:
        # not kept: a moment later it would be missed for good
        raise LookupError
    return found


@lru_cache(maxsize=1024)
def required_of(form: int) -> tuple[tuple[int, str], ...]:
    """The parts of a form that have to be answered, by question (from 0) and identity."""
    shown = StudentItem.objects.filter(form=form).order_by("position").values_list("position", "shown")
    return tuple((position, part["id"]) for position, sheet in shown for part in sheet["parts"] if part.get("required"))


@dataclass(frozen=True, slots=True)
class Place:
    """Whose page asks, and what holds for it at this moment."""

    pk: int
    sitting: int
    form: int | None
    tab: str
    record: Record
    # where sections have times of their own
    stage: Stage | None
    rules: Rules
    # how many notes there are for them
    notes: int

    @classmethod
    def of(cls, pk: int, lock: bool = False) -> Place:
        """Raises ``Taking.DoesNotExist``; when it is locked nobody else changes it until the transaction ends."""
        with connection.cursor() as cursor:
            cursor.execute(ASKED + (" FOR UPDATE OF t" if lock else ""), [pk])
            row = cursor.fetchone()
        if row is None:
            raise Taking.DoesNotExist
        found, sitting, form, tab, begun, ends, paused, handed_in, *flags, section, since, until, rules, notes = row
        record = Record(begun, ends, paused, handed_in, *flags)
        stage = None if since is None else Stage(section, since, until)
        return cls(found, sitting, form, tab, record, stage, rules_of(rules), notes)

    @classmethod
    def held(cls, taking: Taking) -> Place:
        """The place of somebody whose row is at hand."""
        own = taking.pk, taking.sitting_id, taking.form_id, taking.tab, taking.record, taking.stage
        return cls(*own, taking.sitting.held, 0)

    def stage_is_over(self, now: datetime) -> bool:
        """Whether the time of the section that they are at is up while they work."""
        stage, record = self.stage, self.record
        over = stage is not None and stage.ends is not None and now >= stage.ends
        return over and record.paused is None and record.handed_in is None

    def takes(self, position: int, now: datetime) -> bool:
        """Whether an answer to a question (from 0) counts by the section that they are at."""
        if self.stage is None or self.form is None:
            return True
        section = self.section_at(position)
        return section is not None and sittings.takes_section(self.rules, self.stage, section, now)

    def section_at(self, position: int) -> int | None:
        """The section of a question (from 0); None where there is none such."""
        places = places_in_sections(self.form or 0)
        if position < len(places):
            return places[position]
        rows = Similar.objects.filter(taking=self.pk, form=self.form, position=position)
        return rows.values_list("section_number", flat=True).first()

    def settled(self) -> Callable[[int, str], bool]:
        """Says of a part, by question (from 0) and identity, whether nothing more can be earned on it; of none where
        nothing is checked."""
        tried: dict[tuple[int, str], list[str]] = {}
        over = set[int]()
        if self.rules.checks:
            rows = Tried.objects.filter(taking=self.pk, form=self.form).order_by("pk")
            for position, part, outcome in rows.values_list("position", "part", "outcome"):
                tried.setdefault((position, part), []).append(outcome)
        if self.rules.similar:
            over = replaced(Similar.objects.filter(taking=self.pk, form=self.form).values_list("place", "position"))
        return lambda position, part: (
            part != WORKING_PART and (position in over or is_settled(tried.get((position, part), ()), self.rules.tries))
        )

    def state(self, tab: str, now: datetime) -> dict[str, Any]:
        """How a page stands: how long there is, and whether it may go on."""
        ends, paused = self.record.ends, self.record.paused
        if self.stage is not None:
            ends = sittings.earlier(ends, self.stage.ends)
        left = None if ends is None else max(0.0, (ends - (paused or now)).total_seconds())
        phase = sittings.phase(self.rules, self.record, now)
        # another page has taken the place of this one, or another form was given
        elsewhere = "elsewhere" if self.tab else "another_form"
        stop = "handed_in" if phase == HANDED_IN else elsewhere if self.tab != tab else ""
        where = {} if self.stage is None else {"section": self.stage.section}
        return {"left": left, "phase": phase, "stop": stop} | where

    def heard(self, now: datetime, away: int | None) -> None:
        """Note that a page has asked, and for how many seconds it was left meanwhile."""
        with connection.cursor() as cursor:
            cursor.execute(HEARD, [now, int(away is not None), away or 0, self.pk])


@transaction.atomic
def moved_on(pk: int, now: datetime) -> Place:
    """The place of a student whose time for a section is up, at the one that time has brought."""
    taking = Taking.locked(pk=pk)
    if taking.reach(now):
        taking.save(update_fields=["section", "section_begun", "section_ends", "ends"])
    return Place.of(pk)


@transaction.atomic
def keep(pk: int, changes: Sequence[tuple[Change, str]], tab: str, now: datetime) -> tuple[Place, bool]:
    """Keep answers as they arrived, each once, with the page that it was typed in; whether they count. What arrives
    too late, or from a page that another one has taken the place of, is on record and counts for nothing.

    The last words of a page that was closed may come after another one has taken its place, which sends what the
    browser kept of them once more: then they count.
    """
    place = Place.of(pk, lock=True)
    if place.stage_is_over(now):
        place = moved_on(pk, now)
    counts = place.tab == tab and sittings.takes_answers(place.rules, place.record, now)
    if changes:
        settled = place.settled()
        rows = [
            (
                pk,
                each.position,
                each.part,
                json.dumps(each.response),
                origin,
                each.number,
                now,
                counts and not settled(each.position, each.part) and place.takes(each.position, now),
            )
            # the same number twice in one sending is one answer
            for (origin, _), each in {(origin, each.number): each for each, origin in changes}.items()
        ]
        with connection.cursor() as cursor:
            cursor.execute(ADDED, [list(column) for column in zip(*rows)])
            if counts:
                cursor.execute(SAVED, [now, changes[-1][0].position + 1, pk])
    return place, counts
