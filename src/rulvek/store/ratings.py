"""Ratings and the steps of their lives: to rows and back."""

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from hashlib import sha256
from typing import Any

from pydantic import TypeAdapter
from sqlalchemy import delete, insert, select
from sqlalchemy.orm import Session, defer

from rulvek.core.errors import NotFound, Unreadable
from rulvek.core.ratings.basis import Basis, RatingTerms
from rulvek.core.ratings.life import Life, Step, StepKind, life_of
from rulvek.core.ratings.sample import SampleRow
from rulvek.store import tables as t

_BASIS: TypeAdapter[Basis] = TypeAdapter(Basis)
_TERMS: TypeAdapter[RatingTerms] = TypeAdapter(RatingTerms)
_ROWS: TypeAdapter[tuple[SampleRow, ...]] = TypeAdapter(tuple[SampleRow, ...])


@dataclass(frozen=True, slots=True)
class RatingRow:
    """A rating on record; ``terms`` are those that were drafted last."""

    id: int
    model_id: int
    terms: RatingTerms
    life: Life


@dataclass(frozen=True, slots=True)
class Frozen:
    """A basis as it is kept: the exact text, and its SHA-256 in hexadecimal."""

    text: str

    @property
    def digest(self) -> str:
        """Of the text."""
        return _digest(self.text)

    @property
    def basis(self) -> Basis:
        """What it says."""
        return _said(self.text)


# The same texts are asked for again and again, and none of them ever changes.
@lru_cache(maxsize=128)
def _digest(text: str) -> str:
    return sha256(text.encode()).hexdigest()


@lru_cache(maxsize=128)
def _said(text: str) -> Basis:
    return _BASIS.validate_json(text)


def frozen(basis: Basis) -> Frozen:
    """A basis as text; the same basis is always the same text."""
    return Frozen(_BASIS.dump_json(basis).decode())


def schema() -> dict[str, Any]:
    """The JSON Schema of a frozen basis, as a dossier carries it."""
    return _BASIS.json_schema() | {"title": "Basis of a rating"}


def frozen_text(text: str) -> Frozen:
    """A basis that somebody brought, as text.

    Raises:
        Unreadable: it is none.
    """
    found = Frozen(text)
    try:
        found.basis  # noqa: B018  # read once, to see whether it can be
    except ValueError as failure:
        raise Unreadable("The basis in this file cannot be understood.") from failure
    return found


def add(session: Session, model_id: int) -> int:
    """A rating without steps yet; returns its id."""
    row = t.Rating(model_id=model_id)
    session.add(row)
    session.flush()
    return row.id


def take(
    session: Session, rating_id: int, step: Step, terms: RatingTerms | None = None, basis: Frozen | None = None
) -> int:
    """Put a step on record; returns its id, by which it is sealed."""
    row = t.RatingStep(
        rating_id=rating_id,
        number=step.number,
        kind=step.kind,
        by=step.by,
        at=step.at,
        reason=step.reason,
        digest=step.digest,
        settles=list(step.settles),
        terms=None if terms is None else _TERMS.dump_python(terms, mode="json"),
        basis=None if basis is None else basis.text,
    )
    session.add(row)
    session.flush()
    return row.id


def one(session: Session, rating_id: int) -> RatingRow:
    """A rating.

    Raises:
        NotFound: there is none.
    """
    found = _rows(session, t.Rating.id == rating_id)
    if not found:
        raise NotFound(f"There is no rating number {rating_id}.")
    return found[0]


def of_model(session: Session, model_id: int) -> list[RatingRow]:
    """A model's ratings, in the order in which they were drafted."""
    return _rows(session, t.Rating.model_id == model_id)


def ids_of_model(session: Session, model_id: int) -> Sequence[int]:
    """A model's ratings by their numbers."""
    return session.scalars(select(t.Rating.id).where(t.Rating.model_id == model_id).order_by(t.Rating.id)).all()


def everything(session: Session) -> list[RatingRow]:
    """All ratings, in the order in which they were drafted."""
    return _rows(session, t.Rating.id > 0)


def basis_of(session: Session, rating: RatingRow, step: Step | None = None) -> Frozen | None:
    """What a rating rests on, or rested on as it was proposed in some ``step``; None in a draft.

    Raises:
        Unreadable: it is not what was proposed.
    """
    step = step or rating.life.proposal
    if step is None:
        return None
    statement = select(t.RatingStep.basis).where(
        t.RatingStep.rating_id == rating.id, t.RatingStep.number == step.number
    )
    found = Frozen(session.scalar(statement) or "")
    if found.digest != step.digest:
        raise Unreadable(f"What rating {rating.id} rests on is not as it was proposed.", todo="Run “rulvek verify”.")
    return found


def bases_of(session: Session, ratings: Sequence[RatingRow]) -> dict[int, Basis]:
    """What some ratings rest on, by their ids; without drafts, and without those that are not as they were proposed."""
    wanted = {(one.id, step.number): step.digest for one in ratings if (step := one.life.proposal) is not None}
    rows = session.execute(
        select(t.RatingStep.rating_id, t.RatingStep.number, t.RatingStep.basis).where(
            t.RatingStep.rating_id.in_({one for one, _ in wanted}), t.RatingStep.kind == StepKind.PROPOSED
        )
    )
    found = {}
    for rating_id, number, text in rows:
        kept = Frozen(text or "")
        if wanted.get((rating_id, number)) == kept.digest:
            found[rating_id] = kept.basis
    return found


def samples(session: Session, versions: Mapping[int, str]) -> dict[int, tuple[SampleRow, ...]]:
    """How ratings' samples look today, by their ids, where that was worked out at these versions of their models."""
    rows = session.execute(
        select(t.RatingSample.rating_id, t.RatingSample.version, t.RatingSample.data).where(
            t.RatingSample.rating_id.in_(versions)
        )
    )
    return {one: _ROWS.validate_json(data) for one, version, data in rows if version == versions[one]}


def keep_sample(session: Session, rating_id: int, version: str, rows: tuple[SampleRow, ...]) -> None:
    """Keep how a rating's sample looks today."""
    session.execute(delete(t.RatingSample).where(t.RatingSample.rating_id == rating_id))
    data = _ROWS.dump_json(rows).decode()
    session.execute(insert(t.RatingSample).values(rating_id=rating_id, version=version, data=data))


def sample_version(model_version: str, rating: RatingRow) -> str:
    """What a sample must have been worked out at to hold; the terms say which units are left out."""
    return f"{model_version}.{rating.life.seen}"


def _rows(session: Session, which: Any) -> list[RatingRow]:
    ratings = session.scalars(select(t.Rating).where(which).order_by(t.Rating.id)).all()
    steps: dict[int, list[t.RatingStep]] = defaultdict(list)
    asked = select(t.RatingStep).join(t.Rating, t.Rating.id == t.RatingStep.rating_id).where(which)
    for row in session.scalars(asked.options(defer(t.RatingStep.basis)).order_by(t.RatingStep.number)):
        steps[row.rating_id].append(row)
    return [
        RatingRow(row.id, row.model_id, _terms(steps[row.id]), life_of(map(_step, steps[row.id]))) for row in ratings
    ]


def _terms(steps: Iterable[t.RatingStep]) -> RatingTerms:
    drafted = [row.terms for row in steps if row.terms is not None]
    return _TERMS.validate_python(drafted[-1])


def _step(row: t.RatingStep) -> Step:
    return Step(row.number, row.kind, row.by, row.at, row.reason, row.digest, tuple(row.settles))
