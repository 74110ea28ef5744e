"""So much at a time for one person, on all processes and machines together: whoever sends many costly requests at once
waits for themselves, and nobody else does."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from typing import Any

from django.db import connection
from django.http import HttpResponse

from .models import User
from .requests import MemberRequest

# The class of the locks in the database; those of the jobs stand beside it.
TURN_LOCK = 7003
# Two windows of one person may be answered at the same time, and one more request waits for its turn.
AT_A_TIME, WAITING = 2, 1
# For how long it waits, and how often it looks whether it is its turn, in seconds.
PATIENCE, LOOKED_EVERY = 2.0, 0.03


@contextmanager
def turn(user: User) -> Iterator[bool]:
    """Whether one more costly request of this person is begun now; it is counted until the end of the block."""
    first = user.pk * (AT_A_TIME + WAITING)
    working, waiting = range(first, first + AT_A_TIME), range(first + AT_A_TIME, first + AT_A_TIME + WAITING)
    mine = taken(working)
    if mine is None and (place := taken(waiting)) is not None:
        until = time.monotonic() + PATIENCE
        while mine is None and time.monotonic() < until:
            time.sleep(LOOKED_EVERY)
            mine = taken(working)
        given_back(place)
    try:
        yield mine is not None
    finally:
        given_back(mine)


def taken(slots: range) -> int | None:
    """The first slot that nobody has, which is ours from now on; None where all are taken."""
    with connection.cursor() as cursor:
        for slot in slots:
            cursor.execute("SELECT pg_try_advisory_lock(%s, %s)", [TURN_LOCK, slot])
            if cursor.fetchone() == (True,):
                return slot
    return None


def given_back(slot: int | None) -> None:
    # what a lost connection held is free already
    if slot is not None and connection.is_usable():
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_unlock(%s, %s)", [TURN_LOCK, slot])


def in_turn(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """A view that one person has answered only so often at a time; otherwise the page is told to wait, and asks again a
    moment later."""

    @wraps(view)
    def waited(request: MemberRequest, *arguments: Any, **named: Any) -> HttpResponse:
        with turn(request.user) as mine:
            if mine:
                return view(request, *arguments, **named)
        return HttpResponse(status=204, headers={"HX-Trigger": "wait"})

    return waited
