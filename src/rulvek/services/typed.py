"""Readings by hand, from a meter and a clamp or an oscilloscope: the same arithmetic and checks as the bench's."""

import math
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from typing import Any

from rulvek.bench.sim.catalogue import INSTRUMENTS
from rulvek.core.electrical.loads import bridged_equivalent
from rulvek.core.electrical.supply import LARGEST_EXPONENT
from rulvek.core.errors import BadInput
from rulvek.core.judgement.checks import Figures, check
from rulvek.core.judgement.method import MethodProfile
from rulvek.core.judgement.uncertainty import Instruments, Specification, reading_budget
from rulvek.core.measure.power import rms_watts, unclipped_sine_watts
from rulvek.core.measure.steps import End
from rulvek.core.planning.plan import Wishes
from rulvek.core.planning.wiring import RunSpec
from rulvek.services.campaigns import Campaigns
from rulvek.services.gear import due_on
from rulvek.services.records import core_product
from rulvek.services.views.attempt import FindingView
from rulvek.services.views.outside import TypedChannelView, TypedView
from rulvek.store import audit, queries, tables
from rulvek.store.database import Database, Session


@dataclass(frozen=True, slots=True)
class TypedChannel:
    """What was read of one channel (or pair): watts, or volts rms, or volts peak; one is enough."""

    watts: float | None = None
    volts_rms: float | None = None
    volts_peak: float | None = None


@dataclass(frozen=True, slots=True)
class TypedReading:
    """A reading as a technician writes it down; None where something was not read.

    ``accuracy_percent`` is the instrument's limit in percent of its volts; ``start_watts`` were already there when the
    run began; ``charger_amps`` is what a charger added past the clamp; ``sink_c`` the heat sink's before the run.
    """

    spec: RunSpec
    channels: tuple[TypedChannel, ...]
    instrument: str
    accuracy_percent: float = 1.0
    load_measured: float | None = None
    start_volts: float | None = None
    loaded_volts: float | None = None
    amps: float | None = None
    charger_amps: float | None = None
    start_watts: float | None = None
    sink_c: float | None = None
    thd_n_percent: float | None = None
    end: End = End.LIMIT
    clamp_zeroed: bool | None = None
    controls_in_position: bool | None = None
    all_loaded: bool = True
    remark: str = ""


class Typed:
    """Works a typed reading out as it is typed, and keeps it as an attempt of origin "typed"."""

    def __init__(self, database: Database, campaigns: Campaigns) -> None:
        self._database, self._campaigns = database, campaigns

    def preview(self, unit_id: int, typed: TypedReading) -> TypedView:
        """The arithmetic and the checks; keeps nothing.

        Raises:
            BadInput: a run that this model cannot have, or more channels than it has.
        """
        with self._database.reading() as session:
            return worked_out(queries.get(session, tables.Unit, unit_id).model, typed)

    def keep(self, unit_id: int, typed: TypedReading, person: str) -> int:
        """Put it on record as the attempt of a campaign of its own; returns the attempt's id.

        Raises:
            BadInput: an instrument without a name, or a channel without a figure.
        """
        shown = self.preview(unit_id, typed)
        if not typed.instrument.strip():
            raise BadInput("Name the instrument that was read.", field="instrument")
        if not shown.complete:
            raise BadInput("Every channel needs watts, or volts to work them out from.", field="channels")
        wishes = Wishes(modes=(typed.spec.mode,), held_volts=typed.spec.supply_volts)
        with self._database.writing() as session:
            run = self._campaigns.create_in(session, unit_id, person, wishes, [typed.spec]).runs[0]
            attempt = write_typed(session, run.id, typed, shown, person)
            text = f"{typed.spec.mode}, {typed.spec.load_ohms:g} Ω {typed.spec.group}, by {typed.instrument.strip()}"
            audit.note(session, person, "typed a reading", f"campaign/{run.campaign_id}", text=text)
            return attempt.id


def worked_out(model: tables.Model, typed: TypedReading) -> TypedView:
    """A typed reading's arithmetic and checks.

    Raises:
        BadInput: a group or more channels than the model has.
    """
    group = core_product(model).group(_known_group(model, typed.spec.group))
    names = group.channels[::2] if typed.spec.bridged else group.channels
    if len(typed.channels) > len(names):
        raise BadInput(
            f"The group “{group.name}” has {len(names)} to read, not {len(typed.channels)}.", field="channels"
        )
    ohms = typed.load_measured or typed.spec.load_ohms
    channels = [
        TypedChannelView(channel=name, watts=_watts(read, ohms), how=_how(read, ohms))
        for name, read in zip(names, typed.channels, strict=False)
    ]
    watts = [channel.watts for channel in channels if channel.watts is not None]
    figures = _figures(typed, watts, model.topology)
    share = figures.efficiency
    known = typed.start_volts is not None and typed.loaded_volts is not None
    return TypedView(
        channels=channels,
        weakest_watts=min(watts) if watts else None,
        expanded_watts=_expanded(typed, min(watts)) if watts and min(watts) > 0 else None,
        average_watts=sum(watts) / len(watts) if watts else None,
        efficiency_percent=None if share is None else 100 * share,
        sag_volts=(typed.start_volts or 0.0) - (typed.loaded_volts or 0.0) if known else None,
        equivalent=_equivalent(typed.spec, watts),
        complete=len(watts) == len(names) and bool(typed.instrument.strip()),
        findings=[
            FindingView(
                code=f.code,
                severity=f.severity,
                message=f.message,
                advice=f.advice,
                overruled_by=None,
                overruled_because="",
            )
            for f in check(figures, MethodProfile())
        ],
    )


def _expanded(typed: TypedReading, watts: float) -> float:
    """U of a typed reading, as it will stand on record while the unit's voltage exponent is not known."""
    volts = Specification(typed.instrument, percent_of_reading=typed.accuracy_percent)
    instruments = Instruments(volts=volts, supply=INSTRUMENTS.supply, loads=INSTRUMENTS.loads)
    ohms = typed.load_measured or typed.spec.load_ohms
    tolerance = _load_tolerance(typed)
    return reading_budget(watts, ohms, tolerance, instruments, None, typed.loaded_volts, LARGEST_EXPONENT).expanded


def _load_tolerance(typed: TypedReading) -> float:
    """A load that nobody measured is nominal, and as doubtful as loads come."""
    return 0.01 if typed.load_measured else 2 * MethodProfile().load_tolerance_percent / 100


def write_typed(
    session: Session,
    run_id: int,
    typed: TypedReading,
    shown: TypedView,
    person: str,
    at: datetime | None = None,
    file: str = "",
) -> tables.Attempt:
    """Write a typed reading down as an attempt at a run; ``file`` names the table that it comes from, if any."""
    now = at or datetime.now(UTC)
    ohms = typed.load_measured or typed.spec.load_ohms
    tolerance = _load_tolerance(typed)
    attempt = queries.add(
        session,
        tables.Attempt(
            run_id=run_id,
            number=queries.next_attempt_number(session, run_id),
            reason="",
            started_by=person,
            started_at=now,
            instruments={
                "output": {
                    "name": typed.instrument.strip(),
                    "specification": {"percent_of_reading": typed.accuracy_percent},
                    "due_on": due_on(session, typed.instrument),
                }
            },
            typed=_as_typed(typed) | {"file": file},
        ),
    )
    ending = tables.AttemptEnding(
        attempt_id=attempt.id,
        end=typed.end.value,
        fault="",
        ended_at=now,
        seconds=0.0,
        start_volts=typed.start_volts,
        supply_volts=typed.loaded_volts,
        supply_amps=typed.amps,
        start_watts=typed.start_watts,
        start_sink_c=typed.sink_c,
    )
    queries.add(session, ending)
    for channel in shown.channels:
        watts = channel.watts or 0.0
        reading = tables.Reading(
            attempt_id=attempt.id,
            channel=channel.channel,
            watts=watts,
            volts_rms=math.sqrt(watts * ohms),
            thd_n=None if typed.thd_n_percent is None else typed.thd_n_percent / 100,
            thd=None,
            load_nominal=typed.spec.load_ohms,
            load_measured=ohms,
            load_tolerance=tolerance,
        )
        queries.add(session, reading)
    if typed.remark.strip():
        queries.add(session, tables.Remark(attempt_id=attempt.id, text=typed.remark.strip(), by=person, at=now))
    session.refresh(attempt)
    return attempt


def _as_typed(typed: TypedReading) -> dict[str, Any]:
    data = asdict(typed)
    data["spec"]["mode"], data["end"] = typed.spec.mode.value, typed.end.value
    return data


def _known_group(model: tables.Model, name: str) -> str:
    names = [group.name for group in model.groups]
    if name not in names:
        raise BadInput(f"{model.name} has no channel group “{name}”; it has {', '.join(names)}.", field="group")
    return name


def _watts(read: TypedChannel, ohms: float) -> float | None:
    """Watts as read, else from volts rms, else from a peak as if the sine were not clipped."""
    if read.watts is not None:
        return read.watts
    if read.volts_rms is not None:
        return rms_watts(read.volts_rms, ohms)
    return None if read.volts_peak is None else unclipped_sine_watts(read.volts_peak, ohms)


def _how(read: TypedChannel, ohms: float) -> str:
    if read.watts is not None:
        return "as read"
    if read.volts_rms is not None:
        return f"{read.volts_rms:g}² V² / {ohms:g} Ω"
    return "" if read.volts_peak is None else f"{read.volts_peak:g}² V² / (2 · {ohms:g} Ω), if the sine is not clipped"


def _figures(typed: TypedReading, watts: Sequence[float], topology: str) -> Figures:
    weakest = min(range(len(watts)), key=lambda i: watts[i]) if watts else None
    read = typed.channels[weakest] if weakest is not None else TypedChannel()
    return Figures(
        mode=typed.spec.mode,
        topology=topology,
        end=typed.end,
        thd_n_percent=typed.thd_n_percent,
        load_nominal=typed.spec.load_ohms,
        load_measured=typed.load_measured,
        watts=min(watts) if watts else None,
        channel_watts=tuple(watts),
        output_watts=sum(watts) if watts else None,
        volts_rms=read.volts_rms,
        volts_peak=read.volts_peak if read.watts is None and read.volts_rms is None else None,
        set_volts=typed.spec.supply_volts,
        start_volts=typed.start_volts,
        supply_volts=typed.loaded_volts,
        amps=typed.amps,
        charger_amps=typed.charger_amps,
        start_watts=typed.start_watts,
        sink_start_c=typed.sink_c,
        clamp_zeroed=typed.clamp_zeroed,
        controls_in_position=typed.controls_in_position,
        all_loaded=typed.all_loaded,
    )


def _equivalent(spec: RunSpec, watts: Sequence[float]) -> str | None:
    if not spec.bridged or not watts:
        return None
    each, ohms = bridged_equivalent(min(watts), spec.load_ohms)
    return f"{2 * len(watts)} × {each:.1f} W at {ohms:g} Ω"
