"""A second instrument at the same attempt: both readings are kept, and held against each other."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime

from rulvek.core.errors import BadInput, NotFound
from rulvek.core.judgement.checks import SecondReading, normalised_error
from rulvek.core.judgement.uncertainty import Instruments, Specification, reading_budget
from rulvek.core.measure.power import rms_watts
from rulvek.services.gear import instruments_of
from rulvek.services.views.attempt import SecondView
from rulvek.store import audit, queries, tables
from rulvek.store.database import Database


@dataclass(frozen=True, slots=True)
class NewSecond:
    """What another instrument read of one channel (or pair): watts, or volts rms."""

    channel: int
    watts: float | None = None
    volts_rms: float | None = None


class SecondInstrument:
    """Takes second readings down."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def add(
        self, attempt_id: int, instrument: str, accuracy_percent: float, channels: Sequence[NewSecond], person: str
    ) -> None:
        """Keep what another instrument read; ``accuracy_percent`` is its limit in percent of its volts.

        Raises:
            BadInput: no name, no figure, or the name of the instrument that was read already.
            NotFound: a channel that the attempt has no reading of.
        """
        name = instrument.strip()
        read = [new for new in channels if new.watts is not None or new.volts_rms is not None]
        if not name:
            raise BadInput("Name the second instrument.", field="instrument")
        if not read:
            raise BadInput("Give watts or volts of at least one channel.", field="channels")
        with self._database.writing() as session:
            attempt = queries.get(session, tables.Attempt, attempt_id)
            if name == attempt.instruments.get("output", {}).get("name"):
                raise BadInput(f"The attempt was read with {name} itself; repeat the run instead.", field="instrument")
            first = {reading.channel: reading for reading in attempt.readings}
            for new in read:
                if new.channel not in first:
                    raise NotFound(f"The attempt has no reading of channel {new.channel}.")
                volts, watts = new.volts_rms, new.watts
                if watts is None:
                    watts = rms_watts(volts or 0.0, first[new.channel].load_measured)
                if not watts > 0:
                    raise BadInput(f"Channel {new.channel}: a second reading must be above 0.", field="channels")
                row = tables.SecondReading(
                    attempt_id=attempt_id,
                    channel=new.channel,
                    watts=watts,
                    volts_rms=volts,
                    instrument=name,
                    percent_of_reading=accuracy_percent,
                    by=person,
                    at=datetime.now(UTC),
                )
                queries.add(session, row)
            text = f"attempt {attempt.number}, {name}: {len(read)} channels"
            audit.note(
                session, person, "added a second instrument's reading", f"campaign/{attempt.run.campaign_id}", text=text
            )


def second_readings(attempt: tables.Attempt) -> tuple[SecondReading, ...]:
    """Both instruments' watts with what belongs to each of them alone.

    They read the same terminals at the same moment: load, level bracket and supply are shared, and no part of either
    uncertainty when the two are compared.
    """
    first = {reading.channel: reading for reading in attempt.readings}
    own = Instruments(volts=instruments_of(attempt).volts)
    pairs = []
    for row in attempt.seconds:
        reading = first[row.channel]
        if reading.watts <= 0:
            continue
        other = Instruments(volts=Specification(row.instrument, percent_of_reading=row.percent_of_reading))
        ohms = reading.load_measured
        pairs.append(
            SecondReading(
                channel=row.channel,
                instrument=row.instrument,
                watts=reading.watts,
                expanded=reading_budget(reading.watts, ohms, 0.0, own).expanded,
                other_watts=row.watts,
                other_expanded=reading_budget(row.watts, ohms, 0.0, other).expanded,
            )
        )
    return tuple(pairs)


def second_views(attempt: tables.Attempt) -> list[SecondView]:
    """Second readings as people see them, each with its E_n."""
    return [
        SecondView(
            channel=pair.channel,
            instrument=pair.instrument,
            watts=pair.other_watts,
            expanded_watts=pair.other_expanded,
            first_watts=pair.watts,
            first_expanded_watts=pair.expanded,
            normalised_error=(
                normalised_error(pair.watts, pair.expanded, pair.other_watts, pair.other_expanded)
                if pair.expanded + pair.other_expanded > 0
                else None
            ),
            by=row.by,
            at=row.at,
        )
        for pair, row in zip(second_readings(attempt), attempt.seconds, strict=False)
    ]
