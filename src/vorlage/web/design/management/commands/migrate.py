"""``migrate`` as Django has it, once what an older version called otherwise has its name of today."""

from __future__ import annotations

from typing import Any

from django.core.management.commands.migrate import Command as DjangoMigrate
from django.db import connections, transaction
from django.db.backends.base.base import BaseDatabaseWrapper

# The apps that had another name, and the name that they have now.
RENAMED = {"accounts": "people", "questions": "bank", "papers": "forms"}


class Command(DjangoMigrate):
    """An app's name stands in the names of its tables and in the record of what was migrated: both go with it."""

    def handle(self, *args: Any, **options: Any) -> None:
        rename_apps(connections[options["database"]])
        super().handle(*args, **options)


def rename_apps(connection: BaseDatabaseWrapper) -> None:
    """Give the tables and records of apps that had another name the name of today; a new database has none."""
    with transaction.atomic(using=connection.alias), connection.cursor() as cursor:
        tables = set(connection.introspection.table_names(cursor))
        if "django_migrations" not in tables:
            return
        for old, new in RENAMED.items():
            cursor.execute("UPDATE django_migrations SET app = %s WHERE app = %s", [new, old])
            if not cursor.rowcount:
                continue
            if "django_content_type" in tables:
                cursor.execute("UPDATE django_content_type SET app_label = %s WHERE app_label = %s", [new, old])
            for table in sorted(tables):
                if table.startswith(f"{old}_"):
                    quote = connection.ops.quote_name
                    cursor.execute(f"ALTER TABLE {quote(table)} RENAME TO {quote(new + table.removeprefix(old))}")
