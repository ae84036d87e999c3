"""Campaigns as planned: runs, what was seen to before power, choices of attempts."""

from datetime import date, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, Text, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column

from rulvek.store.tables.base import Base

_OPEN = text("runs_left > 0")


class Campaign(Base):
    """One unit on one bench through one plan, under one method profile. ``wishes`` is what the plan was made by.

    ``runs_left`` are not done yet; none are of a campaign that ``came_from`` another lab. While a
    table of results is ``arriving`` in pieces, nobody sees its campaigns.
    """

    __tablename__ = "campaign"
    __table_args__ = (
        Index("ix_campaign_open", "id", sqlite_where=text("runs_left > 0"), postgresql_where=text("runs_left > 0")),
        Index("ix_campaign_arriving", "id", sqlite_where=text("arriving = 1"), postgresql_where=text("arriving")),
    )
    id: Mapped[int] = mapped_column(primary_key=True)
    unit_id: Mapped[int] = mapped_column(ForeignKey("unit.id"), index=True)
    bench: Mapped[str]
    supply_volts: Mapped[float]
    method: Mapped[dict[str, Any]]
    wishes: Mapped[dict[str, Any]] = mapped_column(default=dict)
    runs_left: Mapped[int] = mapped_column(default=0)
    arriving: Mapped[bool] = mapped_column(default=False)
    came_from: Mapped[str] = mapped_column(default="", server_default="")
    created_by: Mapped[str]
    created_at: Mapped[datetime]


class Run(Base):
    """A planned run; what came of it stands in its attempts.

    ``companions`` holds ``[[channels], ohms]``; ``predicted`` what the planner expected of it;
    ``hold_watts`` what each channel is to hold in a proof.
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
    hold_watts: Mapped[float | None]
    exploratory: Mapped[bool] = mapped_column(default=False)
    wiring: Mapped[int] = mapped_column(default=1)
    wiring_key: Mapped[str] = mapped_column(default="")
    predicted: Mapped[dict[str, Any]] = mapped_column(default=dict)


class Waiting(Base):
    """What somebody wants of a campaign that waits; ``place`` is where it was put by hand in the day's order."""

    __tablename__ = "waiting"
    campaign_id: Mapped[int] = mapped_column(ForeignKey("campaign.id"), primary_key=True)
    due_on: Mapped[date | None]
    place: Mapped[int | None]
    anywhere: Mapped[bool]
    by: Mapped[str]
    at: Mapped[datetime]


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
