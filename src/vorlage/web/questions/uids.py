"""The identity of a row of the desk, which is that of what stands in it: it goes into the document and comes back."""

from __future__ import annotations

import re
import secrets

IDENTITY = re.compile(r"[a-z0-9-]{1,20}")


def new_uid() -> str:
    return secrets.token_hex(4)


def identity_of(uid: str) -> str:
    """The identity of what stands in a row; empty for one that no document can have."""
    return uid if IDENTITY.fullmatch(uid) else ""


def usable(uid: str) -> str:
    """The identity that a browser sent for a row, or a new one where it made one up."""
    return identity_of(uid) or new_uid()
