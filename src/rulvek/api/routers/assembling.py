"""Benches put together from instruments, and looked at."""

from typing import Annotated

from pydantic import Field

from rulvek.api.asking import HEAVY, Person, Use
from rulvek.api.calls import Calls
from rulvek.api.schemas import Body, HandAnswerIn, Id, Seen, version_seen
from rulvek.core.errors import BadInput
from rulvek.services.benches.assembling import BenchEntry
from rulvek.services.benches.sound_levels import CalibratingView, LevelsEntry
from rulvek.services.views.benches import AnsweringView, DescriptionView, InterfaceView, MadeView
from rulvek.services.views.line import EntryView

router = Calls("bench")
Port = Annotated[int, Field(ge=1, le=65_535)]


class FindIn(Body):
    """Where to ask who is there: some ports of a host."""

    host: str = Field(min_length=1, max_length=200)
    first_port: Port = 5025
    last_port: Port = 5025


class LookIn(Body):
    """How to look at a bench.

    ``powered`` switches the amplifier on it on, and sends it 10 mV; ``cautions`` says that fuse, disconnect and loads
    were seen to. ``looped`` says that cables go from the source straight to the recorder.
    """

    channels: int = Field(1, ge=1, le=16)
    powered: bool = False
    cautions: bool = False
    looped: bool = False


@router.get("/instruments")
def list_descriptions(use: Use) -> list[DescriptionView]:
    """What instruments may be described as: what ships, and the lab's own."""
    return use.assembling.descriptions()


@router.post("/instruments/find", dependencies=HEAVY)
def find_instruments(body: FindIn, use: Use, person: Person) -> list[AnsweringView]:
    """Who answers at the ports of a host; nothing but ``*IDN?`` is sent."""
    return use.assembling.find(body.host, body.first_port, body.last_port)


@router.get("/instruments/interfaces")
def list_interfaces(use: Use) -> list[InterfaceView]:
    """Audio interfaces of the machine that serves."""
    return use.assembling.interfaces()


@router.get("/instruments/levels")
def get_calibrating(use: Use) -> CalibratingView:
    """The calibration of an audio interface that is under way, or how the last one ended."""
    return use.sound_levels.view()


@router.post("/instruments/levels", status_code=202)
def begin_calibrating(body: LevelsEntry, use: Use, person: Person) -> CalibratingView:
    """Look at an audio interface with cables from its outputs to its inputs, then find its volts beside a meter."""
    return use.sound_levels.begin(body, person)


@router.post("/instruments/levels/answers")
def answer_calibrating(body: HandAnswerIn, use: Use) -> CalibratingView:
    """What the meter reads."""
    return use.sound_levels.answer(body.question, body.value)


@router.delete("/instruments/levels")
def stop_calibrating(use: Use) -> CalibratingView:
    """End it; every output falls silent."""
    return use.sound_levels.stop()


@router.post("/benches", status_code=201)
def add_bench(body: BenchEntry, use: Use, person: Person) -> MadeView:
    """Put a bench together; nothing is connected before it is looked at or run."""
    return use.assembling.add(body, person)


@router.get("/benches/{bench_id}")
def get_made(bench_id: Id, use: Use) -> MadeView:
    """What a bench is made of and can stand, and how it was found."""
    return use.assembling.made(bench_id)


@router.get("/benches/{bench_id}/entry")
def get_bench_entry(bench_id: Id, use: Use) -> EntryView[BenchEntry]:
    """A bench as it would be put together today, to be changed."""
    entry, number = use.assembling.entry(bench_id)
    return EntryView(number=number, entry=entry)


@router.put("/benches/{bench_id}")
def change_bench(bench_id: Id, body: BenchEntry, use: Use, person: Person, seen: Seen) -> MadeView:
    """Put a bench together otherwise: it is to be looked at again before it is run."""
    return use.assembling.change(bench_id, body, version_seen(seen), person)


@router.post("/benches/{bench_id}/selftest", status_code=202)
def look_at_bench(bench_id: Id, body: LookIn, use: Use, person: Person) -> MadeView:
    """Begin to look at a bench: who answers, zero, loads, supply, silence; with power a known level, and Off."""
    if body.powered and not body.cautions:
        raise BadInput("See to fuse, disconnect and loads before power, and say so.", field="cautions")
    if body.powered and body.looped:
        raise BadInput("Take the cables of the loopback away before power.", field="looped")
    return use.assembling.look(bench_id, body.channels, body.powered, person, body.looped)
