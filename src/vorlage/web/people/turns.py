"""So much at a time for one person, on all processes and machines together: whoever sends many costly requests at once
waits for themselves, and nobody else does."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import wraps
from typing import Any

from django.db import connection
from django.http import HttpResponse

from .models import User
from .requests import MemberRequest

# The class of the locks in the database; those of the jobs stand beside them.
TURN_LOCK = 7003
# Two windows of one person may be answered at the same time.
AT_A_TIME = 2


@contextmanager
def turn(user: User) -> Iterator[bool]:
    """Whether one more costly request of this person is begun now; it is counted until the end of the block."""
    slots = [user.pk * AT_A_TIME + slot for slot in range(AT_A_TIME)]
    mine: int | None = None
    with connection.cursor() as cursor:
        for slot in slots:
            cursor.execute("SELECT pg_try_advisory_lock(%s, %s)", [TURN_LOCK, slot])
            if cursor.fetchone() == (True,):
                mine = slot
                break
    try:
        yield mine is not None
    finally:
        if mine is not None and connection.is_usable():
            with connection.cursor() as cursor:
                cursor.execute("SELECT pg_advisory_unlock(%s, %s)", [TURN_LOCK, mine])


def in_turn(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """A view that one person has answered only so often at a time; the page asks again a moment later."""

    @wraps(view)
    def waited(request: MemberRequest, *arguments: Any, **named: Any) -> HttpResponse:
        with turn(request.user) as mine:
            if mine:
                return view(request, *arguments, **named)
        return HttpResponse(status=429, headers={"Retry-After": "1"})

    return waited
