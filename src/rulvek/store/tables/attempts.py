"""Attempts and what came of them. What is evidence is only inserted: an ending, a choice is a row of its own."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, Text, UniqueConstraint, true
from sqlalchemy.orm import Mapped, mapped_column

from rulvek.store.tables.base import Base


class Attempt(Base):
    """A try at a run; the second and later ones say why. ``skipped`` lists what was not seen to before power,
    ``instruments`` holds what was on the register for each role then; ``typed`` what a person wrote down, if it was
    read by hand, ``recorded`` the file it was read from and what was found in it, ``read_again`` which kept waveform.
    ``simulated`` is null in attempts of before: what their bench is tells it.
    """

    __tablename__ = "attempt"
    __table_args__ = (UniqueConstraint("run_id", "number"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("run.id"), index=True)
    number: Mapped[int]
    reason: Mapped[str]
    started_by: Mapped[str]
    started_at: Mapped[datetime]
    cause: Mapped[str] = mapped_column(default="")
    skipped: Mapped[list[Any]] = mapped_column(default=list)
    instruments: Mapped[dict[str, Any]] = mapped_column(default=dict)
    typed: Mapped[dict[str, Any]] = mapped_column(default=dict)
    recorded: Mapped[dict[str, Any]] = mapped_column(default=dict)
    simulated: Mapped[bool | None]
    read_again: Mapped[str] = mapped_column(default="", server_default="")


class AttemptEnding(Base):
    """How an attempt ended, with supply and heat at its reading; null where there was no reading.

    ``largest_watts`` is a burst's largest, of the weakest channel; ``start_outside`` says what was not within the
    start window; ``start_watts`` were already there when the run began. ``band_high_hz`` ends the
    band of the reading, outside of which ``outside_share`` of the power lies; ``held`` for the dwell; ``beyond_watts``
    came at the highest level within the limit where levels below it are over it, ``largest_bracket_db`` with a burst's
    last step; ``companions_full`` where channels that were only driven gave all that they certify.
    """

    __tablename__ = "attempt_ending"
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"), primary_key=True)
    end: Mapped[str]
    fault: Mapped[str] = mapped_column(Text)
    ended_at: Mapped[datetime]
    seconds: Mapped[float]
    start_volts: Mapped[float | None]
    level_dbv: Mapped[float | None]
    bracket_db: Mapped[float | None]
    supply_volts: Mapped[float | None]
    supply_lowest: Mapped[float | None]
    supply_amps: Mapped[float | None]
    temperature_c: Mapped[float | None]
    companion_watts: Mapped[float | None]
    tripped_watts: Mapped[float | None]
    largest_watts: Mapped[float | None]
    load_c: Mapped[float | None]
    start_sink_c: Mapped[float | None]
    start_outside: Mapped[str] = mapped_column(Text, default="")
    start_watts: Mapped[float | None]
    held: Mapped[bool] = mapped_column(default=True, server_default=true())
    band_high_hz: Mapped[float | None]
    largest_bracket_db: Mapped[float | None]
    beyond_watts: Mapped[float | None]
    outside_share: Mapped[float | None]
    companions_full: Mapped[bool | None]
    limit_slope: Mapped[float | None]


class Reading(Base):
    """What one channel (or bridged pair) read at the end of an attempt; THD figures are ratios."""

    __tablename__ = "reading"
    __table_args__ = (UniqueConstraint("attempt_id", "channel"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"), index=True)
    channel: Mapped[int]
    watts: Mapped[float]
    volts_rms: Mapped[float]
    thd_n: Mapped[float | None]
    thd: Mapped[float | None]
    load_nominal: Mapped[float]
    load_measured: Mapped[float]
    load_tolerance: Mapped[float]
    load_inductance_uh: Mapped[float | None]
    load_ppm_per_kelvin: Mapped[float | None]


class SecondReading(Base):
    """What another instrument read of a channel (or pair) at the same attempt; both readings are kept."""

    __tablename__ = "second_reading"
    id: Mapped[int] = mapped_column(primary_key=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"), index=True)
    channel: Mapped[int]
    watts: Mapped[float]
    volts_rms: Mapped[float | None]
    instrument: Mapped[str]
    percent_of_reading: Mapped[float]
    by: Mapped[str]
    at: Mapped[datetime]


class CaptureFile(Base):
    """A kept waveform: float32 WAV and a JSON that describes it, each named by its own SHA-256.

    ``path`` is relative to the folder of captures. Files of before have one fingerprint over both. ``changed_at`` is
    when it was found to be other than it was kept.
    """

    __tablename__ = "capture_file"
    id: Mapped[int] = mapped_column(primary_key=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"), index=True)
    path: Mapped[str]
    sha256: Mapped[str]
    described_sha256: Mapped[str] = mapped_column(default="")
    bytes: Mapped[int]
    kept_at: Mapped[datetime]
    changed_at: Mapped[datetime | None] = mapped_column(default=None)


class Step(Base):
    """What happened in an attempt, as it happened. ``id`` counts over all attempts: watchers resume by it."""

    __tablename__ = "step"
    __table_args__ = (Index("ix_step_attempt_id_id", "attempt_id", "id"), {"sqlite_autoincrement": True})
    id: Mapped[int] = mapped_column(primary_key=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"))
    kind: Mapped[str]
    at_seconds: Mapped[float]
    data: Mapped[dict[str, Any]]


class Remark(Base):
    """What somebody noted about an attempt."""

    __tablename__ = "remark"
    id: Mapped[int] = mapped_column(primary_key=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"), index=True)
    text: Mapped[str] = mapped_column(Text)
    by: Mapped[str]
    at: Mapped[datetime]


class ReadingWithdrawal(Base):
    """That somebody withdrew an attempt's reading, or let it count again; the latest entry holds."""

    __tablename__ = "reading_withdrawal"
    id: Mapped[int] = mapped_column(primary_key=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"), index=True)
    withdrawn: Mapped[bool]
    reason: Mapped[str] = mapped_column(Text)
    by: Mapped[str]
    at: Mapped[datetime]


class Overruling(Base):
    """A finding of the checks that somebody set aside for a reason; the finding itself is worked out anew each time."""

    __tablename__ = "overruling"
    id: Mapped[int] = mapped_column(primary_key=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"), index=True)
    code: Mapped[str]
    reason: Mapped[str] = mapped_column(Text)
    by: Mapped[str]
    at: Mapped[datetime]
