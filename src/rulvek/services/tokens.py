"""Tokens: made at random, kept as a hash."""

import hashlib
import secrets


def new_token(start: str = "") -> str:
    """A token of 256 random bits."""
    return start + secrets.token_urlsafe(32)


def digest(token: str) -> str:
    """The hash by which a token or code is kept. They are random and long: a slow hash would add nothing."""
    return hashlib.sha256(token.encode()).hexdigest()
