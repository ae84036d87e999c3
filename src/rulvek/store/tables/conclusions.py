"""What evidence comes to, kept as it was concluded. A row whose ``version`` is not today's is worked out afresh."""

from sqlalchemy import ForeignKey, Text
from sqlalchemy.orm import Mapped, mapped_column

from rulvek.store.tables.base import Base


class UnitConclusion(Base):
    """A unit's verdicts and reaches, how it follows its supply, what a plan needs of it (JSON); and its repeats."""

    __tablename__ = "unit_conclusion"
    unit_id: Mapped[int] = mapped_column(ForeignKey("unit.id"), primary_key=True)
    rule: Mapped[str] = mapped_column(primary_key=True)
    version: Mapped[str]
    data: Mapped[str] = mapped_column(Text)
    voltage: Mapped[str] = mapped_column(Text)
    fits: Mapped[str] = mapped_column(Text)
    known: Mapped[str] = mapped_column(Text)
    repeat_squares: Mapped[float] = mapped_column(default=0.0)
    repeat_freedom: Mapped[int] = mapped_column(default=0)


class ModelConclusion(Base):
    """A model's verdicts and reaches over all of its units, and what a plan needs of them. All JSON."""

    __tablename__ = "model_conclusion"
    model_id: Mapped[int] = mapped_column(ForeignKey("model.id"), primary_key=True)
    rule: Mapped[str] = mapped_column(primary_key=True)
    version: Mapped[str]
    data: Mapped[str] = mapped_column(Text)
    known: Mapped[str] = mapped_column(Text)
