"""Physics first: power, sag, amps, efficiency and THD+N follow from the model; nothing is told to it."""

import math
from dataclasses import replace

import numpy as np
import pytest

from rulvek.bench.conductor import Conducted, RunSetup, conduct
from rulvek.bench.protocols import Connection
from rulvek.bench.sim.bench import SAMPLE_RATES, SimulatedBench
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.bench.sim.design import AmplifierDesign, GroupDesign
from rulvek.bench.sim.supply import RegulatedDesign, RegulatedSupply
from rulvek.core.method.profile import MethodProfile
from rulvek.core.readings.burst_point import headroom_db
from rulvek.core.runs.modes import End, Mode
from rulvek.core.signals.bursts import PROFILES

QUICK = MethodProfile(settle_seconds=0.1, capture_seconds=0.05, dwell_seconds=0.2)


def one_channel(**changes: object) -> AmplifierDesign:
    group = GroupDesign(
        channels=(1,), topology="AB", gain=26.0, rail_volts=32.0, converter_ohms=0.1, output_ohms=0.08, trip_amps=40.0
    )
    whole = {name: changes.pop(name) for name in list(changes) if name in AmplifierDesign.__dataclass_fields__}
    return AmplifierDesign(groups=(replace(group, **changes),), **whole)  # type: ignore[arg-type]


def run(design: AmplifierDesign, load: float, volts: float = 14.4, serial: str = "T-1", **supply: float) -> Conducted:
    bench = SimulatedBench(design, serial, supply=RegulatedDesign(**supply))  # type: ignore[arg-type]
    group = design.groups[0]
    links = tuple(Connection((channel,), load) for channel in group.channels)
    return conduct(bench, RunSetup(links, (), 1000.0, 40.0, volts, 0.0, QUICK), lambda _event: None)


def watts(design: AmplifierDesign, load: float, volts: float = 14.4) -> float:
    outcome = run(design, load, volts).outcome
    assert outcome.end is End.LIMIT and outcome.reading is not None
    return outcome.reading.weakest_watts


def exponent(design: AmplifierDesign) -> float:
    low, high = watts(design, 4.0, 12.0), watts(design, 4.0, 14.4)
    return math.log(high / low) / math.log(14.4 / 12.0)


def test_unregulated_power_follows_the_square_of_the_voltage() -> None:
    """n = 2 for rails in proportion to the supply; the lost volts make it a little more (common practice: 2 to 2.3)."""
    assert exponent(one_channel(lost_volts=0.0)) == pytest.approx(2.0, abs=0.06)
    assert 2.0 < exponent(one_channel(lost_volts=2.0)) < 2.35


def test_regulated_power_does_not() -> None:
    assert abs(exponent(one_channel(regulated_down_to=11.0))) < 0.05


def test_regulation_ends_where_the_design_says() -> None:
    design = one_channel(regulated_down_to=13.0)
    assert watts(design, 4.0, 13.3) == pytest.approx(watts(design, 4.0, 14.4), rel=0.02)
    assert watts(design, 4.0, 11.0) < 0.8 * watts(design, 4.0, 14.4)


@pytest.mark.parametrize("topology", ["AB", "D"])
def test_efficiency_keeps_to_the_bounds_of_its_class(topology: str) -> None:
    """Class B into a resistor has at most π/4 = 78.5 % (any text on power amplifiers), converter not counted."""
    outcome = run(one_channel(topology=topology, converter_efficiency=0.92), 4.0).outcome
    assert outcome.reading is not None and outcome.reading.efficiency is not None
    if topology == "AB":
        assert 0.40 < outcome.reading.efficiency < math.pi / 4
    else:
        assert 0.75 < outcome.reading.efficiency < 0.92


@pytest.mark.parametrize("name", ["mono-d", "four-d", "two-ab"])
def test_halving_the_load_less_than_doubles_the_power(name: str) -> None:
    four, two = watts(DESIGNS[name], 4.0), watts(DESIGNS[name], 2.0)
    assert 1.3 * four < two < 2.0 * four


def test_energy_is_kept() -> None:
    """What the supply gives covers what the load takes, and the rest becomes heat."""
    outcome = run(replace(one_channel(topology="D"), sink_joules_per_kelvin=50.0), 2.0).outcome
    reading = outcome.reading
    assert reading is not None and reading.supply_volts is not None and reading.supply_amps is not None
    assert reading.supply_volts * reading.supply_amps > reading.channels[0].watts
    assert reading.temperature_c is not None and reading.temperature_c > 24.0  # read to 0.1 °C


def test_the_supply_sags_by_ohms_law_and_folds_at_its_limit() -> None:
    supply = RegulatedSupply(RegulatedDesign(limit_amps=50.0, internal_ohms=0.004, remote_sense=True))
    assert supply.terminal_volts(40.0) == pytest.approx(14.4 - 0.16)
    for _ in range(100):
        supply.step(60.0, 0.001)
    assert supply.terminal_volts(40.0) < 10.0
    for _ in range(400):
        supply.step(0.0, 0.001)
    assert supply.terminal_volts(0.0) == pytest.approx(14.4)
    unsensed = RegulatedSupply(RegulatedDesign(internal_ohms=0.001, cable_ohms=0.003, remote_sense=False))
    assert unsensed.terminal_volts(100.0) == pytest.approx(14.0)


def test_loaded_volts_in_a_run_match_the_amps() -> None:
    outcome = run(one_channel(), 2.0, internal_ohms=0.01).outcome
    reading = outcome.reading
    assert reading is not None and reading.supply_volts is not None and reading.supply_amps is not None
    assert reading.supply_volts == pytest.approx(14.4 - 0.01 * reading.supply_amps, abs=0.02)


def test_overcurrent_trips_and_is_told_with_its_watts() -> None:
    latched = run(one_channel(trip_amps=8.0), 2.0).outcome
    assert latched.end is End.PROTECTED and latched.tripped_watts is not None
    # 8 A peak into 2 Ω is 64 W; the level at which it trips is found to 0.1 dB, and the reading lies just below.
    assert latched.tripped_watts == pytest.approx(64, rel=0.03)
    assert latched.reading is not None and latched.held
    assert 64 * 10**-0.02 < latched.reading.weakest_watts < latched.tripped_watts
    again = run(one_channel(trip_amps=8.0, recovers_after=0.5), 2.0).outcome
    assert again.end is End.RECOVERING


def test_heat_ends_a_run() -> None:
    hot = one_channel(sink_joules_per_kelvin=2.0, sink_kelvin_per_watt=3.0, shutdown_c=400.0)
    assert run(hot, 2.0).outcome.end is End.TOO_HOT


def test_a_weak_supply_ends_a_run() -> None:
    assert run(one_channel(), 2.0, limit_amps=6.0).outcome.end is End.SUPPLY_LOW


def test_a_clip_limiter_leaves_no_more_output() -> None:
    assert run(one_channel(limiter_volts=18.0), 4.0).outcome.end is End.NO_MORE_OUTPUT


def test_a_serial_number_is_a_unit() -> None:
    design = DESIGNS["two-ab"]
    first, again, other = (run(design, 4.0, serial=s).outcome.reading for s in ("A-1", "A-1", "A-2"))
    assert first is not None and again is not None and other is not None
    assert [c.watts for c in first.channels] == [c.watts for c in again.channels]
    assert [c.watts for c in first.channels] != [c.watts for c in other.channels]
    assert other.weakest_watts == pytest.approx(first.weakest_watts, rel=0.05)


def test_bridging_gives_half_to_each_channel() -> None:
    """A pair into 4 Ω loads each channel as 2 Ω would (circuit theory), so it gives about twice a 2 Ω channel."""
    design = DESIGNS["two-ab"]
    per_channel = watts(design, 2.0)
    bench = SimulatedBench(design, "T-1")
    setup = RunSetup((Connection((1, 2), 4.0),), (), 1000.0, 40.0, 14.4, 0.0, QUICK)
    reading = conduct(bench, setup, lambda _event: None).outcome.reading
    assert reading is not None
    assert reading.weakest_watts == pytest.approx(2 * per_channel, rel=0.03)


def test_an_amplifier_that_is_off_gives_and_takes_nothing() -> None:
    bench = SimulatedBench(one_channel(), "T-1")
    bench.connect([Connection((1,), 4.0)])
    bench.set_level([1], 0.0)
    capture = bench.capture(0.02)
    assert np.max(np.abs(capture.samples)) < 1e-3
    assert capture.supply is not None and capture.supply.mean_amps == pytest.approx(1.7, abs=0.3)  # the clamp's zero
    assert capture.samples.shape[1] == round(0.02 * SAMPLE_RATES[0])


def in_mode(design: AmplifierDesign, mode: Mode, volts: float = 14.4, profile: str = "1 kHz") -> Conducted:
    bench = SimulatedBench(design, "T-1")
    burst = PROFILES[profile] if mode is Mode.BURST else None
    tone = burst.hz if burst else 1000.0
    setup = RunSetup((Connection((1,), 4.0),), (), tone, 1000.0, volts, 0.0, QUICK, mode, burst)
    return conduct(bench, setup, lambda _event: None)


def test_uncertified_gives_more_than_certified_by_the_physics_of_clipping() -> None:
    """A hard clipper gives 1.2305 times as much at 10 % as at 1 % (from the definition); rails that sag and a soft
    knee move it, but not by a factor."""
    stiff = one_channel(regulated_down_to=11.0, converter_ohms=0.005, rail_farads=0.1, knee=64, curvature=0.0)
    certified, uncertified = (in_mode(stiff, mode).outcome for mode in (Mode.CERTIFIED, Mode.UNCERTIFIED))
    assert certified.reading is not None and uncertified.reading is not None
    assert uncertified.end is End.CLIP and uncertified.reading.worst_thd_n == pytest.approx(0.10, rel=0.02)
    ratio = uncertified.reading.weakest_watts / certified.reading.weakest_watts
    assert ratio == pytest.approx(1.2305, rel=0.05)


def test_storage_gives_a_burst_more_than_a_steady_tone() -> None:
    soft = one_channel(converter_ohms=0.6, rail_farads=0.03)
    certified, burst = (in_mode(soft, mode).outcome for mode in (Mode.CERTIFIED, Mode.BURST))
    assert certified.reading is not None and burst.reading is not None and burst.largest is not None
    assert headroom_db(burst.reading.weakest_watts, certified.reading.weakest_watts) > 0.3
    assert burst.largest.weakest_watts > burst.reading.weakest_watts
    assert burst.reading.efficiency is None


def test_a_strongly_regulated_supply_leaves_no_headroom() -> None:
    """Burst about the same as certified is what regulation looks like (common practice, no source)."""
    stiff = one_channel(regulated_down_to=11.0, converter_ohms=0.01)
    certified, burst = (in_mode(stiff, mode).outcome for mode in (Mode.CERTIFIED, Mode.BURST))
    assert certified.reading is not None and burst.reading is not None
    assert abs(headroom_db(burst.reading.weakest_watts, certified.reading.weakest_watts)) < 0.1


def test_a_bass_burst_ends_like_any_run() -> None:
    outcome = in_mode(one_channel(trip_amps=4.0), Mode.BURST, profile="40 Hz").outcome
    assert outcome.end is End.PROTECTED and outcome.reading is not None
    assert outcome.reading.channels[0].volts_rms * 2**0.5 / 4 < 4.0
