"""All documents of a form set."""

from __future__ import annotations

from .keys import Keys
from .papers import Papers


class Printing(Papers, Keys):
    """The documents of one form set, from what its forms froze."""
