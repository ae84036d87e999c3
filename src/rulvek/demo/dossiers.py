"""What the demo's lab keeps of its products besides readings: lots, papers, insides, photographs, listening."""

import io
import math
from collections.abc import Mapping
from dataclasses import replace
from datetime import date, timedelta
from typing import Any

import numpy as np
import soundfile

from rulvek.composition import Services
from rulvek.core.records.actor import Actor
from rulvek.core.records.documents import DocumentEntry, DocumentKind
from rulvek.core.records.facts import (
    Came,
    Content,
    Control,
    ControlKind,
    Life,
    ModelFacts,
    Price,
    Terminal,
    UnitFacts,
    UnitState,
)
from rulvek.core.records.inside import FuseFound, InsideEntry, Marker, Part, PartPlace, PhotographEntry
from rulvek.core.records.kept import Kind
from rulvek.core.records.listening import (
    Better,
    Comparison,
    Engine,
    ListeningEntry,
    MeterReadings,
    SoundPressure,
    SpeakerWire,
)
from rulvek.core.records.revisions import LotEntry, RevisionEntry
from rulvek.demo import drawn
from rulvek.demo.scenario import CARTON, ENGINEER, MANUAL, OLD_MANUAL, TECHNICIAN, WEB

BASS = "Cobblewick B1"
FIRST, SECOND = "CB1-2604-0117", "CB1-2609-0033"
LONG = Control(ControlKind.LOW_PASS, "50–500 Hz", slope_db_per_octave=12)

MODELS: Mapping[str, ModelFacts] = {
    BASS: ModelFacts(
        intended_use="One or two bass drivers",
        sensitivity_low_volts=0.2,
        sensitivity_high_volts=5.0,
        linkable=True,
        fuses_external=False,
        fan=True,
        controls=(
            Control(ControlKind.GAIN, "0.2–5 V"),
            replace(LONG, reaches="35–250 Hz", slope_db_per_octave=24),
            Control(ControlKind.HIGH_PASS, "10–50 Hz", slope_db_per_octave=24),
            Control(ControlKind.BOOST),
            Control(ControlKind.PHASE, "0–180°"),
            Control(ControlKind.MASTER),
        ),
        terminals=(
            Terminal("Supply", "set screw", stated_mm2=53.5, fitting_mm2=33.6),
            Terminal("Loudspeaker", "set screw", stated_mm2=8.4, fitting_mm2=8.4),
        ),
        length_mm=312,
        width_mm=201,
        height_mm=52,
        weight_kg=3.4,
        list_price=Price(459.0, "EUR", date(2026, 1, 15)),
        street_price=Price(389.0, "EUR", date(2026, 5, 2)),
    ),
    "Thornmere T2": ModelFacts(list_price=Price(329.0, "EUR", date(2026, 1, 15))),
    "Thornmere T2 Slim": ModelFacts(list_price=Price(369.0, "EUR", date(2026, 1, 15))),
    "Cobblewick S2": ModelFacts(
        intended_use="Two doors",
        sensitivity_low_volts=0.25,
        sensitivity_high_volts=4.0,
        linkable=False,
        fuses_external=False,
        fan=False,
        controls=(Control(ControlKind.GAIN, "0.25–4 V"), LONG, Control(ControlKind.BOOST, "", boost_db=9, boost_hz=45)),
        length_mm=228,
        width_mm=170,
        height_mm=49,
        weight_kg=1.9,
    ),
    "Kelpmoor R4": ModelFacts(intended_use="Open cockpits", fuses_external=True, fan=False, weight_kg=2.8),
    "Kelpmoor V5": ModelFacts(intended_use="Cabin and cockpit", life=Life.IN_DEVELOPMENT, fan=False),
}

UNITS: Mapping[str, tuple[UnitFacts, str]] = {
    FIRST: (
        UnitFacts(
            came=Came.FROM_PRODUCTION,
            from_whom="Line 2",
            contents=(Content("Bass remote with cable"), Content("Fuse 40 A", 3), Content("Mounting screw", 4)),
            state=UnitState.KEPT,
            whereabouts="Reference shelf",
        ),
        "",
    ),
    SECOND: (
        UnitFacts(
            came=Came.FROM_PRODUCTION,
            from_whom="Line 2",
            contents=(Content("Bass remote with cable"), Content("Fuse 40 A", 2)),
            missing="One fuse and the mounting screws",
            state=UnitState.MEASURED,
            whereabouts="Shelf 3",
        ),
        "",
    ),
    "CS2-2603-0402": (UnitFacts(came=Came.SAMPLE, state=UnitState.MEASURED), ""),
    "CS2-2603-0418": (
        UnitFacts(came=Came.RETURNED, from_whom="A shop in the north", state=UnitState.SENT_BACK),
        "no fault found",
    ),
    "CQ4-2607-0251": (UnitFacts(came=Came.FROM_PRODUCTION, state=UnitState.MEASURED, whereabouts="Shelf 1"), ""),
    "CQ4-2607-0266": (UnitFacts(came=Came.FROM_PRODUCTION, state=UnitState.WAITING, whereabouts="Goods entrance"), ""),
    "KR4-2601-0019": (
        UnitFacts(came=Came.BOUGHT, price_paid=Price(329.0, "EUR", date(2026, 2, 20)), state=UnitState.KEPT),
        "",
    ),
    "KR4-2606-0140": (UnitFacts(came=Came.ON_LOAN, missing="Cover scratched", state=UnitState.SCRAPPED), ""),
    "KV5-2608-0072": (UnitFacts(came=Came.REFURBISHED, state=UnitState.MEASURED), ""),
    "KV5-2608-0075": (UnitFacts(came=Came.FROM_PRODUCTION, state=UnitState.ON_THE_BENCH, whereabouts="Bench 3"), ""),
}
"""What is said of each unit, and the remark on how it came: one in every state."""

LOTS = (
    LotEntry("2604", "B", date(2026, 4, 20), 400),
    LotEntry("2609", "C", date(2026, 9, 7), 600, "First lot of revision C"),
    LotEntry("2611", "C", date(2026, 11, 9), 600, "Not sampled yet"),
)
REVISIONS = (
    RevisionEntry("B", "As first made", date(2026, 1, 12)),
    RevisionEntry("C", "Rails that switch; two input capacitors in place of four", date(2026, 8, 24)),
)
PAPERS: Mapping[str, DocumentEntry] = {
    MANUAL: DocumentEntry(MANUAL, DocumentKind.MANUAL, "C", date(2026, 8, 30), "English"),
    OLD_MANUAL: DocumentEntry(OLD_MANUAL, DocumentKind.MANUAL, "A", date(2026, 1, 20), "English"),
    CARTON: DocumentEntry(CARTON, DocumentKind.CARTON, "", date(2026, 1, 20), "English"),
    WEB: DocumentEntry(WEB, DocumentKind.WEB_PAGE, "", date(2026, 4, 2), "English"),
}
OUTPUT = Part(PartPlace.OUTPUT_DEVICE, 8, "N-channel, 55 V", mark="NT 55-40", channels=(1,))
INSIDES: Mapping[str, InsideEntry] = {
    FIRST: InsideEntry(
        made_safe=True,
        board_revision="B1-2",
        parts=(
            Part(PartPlace.INPUT_CAPACITOR, 4, "2200 µF", 25, 105),
            Part(PartPlace.RAIL_CAPACITOR, 4, "1000 µF", 63, 105),
            Part(PartPlace.TRANSFORMER, 1, "ring core"),
            OUTPUT,
        ),
        fuses=(FuseFound(40, True), FuseFound(40, True), FuseFound(40, True)),
        fan_ran=True,
    ),
    SECOND: InsideEntry(
        made_safe=True,
        board_revision="B1-3",
        parts=(
            Part(PartPlace.INPUT_CAPACITOR, 2, "3300 µF", 25, 85),
            Part(PartPlace.RAIL_CAPACITOR, 4, "1000 µF", 63, 105),
            Part(PartPlace.TRANSFORMER, 1, "ring core"),
            OUTPUT,
        ),
        fuses=(FuseFound(40, True), FuseFound(40, True), FuseFound(40, False, "no trace leads to it")),
        fan_ran=False,
        remarks="The fan did not start within half an hour at a third of the power.",
    ),
}


def keep_models(services: Services, models: Mapping[str, int]) -> None:
    """Enter what is said of those models: facts, revisions, lots, and the papers' own files."""
    engineer = Actor(ENGINEER)
    for name in (known for known in MODELS if known in models):
        seen = services.entries.model(models[name])
        services.entries.change_model(models[name], seen.number, replace(seen.entry, facts=MODELS[name]), engineer)
    for kind, entries in ((Kind.REVISION, REVISIONS), (Kind.LOT, LOTS)) if BASS in models else ():
        known = {one.entry.name: one for one in services.dossiers.all_of(kind, models[BASS])}
        for entry in entries:
            _put(services, kind, models[BASS], known.get(entry.name), entry)
    for model_id in models.values():
        for one in services.dossiers.all_of(Kind.DOCUMENT, model_id):
            paper = PAPERS[one.entry.name]
            if model_id == models.get(BASS):
                paper = replace(paper, file=services.kept_files.take(*_paper(paper), engineer).sha256)
            _put(services, Kind.DOCUMENT, model_id, one, paper)


def keep_units(services: Services, units: Mapping[str, int], today: date) -> None:
    """Enter what is said of those units: how they came, photographs, insides, listening."""
    technician = Actor(TECHNICIAN)
    for serial in (known for known in UNITS if known in units):
        facts, remark = UNITS[serial]
        seen = services.entries.unit(units[serial])
        came = replace(seen.entry, facts=facts, origin=remark)
        services.entries.change_unit(units[serial], seen.number, came, technician)
    for serial in (known for known in INSIDES if known in units):
        inside = INSIDES[serial]
        opened = replace(inside, opened_on=today - timedelta(days=2))
        services.dossiers.add(Kind.INSIDE, units[serial], opened, technician)
        _photograph(services, units[serial], inside, technician)
    for entry in _listening(services, units, today, technician) if SECOND in units else ():
        services.dossiers.add(Kind.LISTENING, units[SECOND], entry, technician)


def _put(services: Services, kind: Kind, of_id: int, known: Any, entry: Any) -> None:
    if known is None:
        services.dossiers.add(kind, of_id, entry, Actor(ENGINEER))
    else:
        services.dossiers.change(kind, known.id, known.number, entry, Actor(ENGINEER))


def _paper(entry: DocumentEntry) -> tuple[bytes, str]:
    if entry.kind is DocumentKind.CARTON:
        return drawn.carton(BASS, ["2500 W maximum", "stable at 1 Ω"]), "carton.jpg"
    lines = ["Output power, bass channel", "see the table of this document's claims on record", "14.4 V unless stated"]
    return drawn.paper(f"{BASS}: {entry.name}", lines), f"{entry.kind.value.replace(' ', '-')}-{entry.revision}.pdf"


def _photograph(services: Services, unit_id: int, inside: InsideEntry, actor: Actor) -> None:
    fuses = [fuse.in_circuit for fuse in inside.fuses]
    markers = [
        Marker(0.78 + 0.056 * at, 0.3, f"Fuse {at + 1}{'' if in_circuit else ', not in circuit'}")
        for at, in_circuit in enumerate(fuses)
    ]
    markers += [
        Marker(0.16, 0.43, "Input capacitors"),
        Marker(0.63, 0.49, "Transformer"),
        Marker(0.5, 0.78, "Output devices"),
    ]
    pictures: tuple[tuple[bytes, str, str, tuple[Marker, ...]], ...] = (
        (drawn.outside(BASS, 1), "From above", "outside", ()),
        (drawn.terminals(BASS, 1), "Terminals and controls", "terminals", ()),
        (drawn.board(fuses, inside.parts[0].count, 8), "The board", "inside", tuple(markers)),
    )
    for content, caption, place, marked in pictures:
        file = services.kept_files.take(content, f"{place}.jpg", actor)
        services.dossiers.add(Kind.PHOTOGRAPH, unit_id, PhotographEntry(file.sha256, caption, place, marked), actor)


def _listening(services: Services, units: Mapping[str, int], today: date, actor: Actor) -> tuple[ListeningEntry, ...]:
    sent = services.kept_files.take(_wire(), "speaker-wire.wav", actor)
    read = services.dossiers.read_wire(sent.sha256, 80, 40)
    wire = SpeakerWire(read.volts, read.amps, read.tone_hz, read.phase_degrees, read.watts, sent.sha256)
    sound = SoundPressure(
        (MeterReadings("M-0012", (131.42, 131.97, 131.6)), MeterReadings("M-0031", (131.3, 131.71))),
        "driver's head rest",
        tone_hz=42,
    )
    return (
        ListeningEntry(
            on=today - timedelta(days=1),
            source="42 Hz from a player",
            engine=Engine.RUNNING,
            supply_volts=14.1,
            sound=sound,
            wire=wire,
            remarks="Boot closed, two drivers of 4 Ω in parallel.",
        ),
        ListeningEntry(
            on=today,
            source="Music, six pieces",
            hours=1.5,
            comparisons=(Comparison(units[FIRST], Better.WORSE, "softer below 35 Hz"),),
            remarks="No noise with the engine running.",
        ),
    )


def _wire() -> bytes:
    """Two seconds of a tone at the wire of a loudspeaker of 2.6 Ω at 31°, volts and amps re 80 V and 40 A."""
    rate, hz, volts, ohms, lead = 48_000, 42.0, 28.0, 2.6, math.radians(31)
    t = np.arange(2 * rate) / rate
    u = volts * math.sqrt(2) * np.sin(2 * np.pi * hz * t)
    i = volts / ohms * math.sqrt(2) * np.sin(2 * np.pi * hz * t - lead)
    out = io.BytesIO()
    soundfile.write(out, np.column_stack([u / 80, i / 40]), rate, format="WAV", subtype="PCM_24")
    return out.getvalue()
