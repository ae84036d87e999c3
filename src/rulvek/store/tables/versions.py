"""Versions of what people maintain."""

from datetime import datetime
from typing import Any

from sqlalchemy import UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from rulvek.store.tables.base import Base


class EntryVersion(Base):
    """How something on record was, from one change to the next; ``subject`` as in the audit chain, “model/3”.

    What was never changed has no rows: its first version is as it stands.
    """

    __tablename__ = "entry_version"
    __table_args__ = (UniqueConstraint("subject", "number"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    subject: Mapped[str]
    number: Mapped[int]
    data: Mapped[dict[str, Any]]
    by: Mapped[str]
    at: Mapped[datetime]
