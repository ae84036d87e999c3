"""The board: which standing a load has, and that the gravest thing is said first."""

from dataclasses import replace
from typing import Any

import pytest

from rulvek.core.judgement.verdict import Verdict, VerdictKind, VerdictOutcome
from rulvek.core.ratings.board import TO_DO, Cell, Rated, Standing, cells_of
from rulvek.core.ratings.life import Life, StepKind
from rulvek.core.ratings.sample import RatedAt
from rulvek.core.ratings.unsettled import Cause, Unsettling
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.records.product import ChannelGroup, Model, Product
from tests.core.test_rating_life import WAY, way
from tests.core.test_unsettled import AT, TERMS, claim

MODEL = Model(1, "Tern", "Tern 2", "", Product((ChannelGroup("main", (1, 2), (4.0, 2.0)),)), 0.5, (), "")
PUBLISHED = way(WAY)
WITHDRAWN = way([*WAY, (StepKind.WITHDRAWN, "Jory")])
AGAINST = (Unsettling(Cause.REVISION, "revision:B", "Revision B is not covered.", "Measure it."),)


def rated(life: Life = PUBLISHED, watts: float = 100.0, at: RatedAt = AT, number: int = 1, **more: Any) -> Rated:
    return Rated(number, replace(TERMS, watts=watts, at=at), life, 14.4, **more)


def at_4_ohms(claims: tuple[Claim, ...], *ratings: Rated, verdicts: tuple[Verdict, ...] = ()) -> Cell:
    model = replace(MODEL, claims=claims)
    return next(one for one in cells_of(model, verdicts, ratings) if one.place == ("main", 4.0, False))


SAME, MORE, LESS = (claim(watts, id=at) for at, watts in enumerate((100.0, 120.0, 80.0), 1))
SHORT = Verdict(1, VerdictKind.SHORT, "U1 gives 91 W.", outcome=VerdictOutcome.FAILS)
CASES: list[tuple[Standing, tuple[Claim, ...], tuple[Rated, ...], str]] = [
    (Standing.NOTHING, (), (), ""),
    (Standing.UNRATED, (SAME,), (), "without a rating"),
    (Standing.DRAFT, (SAME,), (rated(way(WAY[:1])),), "100 W is a draft"),
    (Standing.TO_SIGN, (SAME,), (rated(way(WAY[:2])),), "a reviewer’s signature"),
    (Standing.TO_PUBLISH, (), (rated(way(WAY[:3])),), "waits to be published"),
    (Standing.SENT_BACK, (), (rated(way([*WAY[:2], (StepKind.SENT_BACK, "Maren")])),), "Maren sent it back: why"),
    (Standing.BACKED, (SAME, LESS), (rated(),), ""),
    (Standing.NOT_PRINTED, (), (rated(),), "No document prints the 100 W"),
    (Standing.NOT_PRINTED, (LESS,), (rated(),), "No document prints"),
    (Standing.SHORT, (SAME, MORE), (rated(),), "Manual prints 120 W; the rating is 100 W"),
    (Standing.LOOK_AGAIN, (MORE,), (rated(unsettled=AGAINST),), "Revision B is not covered"),
    (Standing.STILL_PRINTED, (SAME,), (rated(WITHDRAWN),), "Manual prints 100 W; that rating is withdrawn"),
    (Standing.UNRATED, (LESS,), (rated(WITHDRAWN),), "without a rating"),
    (Standing.BACKED, (SAME,), (rated(WITHDRAWN, 120.0), rated(number=2)), ""),
    (Standing.STILL_PRINTED, (SAME,), (rated(WITHDRAWN), rated(way(WAY[:2]), number=2)), "withdrawn"),
]


@pytest.mark.parametrize(("standing", "claims", "ratings", "why"), CASES)
def test_a_load_has_its_gravest_standing(
    standing: Standing, claims: tuple[Claim, ...], ratings: tuple[Rated, ...], why: str
) -> None:
    cell = at_4_ohms(claims, *ratings)
    assert cell.standing is standing and why in cell.why and bool(why) == bool(cell.why)
    assert (standing in TO_DO) == (standing not in (Standing.BACKED, Standing.NOTHING))


def test_every_standing_has_a_case() -> None:
    assert {case[0] for case in CASES} == set(Standing)


def test_a_claim_that_units_fall_short_of_is_said_where_nothing_is_rated() -> None:
    cell = at_4_ohms((SAME,), verdicts=(SHORT,))
    assert cell.standing is Standing.SHORT and cell.why == "U1 gives 91 W."
    assert at_4_ohms((SAME,), rated(), verdicts=(SHORT,)).standing is Standing.BACKED


def test_what_is_on_its_way_shows_beside_what_is_published() -> None:
    cell = at_4_ohms((SAME,), rated(), rated(way(WAY[:2]), 110.0, number=2))
    assert cell.standing is Standing.BACKED and cell.open is not None and cell.open.id == 2


def test_a_burst_and_a_load_that_no_paper_rates_have_cells_where_something_is_there() -> None:
    burst = claim(150.0, id=4, kind=ClaimKind.BURST)
    cells = cells_of(replace(MODEL, claims=(burst,)), (), (rated(at=replace(AT, load_ohms=1.0)),))
    assert [(one.place[1], one.kind, one.standing) for one in cells] == [
        (4.0, ClaimKind.CONTINUOUS, Standing.NOTHING),
        (4.0, ClaimKind.BURST, Standing.UNRATED),
        (2.0, ClaimKind.CONTINUOUS, Standing.NOTHING),
        (1.0, ClaimKind.CONTINUOUS, Standing.NOT_PRINTED),
    ]
