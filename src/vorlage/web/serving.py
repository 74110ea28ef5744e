"""What Gunicorn does as one of its processes starts."""

from __future__ import annotations

from threading import Thread

from vorlage.core.algebra import start_helper


def post_worker_init(worker: object) -> None:
    """Start what takes a second or two now, so that nobody who types waits for it."""
    Thread(target=start_helper, daemon=True).start()
