"""Who may reach what: every view of every app is wrapped in one of these."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import Any

from django.contrib.auth.decorators import login_required
from django.core.exceptions import PermissionDenied
from django.http import HttpResponseBase
from django.shortcuts import render

from .requests import MemberRequest

View = Callable[..., HttpResponseBase]


def member(view: View) -> View:
    """For anybody who belongs to a department; what they see is that department's alone."""

    @login_required
    @wraps(view)
    def guarded(request: MemberRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        if getattr(request, "membership", None) is None:
            return render(request, "people/no_department.html", status=403)
        return view(request, *args, **kwargs)

    return guarded


def author(view: View) -> View:
    """For members who write: heads of department and authors."""

    @member
    @wraps(view)
    def guarded(request: MemberRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        if not request.membership.may_write:
            raise PermissionDenied
        return view(request, *args, **kwargs)

    return guarded
