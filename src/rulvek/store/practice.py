"""Practice jobs and exams on record."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from rulvek.core.errors import NotFound
from rulvek.core.practice.marking import Answer
from rulvek.core.practice.scenarios import Level
from rulvek.store import tables as t


@dataclass(frozen=True, slots=True)
class JobRow:
    """A job that was drawn for somebody; points None until it is answered."""

    id: int
    by: str
    exam_id: int | None
    level: Level
    seed: int
    begun_at: datetime
    answered_at: datetime | None
    answer: Answer | None
    points: int | None
    of: int | None


@dataclass(frozen=True, slots=True)
class ExamRow:
    """An exam of so many jobs; points None until its last one is answered."""

    id: int
    by: str
    level: Level
    jobs: int
    begun_at: datetime
    ended_at: datetime | None
    points: int | None
    of: int | None


def add_job(session: Session, by: str, level: Level, seed: int, exam_id: int | None, at: datetime) -> JobRow:
    """Put a job on record."""
    row = t.PracticeJob(by=by, level=level, seed=seed, exam_id=exam_id, begun_at=at)
    session.add(row)
    session.flush()
    return _job(row)


def job(session: Session, job_id: int) -> JobRow:
    """A job.

    Raises:
        NotFound: there is none.
    """
    row = session.get(t.PracticeJob, job_id)
    if row is None:
        raise NotFound(f"There is no practice job number {job_id}.")
    return _job(row)


def jobs_of(session: Session, by: str, limit: int) -> list[JobRow]:
    """Somebody's jobs, the latest first; those of an exam are with the exam."""
    rows = session.scalars(
        select(t.PracticeJob)
        .where(t.PracticeJob.by == by, t.PracticeJob.exam_id.is_(None))
        .order_by(t.PracticeJob.id.desc())
        .limit(limit)
    )
    return [_job(row) for row in rows]


def jobs_of_exam(session: Session, exam_id: int) -> list[JobRow]:
    """The jobs of an exam, in their order."""
    rows = session.scalars(select(t.PracticeJob).where(t.PracticeJob.exam_id == exam_id).order_by(t.PracticeJob.id))
    return [_job(row) for row in rows]


def answer_job(session: Session, job_id: int, answer: Answer, points: int, of: int, at: datetime) -> bool:
    """Keep an answer; False where one was given before."""
    done = session.execute(
        update(t.PracticeJob)
        .where(t.PracticeJob.id == job_id, t.PracticeJob.answered_at.is_(None))
        .values(answered_at=at, answer=answer, points=points, of=of)
    )
    return done.rowcount == 1  # type: ignore[attr-defined,no-any-return]


def add_exam(session: Session, by: str, level: Level, jobs: int, at: datetime) -> ExamRow:
    """Put an exam on record."""
    row = t.PracticeExam(by=by, level=level, jobs=jobs, begun_at=at)
    session.add(row)
    session.flush()
    return _exam(row)


def exam(session: Session, exam_id: int) -> ExamRow:
    """An exam.

    Raises:
        NotFound: there is none.
    """
    row = session.get(t.PracticeExam, exam_id)
    if row is None:
        raise NotFound(f"There is no exam number {exam_id}.")
    return _exam(row)


def open_exam(session: Session, by: str) -> ExamRow | None:
    """The exam that somebody is in."""
    row = session.scalar(select(t.PracticeExam).where(t.PracticeExam.by == by, t.PracticeExam.ended_at.is_(None)))
    return None if row is None else _exam(row)


def exams(session: Session, limit: int) -> list[ExamRow]:
    """Exams that are over, everybody's, the latest first."""
    rows = session.scalars(
        select(t.PracticeExam)
        .where(t.PracticeExam.ended_at.is_not(None))
        .order_by(t.PracticeExam.id.desc())
        .limit(limit)
    )
    return [_exam(row) for row in rows]


def end_exam(session: Session, exam_id: int, points: int, of: int, at: datetime) -> None:
    """Close an exam with what it came to."""
    session.execute(
        update(t.PracticeExam).where(t.PracticeExam.id == exam_id).values(ended_at=at, points=points, of=of)
    )


def _job(row: t.PracticeJob) -> JobRow:
    return JobRow(
        row.id, row.by, row.exam_id, row.level, row.seed, row.begun_at, row.answered_at, row.answer, row.points, row.of
    )


def _exam(row: t.PracticeExam) -> ExamRow:
    return ExamRow(row.id, row.by, row.level, row.jobs, row.begun_at, row.ended_at, row.points, row.of)
