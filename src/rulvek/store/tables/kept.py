"""What is kept with models and units, and the files that it speaks of."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey
from sqlalchemy.orm import Mapped, mapped_column

from rulvek.core.records.kept import Kind
from rulvek.store.tables.base import Base
from rulvek.store.types import Word


class KeptEntry(Base):
    """Something that is kept with a model or with a unit; ``entry`` has the shape of its kind."""

    __tablename__ = "kept_entry"
    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[Kind] = mapped_column(Word(Kind))
    model_id: Mapped[int | None] = mapped_column(ForeignKey("model.id"), index=True)
    unit_id: Mapped[int | None] = mapped_column(ForeignKey("unit.id"), index=True)
    entry: Mapped[dict[str, Any]]
    entered_by: Mapped[str]
    entered_at: Mapped[datetime]
    closed: Mapped[bool] = mapped_column(default=False)


class BroughtFile(Base):
    """A file that somebody brought: a document, a picture, a recording of a wire."""

    __tablename__ = "brought_file"
    sha256: Mapped[str] = mapped_column(primary_key=True)
    path: Mapped[str]
    name: Mapped[str]
    media: Mapped[str]
    bytes: Mapped[int]
    width: Mapped[int | None]
    height: Mapped[int | None]
    thumbnail: Mapped[str | None]
    added_by: Mapped[str]
    added_at: Mapped[datetime]
