"""A rating's dossier: all that somebody outside needs to follow it from the promise to the readings."""

from dataclasses import dataclass
from datetime import date

from rulvek.core.ratings.basis import Basis
from rulvek.core.ratings.life import RatingState, Step
from rulvek.core.records.instruments import InstrumentEntry


@dataclass(frozen=True, slots=True)
class Dossier:
    """A rating with what it rests on.

    Attributes:
        lab: What the lab calls itself; empty where it does not say.
        digest: SHA-256 of the frozen basis, in hexadecimal.
        instruments: As they stand on the register for the readings' days, by name.
        printed: Documents with the watts that they state at these conditions, and where.
        chain: The audit chain's head: an entry's number and its seal.
    """

    number: int
    lab: str
    wording: str
    description: str
    state: RatingState
    steps: tuple[Step, ...]
    basis: Basis
    digest: str
    valid_until: date | None
    instruments: tuple[InstrumentEntry, ...]
    printed: tuple[tuple[str, str, float], ...]
    chain: tuple[int, str]
