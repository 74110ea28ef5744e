"""A large class that is marked: two hundred students and twenty questions, and how long the pages of marking take."""

from __future__ import annotations

import random
import time
from datetime import timedelta
from typing import Any

STUDENTS, QUESTIONS, FORMS = 200, 20, 10


def fill() -> Any:
    """A sitting that so many have handed in. One of each form is marked by the rules, and the rest has the
    answers and marks of one of those with the same form."""
    from django.utils import timezone

    from vorlage.core.sittings import Rules
    from vorlage.operations.demo_sittings import answer_all, perform
    from vorlage.web.bank.models import Question
    from vorlage.web.classes.models import Class, Student
    from vorlage.web.forms.models import FormSet
    from vorlage.web.people.models import Department, User
    from vorlage.web.plans.models import Test
    from vorlage.web.sittings.marking import mark
    from vorlage.web.sittings.models import Mark, Response, Sitting, Taking

    author = User.objects.get(email="ines.varga@sandhaven.example")
    physics = Department.objects.get(name="Physics")
    questions = list(
        Question.objects.filter(department__school=physics.school).exclude(current__kinds=["essay"])[:QUESTIONS]
    )
    test = Test.objects.create(department=physics, title="A whole year", author=author)
    for each in questions:
        test.add(each)
    held = Class.objects.create(department=physics, name="Year 10", year="2026/27")
    students = Student.objects.bulk_create(
        Student(school=physics.school, family=f"Family{k}", given="Mia", number=f"y{k}", search_text=f"family{k:03}")
        for k in range(STUDENTS)
    )
    held.enrol([each.pk for each in students])
    form_set = FormSet.order(test, FORMS, author)
    perform(form_set.work)
    now = timezone.localtime()
    sitting = Sitting.give(test, [held], Rules(now - timedelta(hours=2), closes=now), author, form_set)
    if sitting.job is not None:
        perform(sitting.job)
    chance = random.Random("class")
    first: dict[int, Taking] = {}
    responses, marks = list[Response](), list[Mark]()
    for taking in Taking.objects.filter(sitting=sitting).select_related("sitting", "form").order_by("pk"):
        taking.begun = now - timedelta(hours=1)
        taking.save()
        like = first.get(taking.form_id or 0)
        if like is None:
            first[taking.form_id or 0] = taking
            answer_all(taking, chance, 0.6, 1.0)
            taking.handed_in = now
            taking.save()
            mark(taking)
            continue
        taking.handed_in = taking.marked = now
        taking.save()
        for row in Response.objects.filter(taking=like):
            row.pk, row.taking_id = None, taking.pk
            responses.append(row)
        for given in Mark.objects.filter(taking=like):
            given.pk, given.taking_id = None, taking.pk
            marks.append(given)
    Response.objects.bulk_create(responses, 2000)
    Mark.objects.bulk_create(marks, 2000)
    return sitting, author


def marking_pages() -> list[float]:
    """How long each page of marking takes, in milliseconds: every part, the whole, the results. What is
    worked out once, and kept, is there already."""
    from django.test import Client
    from django.urls import reverse

    from vorlage.web.marking.overview import asked_in

    sitting, author = fill()
    client = Client()
    client.force_login(author)
    addresses = [
        reverse("mark-part", args=[sitting.pk, each.candidate.pk, each.part]) + every
        for each in asked_in(sitting)
        for every in ("", "?all")
    ]
    addresses += [
        reverse("mark-sitting", args=[sitting.pk]),
        reverse("marking"),
        reverse("results", args=[sitting.pk]),
    ] * 4
    times = []
    for again in (False, True):
        for address in addresses:
            started = time.perf_counter()
            answer = client.get(address)
            if answer.status_code != 200:
                raise AssertionError(f"{address} answers with {answer.status_code}")
            if again:
                times.append(1000 * (time.perf_counter() - started))
    return times
