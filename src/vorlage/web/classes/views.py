"""Classes and their students."""

from __future__ import annotations

from collections.abc import Iterable
from itertools import zip_longest
from typing import Any

from django.contrib import messages
from django.core.exceptions import PermissionDenied
from django.core.paginator import Paginator
from django.db import IntegrityError, transaction
from django.db.models import QuerySet
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.cache import never_cache
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from vorlage.core.roster import (
    COLUMNS,
    MAXIMUM_BYTES,
    TableError,
    as_text,
    compare,
    read_file,
    read_people,
    read_text,
)
from vorlage.web.design.asking import chosen_number
from vorlage.web.design.tables import as_csv, as_workbook
from vorlage.web.once.models import once
from vorlage.web.people.models import Department, User
from vorlage.web.people.permissions import held, may, personally, signed_in
from vorlage.web.people.requests import MemberRequest

from .forms import AllowanceForm, ClassForm, StudentForm
from .lists import take
from .models import Allowance, Class, Enrolment, Student
from .slips import make_slips
from .undoing import forget, last_done, remember, remember_list, take_back

A_PAGE = 50


def departments_of(user: User) -> QuerySet[Department]:
    """The departments in which somebody may begin a class."""
    school = Department.objects.filter(school=user.school_id)
    if user.administers:
        return school
    return school.filter(pk__in=[each.department_id for each in user.roles if each.may_write])


def staff_of(user: User) -> QuerySet[User]:
    """Who may teach a class: whoever has a role in a department of the school."""
    staff = User.objects.filter(school=user.school_id, is_active=True, memberships__isnull=False)
    return staff.distinct().order_by("name")


def class_of(request: MemberRequest, pk: int) -> Class:
    """A class that somebody may open, and then change."""
    among = Class.objects.select_related("department__school")
    return held(request, "classes.change_class", among, by=request.user, pk=pk)


@personally("classes.list_classes")
@require_GET
def classes(request: MemberRequest) -> HttpResponse:
    return list_page(request)


def list_page(request: MemberRequest, form: ClassForm | None = None) -> HttpResponse:
    listed = Class.objects.seen_by(request.user).with_counts().select_related("department").prefetch_related("teachers")
    may_add = may(request.user, "classes.add_class")
    if form is None and may_add:
        first = {"department": request.membership.department_id} if request.membership else {}
        form = ClassForm(departments_of(request.user), staff_of(request.user), initial=first)
    context = {"classes": listed, "form": form, "may_add": may_add}
    return render(request, "classes/classes.html", context, status=422 if form and form.is_bound else 200)


@personally("classes.add_class")
@require_POST
@once
def new_class(request: MemberRequest) -> HttpResponse:
    form = ClassForm(departments_of(request.user), staff_of(request.user), request.POST)
    if not form.is_valid():
        return list_page(request, form)
    made = form.save()
    if request.user.roles and "teachers" not in request.POST:
        made.teachers.add(request.user)
    return redirect("class", made.pk)


@personally("classes.list_classes")
@require_GET
def class_page(request: MemberRequest, pk: int) -> HttpResponse:
    return of_class(request, class_of(request, pk))


def of_class(request: MemberRequest, found: Class, form: ClassForm | None = None) -> HttpResponse:
    """The page of a class: who is in it, who has left, and what can be done."""
    enrolments = found.enrolments.select_related("student__user").order_by("student__search_text")
    listed = list(enrolments)
    teachers = list(found.teachers.order_by("name"))
    teaches = request.user in teachers
    allowed = (
        {each.student_id: each.in_words() for each in Allowance.objects.filter(student__enrolments__held=found)}
        if teaches
        else {}
    )
    now = [(each.student, allowed.get(each.student_id)) for each in listed if each.left is None]
    others = Class.objects.seen_by(request.user).exclude(pk=found.pk)
    context = {
        "class": found,
        "students": now,
        "left": [each for each in listed if each.left is not None],
        "teachers": teachers,
        "teaches": teaches,
        "others": others,
        "without": sum(student.user is None for student, _ in now),
        "undo": last_done(request, found),
        "form": form or class_form(request, found),
    }
    return render(request, "classes/class.html", context, status=422 if form is not None else 200)


def class_form(request: MemberRequest, found: Class, *posted: Any) -> ClassForm:
    departments = departments_of(request.user) | Department.objects.filter(pk=found.department_id)
    staff = staff_of(request.user) | User.objects.filter(pk__in=found.teachers.all()).distinct()
    return ClassForm(departments.distinct(), staff.distinct(), *posted, instance=found)


@personally("classes.list_classes")
@require_POST
def edit_class(request: MemberRequest, pk: int) -> HttpResponse:
    found = class_of(request, pk)
    form = class_form(request, found, request.POST)
    if not form.is_valid():
        return of_class(request, Class.objects.select_related("department__school").get(pk=pk), form)
    changed = form.save()
    # whoever gives a class away sees it no more
    return redirect("class", pk) if may(request.user, "classes.view_class", changed) else redirect("classes")


@personally("classes.list_classes")
@require_POST
def drop_class(request: MemberRequest, pk: int) -> HttpResponse:
    """Remove a class in which nobody ever was; another one stays, with all that was done in it."""
    found = class_of(request, pk)
    if found.enrolments.exists():
        return redirect("class", pk)
    found.delete()
    return redirect("classes")


# adding students


@personally("classes.list_classes")
@require_http_methods(["GET", "POST"])
def add_students(request: MemberRequest, pk: int) -> HttpResponse:
    """Students are typed, pasted or come in a file; what it would change is shown before anything is kept."""
    found = class_of(request, pk)
    context: dict[str, object] = {"class": found, "text": request.POST.get("text", "")}
    if request.method == "GET":
        return render(request, "classes/add.html", context)
    try:
        text = text_of(request)
        context["text"] = text
        table = read_text(text)
    except TableError as problem:
        return render(request, "classes/add.html", context | {"refused": problem.message}, status=422)
    chosen = request.POST.getlist("column") if not request.FILES else []
    reading = read_people(table, chosen, request.POST.get("headings") == "yes" if chosen else None)
    if request.POST.get("do") == "take" and not reading.faults:
        decisions = {each.row: request.POST.get(f"row-{each.row}", "") for each in reading.entries}
        taken = take(found, reading.entries, decisions, map(chosen_number, request.POST.getlist("gone")))
        remember_list(request, found, taken)
        return redirect("class", pk)
    comparison = compare(reading.entries, Student.objects.all().known(found))
    heads = reading.heads or (table.rows[0][1] if table.rows else ())
    columns = zip_longest(reading.columns, heads, fillvalue="")
    context |= {
        "table": table,
        "reading": reading,
        "comparison": comparison,
        "columns": list(columns),
        "meanings": [(name, label) for name, (label, _) in COLUMNS.items()],
        "headed": bool(reading.heads),
    }
    return render(request, "classes/add.html", context, status=422 if reading.faults else 200)


def text_of(request: MemberRequest) -> str:
    """What was typed or pasted, or the table in the file that was chosen. Raises ``TableError``."""
    file = request.FILES.get("file")
    if file is None:
        text = request.POST.get("text", "")
        if not text.strip():
            raise TableError("empty", "Type or paste at least one name, or choose a file.")
        return text
    if (file.size or 0) > MAXIMUM_BYTES:
        raise TableError("too_large", f"This file is larger than {MAXIMUM_BYTES // 1_000_000} MB: no class list is.")
    table = read_file(file.read())
    if table.faults:
        told = "; ".join(f"row {row}: {message}" for row, message in table.faults[:5])
        raise TableError("faults", f"Nothing of this file was taken. {told[0].upper()}{told[1:]}")
    return as_text(table)


# what is done with students


@personally("classes.list_classes")
@require_POST
def with_students(request: MemberRequest, pk: int) -> HttpResponse:
    """What is done with the students that were ticked; it can be taken back."""
    found = class_of(request, pk)
    ticked = ticked_in(request, found)
    what, _, where = request.POST.get("do", "").partition(" ")
    if not ticked and what != "back":
        messages.warning(request, "Nobody was ticked.")
    elif what == "take-out":
        left = found.take_out(each.pk for each in ticked)
        remember(request, found, f"{students_words(left)} taken out of {found.name}.", left=left)
    elif what == "back":
        back = [chosen_number(where)]
        found.enrol(Enrolment.objects.filter(held=found, student__in=back).values_list("student", flat=True))
    elif what == "copy":
        other = get_object_or_404(Class.objects.seen_by(request.user), pk=chosen_number(request.POST.get("class", "")))
        if other.department.school_id != found.department.school_id:
            raise PermissionDenied
        there = set(other.enrolments.filter(left=None).values_list("student", flat=True))
        put = [each.pk for each in ticked if each.pk not in there]
        other.enrol(put)
        remember(request, found, f"{students_words(put)} put into {other}.", copied=[other.pk, put])
    elif what in {"close", "open"}:
        users = User.objects.filter(student__in=ticked, is_active=what == "close")
        changed = list(users.values_list("pk", flat=True))
        User.objects.filter(pk__in=changed).update(is_active=what == "open")
        words = "may not sign in for now" if what == "close" else "may sign in again"
        remember(
            request,
            found,
            f"{students_words(changed)} {words}.",
            **{f"{what}{'d' if what == 'close' else 'ed'}": changed},
        )
    return redirect("class", pk)


def ticked_in(request: MemberRequest, found: Class) -> list[Student]:
    """Those who were ticked and are in the class."""
    chosen = [chosen_number(each) for each in request.POST.getlist("student")]
    here = Student.objects.filter(enrolments__held=found, enrolments__left=None, pk__in=chosen)
    return list(here.select_related("user"))


def students_words(students: Iterable[object]) -> str:
    count = len(list(students))
    return f"{count} student{'' if count == 1 else 's'}"


@personally("classes.list_classes")
@require_POST
def undo(request: MemberRequest, pk: int) -> HttpResponse:
    found = class_of(request, pk)
    done = forget(request)
    if done.get("class") == found.pk:
        take_back(found, done)
    return redirect("class", pk)


@personally("classes.list_classes")
@never_cache
@require_POST
def slips(request: MemberRequest, pk: int) -> HttpResponse:
    """Sign-in slips of those who were ticked, or of all who have no sign-in yet. The passwords are on this page
    alone."""
    found = class_of(request, pk)
    students = ticked_in(request, found)
    if not students:
        without = Student.objects.filter(enrolments__held=found, enrolments__left=None, user=None)
        students = list(without)
    made = make_slips(students)
    address = request.build_absolute_uri("/")
    return render(request, "classes/slips.html", {"class": found, "slips": made, "address": address})


@personally("classes.list_classes")
@require_GET
def class_list(request: MemberRequest, pk: int, kind: str) -> HttpResponse:
    """The class list as a file that can be taken back in."""
    found = class_of(request, pk)
    if kind not in {"csv", "xlsx"}:
        raise Http404
    rows = Student.objects.filter(enrolments__held=found, enrolments__left=None)
    table = [("Family name", "Given name", "School number", "E-mail address")]
    table += [(each.family, each.given, each.number, each.email) for each in rows]
    content, media = as_csv(table) if kind == "csv" else as_workbook({found.name: table})
    name = "".join(sign if sign.isalnum() else "-" for sign in f"{found.name} {found.year}")
    answer = HttpResponse(content, content_type=media)
    answer["Content-Disposition"] = f'attachment; filename="class-{name.encode("ascii", "ignore").decode()}.{kind}"'
    return answer


# students


@personally("classes.list_classes")
@require_GET
def students(request: MemberRequest) -> HttpResponse:
    """The students that somebody sees, found by typing a part of a name or number."""
    text = request.GET.get("find", "").strip()
    listed = Student.objects.seen_by(request.user).found(text).with_classes()
    page = Paginator(listed, A_PAGE).get_page(request.GET.get("page"))
    template = "classes/_found.html" if request.htmx else "classes/students.html"
    return render(request, template, {"page": page, "text": text})


def student_of(request: MemberRequest, pk: int) -> Student:
    among = Student.objects.select_related("user", "school")
    return held(request, "classes.change_student", among, by=request.user, pk=pk)


@personally("classes.list_classes")
@require_GET
def student(request: MemberRequest, pk: int) -> HttpResponse:
    return of_student(request, student_of(request, pk))


def of_student(request: MemberRequest, found: Student, **forms: Any) -> HttpResponse:
    """The page of a student; what is allowed to them only for whoever teaches them."""
    enrolments = found.enrolments.select_related("held__department").order_by("left", "held__name")
    seen = set(Class.objects.seen_by(request.user).values_list("pk", flat=True))
    context = {
        "student": found,
        "enrolments": [(each, each.held_id in seen) for each in enrolments],
        "form": StudentForm(instance=found),
        "teaches": may(request.user, "classes.view_allowance", found),
    }
    if context["teaches"] and "allowance" not in forms:
        context["allowance"] = AllowanceForm(instance=Allowance.objects.filter(student=found).first())
    return render(request, "classes/student.html", context | forms, status=422 if forms else 200)


@personally("classes.list_classes")
@require_POST
def edit_student(request: MemberRequest, pk: int) -> HttpResponse:
    found = student_of(request, pk)
    form = StudentForm(request.POST, instance=found)
    if not form.is_valid():
        return of_student(request, student_of(request, pk), form=form)
    try:
        with transaction.atomic():
            form.save().tell_user()
    except IntegrityError:
        form.add_error("number", "Somebody else has this number since a moment ago.")
        return of_student(request, student_of(request, pk), form=form)
    return redirect("student", pk)


@personally("classes.list_classes")
@require_POST
def edit_allowance(request: MemberRequest, pk: int) -> HttpResponse:
    found = held(request, "classes.view_allowance", Student.objects.all(), by=request.user, pk=pk)
    allowance = Allowance.objects.filter(student=found).first() or Allowance(student=found)
    form = AllowanceForm(request.POST, instance=allowance)
    if not form.is_valid():
        return of_student(request, student_of(request, pk), allowance=form)
    form.save()
    return redirect("student", pk)


@signed_in
@require_GET
def mine(request: MemberRequest) -> HttpResponse:
    """What a student sees first: their classes."""
    found = get_object_or_404(Student.objects.select_related("school"), user=request.user)
    enrolments = found.enrolments.filter(left=None).select_related("held__department")
    return render(request, "classes/mine.html", {"student": found, "enrolments": enrolments})
