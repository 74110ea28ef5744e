"""Proving the bank again: every night all of it, and what somebody wants proved."""

from __future__ import annotations

from datetime import timedelta

from django.db import transaction
from django.utils import timezone

from vorlage.core.errors import CoreError
from vorlage.core.notation import USUAL
from vorlage.core.questions import Proof, prove
from vorlage.web.jobs.models import Job
from vorlage.web.jobs.tasks import does, nightly
from vorlage.web.people.models import Department, Membership, User

from .models import Proved, Question

# The kind of job that proves questions.
PROVING = "proof"
# so many are proved between two looks at whether it was cancelled
AT_A_TIME = 20
# A night's proof is not ordered again before so long.
A_NIGHT = timedelta(hours=20)


def order_proof(department: Department, author: User, questions: list[int] | None = None) -> Job:
    """A job that proves some questions of a department, or all that are in use."""
    if questions is None:
        questions = list(Question.objects.filter(department=department).in_use().values_list("pk", flat=True))
        return Job.order(PROVING, author, len(questions), department=department.pk)
    return Job.order(PROVING, author, len(questions), department=department.pk, questions=questions)


@does(PROVING)
def prove_questions(job: Job) -> None:
    """Prove them one after the other; what was found of each is kept at once, and is no part of a whole."""
    chosen = Question.objects.filter(department=job.arguments["department"])
    if "questions" in job.arguments:
        chosen = chosen.filter(pk__in=job.arguments["questions"])
    else:
        chosen = chosen.in_use()
    keys = list(chosen.order_by("pk").values_list("pk", flat=True))
    for start in range(0, len(keys), AT_A_TIME):
        job.note(min(start, job.total), "Proving")
        for question in Question.objects.filter(pk__in=keys[start : start + AT_A_TIME]).select_related("current"):
            keep_proof(question)
    with job.finishing():
        pass


def keep_proof(question: Question) -> Proved:
    """Prove a question as it now stands, and keep what came out."""
    revision = question.newest
    earlier = Proved.objects.filter(question=question, revision=revision).first()
    known = revision.prints or (earlier.prints if earlier else [])
    try:
        proof = prove(revision.compiled(USUAL), str(question.key), revision.number, known)
    except CoreError as problem:
        # what versions before kept and this one cannot read
        proof = Proof((problem.message,), ())
    values = {"revision": revision, "faults": list(proof.faults), "prints": list(known or proof.prints)}
    return Proved.objects.update_or_create(question=question, defaults=values)[0]


@nightly
def prove_at_night() -> None:
    """Order a proof of every department's questions, once a night, in the name of whoever heads it."""
    for department in Department.objects.select_related("school"):
        members = Membership.objects.filter(department=department, user__is_active=True).select_related("user")
        head = members.filter(role="lead").first() or members.filter(role="author").first()
        if head is None or not Question.objects.filter(department=department).in_use().exists():
            continue
        with transaction.atomic():
            # of two workers one orders it
            Department.objects.select_for_update().get(pk=department.pk)
            lately = Job.objects.filter(kind=PROVING, arguments={"department": department.pk})
            if not lately.filter(created__gt=timezone.now() - A_NIGHT).exists():
                order_proof(department, head.user)
