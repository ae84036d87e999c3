"""Designs of the simulated amplifiers, by the name that a model refers to."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from rulvek.bench.sim.design import AmplifierDesign, GroupDesign
from rulvek.bench.sim.supply import BankDesign, RegulatedDesign
from rulvek.core.electrical.loads import LoadBox
from rulvek.core.planning.equipment import Equipment

_SOUND: dict[str, AmplifierDesign] = {
    "mono-d": AmplifierDesign(
        groups=(
            GroupDesign(
                channels=(1,),
                topology="D",
                gain=46.0,
                rail_volts=58.0,
                converter_ohms=0.16,
                rail_farads=0.02,
                output_ohms=0.045,
                trip_amps=75.0,
                lost_volts=1.5,
                idle_watts=14.0,
                switching_volts=1.1,
                curvature=0.003,
                noise_volts=600e-6,
            ),
        ),
        converter_efficiency=0.92,
        sink_joules_per_kelvin=2400.0,
        sink_kelvin_per_watt=0.18,
    ),
    "two-ab": AmplifierDesign(
        groups=(
            GroupDesign(
                channels=(1, 2),
                topology="AB",
                gain=25.5,
                rail_volts=32.0,
                converter_ohms=0.28,
                output_ohms=0.09,
                trip_amps=24.0,
                lost_volts=2.2,
                knee=16,
                idle_watts=12.0,
                curvature=0.0008,
            ),
        ),
        converter_efficiency=0.87,
        sink_joules_per_kelvin=2600.0,
    ),
    "four-d": AmplifierDesign(
        groups=(
            GroupDesign(
                channels=(1, 2, 3, 4),
                topology="D",
                gain=26.0,
                rail_volts=30.5,
                converter_ohms=0.05,
                output_ohms=0.07,
                trip_amps=21.0,
                lost_volts=0.8,
                idle_watts=11.0,
                switching_volts=0.7,
                curvature=0.002,
                noise_volts=350e-6,
            ),
        ),
        converter_efficiency=0.92,
    ),
    "four-ab-regulated": AmplifierDesign(
        groups=(
            GroupDesign(
                channels=(1, 2, 3, 4),
                topology="AB",
                gain=22.5,
                rail_volts=27.0,
                regulated_down_to=11.4,
                converter_ohms=0.06,
                output_ohms=0.08,
                trip_amps=20.0,
                lost_volts=2.0,
                knee=16,
                idle_watts=16.0,
                curvature=0.0006,
            ),
        ),
        converter_efficiency=0.86,
        sink_joules_per_kelvin=4200.0,
        sink_kelvin_per_watt=0.22,
    ),
    "five-d": AmplifierDesign(
        groups=(
            GroupDesign(
                channels=(1, 2, 3, 4),
                topology="D",
                gain=24.5,
                rail_volts=28.5,
                converter_ohms=0.055,
                output_ohms=0.08,
                trip_amps=20.0,
                lost_volts=0.8,
                idle_watts=10.0,
                switching_volts=0.7,
                curvature=0.002,
                noise_volts=350e-6,
            ),
            GroupDesign(
                channels=(5,),
                topology="D",
                gain=46.0,
                rail_volts=55.0,
                converter_ohms=0.25,
                rail_farads=0.015,
                output_ohms=0.07,
                trip_amps=32.0,
                lost_volts=1.5,
                idle_watts=8.0,
                switching_volts=1.0,
                curvature=0.003,
                noise_volts=500e-6,
            ),
        ),
        converter_efficiency=0.91,
        sink_joules_per_kelvin=2600.0,
        sink_kelvin_per_watt=0.2,
    ),
}


def _with_group(name: str, **changes: Any) -> AmplifierDesign:
    """A sound design with something different in its first group."""
    design = _SOUND[name]
    first, *others = design.groups
    return replace(design, groups=(replace(first, **changes), *others))


DESIGNS: Mapping[str, AmplifierDesign] = _SOUND | {
    # Rails that switch down when the bass comes suddenly: the burst stays far below the certified power.
    "mono-d-switching": _with_group("mono-d", surge_amps=9.0, surge_rail_share=0.68),
    # Protection set too low: it trips at the lowest load and stays off.
    "four-ab-tripping": _with_group("four-ab-regulated", trip_amps=9.2),
    # Of a lot with a weaker transformer: a few percent less than its siblings.
    "two-ab-lean": _with_group("two-ab", rail_volts=31.4),
    # Came with its gain controls apart.
    "two-ab-mismatched": _with_group("two-ab", gain_offsets_db=(0.0, -0.9)),
}
"""Designs by name: the sound ones, and some with a peculiarity of single units."""


def equipment(name: str) -> Equipment:
    """What a simulated bench of some name has to offer, for the planner."""
    return Equipment(
        name=name,
        inputs=8,
        supply_limit_amps=RegulatedDesign().limit_amps,
        bank_volts=BankDesign().open_volts[-1][1],
        bank_ohms=BankDesign().internal_ohms + BankDesign().slow_ohms,
        bank_limit_amps=600.0,
        cable=BankDesign().cable,
        boxes=(
            LoadBox(8.0, 500.0, 4),
            LoadBox(4.0, 600.0, 6),
            LoadBox(2.0, 900.0, 6),
            LoadBox(1.0, 2000.0, 4),
            LoadBox(0.5, 2000.0, 2),
        ),
    )
