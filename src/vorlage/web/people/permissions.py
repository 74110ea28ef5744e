"""Who may do what: predicates on a membership and an object, which each app names in its ``rules`` module.

A view is ``member`` (anybody of a department) or ``allowed`` (whoever may do a thing at all); an object is fetched with
``held``, which says that there is nothing to whoever may not see it, and refuses whoever may see it and no more.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar

import rules
from django.contrib.auth.views import redirect_to_login
from django.core.exceptions import PermissionDenied
from django.db.models import Model, QuerySet
from django.http import Http404, HttpResponse, HttpResponseBase
from django.shortcuts import get_object_or_404, render
from django.utils.http import url_has_allowed_host_and_scheme

from .models import Membership, User
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


def may(who: Membership | User, permission: str, thing: Any = None) -> bool:
    """Whether a member, or a person whatever department they work in, may do something, with a thing or at all."""
    return bool(rules.has_perm(permission, who, thing))


def signed_in(view: View) -> View:
    """For anybody who is signed in. A page that asks in the background is told so with 401 and signs in again in place;
    anybody else comes back, after signing in, to a page that can be opened: never to an address that only takes what is
    sent."""

    @wraps(view)
    def guarded(request: MemberRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        if request.user.is_authenticated:
            return view(request, *args, **kwargs)
        if asks_in_background(request):
            return HttpResponse("You are signed out.", status=401, content_type="text/plain")
        back = request.get_full_path()
        if request.method != "GET":
            back = request.headers.get("Referer", "")
            if not url_has_allowed_host_and_scheme(back, {request.get_host()}):
                back = "/"
        return redirect_to_login(back)

    return guarded


def asks_in_background(request: MemberRequest) -> bool:
    """Whether a script of a page asks, and not the browser for a page."""
    return "HX-Request" in request.headers or request.headers.get("Sec-Fetch-Mode") in {"cors", "same-origin"}


def member(view: View) -> View:
    """For anybody who belongs to a department; what they see is that department's alone."""

    @signed_in
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


def personally(permission: str) -> Callable[[View], View]:
    """For people who may do something at all, whatever department they work in, and if in none."""

    def guard(view: View) -> View:
        @signed_in
        @wraps(view)
        def guarded(request: MemberRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
            if not may(request.user, permission):
                raise PermissionDenied
            return view(request, *args, **kwargs)

        return guarded

    return guard


def held(request: MemberRequest, permission: str, among: QuerySet[Held], by: User | None = None, **lookup: Any) -> Held:
    """The object that is asked for, when the member, or the person ``by``, may do this with it.

    Raises ``Http404`` when there is none or they may not see it, ``PermissionDenied`` when they may see it and no more.
    """
    found = get_object_or_404(among, **lookup)
    meta = found._meta
    who = by or request.membership
    if may(who, permission, found):
        return found
    if may(who, f"{meta.app_label}.view_{meta.model_name}", found):
        raise PermissionDenied
    raise Http404
