"""Ratings, the steps of their lives, and how their samples look today."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from rulvek.core.ratings.life import StepKind
from rulvek.store.tables.base import Base
from rulvek.store.types import Word


class Rating(Base):
    """A figure with its conditions, on its way or published; where it stands follows from its steps."""

    __tablename__ = "rating"
    id: Mapped[int] = mapped_column(primary_key=True)
    model_id: Mapped[int] = mapped_column(ForeignKey("model.id"), index=True)


class RatingStep(Base):
    """A step in a rating's life. ``terms`` are what was drafted, ``basis`` the exact text that ``digest`` is of."""

    __tablename__ = "rating_step"
    __table_args__ = (UniqueConstraint("rating_id", "number", name="uq_rating_step_rating_id"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    rating_id: Mapped[int] = mapped_column(ForeignKey("rating.id"), index=True)
    number: Mapped[int]
    kind: Mapped[StepKind] = mapped_column(Word(StepKind))
    by: Mapped[str]
    at: Mapped[datetime]
    reason: Mapped[str] = mapped_column(Text, default="")
    digest: Mapped[str] = mapped_column(default="")
    settles: Mapped[list[Any]] = mapped_column(default=list)
    terms: Mapped[dict[str, Any] | None]
    basis: Mapped[str | None] = mapped_column(Text)


class RatingLink(Base):
    """A link under which somebody without an account sees a rating; only the hash of its token is kept."""

    __tablename__ = "rating_link"
    id: Mapped[int] = mapped_column(primary_key=True)
    rating_id: Mapped[int] = mapped_column(ForeignKey("rating.id"), index=True)
    token: Mapped[str] = mapped_column(unique=True)
    meant_for: Mapped[str]
    with_records: Mapped[bool]
    made_by: Mapped[str]
    made_at: Mapped[datetime]
    until: Mapped[datetime]
    ended_at: Mapped[datetime | None]


class RatingSample(Base):
    """A model's units at a rating's conditions as they were last worked out; ``version`` says whether that holds."""

    __tablename__ = "rating_sample"
    rating_id: Mapped[int] = mapped_column(ForeignKey("rating.id"), primary_key=True)
    version: Mapped[str]
    data: Mapped[str] = mapped_column(Text)
