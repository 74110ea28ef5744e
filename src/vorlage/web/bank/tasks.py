"""Proving the bank again: every night all of it, and what somebody wants proved."""

from __future__ import annotations

from datetime import timedelta
from decimal import Decimal

from django.db import transaction
from django.utils import timezone

from vorlage.core.errors import CoreError
from vorlage.core.notation import USUAL
from vorlage.core.questions import Proof, QuestionDocument, load_document, prove, worth
from vorlage.web.jobs.models import Job
from vorlage.web.jobs.tasks import does, nightly
from vorlage.web.people.models import Department, Membership, User

from .models import Done, Judged, Proved, Question

# The kinds of job that prove questions, and that make a revision of each.
PROVING, REVISING = "proof", "revise"
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


@does(REVISING)
def revise_questions(job: Job) -> None:
    """Give many questions other marks, or the documents that they had: a revision of each, all together or none.

    What was before is kept, to be taken back.
    """
    department = Department.objects.select_related("school").get(pk=job.arguments["department"])
    marks, back = job.arguments.get("marks"), dict(job.arguments.get("back", []))
    keys = back if marks is None else job.arguments["questions"]
    questions = Question.objects.filter(department=department, pk__in=keys).select_related("current").order_by("pk")
    ready: list[tuple[Question, QuestionDocument, Judged]] = []
    left: list[str] = []
    for number, question in enumerate(questions):
        if number % AT_A_TIME == 0:
            job.note(number, "Judging")
        if marks is not None:
            document = worth(load_document(question.newest.document), Decimal(marks))
        else:
            # what was revised since stays as it is
            earlier = question.revisions.filter(number=back[question.pk] - 1).first()
            fits = earlier is not None and question.latest == back[question.pk]
            document = load_document(earlier.document) if earlier is not None and fits else None
        if document is None:
            left.append(question.title)
        elif not question.newest.holds(document):
            ready.append((question, document, Judged.of(document, question.key, question.latest + 1)))
    job.note(len(keys), "Storing")
    with job.finishing():
        made = []
        for question, document, judged in ready:
            note = f"{judged.document.marks:f} marks"
            revision = Question.save_revision(
                department, job.author, document, question.filing, question, note=note, judged=judged
            )
            made.append([question.pk, question.latest, revision.number])
        Done.objects.filter(pk=job.arguments.get("done", 0)).delete()
        words = f"{marks} marks for" if marks is not None else "Earlier marks again for"
        told = f"{words} {len(made)} question{'' if len(made) == 1 else 's'}."
        if left:
            reason = "cannot be shared exactly among their parts" if marks is not None else "were changed since"
            told += f" {len(left)} stayed as they are, because their marks {reason}: {', '.join(left[:3])}"
            told += "…" if len(left) > 3 else "."
        Job.objects.filter(pk=job.pk).update(reason=told[:300])
        if made and marks is not None:
            Done.objects.create(
                user=job.author, department=department, words=told[:300],
                before={"column": "marks", "questions": made},
            )  # fmt: skip


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
