"""What was typed and not yet saved belongs to who typed it."""

from vorlage.web.people.models import Department, User
from vorlage.web.people.owned import Owned, owns

from .models import Draft


def give(user: User, colleague: User, department: Department) -> None:
    drafts = Draft.objects.filter(user=user, department=department)
    # a desk that both have written on stays with each
    drafts.exclude(key__in=Draft.objects.filter(user=colleague).values("key")).update(user=colleague)


owns(
    Owned(
        "draft",
        "drafts",
        lambda user, department: Draft.objects.filter(user=user, department=department).count(),
        give,
    )
)
