"""What a ZIP file that is damaged, or was made to do harm, ends its reader with."""

from __future__ import annotations

import zipfile
import zlib

# whatever its reader stumbles over
DAMAGED_ZIP = (
    zipfile.BadZipFile, zlib.error, KeyError, OSError, ValueError, RuntimeError, EOFError, NotImplementedError,
)  # fmt: skip
