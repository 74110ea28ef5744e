"""Everything that a job may need, loaded once; the processes of the jobs begin as copies of the one that did."""

import django

django.setup()

from vorlage.core.documents import printing  # noqa: E402, F401 (loaded for its own sake)
from vorlage.core.quantities import load_units  # noqa: E402

load_units()
