"""Writes down what happens in an attempt, as it happens, and how it ended."""

from dataclasses import asdict
from datetime import UTC, datetime
from typing import Any

from rulvek.bench.conductor import Finished, LevelSet, PointRead, Prepared, RunEvent, Waiting
from rulvek.bench.preparing import OutOfWindow
from rulvek.core.measure.burst import Pulses
from rulvek.core.measure.reading import Point
from rulvek.core.measure.steps import End, Outcome
from rulvek.services.hub import Hub
from rulvek.services.records import point_data, point_from
from rulvek.store import queries, tables
from rulvek.store.database import Database, Session


class AttemptLog:
    """Commits each step before watchers hear of it. The last one is left to the ending, as one transaction with it."""

    def __init__(self, database: Database, hub: Hub, attempt_id: int, started: float) -> None:
        self._database, self._hub, self.attempt_id, self._started = database, hub, attempt_id, started
        self.prepared: dict[str, Any] | None = None
        self.fault = ""

    def keep(self, event: RunEvent) -> None:
        """Write one event of the conductor down."""
        match event:
            case Waiting(at=at, outside=outside):
                self.write("waiting", at, {"waiting": outside_in_words(outside)})
            case Prepared(at=at):
                self.prepared = _prepared_data(event)
                self.write("prepared", at, self.prepared)
            case LevelSet(at=at, level_dbv=level):
                self.write("level", at, {"level_dbv": level})
            case PointRead(at=at, point=point, phase=phase, over_limit=over_limit, pulses=pulses):
                drawn = {} if pulses is None else {"pulses": _pulses_data(pulses)}
                self.write("point", at, point_data(point, phase, over_limit) | drawn)
            case Finished(fault=fault):
                self.fault = fault

    def write(self, kind: str, at: float, data: dict[str, Any]) -> None:
        """Commit a step of this attempt and wake the watchers."""
        with self._database.writing() as session:
            row = tables.Step(attempt_id=self.attempt_id, kind=kind, at_seconds=at - self._started, data=data)
            queries.add(session, row)
        self._hub.wake()

    def end(self, session: Session, outcome: Outcome, seconds: float) -> None:
        """Write how the attempt ended, within the caller's transaction."""
        add_ending(
            session,
            self.attempt_id,
            end=outcome.end,
            fault=self.fault,
            seconds=seconds,
            reading=outcome.reading,
            prepared=self.prepared,
            bracket_db=outcome.bracket_db,
            tripped_watts=outcome.tripped_watts,
            largest_watts=outcome.largest.weakest_watts if outcome.largest else None,
            start_watts=started_with(outcome),
        )


def started_with(outcome: Outcome) -> float | None:
    """Watts at the first of several levels; None where there was only one, which then is the reading itself."""
    return outcome.points[0].weakest_watts if len(outcome.points) > 1 else None


def outside_in_words(outside: OutOfWindow) -> str:
    """“heat sink at 61.2 °C, at most 50 °C”."""
    if outside.what == "supply":
        return f"supply at {outside.value:.2f} V, wanted {outside.low:.2f} to {outside.high:.2f} V"
    name = {"sink": "heat sink", "load": "hottest load"}[outside.what]
    return f"{name} at {outside.value:.1f} °C, at most {outside.high:g} °C"


def close_lost(session: Session, attempt: tables.Attempt) -> None:
    """End an attempt from its own steps: the best point under the limit is its reading, short of the limit."""
    steps = queries.steps(session, attempt.id)
    prepared = next((step.data for step in steps if step.kind == "prepared"), None)
    under = [step.data for step in steps if step.kind == "point" and not step.data["over_limit"]]
    best = max(under, key=lambda data: float(data["level_dbv"]), default=None)
    add_ending(
        session,
        attempt.id,
        end=End.LINK_LOST,
        fault="The server stopped in the middle of the run.",
        seconds=steps[-1].at_seconds if steps else 0.0,
        reading=point_from(best) if best else None,
        prepared=prepared,
    )


def add_ending(
    session: Session,
    attempt_id: int,
    *,
    end: End,
    fault: str,
    seconds: float,
    reading: Point | None,
    prepared: dict[str, Any] | None,
    bracket_db: float | None = None,
    tripped_watts: float | None = None,
    largest_watts: float | None = None,
    start_watts: float | None = None,
) -> None:
    """Write how an attempt ended, with the readings of its best point, and the step that tells the watchers."""
    queries.add(
        session,
        tables.AttemptEnding(
            attempt_id=attempt_id,
            end=end.value,
            fault=fault,
            ended_at=datetime.now(UTC),
            seconds=seconds,
            start_volts=prepared["start_volts"] if prepared else None,
            level_dbv=reading.level_dbv if reading else None,
            bracket_db=bracket_db,
            supply_volts=reading.supply_volts if reading else None,
            supply_lowest=reading.supply_lowest if reading else None,
            supply_amps=reading.supply_amps if reading else None,
            temperature_c=reading.temperature_c if reading else None,
            load_c=reading.load_c if reading else None,
            companion_watts=reading.companion_watts if reading else None,
            tripped_watts=tripped_watts,
            largest_watts=largest_watts,
            start_watts=start_watts,
            start_sink_c=prepared.get("sink_c") if prepared else None,
            start_outside=prepared.get("outside", "") if prepared else "",
        ),
    )
    data = {"end": end.value, "fault": fault}
    queries.add(session, tables.Step(attempt_id=attempt_id, kind="finished", at_seconds=seconds, data=data))
    if reading is None or prepared is None:
        return
    for channel in reading.channels:
        load = prepared["loads"][str(channel.channel)]
        queries.add(
            session,
            tables.Reading(
                attempt_id=attempt_id,
                channel=channel.channel,
                watts=channel.watts,
                volts_rms=channel.volts_rms,
                thd_n=channel.thd_n,
                thd=channel.thd,
                load_nominal=load["nominal"],
                load_measured=load["measured"],
                load_tolerance=load["tolerance"],
            ),
        )


def _prepared_data(event: Prepared) -> dict[str, Any]:
    return {
        "start_volts": event.start_volts,
        "clamp_zero_amps": event.clamp_zero_amps,
        "loads": loads_data(event.loads),
        "bench": event.bench,
        "sink_c": event.sink_c,
        "load_c": event.load_c,
        "outside": outside_in_words(event.outside) if event.outside is not None else "",
    }


def loads_data(loads: dict[int, Any]) -> dict[str, dict[str, float]]:
    """Loads by connection number, as they are stored."""
    return {
        str(number): {"nominal": load.nominal_ohms, "measured": load.measured_ohms, "tolerance": load.tolerance}
        for number, load in loads.items()
    }


def _pulses_data(pulses: Pulses) -> dict[str, Any]:
    """Rounded to what a screen can show."""
    data = asdict(pulses)
    data["volts"] = [round(volts, 2) for volts in pulses.volts]
    data["windows"] = [[round(start, 5), round(stop, 5)] for start, stop in pulses.windows]
    return data
