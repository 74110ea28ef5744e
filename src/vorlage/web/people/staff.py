"""The people of a school, its departments and its settings."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.db import transaction
from django.db.models import Prefetch, Q, QuerySet
from django.http import HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from .forms import InviteForm, NewDepartmentForm, SchoolForm
from .links import path_for
from .models import Department, Membership, School, User
from .owned import belongings, hand_over
from .permissions import held, may, personally
from .requests import MemberRequest


def departments_of(user: User) -> QuerySet[Department]:
    """The departments whose people somebody looks after."""
    if user.administers:
        return Department.objects.filter(school=user.school_id)
    return Department.objects.filter(pk__in=[each.department_id for each in user.roles if each.leads])


def people_of(user: User) -> QuerySet[User]:
    """Those whom somebody looks after, with what they are in the departments."""
    found = User.objects.filter(school=user.school_id, studies=False)
    if not user.administers:
        found = found.filter(pk__in=Membership.objects.filter(department__in=departments_of(user)).values("user"))
    roles = Membership.objects.select_related("department")
    return found.prefetch_related(Prefetch("memberships", queryset=roles, to_attr="held")).order_by("name", "pk")


@personally("people.list_people")
@require_GET
def people(request: MemberRequest) -> HttpResponse:
    return list_page(request)


def list_page(request: MemberRequest, form: InviteForm | None = None, **more: Any) -> HttpResponse:
    text = request.GET.get("find", "").strip()
    listed = people_of(request.user)
    if text:
        listed = listed.filter(Q(name__icontains=text) | Q(email__icontains=text))
    context = {
        "people": listed,
        "text": text,
        "form": form or InviteForm(departments_of(request.user), request.user.administers),
        "departments": departments_of(request.user),
        **more,
    }
    return render(request, "people/people.html", context, status=422 if form is not None else 200)


@personally("people.list_people")
@never_cache
@require_POST
def invite(request: MemberRequest) -> HttpResponse:
    """An account for a colleague, or a role for one who has an account already. Whoever is new chooses a password with
    a one-time link, which is shown once."""
    departments = departments_of(request.user)
    form = InviteForm(departments, request.user.administers, request.POST)
    form.school = request.user.school_id
    if not form.is_valid():
        return list_page(request, form)
    given = form.cleaned_data
    person = given["known"]
    with transaction.atomic():
        fresh = person is None
        if person is None:
            person = User.objects.create_user(
                given["email"], None, name=given["name"], school_id=request.user.school_id
            )
        if given["department"]:
            role = {"role": given["role"]}
            Membership.objects.update_or_create(user=person, department=given["department"], defaults=role)
        if given["administers"]:
            person.administers = True
            person.save(update_fields=["administers"])
    if not fresh:
        messages.success(request, f"{person.name} had an account already, and has this role now.")
        return redirect("people")
    return link_page(request, person, invited=True)


def link_page(request: MemberRequest, person: User, invited: bool = False) -> HttpResponse:
    """A one-time link for an account, shown this once."""
    link = request.build_absolute_uri(path_for(person))
    context = {"heading": f"A link for {person.name}", "person": person, "link": link, "invited": invited}
    return render(request, "people/link.html", context)


def person_of(request: MemberRequest, pk: int, permission: str = "people.change_user") -> User:
    return held(request, permission, User.objects.select_related("school"), by=request.user, pk=pk)


@personally("people.list_people")
@require_GET
def person(request: MemberRequest, pk: int) -> HttpResponse:
    found = person_of(request, pk)
    roles = {each.department_id: each for each in found.roles}
    departments = list(departments_of(request.user))
    context = {
        "person": found,
        "rows": [(each, roles.get(each.pk)) for each in departments],
        "elsewhere": [each for each in found.roles if each.department not in departments],
        "roles": Membership.Role.choices,
        "belongings": belongings(found, [each.department for each in found.roles]),
        "colleagues": colleagues_of(request, found),
        "may_administer": may(request.user, "people.administer_user", found),
        "self": found == request.user,
    }
    return render(request, "people/person.html", context)


def colleagues_of(request: MemberRequest, found: User) -> QuerySet[User]:
    """Those who may be given what somebody has: whoever has a role in one of the same departments."""
    shared = Membership.objects.filter(department__in=led_in_common(request, found)).values("user")
    return User.objects.filter(pk__in=shared, is_active=True).exclude(pk=found.pk).order_by("name")


def led_in_common(request: MemberRequest, found: User) -> list[Department]:
    """The departments of somebody that the one who asks looks after."""
    own = set(departments_of(request.user).values_list("pk", flat=True))
    return [each.department for each in found.roles if each.department_id in own]


@personally("people.list_people")
@require_POST
def set_roles(request: MemberRequest, pk: int) -> HttpResponse:
    """What somebody is in each department that the one who asks looks after."""
    found = person_of(request, pk)
    with transaction.atomic():
        for department in departments_of(request.user):
            role = request.POST.get(f"role-{department.pk}")
            if role in Membership.Role.values:
                Membership.objects.update_or_create(user=found, department=department, defaults={"role": role})
            elif role == "":
                if found == request.user and not request.user.administers:
                    messages.error(request, "Nobody takes their own last word away: ask an administrator.")
                    continue
                Membership.objects.filter(user=found, department=department).delete()
    messages.success(request, f"The roles of {found.name} are saved.")
    again = User.objects.get(pk=pk)
    return redirect("person", pk) if may(request.user, "people.view_user", again) else redirect("people")


@personally("people.list_people")
@never_cache
@require_POST
def with_person(request: MemberRequest, pk: int) -> HttpResponse:
    """What only administrators do: close and open an account, a one-time link, and who else administers."""
    found = person_of(request, pk, "people.administer_user")
    what = request.POST.get("do")
    others = User.objects.filter(school=found.school_id, administers=True, is_active=True).exclude(pk=found.pk)
    if what == "link" and found.is_active:
        return link_page(request, found)
    if what in {"close", "no-administrator"} and found.administers and not others.exists():
        messages.error(request, f"{found.name} is the only administrator of the school: make somebody else one first.")
    elif what == "close" and found == request.user:
        messages.error(request, "Nobody closes their own account: another administrator does.")
    elif what in {"close", "open"}:
        found.is_active = what == "open"
        found.save(update_fields=["is_active"])
        words = "may sign in again" if found.is_active else "cannot sign in any more; all that they wrote stays"
        messages.success(request, f"{found.name} {words}.")
    elif what in {"administrator", "no-administrator"}:
        found.administers = what == "administrator"
        found.save(update_fields=["administers"])
        messages.success(
            request, f"{found.name} {'administers' if found.administers else 'no longer administers'} the school."
        )
    return redirect("person", pk) if may(request.user, "people.list_people") else redirect("home")


@personally("people.list_people")
@require_POST
def hand_over_all(request: MemberRequest, pk: int) -> HttpResponse:
    """Give a colleague all that somebody has, in the departments in which the colleague has a role."""
    found = person_of(request, pk)
    chosen = request.POST.get("to", "")
    colleague = get_object_or_404(
        colleagues_of(request, found), pk=int(chosen) if chosen.isdecimal() and len(chosen) < 10 else 0
    )
    given = [each for each in led_in_common(request, found) if colleague.role_in(each.pk)]
    what = belongings(found, given)
    hand_over(found, colleague, given)
    words = "; ".join(f"{', '.join(each)} in {department.name}" for department, each in what) or "nothing"
    messages.success(request, f"{colleague.name} has now what was {found.name}'s: {words}.")
    return redirect("person", pk)


@personally("people.change_school")
@require_http_methods(["GET", "POST"])
def school(request: MemberRequest) -> HttpResponse:
    """The settings of the school, and its departments."""
    found = get_object_or_404(School, pk=request.user.school_id)
    form = SchoolForm(request.POST if request.method == "POST" else None, instance=found)
    if request.method == "POST" and form.is_valid():
        form.save()
        messages.success(request, "Saved. It holds from now on for the whole school.")
        return redirect("school")
    return school_page(request, form)


def school_page(
    request: MemberRequest, form: SchoolForm, new: NewDepartmentForm | None = None, **more: str
) -> HttpResponse:
    """The page of the school; ``more`` says what a station above refused."""
    departments = Department.objects.filter(school=request.user.school_id)
    heads = Membership.objects.filter(role=Membership.Role.LEAD).select_related("user")
    listed = departments.prefetch_related(Prefetch("memberships", queryset=heads, to_attr="heads"))
    context = {"form": form, "departments": listed, "new": new or NewDepartmentForm(), **more}
    refused = bool(more) or form.is_bound or (new is not None and new.is_bound)
    return render(request, "people/school.html", context, status=422 if refused else 200)


@personally("people.add_department")
@require_POST
def new_department(request: MemberRequest) -> HttpResponse:
    found = get_object_or_404(School, pk=request.user.school_id)
    form = NewDepartmentForm(request.POST, instance=Department(school=found))
    if not form.is_valid():
        return school_page(request, SchoolForm(instance=found), form)
    made = form.save()
    messages.success(request, f"{made.name} is there. Invite its people, and choose its settings.")
    return redirect("school")
