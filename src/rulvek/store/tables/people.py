"""People, their sessions and tokens, and who must wait before trying a password again."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from rulvek.store.tables.base import Base


class Person(Base):
    """An account. ``folded`` is the name as it is compared; ``code`` the hash of a one-time code."""

    __tablename__ = "person"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    folded: Mapped[str] = mapped_column(unique=True)
    roles: Mapped[list[Any]]
    password: Mapped[str] = mapped_column(default="")
    code: Mapped[str] = mapped_column(default="")
    code_until: Mapped[datetime | None]
    demo: Mapped[bool] = mapped_column(default=False)
    made_at: Mapped[datetime]
    closed_at: Mapped[datetime | None]


class PersonSession(Base):
    """A browser that somebody signed in with; only the hash of its token is kept."""

    __tablename__ = "person_session"
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    token: Mapped[str] = mapped_column(unique=True)
    began_at: Mapped[datetime]
    seen_at: Mapped[datetime]
    ended_at: Mapped[datetime | None]
    address: Mapped[str]
    browser: Mapped[str]


class ScriptToken(Base):
    """A token for a script, which acts as a person with some of their roles; only its hash is kept."""

    __tablename__ = "script_token"
    id: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[int] = mapped_column(ForeignKey("person.id"), index=True)
    name: Mapped[str]
    roles: Mapped[list[Any]]
    token: Mapped[str] = mapped_column(unique=True)
    made_at: Mapped[datetime]
    until: Mapped[datetime]
    ended_at: Mapped[datetime | None]


class SignInWait(Base):
    """How often a name or an address failed to sign in of late, and until when it must wait."""

    __tablename__ = "sign_in_wait"
    key: Mapped[str] = mapped_column(primary_key=True)
    failures: Mapped[int]
    until: Mapped[datetime]
