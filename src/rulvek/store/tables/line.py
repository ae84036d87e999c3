"""The line: series, models, channel groups, claims, units."""

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Text
from sqlalchemy.orm import Mapped, composite, mapped_column

from rulvek.core.records.claims import ClaimTerms
from rulvek.core.records.facts import ModelFacts, UnitFacts
from rulvek.store.tables.base import Base
from rulvek.store.types import Shape, columns_of


class Series(Base):
    """A product series."""

    __tablename__ = "series"
    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(unique=True)
    purpose: Mapped[str]
    rating_step_watts: Mapped[float | None]
    currency: Mapped[str] = mapped_column(default="", server_default="")


class Model(Base):
    """A product. ``design`` names the simulated amplifier that stands in for it on a simulated bench;
    ``described_design`` describes one of its own in its place.

    ``version`` counts every change of anything below it that a conclusion rests on, ``claims_version`` those of claims.
    """

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
    described_design: Mapped[str] = mapped_column(Text, default="", server_default="")
    fuse_amps: Mapped[list[Any]] = mapped_column(default=list)
    facts: Mapped[ModelFacts] = mapped_column(Shape(ModelFacts), server_default="{}")
    version: Mapped[int] = mapped_column(default=0)
    claims_version: Mapped[int] = mapped_column(default=0)


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
    topology: Mapped[str] = mapped_column(default="", server_default="")
    band_low_hz: Mapped[float | None]
    band_high_hz: Mapped[float | None]


class Claim(Base):
    """A published figure with the conditions its document states; null where it states none."""

    __tablename__ = "claim"
    id: Mapped[int] = mapped_column(primary_key=True)
    model_id: Mapped[int] = mapped_column(ForeignKey("model.id"), index=True)
    terms: Mapped[ClaimTerms] = composite(ClaimTerms, *columns_of(ClaimTerms))
    added_by: Mapped[str]
    added_at: Mapped[datetime]


class ClaimWithdrawal(Base):
    """A claim that is no longer made, with the reason; the claim itself stays."""

    __tablename__ = "claim_withdrawal"
    claim_id: Mapped[int] = mapped_column(ForeignKey("claim.id"), primary_key=True)
    reason: Mapped[str] = mapped_column(Text)
    withdrawn_by: Mapped[str]
    withdrawn_at: Mapped[datetime]


class Unit(Base):
    """One serial-numbered sample of a model. ``design`` names its own simulated amplifier, if it is not the model's.

    ``version`` counts every change of its evidence.
    """

    __tablename__ = "unit"
    id: Mapped[int] = mapped_column(primary_key=True)
    model_id: Mapped[int] = mapped_column(ForeignKey("model.id"), index=True)
    serial: Mapped[str] = mapped_column(unique=True)
    lot: Mapped[str]
    revision: Mapped[str]
    origin: Mapped[str]
    received_at: Mapped[datetime]
    design: Mapped[str | None]
    facts: Mapped[UnitFacts] = mapped_column(Shape(UnitFacts), server_default="{}")
    version: Mapped[int] = mapped_column(default=0)
