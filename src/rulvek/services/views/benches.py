"""Answers about what benches are made of, and how they were found."""

from datetime import date, datetime

from rulvek.services.views.base import View, view
from rulvek.services.views.gear import BoxView


@view
class DescriptionView(View):
    """What an instrument may be described as, by the name of its file; ``shipped`` with the program, or the lab's.

    What is ``by_hand`` is a person: it answers nowhere. ``sound`` is an audio interface.
    """

    name: str
    title: str
    roles: list[str]
    simulated: bool
    shipped: bool
    channels: int
    by_hand: bool
    sound: bool


@view
class InterfaceView(View):
    """An audio interface of the machine that serves."""

    name: str
    address: str
    system: str
    inputs: int
    outputs: int


@view
class LevelsView(View):
    """An audio interface's full scale in V rms of a sine, found ``on`` a day beside a meter, with its U (k = 2)."""

    output_volts: list[float]
    input_volts: list[float]
    at_hz: float
    u_percent: float
    on: date | None
    meter: str
    responses: bool


@view
class AnsweringView(View):
    """Who answers at an address, in its own words, and the descriptions that may be of it, the closest first."""

    address: str
    identity: str
    fits: list[str]


@view
class StationView(View):
    """Who fills a role."""

    role: str
    title: str
    address: str
    simulated: bool


@view
class BenchWireView(View):
    """Which recorder input an amplifier's channel is wired to."""

    channel: int
    input: int


@view
class LookedView(View):
    """One look at a bench."""

    at: str
    found: str
    passed: bool


@view
class SelfTestView(View):
    """A bench looked at, with the first thing that failed in words; ``of_before`` one that was changed since."""

    id: int
    at: datetime
    by: str
    channels: int
    powered: bool
    passed: bool
    in_words: str
    of_before: bool
    looked: list[LookedView]


@view
class MadeView(View):
    """What a bench is made of and can stand, and how it was found, the latest first.

    ``testing`` is what was found so far while it is being looked at, else null. Of a bench in this program there are no
    stations, and nothing is looked at.
    """

    id: int
    name: str
    simulated: bool
    of_instruments: bool
    stations: list[StationView]
    wires: list[BenchWireView]
    volts_per_unit: float
    levels: LevelsView | None
    inputs: int
    supply_limit_amps: float
    supply_limit_volts: float | None
    run_minutes: float | None
    load_c: float | None
    cable: str
    boxes: list[BoxView]
    tests: list[SelfTestView]
    testing: list[LookedView] | None
