"""Answers that were given to requests with a key, by the mark of their request."""

import zlib
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, insert, or_, select
from sqlalchemy.orm import Session

from rulvek.store import tables as t


@dataclass(frozen=True, slots=True)
class Answer:
    """An answer as it was given."""

    status: int
    content_type: str
    body: bytes


def given(session: Session, mark: str, after: datetime) -> Answer | None:
    """What was answered since then."""
    kept = t.GivenAnswer
    statement = select(kept.status, kept.content_type, kept.body).where(kept.mark == mark, kept.at > after)
    row = session.execute(statement).one_or_none()
    return None if row is None else Answer(row.status, row.content_type, zlib.decompress(row.body))


def keep(session: Session, mark: str, answer: Answer, now: datetime, until: datetime) -> None:
    """Put an answer on record, and forget those that were given until then."""
    kept = t.GivenAnswer
    session.execute(delete(kept).where(or_(kept.at <= until, kept.mark == mark)))
    body = zlib.compress(answer.body, 1)
    row = {"mark": mark, "at": now, "status": answer.status, "content_type": answer.content_type, "body": body}
    session.execute(insert(kept).values(row))
