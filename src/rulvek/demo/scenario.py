"""Hadrunek, a maker of amplifiers for vehicles and boats that never existed: its line, its papers, its lab."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from datetime import date, timedelta
from functools import partial
from typing import Any

from rulvek.bench.instruments.assembly import Assembly, Limits, Station
from rulvek.bench.instruments.description import shipped
from rulvek.bench.sim.catalogue import equipment
from rulvek.bench.sim.instruments.nearby import NEARBY
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.records.claims import ClaimKind, ClaimTerms
from rulvek.core.records.instruments import InstrumentEntry, InstrumentRole
from rulvek.core.records.people import Role
from rulvek.core.records.product import ChannelGroup
from rulvek.core.records.wishes import Wishes
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.demo.notebook import METER, Note

ENGINEER = "Tamsin Oduwell"
TECHNICIAN = "Joren Haldvik"
REVIEWER = "Odile Brannick"
MANAGER = "Kasimir Dovell"
PEOPLE: Mapping[str, tuple[Role, ...]] = {
    ENGINEER: (Role.ENGINEER,),
    TECHNICIAN: (Role.TECHNICIAN,),
    REVIEWER: (Role.REVIEWER,),
    MANAGER: (Role.MANAGER,),
    "Wenna Astrup": (Role.ADMIN, Role.ENGINEER),
    "Lorcan Fethery": (Role.VIEWER,),
}
"""Who works in the demo's lab; a newcomer may be any of them."""
FIRST, SECOND, THIRD = BENCHES = ("Bench 1", "Bench 2", "Bench 3")
"""The second is made of simulated instruments that answer on loopback; the others are within the program."""
"""Both work at the same time."""

MANUAL = "Owner's manual, revision C"
CARTON = "Carton"
WEB = "Web page, spring"
OLD_MANUAL = "Owner's manual, revision A"
PAGES = {MANUAL: "page 14, table 3", OLD_MANUAL: "page 11", WEB: "specifications", CARTON: "long side"}
"""Where in each paper its figures stand."""
BAND = (20.0, 20_000.0)
BASS_BAND = (20.0, 160.0)


@dataclass(frozen=True)
class DemoCampaign:
    """What a campaign is planned by; ``gains_found_apart`` runs once before the gains are matched, then repeats.

    ``runs`` are all that is conducted, where that is less than the wishes would propose.
    """

    wishes: Wishes = field(default_factory=Wishes)
    gains_found_apart: bool = False
    runs: tuple[RunSpec, ...] = ()


def _held(volts: float) -> DemoCampaign:
    return DemoCampaign(Wishes(held_volts=volts))


THREE_POINTS = DemoCampaign(Wishes(modes=(Mode.CERTIFIED,), policy=SupplyPolicy.THREE_POINTS))
BANK = DemoCampaign(Wishes(modes=(Mode.CERTIFIED, Mode.BURST), policy=SupplyPolicy.BANK))
WITH_EXPLORATION = DemoCampaign(Wishes(exploratory=True))
LOW_AND_APART = DemoCampaign(Wishes(held_volts=12.6), gains_found_apart=True)


@dataclass(frozen=True)
class DemoUnit:
    """A unit and the campaigns to conduct on it; none for the one left to a newcomer.

    ``design`` names its own simulated amplifier, where it differs from its model's; ``notes`` are readings from
    before the recorder was there. ``bench`` is the one that it is measured on. What came ``early`` is measured with the
    clamp that was in use before, what came ``later`` when ratings are published already.
    """

    serial: str
    lot: str
    revision: str
    origin: str
    campaigns: tuple[DemoCampaign, ...] = (DemoCampaign(),)
    design: str | None = None
    notes: tuple[Note, ...] = ()
    bench: str = FIRST
    early: bool = False
    later: bool = False


@dataclass(frozen=True)
class DemoModel:
    """A model with its papers and its units; ``design`` names the simulated amplifier behind it."""

    name: str
    topology: str
    description: str
    design: str
    groups: tuple[ChannelGroup, ...]
    claims: tuple[ClaimTerms, ...]
    units: tuple[DemoUnit, ...]
    fuses: tuple[float, ...]
    regulated: bool = False
    supply_range: tuple[float, float] = (10.5, 16.0)
    controls: tuple[str, ...] = field(
        default=("Gain to 1 V", "Low-pass off", "High-pass off", "Bass boost at minimum", "Input mode: all channels")
    )


@dataclass(frozen=True)
class DemoSeries:
    """A series."""

    name: str
    purpose: str
    models: tuple[DemoModel, ...]


def _stated(
    group: str,
    watts: float,
    ohms: float,
    *,
    document: str = MANUAL,
    bridged: bool = False,
    volts: float | None = 14.4,
    band: tuple[float, float] = BAND,
    thd_n: float = 1.0,
    stands_at: str | None = None,
) -> ClaimTerms:
    return ClaimTerms(
        group=group,
        document=document,
        watts=watts,
        load_ohms=ohms,
        bridged=bridged,
        supply_volts=volts,
        thd_n_percent=thd_n,
        band_low_hz=band[0],
        band_high_hz=band[1],
        stands_at=stands_at or PAGES.get(document),
    )


def _bare(group: str, watts: float, ohms: float, document: str, kind: str = "continuous") -> ClaimTerms:
    """A figure without any condition, as cartons have it."""
    return ClaimTerms(
        group=group, document=document, watts=watts, load_ohms=ohms, kind=ClaimKind(kind), stands_at=PAGES[document]
    )


def instruments(today: date) -> tuple[InstrumentEntry, ...]:
    """What the lab reads with; calibrated within the last year, the clamp's soon due."""

    entry = partial(_calibrated, today)
    return (
        entry(InstrumentRole.OUTPUT, METER, "M-0004", 800, percent_of_reading=0.5),  # set aside when the recorder came
        entry(InstrumentRole.OUTPUT, "Recorder, 8 inputs", "R-0031", 120, percent_of_reading=0.05),
        entry(
            InstrumentRole.SUPPLY,
            "Recorder, supply input",
            "R-0031",
            120,
            percent_of_reading=0.05,
            digits=2,
            resolution=0.001,
        ),
        clamp_before(today, 350, 100.8),
        entry(InstrumentRole.LOADS, "Milliohm meter", "M-0007", 45, percent_of_reading=0.3),
    )


def clamp(today: date) -> InstrumentEntry:
    """The clamp in use; soon due."""
    limits: dict[str, Any] = {"percent_of_reading": 1.0, "digits": 5, "resolution": 0.1}
    limits |= {"checked_at": 100.0, "found": 100.4, "left": 100.4}
    return _calibrated(today, InstrumentRole.CLAMP, "Current clamp, 600 A", "C-0108", 346, **limits)


def clamp_before(today: date, ago: int, found: float) -> InstrumentEntry:
    """The clamp that the first units were measured with, as a calibration so many days ago found it at 100 A."""
    limits: dict[str, Any] = {"percent_of_reading": 1.5, "digits": 5, "resolution": 0.1}
    limits |= {"checked_at": 100.0, "found": found, "left": 100.1}
    return _calibrated(today, InstrumentRole.CLAMP, "Current clamp, 400 A", "C-0061", ago, **limits)


def _calibrated(today: date, role: InstrumentRole, name: str, serial: str, ago: int, **more: Any) -> InstrumentEntry:
    made = today - timedelta(days=ago)
    return InstrumentEntry(role, name, serial, calibrated_on=made, due_on=made + timedelta(days=365), **more)


def _of_lot(
    prefix: str,
    lot: str,
    count: int,
    group: str,
    ohms: float,
    volts: float = 14.4,
    benches: tuple[str, ...] = (FIRST, THIRD),
    **more: Any,
) -> list[DemoUnit]:
    """Units of a lot, measured at one load, which is all that a rating there takes; by turns on some benches."""
    tone = 40.0 if group == "bass" else 1000.0
    campaign = DemoCampaign(runs=(RunSpec(Mode.CERTIFIED, group, ohms, tone, volts),))
    return [
        DemoUnit(f"{prefix}-{lot}-{at:04d}", lot, "A", "Pulled from production", (campaign,), bench=bench, **more)
        for at, bench in zip(range(11, 11 + count), benches * count, strict=False)
    ]


LINE = (
    DemoSeries(
        name="Cobblewick",
        purpose="Vehicles",
        models=(
            DemoModel(
                name="Cobblewick B1",
                topology="D",
                description="1-channel bass amplifier, stable at 1\u00a0Ω",
                design="mono-d",
                fuses=(40.0, 40.0, 40.0),
                groups=(ChannelGroup("bass", (1,), (4.0, 2.0, 1.0), bass=True),),
                controls=(
                    "Gain to 1 V",
                    "Low-pass at maximum",
                    "Subsonic filter at minimum",
                    "Bass boost at minimum",
                    "Phase 0°",
                    "Switch on master",
                ),
                claims=(
                    _stated("bass", 350, 4, band=BASS_BAND),
                    _stated("bass", 650, 2, band=BASS_BAND),
                    _stated("bass", 1200, 1, band=BASS_BAND),
                    _stated("bass", 1265, 1, document=WEB, band=BASS_BAND),
                    _stated("bass", 600, 2, document=OLD_MANUAL, volts=13.8, band=BASS_BAND),
                    _stated("bass", 372, 4, document=OLD_MANUAL, volts=13.8, band=BASS_BAND),
                    _bare("bass", 2500, 1, CARTON, "maximum"),
                ),
                units=(
                    DemoUnit("CB1-2604-0117", "2604", "B", "Pulled from production"),
                    DemoUnit("CB1-2609-0033", "2609", "C", "Pulled from production", design="mono-d-switching"),
                ),
            ),
            DemoModel(
                name="Cobblewick S2",
                topology="AB",
                description="2 channels, bridgeable",
                design="two-ab",
                fuses=(30.0, 30.0),
                groups=(ChannelGroup("main", (1, 2), (4.0, 2.0), (4.0,)),),
                claims=(
                    _stated("main", 75, 4),
                    _stated("main", 120, 2),
                    _stated("main", 240, 4, bridged=True),
                    _bare("main", 90, 4, WEB),
                    _stated("main", 70, 4, document=OLD_MANUAL, thd_n=0.1),
                    _stated("main", 65, 4, document=CARTON, thd_n=0.1),
                ),
                units=(
                    DemoUnit(
                        "CS2-2603-0402",
                        "2603",
                        "B",
                        "Pulled from production",
                        notes=(
                            Note.CLIPPED_PEAK,
                            Note.WEAK_SUPPLY,
                            Note.TWO_MOMENTS,
                            Note.BURST_WITH_AMPS,
                            Note.RECORDED_SWEEP,
                        ),
                    ),
                    DemoUnit(
                        "CS2-2603-0418",
                        "2603",
                        "B",
                        "Returned, no fault found",
                        (LOW_AND_APART,),
                        "two-ab-mismatched",
                        notes=(
                            Note.ONE_AT_A_TIME,
                            Note.STRAIGHT_AFTER_PLAY,
                            Note.OLD_TABLE,
                            Note.RECORDED_STEADY,
                        ),
                    ),
                ),
            ),
            DemoModel(
                name="Cobblewick Q4",
                topology="D",
                description="4 channels, bridgeable in pairs",
                design="four-d",
                fuses=(40.0, 40.0),
                groups=(ChannelGroup("main", (1, 2, 3, 4), (4.0, 2.0), (4.0,)),),
                claims=(
                    _stated("main", 90, 4),
                    _stated("main", 160, 2),
                    _stated("main", 320, 4, bridged=True),
                    _stated("main", 85, 4, document=OLD_MANUAL, volts=12.5),
                    _stated("main", 120, 3, document=WEB),
                ),
                units=(
                    DemoUnit("CQ4-2607-0251", "2607", "A", "Pulled from production", (WITH_EXPLORATION, THREE_POINTS)),
                    DemoUnit("CQ4-2607-0266", "2607", "A", "Pulled from production", ()),
                ),
            ),
        ),
    ),
    DemoSeries(
        name="Kelpmoor",
        purpose="Boats",
        models=(
            DemoModel(
                name="Kelpmoor R4",
                topology="AB",
                description="4 channels, regulated supply",
                design="four-ab-regulated",
                fuses=(40.0, 40.0),
                regulated=True,
                supply_range=(11.0, 16.0),
                groups=(ChannelGroup("main", (1, 2, 3, 4), (4.0, 2.0), (4.0,)),),
                claims=(
                    _stated("main", 60, 4, volts=12.5),
                    _stated("main", 115, 2, volts=12.5),
                    _stated("main", 225, 4, bridged=True, volts=12.5),
                    _bare("main", 60, 4, CARTON),
                ),
                units=(
                    DemoUnit(
                        "KR4-2601-0019",
                        "2601",
                        "D",
                        "Pulled from production",
                        (_held(12.5), THREE_POINTS),
                        bench=THIRD,
                    ),
                    DemoUnit("KR4-2606-0140", "2606", "D", "On loan", (_held(12.5),), "four-ab-tripping", bench=THIRD),
                ),
            ),
            DemoModel(
                name="Kelpmoor V5",
                topology="D",
                description="5 channels: 4 full-range, 1 bass",
                design="five-d",
                fuses=(40.0, 40.0, 40.0),
                groups=(
                    ChannelGroup("main", (1, 2, 3, 4), (4.0, 2.0), (4.0,)),
                    ChannelGroup("bass", (5,), (4.0, 2.0), bass=True),
                ),
                claims=(
                    _stated("main", 75, 4),
                    _stated("main", 140, 2),
                    _stated("bass", 300, 4, band=BASS_BAND),
                    _stated("bass", 600, 2, band=BASS_BAND),
                    _stated("main", 60, 4, document=WEB, thd_n=0.1),
                    _bare("bass", 1200, 2, CARTON, "maximum"),
                ),
                units=(
                    DemoUnit("KV5-2608-0072", "2608", "A", "Pulled from production", bench=THIRD),
                    DemoUnit("KV5-2608-0075", "2608", "A", "Pulled from production", (BANK,), bench=THIRD),
                ),
            ),
        ),
    ),
    DemoSeries(
        name="Thornmere",
        purpose="Vehicles, rated by the lot",
        models=(
            DemoModel(
                name="Thornmere T2",
                topology="AB",
                description="2 channels",
                design="two-ab",
                fuses=(30.0, 30.0),
                groups=(ChannelGroup("main", (1, 2), (4.0, 2.0), (4.0,)),),
                claims=(_stated("main", 110, 2),),
                units=(
                    *_of_lot("TT2", "2605", 4, "main", 4.0),
                    *_of_lot("TT2", "2606", 4, "main", 4.0),
                    *_of_lot("TT2", "2607", 4, "main", 4.0),
                    *(
                        DemoUnit(f"TT2-2611-{at:04d}", "2611", "A", "Pulled from production", (), bench=FIRST)
                        for at in (11, 12)
                    ),
                ),
            ),
            DemoModel(
                name="Thornmere T2 Slim",
                topology="AB",
                description="2 channels, half the height",
                design="two-ab",
                fuses=(30.0, 30.0),
                groups=(ChannelGroup("main", (1, 2), (4.0,)),),
                claims=(_stated("main", 75, 4),),
                units=(
                    *_of_lot("TTS", "2606", 8, "main", 4.0),
                    *_of_lot("TTS", "2610", 3, "main", 4.0, design="two-ab-lean", later=True),
                ),
            ),
            DemoModel(
                name="Thornmere T4",
                topology="D",
                description="4 channels",
                design="four-d",
                fuses=(40.0, 40.0),
                groups=(ChannelGroup("main", (1, 2, 3, 4), (4.0, 2.0), (4.0,)),),
                claims=(_stated("main", 90, 4),),
                units=(*_of_lot("TT4", "2608", 2, "main", 4.0),),
            ),
            DemoModel(
                name="Thornmere T4 Slim",
                topology="D",
                description="4 channels, half the height",
                design="four-d",
                fuses=(40.0, 40.0),
                groups=(ChannelGroup("main", (1, 2, 3, 4), (4.0,)),),
                claims=(_stated("main", 70, 4),),
                units=(*_of_lot("T4S", "2609", 3, "main", 4.0, benches=(SECOND,)),),
            ),
            DemoModel(
                name="Thornmere T1",
                topology="D",
                description="1-channel bass amplifier",
                design="mono-d",
                fuses=(40.0, 40.0, 40.0),
                groups=(ChannelGroup("bass", (1,), (4.0, 2.0), bass=True),),
                claims=(),
                units=(*_of_lot("TT1", "2604", 5, "bass", 4.0, early=True),),
            ),
            DemoModel(
                name="Thornmere R4",
                topology="AB",
                description="4 channels, regulated supply",
                design="four-ab-regulated",
                fuses=(40.0, 40.0),
                regulated=True,
                supply_range=(11.0, 16.0),
                groups=(ChannelGroup("main", (1, 2, 3, 4), (4.0, 2.0), (4.0,)),),
                claims=(),
                units=(*_of_lot("TR4", "2603", 5, "main", 4.0),),
            ),
        ),
    ),
)


def instruments_of_the_second() -> Assembly:
    """What the second bench is made of."""
    kinds = shipped()
    stations = {role: Station(one, NEARBY) for one in kinds.values() for role in one.roles if one.simulated}
    there = equipment(SECOND)
    return Assembly(stations, Limits(there.supply_limit_amps, there.boxes, there.cable))
