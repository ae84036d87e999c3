"""The gear register and the benches."""

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Text
from sqlalchemy.orm import Mapped, mapped_column

from rulvek.core.records.instruments import AsFound
from rulvek.store.tables.base import Base
from rulvek.store.types import Word


class Instrument(Base):
    """An instrument with its maker's limits and its calibration; the latest entry of a role is the one in use."""

    __tablename__ = "instrument"
    id: Mapped[int] = mapped_column(primary_key=True)
    role: Mapped[str]
    name: Mapped[str]
    serial: Mapped[str]
    percent_of_reading: Mapped[float]
    percent_of_range: Mapped[float]
    full_range: Mapped[float]
    digits: Mapped[float]
    resolution: Mapped[float]
    calibrated_on: Mapped[date | None]
    due_on: Mapped[date | None]
    as_found: Mapped[AsFound] = mapped_column(Word(AsFound), default=AsFound.UNSAID, server_default="")
    certificate: Mapped[str] = mapped_column(default="", server_default="")
    certificate_file: Mapped[str | None]
    checked_at: Mapped[float | None]
    found: Mapped[float | None]
    left: Mapped[float | None]
    entered_by: Mapped[str]
    entered_at: Mapped[datetime]


class Bench(Base):
    """A bench by name; ``kind`` says what stands behind it, ``assembly`` what one of instruments is made of.

    ``version`` counts how often that was changed, ``changed_at`` is when it was last.
    """

    __tablename__ = "bench"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    kind: Mapped[str]
    assembly: Mapped[str] = mapped_column(Text, default="", server_default="")
    version: Mapped[int] = mapped_column(default=0, server_default="0")
    changed_at: Mapped[datetime | None]


class SelfTest(Base):
    """What was found when a bench of instruments was looked at; ``looked`` is a list of looks as JSON."""

    __tablename__ = "self_test"
    id: Mapped[int] = mapped_column(primary_key=True)
    bench_id: Mapped[int] = mapped_column(ForeignKey("bench.id"), index=True)
    at: Mapped[datetime]
    by: Mapped[str]
    channels: Mapped[int]
    powered: Mapped[bool]
    looked: Mapped[list[Any]]


class BenchLease(Base):
    """Which server has a bench, until when unless it renews, and who works at it; no row means that it is free.

    ``attempt_id`` and ``campaign_id`` are what it is busy with; ``off_asked_by`` is somebody at another server who
    wants it off.
    """

    __tablename__ = "bench_lease"
    bench_id: Mapped[int] = mapped_column(ForeignKey("bench.id"), primary_key=True)
    server: Mapped[str]
    host: Mapped[str]
    process: Mapped[str]
    expires_at: Mapped[datetime]
    doing: Mapped[str]
    campaign_id: Mapped[int | None]
    attempt_id: Mapped[int | None]
    person: Mapped[str | None]
    holder: Mapped[str | None]
    asked_by: Mapped[str | None]
    off_asked_by: Mapped[str | None]
