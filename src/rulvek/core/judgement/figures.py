"""What is known of a reading, as the checks take it; worked out from an attempt on record, or from what was typed."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.electrical.supply import efficiency
from rulvek.core.records.attempts import Attempt
from rulvek.core.records.before_power import Item
from rulvek.core.records.campaigns import Campaign, Run
from rulvek.core.records.instruments import InstrumentRole
from rulvek.core.records.outside import HandChannel
from rulvek.core.records.product import Product
from rulvek.core.records.standing import all_driven, companions_low
from rulvek.core.runs.modes import End, Mode


@dataclass(frozen=True, slots=True)
class Compared:
    """Watts of one channel by the instrument that counts and by another, each with its own U, in W."""

    channel: int
    instrument: str
    watts: float
    expanded: float
    other_watts: float
    other_expanded: float


@dataclass(frozen=True, slots=True)
class Figures:
    """What is known of a reading; None (or empty) where it is not.

    Attributes:
        topology: "AB" or "D".
        set_volts: What the supply was held at; None with a floating bank.
        floating: Whether a bank floated.
        amps: The supply's, the clamp's zero taken off where it was measured; None where not every channel was read.
        adds_amps: What else fed the amplifier, in words: “The alternator”.
        watts: Of the weakest channel (pair where bridged); ``channel_watts`` of each.
        output_watts: Of all driven channels together, for the efficiency.
        volts_rms, volts_peak: At the load of the channel that ``watts`` is of; where watts and volts were both read, of
            the channel on which they disagree most, with its watts as ``watts_read``.
        start_watts: Already there when the reading began, before the level was raised.
        beside: Weakest watts of the other modes at the same load, supply and tone.
        attempts: Weakest watts of the other valid attempts at the same run.
        seconds: What other instruments read on the same terminals at the same moment.
        output_known: Whether somebody knows what the output was read with; None where nobody asked.
        held: Whether the reading was held for the dwell.
        companions_low: Whether channels not under test were driven far below what they certify themselves.
        beyond_watts: At a higher level that is within the limit as well, past others that are not.
        outside_percent: Share of the power that lies outside of the band.
        capture_changed: Whether a file that the reading was taken from is other than it was kept.
        overdue: Instruments whose calibration was not valid on the day.
    """

    mode: Mode | None = None
    topology: str | None = None
    end: End | None = None
    thd_n_percent: float | None = None
    clipped_share: float | None = None
    load_nominal: float | None = None
    load_measured: float | None = None
    watts: float | None = None
    channel_watts: tuple[float, ...] = ()
    output_watts: float | None = None
    volts_rms: float | None = None
    volts_peak: float | None = None
    watts_read: float | None = None
    start_watts: float | None = None
    set_volts: float | None = None
    floating: bool = False
    start_volts: float | None = None
    supply_volts: float | None = None
    amps: float | None = None
    clamp_zeroed: bool | None = None
    charger_amps: float | None = None
    adds_amps: str = ""
    sink_start_c: float | None = None
    exploratory: bool = False
    controls_in_position: bool | None = None
    all_loaded: bool | None = None
    tripped_watts: float | None = None
    beside: Mapping[Mode, float] = field(default_factory=dict)
    attempts: tuple[float, ...] = ()
    seconds: tuple[Compared, ...] = ()
    output_known: bool | None = None
    held: bool | None = None
    companions_low: bool = False
    beyond_watts: float | None = None
    outside_percent: float | None = None
    capture_changed: bool = False
    overdue: tuple[str, ...] = ()

    @property
    def efficiency(self) -> float | None:
        """Output over input, a ratio; None where it means nothing (a burst) or a figure is missing."""
        output = self.output_watts if self.output_watts is not None else sum(self.channel_watts) or self.watts
        if self.mode is Mode.BURST or output is None or not self.supply_volts or self.amps is None:
            return None
        return efficiency(output, self.supply_volts, self.amps)


def figures_of(
    attempt: Attempt,
    run: Run,
    campaign: Campaign,
    product: Product,
    beside: Mapping[Mode, float],
    comparable: Sequence[float] = (),
    seconds: tuple[Compared, ...] = (),
) -> Figures:
    """The figures of an attempt that has ended.

    It is held against ``beside``, ``comparable`` (its own watts first) and ``seconds``.
    """
    ending, weakest, outside = attempt.ending, attempt.weakest, attempt.outside
    if ending is None:
        return Figures(mode=run.spec.mode)
    floating = campaign.policy is SupplyPolicy.BANK
    furthest = max(attempt.readings, key=lambda r: abs(r.load.measured_ohms / r.load.nominal_ohms - 1), default=None)
    read = _read_of(attempt, furthest.load.measured_ohms if furthest else run.spec.load_ohms)
    watts = tuple(reading.watts for reading in attempt.readings)
    return Figures(
        mode=run.spec.mode,
        topology=product.topology,
        end=ending.end,
        thd_n_percent=max((100 * r.thd_n for r in attempt.readings if r.thd_n is not None), default=None),
        load_nominal=furthest.load.nominal_ohms if furthest else run.spec.load_ohms,
        load_measured=furthest.load.measured_ohms if furthest else None,
        watts=weakest.watts if weakest else None,
        channel_watts=watts,
        output_watts=sum(watts) + (ending.companion_watts or 0.0) if watts else None,
        volts_rms=read.volts_rms if read else None,
        volts_peak=read.volts_peak if read and read.volts_rms is None else None,
        watts_read=read.watts if read else None,
        set_volts=None if floating else run.spec.supply_volts,
        floating=floating,
        start_volts=ending.start_volts,
        supply_volts=ending.supply_volts,
        amps=ending.supply_amps if run.read_wholly(attempt) else None,
        clamp_zeroed=outside.clamp_zeroed if outside else not attempt.left_out(Item.CLAMP),
        charger_amps=outside.charger_amps if outside else None,
        adds_amps=outside.vehicle.adds_amps if outside and outside.vehicle else "",
        sink_start_c=ending.start_sink_c,
        exploratory=run.exploratory,
        controls_in_position=outside.controls_in_position if outside else not attempt.left_out(Item.CONTROLS),
        all_loaded=outside.all_loaded if outside else all_driven(run, product),
        tripped_watts=ending.tripped_watts,
        beside=beside,
        attempts=tuple(comparable[1:]),
        start_watts=ending.start_watts,
        seconds=seconds,
        held=ending.held,
        companions_low=companions_low(run, attempt),
        beyond_watts=ending.beyond_watts,
        outside_percent=None if ending.outside_share is None else 100 * ending.outside_share,
        output_known=attempt.instruments.get(InstrumentRole.OUTPUT) is not None,
        capture_changed=any(kept.changed_at is not None for kept in attempt.captures),
        overdue=attempt.instruments.overdue(attempt.started_at.date()),
    )


def _read_of(attempt: Attempt, ohms: float) -> HandChannel | None:
    """What was read of the channel whose watts and volts disagree most, else of the weakest; None from the bench.

    A weakest channel whose watts come from a peak is looked at first: they may be none.
    """
    weakest, outside = attempt.weakest, attempt.outside
    if outside is None or not outside.read or weakest is None:
        return None

    def apart(read: HandChannel) -> float:
        from_volts = replace(read, watts=None).watts_into(ohms)
        return abs(math.log(from_volts / read.watts)) if from_volts and read.watts else 0.0

    of_weakest = outside.read[[reading.channel for reading in attempt.readings].index(weakest.channel)]
    furthest = max(outside.read, key=apart)
    from_peak = of_weakest.watts is None and of_weakest.volts_rms is None
    return of_weakest if from_peak or not apart(furthest) else furthest
