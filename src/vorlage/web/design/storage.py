"""Static files under names that change with their content."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from whitenoise.storage import CompressedManifestStaticFilesStorage

# Scripts of a package that no page uses; their comments look like imports of files that are not there.
UNUSED = "django_htmx/ext/"


class Storage(CompressedManifestStaticFilesStorage):
    """What one script imports from another goes by its name of today too."""

    support_js_module_import_aggregation = True

    def post_process(self, paths: dict[str, Any], dry_run: bool = False, **options: Any) -> Iterator[Any]:
        used = {name: path for name, path in paths.items() if not name.startswith(UNUSED)}
        yield from super().post_process(used, dry_run, **options)
