"""Passwords and one-time codes: made, hashed, compared."""

import gzip
import secrets
import threading
from functools import cache
from pathlib import Path

from pwdlib import PasswordHash
from pwdlib.exceptions import UnknownHashError

from rulvek.core.errors import BadInput
from rulvek.services.tokens import digest

SHORTEST, LONGEST = 12, 200
TOKEN_START = "rulvek_"
"""What a script's token begins with, so that one that leaked is found."""
_CODE_LETTERS = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"
"""Without letters that are mistaken for each other when a code is read aloud."""
_COMMON = Path(__file__).with_name("common_passwords.txt.gz")
"""The 10,000 most common of a public count of leaked passwords, as Django ships it (BSD)."""
_AT_ONCE = threading.Semaphore(2)
"""Argon2 takes 64 MB and a core each time: a crowd of guesses must not take them all."""


def hashed_password(password: str) -> str:
    """A password as it is kept: Argon2id with a salt of its own."""
    with _AT_ONCE:
        return _hasher().hash(password)


def is_password(password: str, kept: str) -> bool:
    """Whether a password is the one kept. With none kept it takes as long, and is never right."""
    with _AT_ONCE:
        try:
            right = _hasher().verify(password[:LONGEST], kept or _nobodys())
        except UnknownHashError:
            return False
    return right and bool(kept)


def refuse_weak(password: str, name: str) -> None:
    """Hold a new password to what cannot be guessed soon.

    Raises:
        BadInput: too short or too long, one of the 10,000 most common, or the person's own name.
    """
    if not SHORTEST <= len(password) <= LONGEST:
        raise BadInput(f"A password has {SHORTEST} to {LONGEST} characters.", field="password")
    if password.lower() in _common():
        raise BadInput("That is one of the most common passwords: take another.", field="password")
    if password.casefold().replace(" ", "") == name.casefold().replace(" ", ""):
        raise BadInput("A password is not the name: take another.", field="password")


def new_code() -> str:
    """A one-time code that can be read aloud: 20 letters, 99 random bits.

    >>> len(new_code())
    23
    """
    return "-".join("".join(secrets.choice(_CODE_LETTERS) for _ in range(5)) for _ in range(4))


def is_code(code: str, kept: str) -> bool:
    """Whether a code, however it was typed, is the one kept."""
    letters = "".join(code.upper().split()).replace("-", "")
    typed = "-".join(letters[at : at + 5] for at in range(0, len(letters), 5))
    return bool(kept) and secrets.compare_digest(digest(typed), kept)


@cache
def _hasher() -> PasswordHash:
    return PasswordHash.recommended()


@cache
def _nobodys() -> str:
    return _hasher().hash(secrets.token_hex())


@cache
def _common() -> frozenset[str]:
    with gzip.open(_COMMON, "rt", encoding="utf-8") as lines:
        return frozenset(line.strip().lower() for line in lines)
