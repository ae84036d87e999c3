"""What a bench is made of, as it is shown."""

from collections.abc import Sequence
from datetime import datetime

from rulvek.bench.instruments.assembly import Assembly
from rulvek.bench.instruments.by_hand import Question
from rulvek.bench.instruments.description import Description
from rulvek.bench.instruments.finding import Found
from rulvek.bench.sound.devices import SoundDevice
from rulvek.core.planning.equipment import Equipment
from rulvek.core.records.benches import Looked, SelfTest
from rulvek.services.views.benches import (
    AnsweringView,
    BenchWireView,
    DescriptionView,
    InterfaceView,
    LevelsView,
    LookedView,
    MadeView,
    SelfTestView,
    StationView,
)
from rulvek.services.views.campaign import HandQuestionView
from rulvek.services.views.gear import box_view


def description_view(name: str, one: Description, is_shipped: bool) -> DescriptionView:
    """A description, for choosing."""
    return DescriptionView(
        name=name,
        title=one.name,
        roles=[role.value for role in one.roles],
        simulated=one.simulated,
        shipped=is_shipped,
        channels=one.channels,
        by_hand=one.by_hand,
        sound=one.sound,
    )


def interface_view(one: SoundDevice) -> InterfaceView:
    """An audio interface."""
    return InterfaceView(name=one.name, address=one.address, system=one.system, inputs=one.inputs, outputs=one.outputs)


def answering_view(one: Found) -> AnsweringView:
    """Who answers."""
    return AnsweringView(address=one.address, identity=one.identity, fits=list(one.fits))


def made_view(
    identity: int,
    equipment: Equipment,
    assembly: Assembly | None,
    simulated: bool,
    tests: Sequence[SelfTest],
    testing: Sequence[Looked] | None,
    changed_at: datetime | None,
) -> MadeView:
    """A bench with all that is known of it."""
    stations = assembly.stations if assembly else {}
    return MadeView(
        id=identity,
        name=equipment.name,
        simulated=simulated,
        of_instruments=assembly is not None,
        stations=[
            StationView(
                role=role.value,
                title=one.description.name,
                address=one.address,
                simulated=one.description.simulated,
            )
            for role, one in stations.items()
        ],
        wires=_wires(assembly, equipment.inputs),
        volts_per_unit=assembly.volts_per_unit if assembly else 1.0,
        levels=_levels_view(assembly),
        inputs=equipment.inputs,
        supply_limit_amps=equipment.supply_limit_amps,
        supply_limit_volts=assembly.limits.supply_volts if assembly else None,
        run_minutes=assembly.limits.run_seconds / 60 if assembly else None,
        load_c=assembly.limits.load_c if assembly else None,
        cable=f"{equipment.cable.metres:g} m of {equipment.cable.gauge} AWG, there and back",
        boxes=[box_view(box) for box in equipment.boxes],
        tests=[
            SelfTestView(
                id=one.id,
                at=one.at,
                by=one.by,
                channels=one.channels,
                powered=one.powered,
                passed=one.passed,
                in_words=one.in_words,
                of_before=changed_at is not None and one.at <= changed_at,
                looked=[looked_view(look) for look in one.looked],
            )
            for one in tests
        ],
        testing=[looked_view(look) for look in testing] if testing is not None else None,
    )


def _levels_view(assembly: Assembly | None) -> LevelsView | None:
    levels = assembly.levels if assembly else None
    if levels is None:
        return None
    return LevelsView(
        output_volts=list(levels.output_volts),
        input_volts=list(levels.input_volts),
        at_hz=levels.at_hz,
        u_percent=levels.u_percent,
        on=levels.on,
        meter=levels.meter,
        responses=bool(levels.output_response or levels.input_response),
    )


def _wires(assembly: Assembly | None, inputs: int) -> list[BenchWireView]:
    """Each channel that reaches an input."""
    if assembly is None:
        return [BenchWireView(channel=channel, input=channel) for channel in range(1, inputs + 1)]
    channels = sorted({*range(1, inputs + 1), *assembly.inputs})
    wired = ((channel, assembly.input_of(channel)) for channel in channels)
    return [BenchWireView(channel=channel, input=to) for channel, to in wired if to is not None]


def looked_view(one: Looked) -> LookedView:
    """A look, as people see it."""
    return LookedView(at=one.at, found=one.found, passed=one.passed)


def question_view(asked: Question | None) -> HandQuestionView | None:
    """What a bench asks, as people see it."""
    if asked is None:
        return None
    return HandQuestionView(
        id=asked.id,
        words=asked.words,
        unit=asked.unit,
        low=asked.low if asked.unit else None,
        high=asked.high if asked.unit else None,
        urgent=asked.urgent,
    )
