"""Sign-ins for students: a name or address, and a first password that is on a slip of paper and nowhere else."""

from __future__ import annotations

import secrets
from collections.abc import Iterable
from dataclasses import dataclass

from django.contrib.auth.hashers import PBKDF2PasswordHasher, get_hasher, make_password
from django.db import transaction

from vorlage.core.text import unaccented
from vorlage.web.people.models import User

from .models import Student

# Short, and easily told apart: a first password is four of them and two digits, some 33 bits.
WORDS = (
    "anchor basin beacon bollard bridge buoy cable canal cargo chain chart cliff cloud coal coast compass copper cork "
    "crane crate creek deck dock dune eddy ferry flint foam gale galley glass grain granite gravel gull harbour hatch "
    "haven heron hull island jetty keel kelp lagoon lamp lantern ledge lever lock magnet mast mirror mist moor motor "
    "mussel north oak oar ocean osprey otter paddle pebble pier pilot plank plum pond port pulley pump quarry quay "
    "raft rain reed reef ridge rigging river robin rope rudder sail salmon salt sand seal shell shore silver slate "
    "sloop smoke spar spring star steam steel stone storm strait summer swan tackle tar tide timber tin tower tunnel "
    "valve vessel wave wharf wheel willow winch winter yard yarn"
).split()
# Nobody chose it, so it is hashed in fewer rounds than what somebody did: a class of thirty is ready at once. When its
# owner signs in it is hashed anew as any other.
ROUNDS = 60_000


@dataclass(frozen=True)
class Slip:
    """What a student is given: how they sign in."""

    student: Student
    login: str
    password: str


def first_password() -> str:
    words = [secrets.choice(WORDS) for _ in range(4)]
    return "-".join([*words, str(secrets.randbelow(90) + 10)])


def hashed(password: str) -> str:
    hasher = get_hasher()
    if isinstance(hasher, PBKDF2PasswordHasher):
        return hasher.encode(password, hasher.salt(), ROUNDS)
    return make_password(password)


def plain(text: str) -> str:
    """A name in the letters that every keyboard has; empty where it has none of them."""
    return "".join(sign for sign in unaccented(text) if sign.isascii() and sign.isalnum())


def free_names(students: Iterable[Student]) -> dict[int, str]:
    """A name to sign in with for each: given and family name, with a number where somebody has it."""
    wanted = {}
    for each in students:
        spelled = ".".join(filter(None, (plain(each.given), plain(each.family))))
        wanted[each.pk] = spelled or f"student.{plain(each.number)}"
    taken = set[str | None]()
    for stem in set(wanted.values()):
        taken |= set(User.objects.filter(sign_in_name__startswith=stem[:50]).values_list("sign_in_name", flat=True))
    names = {}
    for pk, stem in wanted.items():
        stem = stem[:50]
        name, count = stem, 1
        while name in taken:
            count += 1
            name = f"{stem}{count}"
        taken.add(name)
        names[pk] = name
    return names


@transaction.atomic
def make_slips(students: list[Student]) -> list[Slip]:
    """A first password for each: whoever has no sign-in gets one, the others' passwords are replaced."""
    slips = []
    without = [each for each in students if each.user is None]
    names = free_names(without)
    # an address signs in one person
    addresses = {each.email for each in without if each.email}
    taken = set(User.objects.filter(email__in=addresses).values_list("email", flat=True))
    for student in students:
        password = first_password()
        user = student.user
        if user is None:
            own = student.email if student.email and student.email not in taken else None
            taken |= {student.email}
            user = User(email=own, sign_in_name=names[student.pk], school_id=student.school_id, studies=True)
        user.name, user.password, user.is_active = student.full_name, hashed(password), True
        user.save()
        if student.user is None:
            student.user = user
            student.save(update_fields=["user"])
        slips.append(Slip(student, user.sign_in_name or user.email or "", password))
    return slips
