"""Modes of driving a unit, and the one table of how a run can end."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from rulvek.core.errors import BadInput


class Mode(StrEnum):
    """How a unit is driven in a run."""

    CERTIFIED = "certified"
    UNCERTIFIED = "uncertified"
    BURST = "burst"
    PROOF = "proof"
    """A steady tone at the watts that are claimed and a little more, held there: quick, at as many tones as needed."""


SWEEPS = (Mode.CERTIFIED, Mode.UNCERTIFIED, Mode.BURST)
"""The modes that look for what a unit gives; a proof only holds what is claimed."""


class End(StrEnum):
    """How a run ended. Only ``LIMIT`` makes a certified reading *at* the limit."""

    LIMIT = "limit"
    HELD = "held"
    CLIP = "clip"
    NO_MORE_OUTPUT = "no_more_output"
    PROTECTED = "protected"
    RECOVERING = "recovering"
    INPUT_EXHAUSTED = "input_exhausted"
    SUPPLY_LOW = "supply_low"
    TOO_HOT = "too_hot"
    OPERATOR = "operator"
    LINK_LOST = "link_lost"
    NOT_RECORDED = "not_recorded"


@dataclass(frozen=True, slots=True)
class EndMeaning:
    """What an end says.

    Attributes:
        gave_all: The unit had no more to give; after any other end the run merely stopped short.
        of_the_day: It says more about the day than about the unit: the reading sizes nothing and shows nowhere but
            on its own run, which still waits to be done.
        words: In a sentence: “stopped by the operator”.
    """

    gave_all: bool
    of_the_day: bool
    words: str


ENDS: Mapping[End, EndMeaning] = {
    End.LIMIT: EndMeaning(True, False, "reached the limit"),
    End.HELD: EndMeaning(False, False, "held what is claimed"),
    End.CLIP: EndMeaning(True, False, "went into clipping"),
    End.NO_MORE_OUTPUT: EndMeaning(True, False, "no more output"),
    End.PROTECTED: EndMeaning(True, False, "protection tripped"),
    End.RECOVERING: EndMeaning(True, False, "trips and recovers"),
    End.INPUT_EXHAUSTED: EndMeaning(False, False, "no more input level"),
    End.SUPPLY_LOW: EndMeaning(False, True, "supply too low"),
    End.TOO_HOT: EndMeaning(False, True, "too hot"),
    End.OPERATOR: EndMeaning(False, True, "stopped by the operator"),
    End.LINK_LOST: EndMeaning(False, True, "link lost"),
    End.NOT_RECORDED: EndMeaning(False, True, "could not be recorded"),
}


def reached(mode: Mode, end: End) -> bool:
    """Whether a run ended as its mode is meant to end; after any other end it stopped short."""
    if mode is Mode.UNCERTIFIED:
        return end in (End.CLIP, End.NO_MORE_OUTPUT)
    if mode is Mode.PROOF:
        return end is End.HELD
    return end is End.LIMIT


def limit_end(mode: Mode) -> End:
    """How a run of a mode ends that goes all the way: at the limit, uncertified in clipping, a proof held."""
    return {Mode.UNCERTIFIED: End.CLIP, Mode.PROOF: End.HELD}.get(mode, End.LIMIT)


def refuse_end(mode: Mode, end: End | None) -> None:
    """See that a run of a mode can have ended like this: only a proof holds what it was to hold.

    Raises:
        BadInput: it cannot.
    """
    if end is End.HELD and mode is not Mode.PROOF:
        raise BadInput(f"Only a proof ends with “{ENDS[end].words}”: this run was {mode}.", field="end")
