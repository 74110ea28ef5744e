"""Signing in and out, and changing the department one works in."""

from __future__ import annotations

from allauth.account.views import LoginView
from django.contrib.auth import logout
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.middleware.csrf import get_token
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_POST

from .middleware import SESSION_KEY
from .permissions import signed_in
from .requests import MemberRequest


class SignInView(LoginView):
    template_name = "people/sign_in.html"


@require_GET
def account_closed(request: HttpRequest) -> HttpResponse:
    """Where somebody lands whose account has been closed."""
    context = {"title": "This account has been closed", "message": "Ask your technician to open it again."}
    return render(request, "design/problem.html", context)


@never_cache
@require_GET
def session(request: HttpRequest) -> HttpResponse:
    """Who is signed in in this browser, for a page that was told that nobody is, and the token for what it sends."""
    person = request.user.pk if request.user.is_authenticated else None
    return JsonResponse({"person": person, "token": get_token(request)})


@require_POST
def sign_out(request: HttpRequest) -> HttpResponse:
    logout(request)
    return redirect("account_login")


@signed_in
@require_POST
def change_department(request: MemberRequest, department: int) -> HttpResponse:
    """Work in another of one's departments from now on."""
    membership = get_object_or_404(request.user.memberships, department_id=department)
    request.session[SESSION_KEY] = membership.department_id
    return redirect("home")
