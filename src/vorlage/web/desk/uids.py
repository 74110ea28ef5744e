"""The identity of a row of the desk, which is that of what stands in it: it goes into the document and comes back."""

from __future__ import annotations

import secrets

from vorlage.core.answers import identity_of

# What stands for the identity of a row in the templates that the browser makes new rows from.
FRESH, FRESH_LINE, FRESH_SLIP = "freshrow", "freshline", "freshslip"


def new_uid() -> str:
    return secrets.token_hex(4)


def usable(uid: str) -> str:
    """The identity that a browser sent for a row, or a new one where it made one up."""
    return identity_of(uid) or new_uid()
