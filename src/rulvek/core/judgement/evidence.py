"""Evidence: readings that stand, with all that a verdict asks of them; and a unit's, gathered from its campaigns."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from math import inf

from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.electrical.supply import LARGEST_EXPONENT, VoltageFit, exponent_for, power_at_voltage
from rulvek.core.judgement.checks import NOT_ALL_DRIVEN, Leaning, Severity
from rulvek.core.judgement.derived import own_share
from rulvek.core.judgement.findings import Question, questions, standing_findings
from rulvek.core.judgement.uncertainty import (
    Allowances,
    Brought,
    Budget,
    Meters,
    allowances_of,
    meters_of,
    reading_budget,
)
from rulvek.core.judgement.voltage import FitKey, FitPoint, known_fit, voltage_fits
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.campaigns import Campaign
from rulvek.core.records.outside import Origin
from rulvek.core.records.product import Product
from rulvek.core.records.standing import comparable_watts, standing_attempt
from rulvek.core.runs.modes import End, Mode, reached
from rulvek.core.runs.spec import Place, place_key

LIMITED_BY_VOLTAGE = 0.8


@dataclass(frozen=True, slots=True)
class Doubt:
    """Something doubtful in a reading, in a sentence, and which way (and by how much at the most) it would be wrong."""

    text: str
    leans: Leaning = Leaning.EITHER
    at_most: float | None = None


@dataclass(frozen=True, slots=True)
class Evidence:
    """A reading with the conditions it was taken under.

    Attributes:
        attempt_id: Where the reading is kept.
        watts: By channel (by pair where bridged), at least one.
        supply_volts: Loaded, at the reading.
        all_driven: Whether every channel of the amplifier was loaded and driven, or a person lets it pass as that.
        thd_n: The reading's own worst THD+N, a ratio.
        channel_thd_n: Of each channel as ``watts``, None where nobody read it; empty where not read by channel.
        tone_hz: The tone.
        load_tolerance: Relative half-width of what is doubtful in the measured load.
        meters: What it was taken with.
        measured_ohms: The weakest channel's load as measured; None for its nominal value.
        method: The profile that is stored with its campaign; None for the one that is judged by.
        set_volts: What the supply was set to; None where that is not known.
        by_hand: Whether people read it off meters, not from a waveform.
        attempts: Weakest watts of all comparable attempts at the run, this one included.
        mode: How it was driven. Continuous figures are judged by certified readings, all others by bursts.
        largest_watts: Of a burst: the largest found past the onset of clipping, weakest channel.
        largest_bracket_db: How much more came out with the last step past it.
        fit: How the unit's power follows its supply at this load; None while that is not known.
        doubts: What the checks doubt in it; they show on every verdict that they could change.
        invalid: Why the checks keep it from being evidence; empty where they do not. That not all channels were driven
            is not among it: it leaves a shortfall firm, and there are claims for fewer channels.
        channels_unread: How many of the group's channels, or pairs, were not read.
        at: When it was taken; None in evidence that comes in its order.
        volts_between: Between which the loaded volts were, where nobody read them: ``supply_volts`` are the lower then.
        by_pairs: Whether it is half of what bridged pairs gave.
        load_c: Of the hottest load at the reading.
        limit_slope: d ln P / d ln THD+N at the limit.
        simulated: Whether it comes from a simulated bench.
        read_again: Whether it is another reading's waveform, read once more.
        inductance_uh: Of the weakest channel's load; None where the bench does not know it.
        load_ppm_per_kelvin: By which that load drifts; None where the bench does not know it.
    """

    attempt_id: int
    group: str
    load_ohms: float
    bridged: bool
    tone_hz: float
    watts: tuple[float, ...]
    supply_volts: float
    all_driven: bool
    end: End
    thd_n: float
    bracket_db: float | None
    load_tolerance: float
    tripped_watts: float | None = None
    mode: Mode = Mode.CERTIFIED
    largest_watts: float | None = None
    largest_bracket_db: float | None = None
    meters: Meters = field(default_factory=Meters)
    measured_ohms: float | None = None
    channel_thd_n: tuple[float | None, ...] = ()
    method: MethodProfile | None = None
    set_volts: float | None = None
    by_hand: bool = False
    supply_amps: float | None = None
    campaign_id: int = 0
    attempts: tuple[float, ...] = ()
    fit: VoltageFit | None = None
    doubts: tuple[Doubt, ...] = ()
    invalid: str = ""
    at: datetime | None = None
    by_pairs: bool = False
    volts_between: tuple[float, float] | None = None
    load_c: float | None = None
    limit_slope: float | None = None
    simulated: bool = False
    read_again: bool = False
    inductance_uh: float | None = None
    load_ppm_per_kelvin: float | None = None
    channels_unread: int = 0

    @property
    def stands(self) -> bool:
        """Whether it is a figure of the whole unit that no check refuses."""
        return self.all_driven and not self.invalid

    @property
    def place(self) -> Place:
        """How the group was loaded."""
        return self.group, self.load_ohms, self.bridged

    @property
    def budget(self) -> Budget:
        """The uncertainty of the weakest channel's watts, as they were read."""
        return self._budget(())

    def brought_to(self, volts: float, ohms: float) -> Budget:
        """The same at other volts and ohms that are near: by the unit's exponent, or all that there are.

        With the ohms goes what limits the output: by voltage alone P is as 1/R, and the resistance that every stage has
        takes a little of that (ours: R to the power of 0.8 to 1); where something else ended the run, of 0 to 1.
        What is doubtful in the measured ohms counts for no more than that leaves over: V²/R of a wrong R, brought from
        that R to the claim's, is V² over the claim's.
        """
        brought = []
        least = LIMITED_BY_VOLTAGE if self.end in (End.LIMIT, End.CLIP, End.NO_MORE_OUTPUT) else 0.0
        if volts != self.supply_volts:
            low_n, high_n = (0.0, LARGEST_EXPONENT) if self.fit is None else (self.fit.low, self.fit.high)
            brought.append(_brought("brought to the claim's volts", volts / self.supply_volts, low_n, high_n))
        measured = self.measured_ohms or self.load_ohms
        if ohms != measured:
            brought.append(_brought("brought to the claim's ohms", measured / ohms, least, 1.0))
        return self._budget(tuple(brought), (1 - least) / 2)

    def _budget(self, brought: tuple[Brought, ...], load_share: float = 1.0) -> Budget:
        ohms = self.measured_ohms or self.load_ohms
        return reading_budget(
            self.weakest,
            ohms,
            self.load_tolerance,
            self.meters,
            self.bracket_db,
            self.supply_volts,
            exponent_for(self.fit),
            self.attempts,
            Allowances() if self.method is None else self._allowances(self.method, ohms),
            brought,
            load_share,
        )

    def _allowances(self, method: MethodProfile, ohms: float) -> Allowances:
        slope = self.limit_slope if reached(self.mode, self.end) else None
        return allowances_of(
            method, ohms, self.tone_hz, self.load_c, slope, self.inductance_uh, self.load_ppm_per_kelvin
        )

    def at_volts_unread(self, volts: float) -> tuple[float, float]:
        """The same where the loaded volts were not read: over all that they may have been."""
        lowest, highest = self.volts_between or (self.supply_volts, self.supply_volts)
        ends = [power_at_voltage(self.weakest, one, volts) for one in (lowest, highest)]
        return min(low for low, _ in ends), max(high for _, high in ends)

    def at_volts(self, volts: float) -> tuple[float, float]:
        """Between which watts it would give at other volts: by the unit's own fit, else by any exponent there is."""
        if self.fit is None:
            return power_at_voltage(self.weakest, self.supply_volts, volts)
        _, low, high = self.fit.estimate(volts)
        return low, high

    @property
    def at_their_limit(self) -> tuple[float, ...]:
        """Watts of the channels that were as far as they go: the others gave at least what they gave.

        The first channel to pass the limit ends a run. One with less than half as much THD+N as that was not there yet.
        """
        if self.end not in (End.LIMIT, End.CLIP) or len(self.channel_thd_n) != len(self.watts):
            return self.watts
        pairs = zip(self.watts, self.channel_thd_n, strict=True)
        return tuple(watts for watts, thd_n in pairs if thd_n is None or thd_n >= self.thd_n / 2) or self.watts

    @property
    def weakest(self) -> float:
        """Watts of the channel that gives least; claims say "each channel"."""
        return min(self.watts)


def _brought(name: str, ratio: float, least: float, most: float) -> Brought:
    ends = ratio**least, ratio**most
    return Brought(name, min(ends), max(ends))


@dataclass(frozen=True, slots=True)
class UnitEvidence:
    """What one unit has shown: its evidence, the oldest first, and how its power follows the supply at each load."""

    evidence: tuple[Evidence, ...]
    fits: Mapping[FitKey, VoltageFit]
    points: tuple[FitPoint, ...]


def unit_evidence(campaigns: Iterable[Campaign], product: Product, as_first_read: bool = False) -> UnitEvidence:
    """Gather the evidence of one unit's campaigns, the oldest first.

    Of one waveform that was read more than once and adopted, what was read last speaks; the others stand on record.
    ``as_first_read`` leaves out what was read again.
    """
    bare = [one for campaign in campaigns for one in _evidence_in(campaign, product)]
    if as_first_read:
        return fitted([one for one in bare if not one.read_again])
    last = {_moment(one): one.attempt_id for one in sorted(bare, key=lambda e: e.attempt_id) if one.read_again}
    return fitted([one for one in bare if last.get(_moment(one), one.attempt_id) == one.attempt_id])


def _moment(e: Evidence) -> tuple[object, ...]:
    """The same for readings of one waveform: of one run at one moment."""
    return e.at, e.mode, place_key(e.place), e.tone_hz, e.set_volts


def fitted(bare: Sequence[Evidence]) -> UnitEvidence:
    """One unit's evidence, going by the unit's own exponent wherever its readings tell it."""
    points = tuple(_point(one) for one in bare if _tells_of_volts(one))
    fits = voltage_fits(points)
    return UnitEvidence(with_fits(bare, fits), fits, points)


def campaign_evidence(campaign: Campaign, product: Product, fits: Mapping[FitKey, VoltageFit]) -> tuple[Evidence, ...]:
    """The evidence of one campaign alone; ``fits`` are its unit's."""
    return with_fits(_evidence_in(campaign, product), fits)


def with_fits(evidence: Iterable[Evidence], fits: Mapping[FitKey, VoltageFit]) -> tuple[Evidence, ...]:
    """Evidence that goes by the unit's own exponent wherever that is known."""
    return tuple(replace(one, fit=known_fit(fits, one.place, one.mode)) for one in evidence)


def _tells_of_volts(e: Evidence) -> bool:
    """Only readings from waveforms count that reached the end of their mode and that no check refuses."""
    told = e.mode is not Mode.PROOF and not e.by_hand and e.stands and e.volts_between is None
    return told and reached(e.mode, e.end)


def _point(e: Evidence) -> FitPoint:
    return FitPoint(e.place, e.mode, e.supply_volts, e.weakest, e.attempt_id, own_share(e.budget))


def held_between(method: MethodProfile, set_volts: float | None = None) -> tuple[float, float]:
    """Between which volts a held supply is under load, where nobody read them: from sagging to what it was set to."""
    held = method.reference_volts if set_volts is None else set_volts
    return held - method.check_sag_volts, held + method.reference_volts_tolerance


def _between(campaign: Campaign, set_volts: float) -> tuple[float, float]:
    method = campaign.method
    if campaign.policy is SupplyPolicy.BANK:
        return method.start_bank_low_volts - method.check_sag_volts, method.start_bank_high_volts
    return held_between(method, set_volts)


def _evidence_in(campaign: Campaign, product: Product) -> list[Evidence]:
    asked = questions(campaign, product)
    found = []
    for run in campaign.runs:
        attempt = standing_attempt(run)
        if attempt is None or run.exploratory or attempt.ending is None:
            continue
        ending, weakest = attempt.ending, attempt.weakest
        if weakest is None or weakest.watts <= 0:
            continue
        loaded, unread = ending.supply_volts, None
        if loaded is None:
            unread = _between(campaign, run.spec.supply_volts)
            loaded = unread[0]
        question: Question = asked[attempt.id]
        invalid = {finding.code: finding.message for finding in standing_findings(question, Severity.INVALID)}
        single = invalid.pop(NOT_ALL_DRIVEN, None) is not None
        found.append(
            Evidence(
                attempt_id=attempt.id,
                group=run.spec.group,
                load_ohms=run.spec.load_ohms,
                bridged=run.spec.bridged,
                tone_hz=run.spec.tone_hz,
                watts=tuple(reading.watts for reading in attempt.readings),
                supply_volts=loaded,
                volts_between=unread,
                all_driven=not single,
                channels_unread=max(0, len(run.under_test) - len(attempt.readings)),
                end=ending.end,
                thd_n=max(inf if r.thd_n is None else r.thd_n for r in attempt.readings),
                channel_thd_n=tuple(reading.thd_n for reading in attempt.readings),
                bracket_db=ending.bracket_db,
                load_tolerance=weakest.load.tolerance,
                tripped_watts=ending.tripped_watts,
                mode=run.spec.mode,
                largest_watts=ending.largest_watts,
                largest_bracket_db=ending.largest_bracket_db,
                meters=meters_of(attempt.instruments, campaign.method),
                measured_ohms=weakest.load.measured_ohms,
                inductance_uh=weakest.load.inductance_uh,
                load_ppm_per_kelvin=weakest.load.ppm_per_kelvin,
                method=campaign.method,
                set_volts=run.spec.supply_volts,
                by_hand=attempt.origin in (Origin.BY_HAND, Origin.TABLE),
                supply_amps=ending.supply_amps,
                campaign_id=campaign.id,
                attempts=comparable_watts(run)[attempt.id],
                invalid=next(iter(invalid.values()), ""),
                doubts=tuple(Doubt(f.message, f.leans, f.at_most) for f in standing_findings(question, Severity.DOUBT)),
                at=attempt.started_at,
                load_c=ending.load_c,
                limit_slope=ending.limit_slope,
                simulated=attempt.simulated,
                read_again=bool(attempt.read_again),
            )
        )
    return found
