"""Which forms have been sent: the database decides which of two that were sent at once is the first."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Callable
from datetime import timedelta
from functools import wraps
from typing import Any

from django.db import connection, models, transaction
from django.http import HttpResponse
from django.shortcuts import redirect
from django.utils import timezone

from vorlage.web.people.models import User
from vorlage.web.people.requests import MemberRequest

# What is sent twice is sent again within this time, or meant anew.
REMEMBERED = timedelta(days=1)
FIELD = "once"


class Sending(models.Model):
    """A form that was sent, and where its sender was led; the same form sent again is led there too."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="+")
    # what was sent, with the name of the page's form that sent it
    digest = models.CharField(max_length=64)
    location = models.CharField(max_length=500, blank=True)
    when = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["user", "digest"], name="one_sending_of_a_form")]

    def __str__(self) -> str:
        return f"{self.digest[:12]} by {self.user}"


def claim(request: MemberRequest) -> Sending | None:
    """The record of a form that is sent for the first time; None when it was sent before, or is being worked on at
    this moment and that work succeeds. Within a transaction; a form without a name is always new."""
    if not name_of(request):
        return Sending(user=request.user)
    digest = digest_of(request)
    Sending.objects.filter(user=request.user, when__lt=timezone.now() - REMEMBERED).delete()
    with connection.cursor() as cursor:
        cursor.execute(
            f"INSERT INTO {Sending._meta.db_table} (user_id, digest, location, \"when\") VALUES (%s, %s, '', now())"
            " ON CONFLICT DO NOTHING RETURNING id",
            [request.user.pk, digest],
        )
        first = cursor.fetchone()
    return Sending(pk=first[0], user=request.user, digest=digest) if first else None


def name_of(request: MemberRequest) -> str:
    """The name that a page gave its form, when it is one."""
    try:
        return str(uuid.UUID(request.POST.get(FIELD, "")))
    except ValueError:
        return ""


def digest_of(request: MemberRequest) -> str:
    """What was sent and to where: a form that was changed before it was sent again is another."""
    fields = sorted((name, values) for name, values in request.POST.lists() if name != "csrfmiddlewaretoken")
    return hashlib.sha256(repr((request.path, fields)).encode("utf-8", "replace")).hexdigest()


def once(view: Callable[..., HttpResponse]) -> Callable[..., HttpResponse]:
    """For a view that makes something and leads to it: sent twice, it makes it once and leads to the same.

    The view runs in a transaction. When it refuses what was typed, nothing is remembered.
    """

    @wraps(view)
    def sent(request: MemberRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        with transaction.atomic():
            record = claim(request)
            if record is None:
                return redirect(Sending.objects.get(user=request.user, digest=digest_of(request)).location)
            response = view(request, *args, **kwargs)
            location = response.get("Location", "")
            if not location:
                transaction.set_rollback(True)
            elif record.pk:
                Sending.objects.filter(pk=record.pk).update(location=location)
        return response

    return sent
