"""Who may do what: predicates on a membership and an object, which each app names in its ``rules`` module.

A view is ``member`` (anybody of a department) or ``allowed`` (whoever may do a thing at all); an object is fetched with
``held``, which says that there is nothing to whoever may not see it, and refuses whoever may see it and no more.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

import rules
from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.db.models import Model, QuerySet
from django.http import Http404, HttpResponseBase
from django.shortcuts import get_object_or_404, render

from .models import Membership
from .requests import MemberRequest

View = Callable[..., HttpResponseBase]
Held = TypeVar("Held", bound=Model)


@rules.predicate
def writes(membership: Membership) -> bool:
    """Heads of department and authors."""
    return membership.may_write


@rules.predicate
def same_department(membership: Membership, thing: Any) -> bool:
    """What belongs to the department that a member works in."""
    return bool(thing.department_id == membership.department_id)


def may(membership: Membership, permission: str, thing: Any = None) -> bool:
    """Whether a member may do something, with a thing or at all."""
    return bool(rules.has_perm(permission, membership, thing))


def member(view: View) -> View:
    """For anybody who belongs to a department; what they see is that department's alone."""

    @login_required
    @wraps(view)
    def guarded(request: MemberRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        if getattr(request, "membership", None) is None:
            return render(request, "people/no_department.html", status=403)
        return view(request, *args, **kwargs)

    return guarded


def allowed(permission: str) -> Callable[[View], View]:
    """For members who may do something at all, whatever it is done with."""

    def guard(view: View) -> View:
        @member
        @wraps(view)
        def guarded(request: MemberRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
            if not may(request.membership, permission):
                raise PermissionDenied
            return view(request, *args, **kwargs)

        return guarded

    return guard


def held(request: MemberRequest, permission: str, among: QuerySet[Held], **lookup: Any) -> Held:
    """The object that is asked for, when the member may do this with it.

    Raises ``Http404`` when there is none or they may not see it, ``PermissionDenied`` when they may see it and no more.
    """
    found = get_object_or_404(among, **lookup)
    meta = found._meta
    if may(request.membership, permission, found):
        return found
    if may(request.membership, f"{meta.app_label}.view_{meta.model_name}", found):
        raise PermissionDenied
    raise Http404
