"""The audit chain."""

from datetime import datetime
from typing import Any

from sqlalchemy.orm import Mapped, mapped_column

from rulvek.store.tables.base import Base


class AuditEntry(Base):
    """Who did what, chained: each entry carries the hash of the one before.

    ``version`` says what the hash is over; ``actor`` what sort of actor ``person`` is.
    """

    __tablename__ = "audit_entry"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    version: Mapped[int] = mapped_column(default=1)
    actor: Mapped[str] = mapped_column(default="person")
    person: Mapped[str]
    action: Mapped[str]
    subject: Mapped[str] = mapped_column(index=True)
    detail: Mapped[dict[str, Any]]
    previous: Mapped[str]
    hash: Mapped[str] = mapped_column(unique=True)
