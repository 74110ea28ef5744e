"""Signing in and out, the department one works in, and its settings."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from allauth.account.views import LoginView
from allauth.core import ratelimit
from django.conf import settings
from django.contrib import messages
from django.contrib.auth import logout
from django.contrib.auth.views import PasswordChangeView, PasswordResetConfirmView
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.middleware.csrf import get_token
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse_lazy
from django.utils.safestring import SafeString, mark_safe
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from vorlage.core.notation import Habits, from_document, mathml, read

from .forms import ChangePasswordForm, DepartmentForm, ForgottenForm, NewPasswordForm
from .middleware import SESSION_KEY
from .models import Department
from .permissions import held, may, personally, signed_in
from .requests import MemberRequest


class SignInView(LoginView):
    template_name = "people/sign_in.html"


class Refused:
    """What cannot be taken is answered as such, by whatever view has a form."""

    def form_invalid(self, form: Any) -> HttpResponse:
        refused: HttpResponse = super().form_invalid(form)  # type: ignore[misc]
        refused.status_code = 422
        return refused


class NewPassword(Refused):
    """What choosing a password has in common: what is said then."""

    said = ""

    def form_valid(self, form: Any) -> HttpResponse:
        answer: HttpResponse = super().form_valid(form)  # type: ignore[misc]
        messages.success(self.request, self.said)  # type: ignore[attr-defined]
        return answer


class ChangePassword(NewPassword, PasswordChangeView):
    """One's own password, changed by whoever knows it; other browsers are signed out by it."""

    template_name = "people/password.html"
    form_class = ChangePasswordForm
    success_url = reverse_lazy("home")
    extra_context = {"heading": "Change your password", "press": "Change password"}
    said = "Your password is changed. Other browsers are signed out."


class SetPassword(NewPassword, PasswordResetConfirmView):
    """A new password by a one-time link; the link is worth nothing once it was used, or a day later."""

    template_name = "people/password.html"
    form_class = NewPasswordForm
    success_url = reverse_lazy("account_login")
    extra_context = {"heading": "Choose a password", "press": "Keep this password"}
    said = "Your password is kept. Sign in with it."


@never_cache
@require_http_methods(["GET", "POST"])
def forgotten_password(request: HttpRequest) -> HttpResponse:
    """A one-time link by mail, where mail is set up; otherwise whom to ask. Whether an address has an account is not
    told."""
    context: dict[str, object] = {"mail": settings.MAIL_IS_SET_UP}
    if request.method == "POST" and settings.MAIL_IS_SET_UP:
        form = ForgottenForm(request.POST)
        key = request.POST.get("email", "").lower()
        if not ratelimit.consume(request, action="reset_password", key=key):
            return render(request, "people/forgotten.html", context | {"form": form, "too_many": True}, status=429)
        if form.is_valid():
            form.save(request=request, use_https=request.is_secure(), **LETTER)
            return render(request, "people/forgotten.html", context | {"sent": True})
        return render(request, "people/forgotten.html", context | {"form": form}, status=422)
    return render(request, "people/forgotten.html", context | {"form": ForgottenForm()})


LETTER: dict[str, Any] = {
    "subject_template_name": "people/letter_subject.txt",
    "email_template_name": "people/letter.txt",
    "domain_override": None,
}


@require_GET
def account_closed(request: HttpRequest) -> HttpResponse:
    """Where somebody lands whose account has been closed."""
    whom = "An administrator of your school opens it again; students ask their teacher."
    context = {"title": "This account has been closed", "message": whom}
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


# Line maths in which every habit can be seen: what it is an example of, and how it is typed and printed.
EXAMPLES = (
    ("a number", "23544.75", "23544.75"),
    ("a product", "2.5*10^3", "2.5*10^3"),
    ("a point", "(1.5, -2)", "(1.5, -2)"),
    ("a tangent", "tan(x)/1.2", "tan(x)/1.2"),
    ("what varies", "0.5..4 step 0.25", "list(0.5, 0.75, 1)"),
)


@personally("people.view_departments")
@require_http_methods(["GET", "POST"])
def department_settings(request: MemberRequest, department: int = 0) -> HttpResponse:
    """What holds in a department, the one in force if none is named, with examples of how numbers are written there."""
    if not department and request.membership is None:
        return redirect("home")
    among = Department.objects.select_related("school")
    wanted = department or request.membership.department_id
    permission = "people.change_department" if request.method == "POST" else "people.view_department"
    found = held(request, permission, among, by=request.user, pk=wanted)
    form = DepartmentForm(request.POST if request.method == "POST" else None, instance=found)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Saved. It holds from now on for everybody in the department.")
        return redirect(request.path)
    if request.htmx:
        tried = DepartmentForm(request.GET, instance=found)
        tried.is_valid()
        chosen = {name: tried.cleaned_data.get(name, getattr(found, name)) for name in HABITS}
        return render(request, "people/_habits.html", {"examples": examples(Habits(**chosen))})
    # what was refused stays in the form, and the page speaks of what is kept
    kept = Department.objects.select_related("school").get(pk=found.pk) if form.is_bound else found
    context = {
        "form": form,
        "department": kept,
        "may_change": may(request.user, "people.change_department", kept),
        "examples": examples(kept.habits),
    }
    return render(request, "people/department.html", context, status=422 if form.is_bound else 200)


HABITS = [each.name for each in fields(Habits)]


def examples(habits: Habits) -> list[tuple[str, str, SafeString]]:
    """What each habit makes of an example: its name, how it is typed, how it is printed."""
    found = []
    for name, written, shown in EXAMPLES:
        # the core's printer escapes whatever is in it
        printed = mark_safe(mathml(read(shown), habits.style))
        typed = from_document(written, habits)
        found.append((name, typed.replace("tan", "tg") if habits.tg else typed, printed))
    return found
