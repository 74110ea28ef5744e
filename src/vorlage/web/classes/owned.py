"""Classes belong to who teaches them."""

from vorlage.web.people.models import Department, User
from vorlage.web.people.owned import Owned, owns

from .models import Teaching


def give(user: User, colleague: User, department: Department) -> None:
    taught = Teaching.objects.filter(user=user, held__department=department)
    taught.filter(held__in=Teaching.objects.filter(user=colleague).values("held")).delete()
    taught.update(user=colleague)


owns(
    Owned(
        "class",
        "classes",
        lambda user, department: Teaching.objects.filter(user=user, held__department=department).count(),
        give,
    )
)
