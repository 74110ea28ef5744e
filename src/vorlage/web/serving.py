"""What Gunicorn does as its processes start."""

from __future__ import annotations

from threading import Thread

import django

from vorlage.core.algebra import start_helper
from vorlage.core.documents import load_compiler
from vorlage.core.formulas import load_book
from vorlage.core.quantities import load_units


def on_starting(server: object) -> None:
    """Load what all pages share once, before the workers are forked: its first use takes seconds."""
    load_pages()


def load_pages() -> None:
    """The units, the formula book, and the first draws of the ready questions."""
    # the application is not loaded yet where every worker loads its own
    django.setup()
    from vorlage.web.bank.views import load_gallery

    load_units()
    load_book()
    load_gallery()


def post_worker_init(worker: object) -> None:
    """Start what takes a second or two now, so that nobody who types waits for it."""
    Thread(target=start_slow_things, daemon=True).start()


def start_slow_things() -> None:
    """The helper for symbolic work, and then the typesetting with its fonts."""
    start_helper()
    load_compiler()
