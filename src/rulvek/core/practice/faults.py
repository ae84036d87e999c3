"""What may be wrong at a bench: how it is told, what is to be done about it, and where it shows.

The faults are common practice of the trade, no source; what each does to a reading is computed when a job is conducted.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum


class Fault(StrEnum):
    """Something that is planted."""

    LEVEL_UP = "level-up"
    FLAT_BANK = "flat-bank"
    WRONG_LOAD = "wrong-load"
    BAD_CONTACT = "bad-contact"
    CLAMP_NOT_ZEROED = "clamp-not-zeroed"
    CHARGER_ON = "charger-on"
    GAINS_APART = "gains-apart"
    BOOST_ON = "boost-on"
    BRIDGE_SWAPPED = "bridge-swapped"
    CLIPPED_PEAK = "clipped-peak"
    NOT_ALL_DRIVEN = "not-all-driven"
    RAILS_SWITCH = "rails-switch"
    HUM = "hum"
    HOT_UNIT = "hot-unit"
    MAXIMUM_QUOTED = "maximum-quoted"
    FUSES_FOR_POWER = "fuses-for-power"
    SENSED_AT_SUPPLY = "sensed-at-supply"


class Remedy(StrEnum):
    """What can be done about it."""

    LEVEL_DOWN = "level-down"
    CHARGE = "charge"
    PLANNED_LOAD = "planned-load"
    MAKE_CONTACT = "make-contact"
    ZERO = "zero"
    CHARGER_OFF = "charger-off"
    MATCH_GAINS = "match-gains"
    CONTROLS = "controls"
    WIRES = "wires"
    TRUE_RMS = "true-rms"
    DRIVE_ALL = "drive-all"
    LEAVE_IT = "leave-it"
    FIND_HUM = "find-hum"
    COOL = "cool"
    ASK_FOR_TERMS = "ask-for-terms"
    GO_BY_WATTS = "go-by-watts"
    SENSE_AT_UNIT = "sense-at-unit"


REMEDY_WORDS: Mapping[Remedy, str] = {
    Remedy.LEVEL_DOWN: "Turn the level down, start afresh, repeat",
    Remedy.CHARGE: "Charge the bank or take another, repeat",
    Remedy.PLANNED_LOAD: "Connect the planned load, measure it, repeat",
    Remedy.MAKE_CONTACT: "Clean and tighten the connection, repeat",
    Remedy.ZERO: "Zero the clamp; the watts stand",
    Remedy.CHARGER_OFF: "Take the charger off; the watts stand",
    Remedy.MATCH_GAINS: "Match the gains, repeat",
    Remedy.CONTROLS: "Set the controls to test position, repeat",
    Remedy.WIRES: "Switch off, mend the pair's wires, repeat",
    Remedy.TRUE_RMS: "Read true rms, repeat",
    Remedy.DRIVE_ALL: "Load and drive every channel, repeat",
    Remedy.LEAVE_IT: "Nothing: it is how the unit works",
    Remedy.FIND_HUM: "Find where the hum comes from, then repeat",
    Remedy.COOL: "Let it cool, repeat",
    Remedy.ASK_FOR_TERMS: "Ask for load, supply and THD+N first",
    Remedy.GO_BY_WATTS: "Leave the fuses out, go by the watts",
    Remedy.SENSE_AT_UNIT: "Sense the volts at the amplifier, repeat",
}


class SheetPart(StrEnum):
    """Where on a sheet something shows."""

    CLAIM = "claim"
    NOTE = "note"
    BEFORE = "before"
    READING = "reading"
    SWEEP = "sweep"
    SUPPLY = "supply"
    WAVE = "wave"
    SPECTRUM = "spectrum"


@dataclass(frozen=True, slots=True)
class Lesson:
    """What there is to know of a fault.

    Attributes:
        words: The fault, as somebody would tell it.
        part: Where it shows best.
        why: What it does, for whoever missed it.
        spoils: Whether nothing may be said of the claim before it is mended.
        easy: Whether one look at the right place tells it.
    """

    words: str
    remedy: Remedy
    part: SheetPart
    why: str
    spoils: bool = True
    easy: bool = False


LESSONS: Mapping[Fault, Lesson] = {
    Fault.LEVEL_UP: Lesson(
        "The level was already up at the start",
        Remedy.LEVEL_DOWN,
        SheetPart.SWEEP,
        "A run begins far below the limit and goes up to it. Power that is there at once shakes supply and protection, "
        "and nobody sees how the unit came to its limit.",
        easy=True,
    ),
    Fault.FLAT_BANK: Lesson(
        "The bank is flat",
        Remedy.CHARGE,
        SheetPart.BEFORE,
        "An amplifier that does not regulate gives less power at fewer volts: the run shows the bank, not the unit.",
        easy=True,
    ),
    Fault.WRONG_LOAD: Lesson(
        "A load is connected that was not planned",
        Remedy.PLANNED_LOAD,
        SheetPart.BEFORE,
        "Watts belong to a load. The ohms that were measured are not those of the plan.",
        easy=True,
    ),
    Fault.BAD_CONTACT: Lesson(
        "A load has a bad contact",
        Remedy.MAKE_CONTACT,
        SheetPart.BEFORE,
        "What lies in series with a load takes watts that nobody counts, and it is another value each time: the ohms "
        "before and after the run are apart.",
    ),
    Fault.CLAMP_NOT_ZEROED: Lesson(
        "The clamp was not zeroed",
        Remedy.ZERO,
        SheetPart.BEFORE,
        "Amps that the clamp indicates while nothing flows are in every reading of the current. The output's watts do "
        "not come from it.",
        spoils=False,
        easy=True,
    ),
    Fault.CHARGER_ON: Lesson(
        "A charger feeds the amplifier past the clamp",
        Remedy.CHARGER_OFF,
        SheetPart.READING,
        "Some of the amps do not pass the clamp: the efficiency comes out higher than such an amplifier can have.",
        spoils=False,
    ),
    Fault.GAINS_APART: Lesson(
        "The gains of the channels are apart",
        Remedy.MATCH_GAINS,
        SheetPart.BEFORE,
        "The loudest channel ends the run while the others have more to give: the weakest reads too little.",
        easy=True,
    ),
    Fault.BOOST_ON: Lesson(
        "A bass boost was left on",
        Remedy.CONTROLS,
        SheetPart.BEFORE,
        "The gain at the test tone is not the gain beside it: something changes the tone on its way.",
    ),
    Fault.BRIDGE_SWAPPED: Lesson(
        "The wires of a bridged pair are swapped",
        Remedy.WIRES,
        SheetPart.READING,
        "Both channels of the pair move alike, and between them there is nearly nothing, however loud they are.",
    ),
    Fault.CLIPPED_PEAK: Lesson(
        "Watts were worked out from the peak of a clipped wave",
        Remedy.TRUE_RMS,
        SheetPart.WAVE,
        "Vpk²/2R holds for an unclipped sine only. A clipped wave's power is told by its true rms.",
    ),
    Fault.NOT_ALL_DRIVEN: Lesson(
        "Not all channels were loaded and driven",
        Remedy.DRIVE_ALL,
        SheetPart.READING,
        "Channels that do nothing leave the supply to the others: what is read is more than each gives together.",
        easy=True,
    ),
    Fault.RAILS_SWITCH: Lesson(
        "The rails switch down in the burst",
        Remedy.LEAVE_IT,
        SheetPart.READING,
        "A burst gives more than a steady tone where the supply is the limit. Here it gives less: on a sudden rise the "
        "unit goes to lower rails.",
        spoils=False,
    ),
    Fault.HUM: Lesson(
        "There is hum in the output",
        Remedy.FIND_HUM,
        SheetPart.SPECTRUM,
        "A line that is no harmonic of the tone counts as noise and brings THD+N to its limit early.",
    ),
    Fault.HOT_UNIT: Lesson(
        "The unit was hot when the run began",
        Remedy.COOL,
        SheetPart.BEFORE,
        "Warm output devices give less, and protection is near.",
        easy=True,
    ),
    Fault.MAXIMUM_QUOTED: Lesson(
        "The document quotes a maximum without terms",
        Remedy.ASK_FOR_TERMS,
        SheetPart.CLAIM,
        "Watts without a load, a supply and a THD+N claim nothing that can be measured.",
    ),
    Fault.FUSES_FOR_POWER: Lesson(
        "Somebody took the fuses for the power",
        Remedy.GO_BY_WATTS,
        SheetPart.NOTE,
        "Fuses protect a cable. They carry more than their rating for minutes, and amps of the supply are not watts in "
        "the load.",
        spoils=False,
        easy=True,
    ),
    Fault.SENSED_AT_SUPPLY: Lesson(
        "The supply's volts are held at the supply, not at the amplifier",
        Remedy.SENSE_AT_UNIT,
        SheetPart.SUPPLY,
        "The cable takes its share with every ampere: at rest the volts are right, under power they are not.",
    ),
}
