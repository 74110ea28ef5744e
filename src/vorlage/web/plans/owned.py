"""Tests belong to who began them."""

from vorlage.web.people.owned import Owned, owns

from .models import Test

owns(
    Owned(
        "test",
        "tests",
        lambda user, department: Test.objects.filter(author=user, department=department).count(),
        lambda user, to, department: Test.objects.filter(author=user, department=department).update(author=to),
    )
)
