"""Practice jobs and exams. Nothing else refers to them: what was practised is no evidence."""

from datetime import datetime

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from rulvek.core.practice.marking import Answer
from rulvek.core.practice.scenarios import Level
from rulvek.store.tables.base import Base
from rulvek.store.types import Shape, Word


class PracticeExam(Base):
    """Some jobs in a row, marked together once the last is answered."""

    __tablename__ = "practice_exam"
    id: Mapped[int] = mapped_column(primary_key=True)
    by: Mapped[str] = mapped_column(index=True)
    level: Mapped[Level] = mapped_column(Word(Level))
    jobs: Mapped[int]
    begun_at: Mapped[datetime]
    ended_at: Mapped[datetime | None]
    points: Mapped[int | None]
    of: Mapped[int | None]


class PracticeJob(Base):
    """A job that was drawn for somebody, and what they answered."""

    __tablename__ = "practice_job"
    id: Mapped[int] = mapped_column(primary_key=True)
    by: Mapped[str] = mapped_column(index=True)
    exam_id: Mapped[int | None] = mapped_column(ForeignKey("practice_exam.id"), index=True)
    level: Mapped[Level] = mapped_column(Word(Level))
    seed: Mapped[int]
    begun_at: Mapped[datetime]
    answered_at: Mapped[datetime | None]
    answer: Mapped[Answer | None] = mapped_column(Shape(Answer))
    points: Mapped[int | None]
    of: Mapped[int | None]
