"""What Gunicorn does as one of its processes starts."""

from __future__ import annotations

from threading import Thread

from vorlage.core.algebra import start_helper
from vorlage.core.quantities import load_units


def post_worker_init(worker: object) -> None:
    """Start what takes a second or two now, so that nobody who types waits for it."""
    for slow in (start_helper, load_units):
        Thread(target=slow, daemon=True).start()
