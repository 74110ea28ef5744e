"""Questions, pools and searches belong to people."""

from vorlage.web.people.models import Department, User
from vorlage.web.people.owned import Owned, owns

from .models import KeptSearch, Pool, Question
from .models.finding import note_found


def give_questions(user: User, colleague: User, department: Department) -> None:
    given = Question.objects.filter(owner=user, department=department)
    moved = list(given.values_list("pk", flat=True))
    given.update(owner=colleague)
    note_found(moved)


def give_searches(user: User, colleague: User, department: Department) -> None:
    names = KeptSearch.objects.filter(user=colleague, department=department).values("name")
    # what both have stays with each
    KeptSearch.objects.filter(user=user, department=department).exclude(name__in=names).update(user=colleague)


owns(
    Owned(
        "question",
        "questions",
        lambda user, department: Question.objects.filter(owner=user, department=department).count(),
        give_questions,
    )
)
owns(
    Owned(
        "pool",
        "pools",
        lambda user, department: Pool.objects.filter(owner=user, department=department).count(),
        lambda user, to, department: Pool.objects.filter(owner=user, department=department).update(owner=to),
    )
)
owns(
    Owned(
        "kept search",
        "kept searches",
        lambda user, department: KeptSearch.objects.filter(user=user, department=department).count(),
        give_searches,
    )
)
