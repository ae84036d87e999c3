"""The tables. What is evidence is only ever inserted: an ending, a withdrawal, a choice is a row of its own."""

from datetime import UTC, date, datetime
from typing import Any, ClassVar

from sqlalchemy import JSON, DateTime, ForeignKey, Index, MetaData, String, Text, TypeDecorator, UniqueConstraint
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship


class UtcDateTime(TypeDecorator[datetime]):
    """SQLite forgets time zones; everything is kept in UTC and comes back saying so."""

    impl = DateTime
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("a moment without a time zone cannot be stored")
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        return None if value is None else value.replace(tzinfo=UTC)


class Base(DeclarativeBase):
    """All tables; names of constraints follow one rule so that migrations can refer to them."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(column_0_label)s",
            "uq": "uq_%(table_name)s_%(column_0_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map: ClassVar = {datetime: UtcDateTime, dict[str, Any]: JSON, list[Any]: JSON, str: String(200)}


class Series(Base):
    """A product series."""

    __tablename__ = "series"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    purpose: Mapped[str]
    models: Mapped[list["Model"]] = relationship(back_populates="series", order_by="Model.id")


class Model(Base):
    """A product. ``design`` names the simulated amplifier that stands in for it on a simulated bench."""

    __tablename__ = "model"
    id: Mapped[int] = mapped_column(primary_key=True)
    series_id: Mapped[int] = mapped_column(ForeignKey("series.id"), index=True)
    name: Mapped[str] = mapped_column(unique=True)
    topology: Mapped[str]
    description: Mapped[str]
    regulated: Mapped[bool]
    supply_low_volts: Mapped[float]
    supply_high_volts: Mapped[float]
    sensitivity_volts: Mapped[float]
    test_controls: Mapped[list[Any]]
    design: Mapped[str]
    fuse_amps: Mapped[list[Any]] = mapped_column(default=list)
    series: Mapped[Series] = relationship(back_populates="models")
    groups: Mapped[list["ChannelGroup"]] = relationship(order_by="ChannelGroup.id")
    claims: Mapped[list["Claim"]] = relationship(back_populates="model", order_by="Claim.id")
    units: Mapped[list["Unit"]] = relationship(back_populates="model", order_by="Unit.id")


class ChannelGroup(Base):
    """Channels of a model that are alike; loads in Ω."""

    __tablename__ = "channel_group"
    id: Mapped[int] = mapped_column(primary_key=True)
    model_id: Mapped[int] = mapped_column(ForeignKey("model.id"), index=True)
    name: Mapped[str]
    channels: Mapped[list[Any]]
    rated_loads: Mapped[list[Any]]
    bridged_loads: Mapped[list[Any]]
    bass: Mapped[bool]


class Claim(Base):
    """A published figure with the conditions its document states; null where it states none."""

    __tablename__ = "claim"
    id: Mapped[int] = mapped_column(primary_key=True)
    model_id: Mapped[int] = mapped_column(ForeignKey("model.id"), index=True)
    group: Mapped[str]
    document: Mapped[str]
    watts: Mapped[float]
    load_ohms: Mapped[float]
    bridged: Mapped[bool]
    kind: Mapped[str]
    supply_volts: Mapped[float | None]
    thd_n_percent: Mapped[float | None]
    band_low_hz: Mapped[float | None]
    band_high_hz: Mapped[float | None]
    added_by: Mapped[str]
    added_at: Mapped[datetime]
    model: Mapped[Model] = relationship(back_populates="claims")
    withdrawal: Mapped["ClaimWithdrawal | None"] = relationship()


class ClaimWithdrawal(Base):
    """A claim that is no longer made, with the reason; the claim itself stays."""

    __tablename__ = "claim_withdrawal"
    claim_id: Mapped[int] = mapped_column(ForeignKey("claim.id"), primary_key=True)
    reason: Mapped[str] = mapped_column(Text)
    withdrawn_by: Mapped[str]
    withdrawn_at: Mapped[datetime]


class Unit(Base):
    """One serial-numbered sample of a model. ``design`` names its own simulated amplifier, if it is not the model's."""

    __tablename__ = "unit"
    id: Mapped[int] = mapped_column(primary_key=True)
    model_id: Mapped[int] = mapped_column(ForeignKey("model.id"), index=True)
    serial: Mapped[str] = mapped_column(unique=True)
    lot: Mapped[str]
    revision: Mapped[str]
    origin: Mapped[str]
    received_at: Mapped[datetime]
    design: Mapped[str | None]
    model: Mapped[Model] = relationship(back_populates="units")
    campaigns: Mapped[list["Campaign"]] = relationship(back_populates="unit", order_by="Campaign.id")


class Campaign(Base):
    """One unit on one bench through one plan, under one method profile. ``wishes`` is what the plan was made by."""

    __tablename__ = "campaign"
    id: Mapped[int] = mapped_column(primary_key=True)
    unit_id: Mapped[int] = mapped_column(ForeignKey("unit.id"), index=True)
    bench: Mapped[str]
    supply_volts: Mapped[float]
    method: Mapped[dict[str, Any]]
    wishes: Mapped[dict[str, Any]] = mapped_column(default=dict)
    created_by: Mapped[str]
    created_at: Mapped[datetime]
    unit: Mapped[Unit] = relationship(back_populates="campaigns")
    runs: Mapped[list["Run"]] = relationship(back_populates="campaign", order_by="Run.position")
    preparations: Mapped[list["Preparation"]] = relationship(order_by="Preparation.id")


class Run(Base):
    """A planned run; what came of it stands in its attempts.

    ``companions`` holds ``[[channels], ohms]``; ``predicted`` what the planner expected of it.
    """

    __tablename__ = "run"
    __table_args__ = (UniqueConstraint("campaign_id", "position"),)
    id: Mapped[int] = mapped_column(primary_key=True)
    campaign_id: Mapped[int] = mapped_column(ForeignKey("campaign.id"), index=True)
    position: Mapped[int]
    mode: Mapped[str]
    group: Mapped[str]
    channels: Mapped[list[Any]]
    load_ohms: Mapped[float]
    bridged: Mapped[bool]
    tone_hz: Mapped[float]
    supply_volts: Mapped[float]
    companions: Mapped[list[Any]]
    reason: Mapped[str] = mapped_column(Text)
    burst: Mapped[str] = mapped_column(default="")
    exploratory: Mapped[bool] = mapped_column(default=False)
    wiring: Mapped[int] = mapped_column(default=1)
    wiring_key: Mapped[str] = mapped_column(default="")
    predicted: Mapped[dict[str, Any]] = mapped_column(default=dict)
    campaign: Mapped[Campaign] = relationship(back_populates="runs")
    attempts: Mapped[list["Attempt"]] = relationship(back_populates="run", order_by="Attempt.number")
    choices: Mapped[list["AttemptChoice"]] = relationship(order_by="AttemptChoice.id")


class Attempt(Base):
    """A try at a run; the second and later ones say why. ``skipped`` lists what was not seen to before power,
    ``instruments`` holds what was on the register for each role then; ``typed`` what a person wrote down, if it was
    read by hand, ``recorded`` the file it was read from and what was found in it.
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
    run: Mapped[Run] = relationship(back_populates="attempts")
    ending: Mapped["AttemptEnding | None"] = relationship(back_populates="attempt")
    readings: Mapped[list["Reading"]] = relationship(order_by="Reading.channel")
    captures: Mapped[list["CaptureFile"]] = relationship(order_by="CaptureFile.id")
    remarks: Mapped[list["Remark"]] = relationship(order_by="Remark.id")
    overrulings: Mapped[list["Overruling"]] = relationship(order_by="Overruling.id")
    seconds: Mapped[list["SecondReading"]] = relationship(order_by="SecondReading.id")


class Preparation(Base):
    """Something seen to before power, for one wiring of a campaign, or skipped with a reason; the latest counts."""

    __tablename__ = "preparation"
    id: Mapped[int] = mapped_column(primary_key=True)
    campaign_id: Mapped[int] = mapped_column(ForeignKey("campaign.id"), index=True)
    wiring_key: Mapped[str]
    item: Mapped[str]
    done: Mapped[bool]
    reason: Mapped[str] = mapped_column(Text)
    data: Mapped[dict[str, Any]]
    by: Mapped[str]
    at: Mapped[datetime]


class AttemptChoice(Base):
    """Which attempt stands for a run, where it is not the last valid one; the latest choice counts."""

    __tablename__ = "attempt_choice"
    id: Mapped[int] = mapped_column(primary_key=True)
    run_id: Mapped[int] = mapped_column(ForeignKey("run.id"), index=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"))
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


class Remark(Base):
    """What somebody noted about an attempt."""

    __tablename__ = "remark"
    id: Mapped[int] = mapped_column(primary_key=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"), index=True)
    text: Mapped[str] = mapped_column(Text)
    by: Mapped[str]
    at: Mapped[datetime]


class Step(Base):
    """What happened in an attempt, as it happened. ``id`` counts over all attempts: watchers resume by it."""

    __tablename__ = "step"
    __table_args__ = (Index("ix_step_attempt_id_id", "attempt_id", "id"), {"sqlite_autoincrement": True})
    id: Mapped[int] = mapped_column(primary_key=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"))
    kind: Mapped[str]
    at_seconds: Mapped[float]
    data: Mapped[dict[str, Any]]


class AttemptEnding(Base):
    """How an attempt ended, with supply and heat at its reading; null where there was no reading.

    ``largest_watts`` is a burst's largest, of the weakest channel; ``start_outside`` says what was not within the
    start window; ``start_watts`` were already there when the run began.
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
    attempt: Mapped[Attempt] = relationship(back_populates="ending")


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
    """A kept waveform: float32 WAV with a JSON beside it. ``path`` is relative to the folder of captures."""

    __tablename__ = "capture_file"
    id: Mapped[int] = mapped_column(primary_key=True)
    attempt_id: Mapped[int] = mapped_column(ForeignKey("attempt.id"), index=True)
    path: Mapped[str] = mapped_column(unique=True)
    sha256: Mapped[str]
    bytes: Mapped[int]
    kept_at: Mapped[datetime]


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
    entered_by: Mapped[str]
    entered_at: Mapped[datetime]


class AuditEntry(Base):
    """Who did what, chained: each entry carries the hash of the one before."""

    __tablename__ = "audit_entry"
    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    person: Mapped[str]
    action: Mapped[str]
    subject: Mapped[str] = mapped_column(index=True)
    detail: Mapped[dict[str, Any]]
    previous: Mapped[str]
    hash: Mapped[str] = mapped_column(unique=True)
