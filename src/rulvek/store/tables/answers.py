"""Answers that were given to requests with a key; kept for a while, no evidence of anything."""

from datetime import datetime

from sqlalchemy.orm import Mapped, mapped_column

from rulvek.store.tables.base import Base


class GivenAnswer(Base):
    """What was answered to a request; ``body`` is compressed."""

    __tablename__ = "given_answer"

    mark: Mapped[str] = mapped_column(primary_key=True)
    at: Mapped[datetime] = mapped_column(index=True)
    status: Mapped[int]
    content_type: Mapped[str]
    body: Mapped[bytes]
