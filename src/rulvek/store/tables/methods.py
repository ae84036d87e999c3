"""The lab's own methods, version by version."""

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from rulvek.store.tables.base import Base


class MethodVersion(Base):
    """A method as it was proposed; nothing of it is changed, it is approved once."""

    __tablename__ = "method_version"
    __table_args__ = (UniqueConstraint("name", "number", name="uq_method_version"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    number: Mapped[int]
    profile: Mapped[dict[str, Any]] = mapped_column(JSON)
    reason: Mapped[str] = mapped_column(Text)
    proposed_by: Mapped[str]
    proposed_at: Mapped[datetime]
    approved_by: Mapped[str] = mapped_column(default="")
    approved_at: Mapped[datetime | None]
