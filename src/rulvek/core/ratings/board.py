"""The line in one look: at every load what is printed, what is rated, and what has to be done first."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date
from enum import StrEnum

from rulvek.core.judgement.verdict import Verdict, VerdictKind
from rulvek.core.ratings.basis import RatingTerms
from rulvek.core.ratings.life import OPEN, Life, RatingState
from rulvek.core.ratings.printed import Printed, Says, printed_beside
from rulvek.core.ratings.unsettled import Unsettling
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.records.product import Model
from rulvek.core.runs.spec import Place, same_place


class Standing(StrEnum):
    """How a load of a model stands, what needs doing first at the top."""

    STILL_PRINTED = "still_printed"
    LOOK_AGAIN = "look_again"
    SHORT = "short"
    SENT_BACK = "sent_back"
    TO_SIGN = "to_sign"
    TO_PUBLISH = "to_publish"
    DRAFT = "draft"
    UNRATED = "unrated"
    NOT_PRINTED = "not_printed"
    BACKED = "backed"
    NOTHING = "nothing"


TO_DO = tuple(Standing)[: list(Standing).index(Standing.NOT_PRINTED) + 1]
"""Standings that somebody has to do something about."""
KINDS = (ClaimKind.CONTINUOUS, ClaimKind.BURST)
"""Kinds of power that are rated; “maximum” is nothing that anybody can promise."""
_OPEN_STANDING: Mapping[RatingState, Standing] = {
    RatingState.DRAFT: Standing.DRAFT,
    RatingState.PROPOSED: Standing.TO_SIGN,
    RatingState.SIGNED: Standing.TO_PUBLISH,
}


@dataclass(frozen=True, slots=True)
class Rated:
    """A rating as the board takes it; ``reference_volts`` are those of its method, ``rests_on`` is said in a line.

    ``ends_on`` is until when it is valid, where that is soon.
    """

    id: int
    terms: RatingTerms
    life: Life
    reference_volts: float
    unsettled: tuple[Unsettling, ...] = ()
    simulated: bool = False
    rests_on: str = ""
    ends_on: date | None = None


@dataclass(frozen=True, slots=True)
class Cell:
    """A load of a model.

    Attributes:
        why: What is to be said of it, a sentence; empty where nothing is.
        printed: Standing claims there, whatever else their conditions are, in the order in which they were entered.
        rating: The one that is published, else the last that was; None where there is none.
        open: One that is on its way.
    """

    place: Place
    kind: ClaimKind
    standing: Standing
    why: str = ""
    printed: tuple[Claim, ...] = ()
    rating: Rated | None = None
    open: Rated | None = None


def cells_of(model: Model, verdicts: Sequence[Verdict], ratings: Sequence[Rated]) -> tuple[Cell, ...]:
    """Every load of a model in each kind of power; a burst only where one is printed or rated.

    Args:
        verdicts: On the model's standing claims, of all its units together.
        ratings: The model's, in the order in which they were drafted.
    """
    found = []
    rated = [one.terms.at.place for one in ratings]
    elsewhere = [place for place in dict.fromkeys(rated) if not any(same_place(place, one) for one in model.places)]
    for place in (*model.places, *elsewhere):
        for kind in KINDS:
            cell = _cell(place, kind, model, verdicts, ratings)
            if kind is ClaimKind.CONTINUOUS or cell.standing is not Standing.NOTHING:
                found.append(cell)
    return tuple(found)


def _cell(place: Place, kind: ClaimKind, model: Model, verdicts: Sequence[Verdict], ratings: Sequence[Rated]) -> Cell:
    claims = tuple(one for one in model.standing_claims if same_place(one.place, place) and one.kind is kind)
    here = [one for one in ratings if _is_here(one, place, kind)]
    published = _last(here, {RatingState.PUBLISHED})
    gone = _last(here, {RatingState.WITHDRAWN})
    on_its_way = _last(here, OPEN)
    rating = published or gone

    def cell(standing: Standing, why: str = "") -> Cell:
        return Cell(place, kind, standing, why, claims, rating, on_its_way)

    if published is not None and published.unsettled:
        return cell(Standing.LOOK_AGAIN, published.unsettled[0].what)
    beside = printed_beside(rating.terms, claims, rating.reference_volts) if rating else ()
    if published is not None and (more := _first(beside, Says.MORE)) is not None:
        return cell(Standing.SHORT, f"{_prints(more)}; the rating is {published.terms.watts:g} W.")
    if published is None and gone is not None:
        still = _first(beside, Says.MORE) or _first(beside, Says.SAME)
        if still is not None:
            return cell(Standing.STILL_PRINTED, f"{_prints(still)}; that rating is withdrawn.")
    if published is None and on_its_way is not None:
        back = on_its_way.life.sent_back
        if back is not None:
            return cell(Standing.SENT_BACK, f"{back.by} sent it back: {back.reason}")
        return cell(
            _OPEN_STANDING[on_its_way.life.state], f"{on_its_way.terms.watts:g} W {_WAITS[on_its_way.life.state]}"
        )
    if published is not None:
        if _first(beside, Says.SAME) is None:
            return cell(Standing.NOT_PRINTED, f"No document prints the {published.terms.watts:g} W.")
        return cell(Standing.BACKED)
    if not claims:
        return cell(Standing.NOTHING)
    short = _shortest(claims, verdicts)
    if short is not None:
        return cell(Standing.SHORT, short)
    return cell(Standing.UNRATED, "Printed without a rating.")


_WAITS: Mapping[RatingState, str] = {
    RatingState.DRAFT: "is a draft.",
    RatingState.PROPOSED: "waits for a reviewer’s signature.",
    RatingState.SIGNED: "waits to be published.",
}


def _is_here(rated: Rated, place: Place, kind: ClaimKind) -> bool:
    at = rated.terms.at
    return at.kind is kind and same_place(at.place, place)


def _last(ratings: Iterable[Rated], states: Iterable[RatingState]) -> Rated | None:
    wanted = frozenset(states)
    return next((one for one in reversed(list(ratings)) if one.life.state in wanted), None)


def _first(beside: Iterable[Printed], says: Says) -> Printed | None:
    return next((one for one in beside if one.says is says), None)


def _prints(one: Printed) -> str:
    return f"{one.claim.document} prints {one.claim.each_watts:g} W"


def _shortest(claims: Sequence[Claim], verdicts: Sequence[Verdict]) -> str | None:
    """What is said of a claim that units fall short of; None where none does."""
    ids = {one.id for one in claims}
    return next((one.reason for one in verdicts if one.claim_id in ids and one.kind is VerdictKind.SHORT), None)
