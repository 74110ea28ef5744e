"""The request of somebody who is signed in and works in a department: what every station's views are given."""

from __future__ import annotations

from django.http import HttpRequest
from django_htmx.middleware import HtmxDetails

from .models import Membership, User


class MemberRequest(HttpRequest):
    """A request after the middleware and the guards: whose it is, and in which department."""

    user: User
    membership: Membership
    memberships: list[Membership]
    htmx: HtmxDetails
