"""People who practise: one who sees all that a job's screens show, and one who looks at little."""

from dataclasses import dataclass

from rulvek.core.practice.faults import Fault, Remedy
from rulvek.core.practice.marking import Answer, OfClaim
from rulvek.core.records.actor import Actor
from rulvek.core.runs.modes import Mode
from rulvek.services.practice import Practice
from rulvek.services.views.practice import PracticeJobView, PracticeRunView

SPOILS = set(Fault) - {Fault.CLAMP_NOT_ZEROED, Fault.CHARGER_ON, Fault.RAILS_SWITCH, Fault.FUSES_FOR_POWER}
KNOWN_TRUE = ("weakest channel that backs", "3 dB more level")
DONE: dict[Fault, Remedy] = {
    Fault.LEVEL_UP: Remedy.LEVEL_DOWN,
    Fault.FLAT_BANK: Remedy.CHARGE,
    Fault.WRONG_LOAD: Remedy.PLANNED_LOAD,
    Fault.BAD_CONTACT: Remedy.MAKE_CONTACT,
    Fault.CLAMP_NOT_ZEROED: Remedy.ZERO,
    Fault.CHARGER_ON: Remedy.CHARGER_OFF,
    Fault.GAINS_APART: Remedy.MATCH_GAINS,
    Fault.BOOST_ON: Remedy.CONTROLS,
    Fault.BRIDGE_SWAPPED: Remedy.WIRES,
    Fault.CLIPPED_PEAK: Remedy.TRUE_RMS,
    Fault.NOT_ALL_DRIVEN: Remedy.DRIVE_ALL,
    Fault.RAILS_SWITCH: Remedy.LEAVE_IT,
    Fault.HUM: Remedy.FIND_HUM,
    Fault.HOT_UNIT: Remedy.COOL,
    Fault.MAXIMUM_QUOTED: Remedy.ASK_FOR_TERMS,
    Fault.FUSES_FOR_POWER: Remedy.GO_BY_WATTS,
    Fault.SENSED_AT_SUPPLY: Remedy.SENSE_AT_UNIT,
}
"""What a skilled engineer does about each (common practice, no source)."""


@dataclass(frozen=True)
class Careful:
    """Looks at every figure that the job's page shows, and at nothing else."""

    practice: Practice
    actor: Actor

    def answer(self, job: PracticeJobView) -> Answer:
        faults = {one: DONE[one] for one in Fault if self._sees(one, job)}
        claim = OfClaim.NOTHING_YET
        if not set(faults) & SPOILS:
            claimed = float(job.claim.split()[0])
            least = min((one.watts for one in job.runs[0].readings), default=0.0)
            claim = OfClaim.BACKED if least >= claimed else OfClaim.NOT_BACKED
        return Answer(faults, claim, any(words in job.saying for words in KNOWN_TRUE))

    def _sees(self, fault: Fault, job: PracticeJobView) -> bool:
        before, run = job.before, job.runs[0]
        most = max((one.weakest_watts for one in run.points), default=0.0)
        gains = [one.gain_db for one in before.gains]
        match fault:
            case Fault.LEVEL_UP:
                return run.points[0].weakest_watts > 0.2 * most > 1
            case Fault.FLAT_BANK:
                return job.supply_volts is None and before.start_volts < 13.5
            case Fault.WRONG_LOAD:
                return any(abs(one.before_ohms / one.nominal_ohms - 1) > 0.3 for one in before.loads)
            case Fault.BAD_CONTACT:
                return any(abs(one.after_ohms - one.before_ohms) > 0.1 for one in before.loads)
            case Fault.CLAMP_NOT_ZEROED:
                return abs(before.clamp_indicates - before.clamp_zero) > 1
            case Fault.CHARGER_ON:
                zeroed = abs(before.clamp_indicates - before.clamp_zero) < 1
                return job.supply_volts is None and zeroed and (run.efficiency_percent or 0) > 95
            case Fault.GAINS_APART:
                return max(gains) - min(gains) > 1
            case Fault.BOOST_ON:
                return any(abs(one.gain_db - one.beside_db) > 3 for one in before.gains)
            case Fault.BRIDGE_SWAPPED:
                return job.bridged and most < 1
            case Fault.CLIPPED_PEAK:
                return run.mode is Mode.UNCERTIFIED and any(one.volts_peak is not None for one in run.readings)
            case Fault.NOT_ALL_DRIVEN:
                return len(run.driven) < len(gains)
            case Fault.RAILS_SWITCH:
                return len(job.runs) > 1 and _weakest(job.runs[1]) < _weakest(run)
            case Fault.HUM:
                return self._hums(job)
            case Fault.HOT_UNIT:
                return before.sink_c > 50
            case Fault.MAXIMUM_QUOTED:
                return "Ω" not in job.claim
            case Fault.FUSES_FOR_POWER:
                return "fuses" in job.note
            case Fault.SENSED_AT_SUPPLY:
                held = job.supply_volts is not None and run.supply_volts is not None
                return held and before.start_volts - (run.supply_volts or 0) > 0.4

    def _hums(self, job: PracticeJobView) -> bool:
        run = job.runs[0]
        if not run.has_wave or run.tone_hz < 200:
            return False
        spectrum = self.practice.channel(job.id, 1, run.channels[0], self.actor).spectrum
        below = [level for hz, level in zip(spectrum.hz, spectrum.db, strict=True) if hz < 0.6 * run.tone_hz]
        return max(below) > -60


class Careless:
    """Looks at the watts and the claim alone."""

    def answer(self, job: PracticeJobView) -> Answer:
        claimed = float(job.claim.split()[0])
        least = min((one.watts for one in job.runs[0].readings), default=0.0)
        return Answer({}, OfClaim.BACKED if least >= claimed else OfClaim.NOT_BACKED, True)


def _weakest(run: PracticeRunView) -> float:
    return min((one.watts for one in run.readings), default=0.0)
