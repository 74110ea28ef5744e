"""Signing in and out, and changing the department one works in."""

from __future__ import annotations

from allauth.account.views import LoginView
from django.contrib.auth import logout
from django.contrib.auth.decorators import login_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from .middleware import SESSION_KEY
from .requests import MemberRequest


class SignInView(LoginView):
    template_name = "people/sign_in.html"


@require_GET
def account_closed(request: HttpRequest) -> HttpResponse:
    """Where somebody lands whose account has been closed."""
    context = {"title": "This account has been closed", "message": "Ask your technician to open it again."}
    return render(request, "design/problem.html", context)


@require_POST
def sign_out(request: HttpRequest) -> HttpResponse:
    logout(request)
    return redirect("account_login")


@login_required
@require_POST
def change_department(request: MemberRequest, department: int) -> HttpResponse:
    """Work in another of one's departments from now on."""
    membership = get_object_or_404(request.user.memberships, department_id=department)
    request.session[SESSION_KEY] = membership.department_id
    return redirect("home")
