"""What an installation needs and whether it is there: ``./vorlage check-install``. People and their one-time links."""

from __future__ import annotations

import os
import shutil
import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from .running import setup

if TYPE_CHECKING:
    from vorlage.web.people.models import School, User

# What a server needs in its environment.
NEEDED = ("VORLAGE_DATABASE", "VORLAGE_SECRET_KEY", "VORLAGE_HOSTS", "VORLAGE_STATIC")
PRODUCTION = "vorlage.web.settings.production"
Finding = tuple[bool, str, str]


def findings() -> Iterator[Finding]:
    """Everything that is looked at: whether it is well, what it is, and what helps."""
    yield sys.version_info >= (3, 11), f"Python {sys.version.split()[0]}", "Vorlage needs Python 3.11 or newer."
    for name in NEEDED:
        cure = f"Set {name} in the environment; docs/running.md says what it holds."
        yield bool(os.environ.get(name)), f"{name} is set", cure
    if not all(os.environ.get(name) for name in NEEDED):
        return
    long_enough = len(os.environ["VORLAGE_SECRET_KEY"]) >= 50
    yield long_enough, "the secret key is long", "Take at least 50 random characters."
    folder = Path(os.environ["VORLAGE_STATIC"])
    there = folder.exists() and os.access(folder, os.W_OK)
    yield there, f"{folder} can be written", "Make this folder, owned by the user who runs Vorlage."
    if there:
        free = shutil.disk_usage(folder).free >> 20
        yield free > 1000, f"{free} MB are free on the disk", "Make room: below 1 GB, saving stops soon."
    try:
        setup(os.environ.get("DJANGO_SETTINGS_MODULE", PRODUCTION))
    except Exception as problem:
        yield False, "the settings can be read", str(problem)
        return
    yield from of_database()


def of_database() -> Iterator[Finding]:
    from django.conf import settings
    from django.db import DatabaseError, connection

    from vorlage.web.jobs.models import last_seen, workers_live
    from vorlage.web.jobs.tables import are_of_this_version

    try:
        with connection.cursor() as cursor:
            cursor.execute("SHOW server_version_num")
            version = int(cursor.fetchone()[0]) // 10_000
            cursor.execute("SELECT count(*) FROM pg_available_extensions WHERE name = 'pg_trgm'")
            has_trigrams = cursor.fetchone()[0] == 1
            cursor.execute("SELECT has_schema_privilege('public', 'CREATE')")
            may_create = bool(cursor.fetchone()[0])
            cursor.execute("SELECT rolcreatedb OR rolsuper FROM pg_roles WHERE rolname = current_user")
            may_check = bool(cursor.fetchone()[0])
            cursor.execute("SELECT to_regclass('public.vorlage_cache') IS NOT NULL")
            has_cache = bool(cursor.fetchone()[0])
    except DatabaseError as problem:
        yield False, "the database answers", f"{str(problem).strip()} (VORLAGE_DATABASE)"
        return
    yield version >= 15, f"the database answers: PostgreSQL {version}", "Vorlage needs PostgreSQL 15 or newer."
    yield has_trigrams, "the extension pg_trgm is there", "Install Debian's package postgresql-contrib."
    yield may_create, "tables can be made", "Let the database user own the database."
    yield (
        may_check,
        "backups can be checked",
        "ALTER ROLE … CREATEDB: a backup is restored once into a scratch database.",
    )
    waiting = not are_of_this_version()
    yield not waiting, "the tables are those of this version", "Start ./vorlage serve once: it makes them."
    yield has_cache, "the shared counters have their table", "Start ./vorlage serve once: it makes it."
    if waiting:
        return
    since = last_seen()
    word = f"none has been seen since {since:%Y-%m-%d %H:%M} UTC" if since else "none has ever been seen"
    yield workers_live(), "a worker lives", f"Start ./vorlage worker: {word}."
    cure = "Set VORLAGE_MAIL, VORLAGE_MAIL_FROM and VORLAGE_MAIL_TO: faults and links to new passwords go by mail then."
    yield bool(settings.MAIL_IS_SET_UP), "mail is set up", cure


# What may be missing: it is told, and no fault.
OPTIONAL = frozenset(["mail is set up", "backups can be checked"])


def check_install(say: Callable[[str], None] = print) -> int:
    """Tell what is there and what is missing; exit status 1 when anything is missing that is needed."""
    failed = False
    for well, what, cure in findings():
        optional = what in OPTIONAL
        failed = failed or not (well or optional)
        say(f"{'well   ' if well else 'open   ' if optional else 'MISSING'}  {what}{'' if well else f': {cure}'}")
    return 1 if failed else 0


def account(email: str, name: str, school: School) -> User:
    """The account with this address, made where there is none. Raises ``LookupError`` where it is that of a
    student, or of somebody at another school."""
    from vorlage.web.people.models import User

    user = User.objects.filter(email__iexact=email).first()
    if user is None:
        return User.objects.create_user(email, None, name=name, school=school)
    if user.school_id is None:
        user.school = school
        user.save(update_fields=["school"])
    elif user.studies or user.school_id != school.pk:
        raise LookupError(f"{email} is the address of a student, or of somebody at another school.")
    return user


def make_administrator(email: str, name: str, school: str) -> str:
    """An account that looks after the people, classes and settings of a school, both made where they are not there
    yet; the path of the one-time link with which its owner chooses a password."""
    from django.db import transaction

    from vorlage.web.people.models import School

    with transaction.atomic():
        where, _ = School.objects.get_or_create(name=school)
        user = account(email, name, where)
        user.administers = True
        user.save(update_fields=["administers"])
    return link_for(email)


def make_person(email: str, name: str, school: str, department: str, role: str) -> str:
    """An account with a role in a department, both made where they are not there yet; the path of the one-time link
    with which its owner chooses a password."""
    from django.db import transaction

    from vorlage.web.people.models import Department, Membership, School

    with transaction.atomic():
        where, _ = School.objects.get_or_create(name=school)
        held, _ = Department.objects.get_or_create(school=where, name=department)
        user = account(email, name, where)
        Membership.objects.update_or_create(user=user, department=held, defaults={"role": role})
    return link_for(email)


def link_for(email: str, without_second_step: bool = False) -> str:
    """The path of a one-time link to a new password; the second step of signing in is lifted if so asked. Raises
    ``LookupError`` where nobody has this address."""
    from vorlage.web.people.links import path_for
    from vorlage.web.people.models import User
    from vorlage.web.people.second_step import lift

    user = User.objects.filter(email__iexact=email, is_active=True).first()
    if user is None:
        raise LookupError(f"Nobody has an account with the address {email}.")
    if without_second_step:
        lift(user)
    return path_for(user)
