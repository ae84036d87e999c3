"""What is printed beside what is rated: which documents state a rating's figure, another one, or one that is gone."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum
from math import isclose

from rulvek.core.ratings.basis import RatingTerms
from rulvek.core.ratings.sample import RatedAt
from rulvek.core.records.claims import Claim, ClaimTerms
from rulvek.core.runs.spec import same_place

SAME_VOLTS = 0.05
"""Volts and percent that differ by no more than this were rounded differently (ours)."""


class Says(StrEnum):
    """What a document says beside a rating."""

    SAME = "same"
    MORE = "more"
    LESS = "less"


@dataclass(frozen=True, slots=True)
class Printed:
    """A figure in a document, beside a rating at the same conditions."""

    claim: Claim
    says: Says


def printed_beside(terms: RatingTerms, claims: Iterable[Claim], reference_volts: float) -> tuple[Printed, ...]:
    """The claims that still stand at a rating's conditions, those that say more first.

    A condition that a document leaves out is taken as the rating's.
    """
    found = [
        Printed(claim, _says(claim.each_watts, terms.watts))
        for claim in claims
        if claim.withdrawn is None and is_at(claim, terms.at, reference_volts)
    ]
    order = (Says.MORE, Says.SAME, Says.LESS)
    return tuple(sorted(found, key=lambda one: (order.index(one.says), one.claim.id)))


def is_at(claim: ClaimTerms, at: RatedAt, reference_volts: float) -> bool:
    """Whether a claim is made at a rating's conditions, as far as it states any."""
    if not same_place(claim.place, at.place) or claim.kind is not at.kind:
        return False
    volts = at.supply_volts if at.supply_volts is not None else reference_volts
    stated = ((claim.supply_volts, volts), (claim.thd_n_percent, at.thd_n_percent))
    return all(one is None or other is None or abs(one - other) <= SAME_VOLTS for one, other in stated)


def same_conditions(one: RatedAt, other: RatedAt, reference_volts: float) -> bool:
    """Whether two ratings promise something of the same, whatever revisions they cover."""
    if not same_place(one.place, other.place):
        return False
    volts = [at.supply_volts if at.supply_volts is not None else reference_volts for at in (one, other)]
    bands = [(at.kind, at.thd_n_percent, at.band_low_hz, at.band_high_hz) for at in (one, other)]
    return isclose(*volts, abs_tol=SAME_VOLTS) and bands[0] == bands[1]


def covers(one: RatedAt, other: RatedAt) -> bool:
    """Whether a rating speaks of every revision that another speaks of; of all where it names none.

    >>> covers(RatedAt("A", 4.0), RatedAt("A", 4.0, revisions=("B",)))
    True
    """
    mine, others = ({name.casefold() for name in at.revisions} for at in (one, other))
    return not mine or (bool(others) and others <= mine)


def _says(stated: float, rated: float) -> Says:
    if isclose(stated, rated, rel_tol=1e-6):
        return Says.SAME
    return Says.MORE if stated > rated else Says.LESS
