"""Links that let somebody in: the link holds a secret, the database its digest."""

from __future__ import annotations

import hashlib
import secrets


def new_token() -> tuple[str, str]:
    """A secret for a link, and what is kept of it."""
    token = secrets.token_urlsafe(24)
    return token, digest_of(token)


def digest_of(token: str) -> str:
    """What is kept of a secret; it has too many bits to be guessed, so one round is enough."""
    return hashlib.sha256(token.encode()).hexdigest()
