"""A second instrument at the same attempt: both readings are kept, and held against each other."""

from collections.abc import Sequence

from rulvek import clock
from rulvek.core.errors import BadInput, NotFound
from rulvek.core.quantities import refuse_out_of_bounds
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import SecondReading
from rulvek.core.records.outside import OtherReading
from rulvek.core.signals.power import rms_watts
from rulvek.services.conclusions import Conclusions
from rulvek.store import audit, load, save, seals
from rulvek.store.engine import Database


class SecondInstrument:
    """Takes second readings down."""

    def __init__(self, database: Database, conclusions: Conclusions) -> None:
        self._database, self._conclusions = database, conclusions

    def add(
        self, attempt_id: int, instrument: str, accuracy_percent: float, channels: Sequence[OtherReading], actor: Actor
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
        for new in read:
            refuse_out_of_bounds(new, "channels.")
        with self._database.reading() as session:
            campaign, _, attempt = load.attempt(session, attempt_id)
        if name == attempt.instruments.output_name:
            raise BadInput(f"The attempt was read with {name} itself; repeat the run instead.", field="instrument")
        first = {reading.channel: reading for reading in attempt.readings}
        missing = next((new.channel for new in read if new.channel not in first), None)
        if missing is not None:
            raise NotFound(f"The attempt has no reading of channel {missing}.")
        at = clock.now()
        rows = [
            SecondReading(
                channel=new.channel,
                watts=_watts(new, first[new.channel].load.measured_ohms),
                volts_rms=new.volts_rms,
                instrument=name,
                percent_of_reading=accuracy_percent,
                by=actor.name,
                at=at,
            )
            for new in read
        ]
        with self._database.writing() as session:
            ids = save.second_readings(session, campaign.id, attempt_id, rows)
            text = f"attempt {attempt.number}, {name}: {len(read)} channels"
            sealed = seals.second_reading_seals(session, ids)
            audit.note(
                session,
                actor,
                "added a second instrument's reading",
                f"campaign/{campaign.id}",
                seals=sealed,
                text=text,
            )
        self._conclusions.changed(campaign.unit.model_id, campaign.unit.id)


def _watts(new: OtherReading, ohms: float) -> float:
    return new.watts if new.watts is not None else rms_watts(new.volts_rms or 0.0, ohms)
