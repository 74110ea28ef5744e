"""Static files under names that change with their content."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class Storage(CompressedManifestStaticFilesStorage):
    """What one script imports from another goes by its name of today too."""

    support_js_module_import_aggregation = True
