"""Whether the tables are those of this version."""

from __future__ import annotations

from django.db import connection
from django.db.migrations.executor import MigrationExecutor


def are_of_this_version() -> bool:
    """Whether nothing is left to be changed in them; only the record of what was changed is read for it."""
    executor = MigrationExecutor(connection)
    return not executor.migration_plan(executor.loader.graph.leaf_nodes())
