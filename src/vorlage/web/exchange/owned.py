"""Files that somebody brought and has not taken yet are theirs; when they leave, a colleague goes on."""

from vorlage.web.people.models import Department, User
from vorlage.web.people.owned import Owned, owns

from .models import Intake


def give(user: User, colleague: User, department: Department) -> None:
    Intake.objects.filter(user=user, department=department).update(user=colleague)


owns(
    Owned(
        "file of questions",
        "files of questions",
        lambda user, department: Intake.objects.filter(user=user, department=department).count(),
        give,
    )
)
