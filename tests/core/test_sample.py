"""A unit's figure over a band: edges that were never run, and those that were only held at a level."""

from dataclasses import replace

import pytest

from rulvek.core.judgement.evidence import Evidence
from rulvek.core.method.profile import MethodProfile
from rulvek.core.ratings.sample import RatedAt, SampleRow, TakenBack, sample_rows
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.spec import Place
from tests.core.test_aspects import READ, unit

BAND = RatedAt("main", 4.0, supply_volts=14.4, band_low_hz=20.0, band_high_hz=20_000.0)
ONE = replace(BAND, band_low_hz=1000.0, band_high_hz=1000.0)
PROOF = replace(READ, mode=Mode.PROOF, end=End.HELD, watts=(76.5, 76.9), thd_n=0.001)


def row(*evidence: Evidence, at: RatedAt = BAND) -> SampleRow:
    (found,) = sample_rows(at, [(unit(1), evidence)], MethodProfile())
    return found


def at_tone(reading: Evidence, hz: float, number: int, **more: object) -> Evidence:
    return replace(reading, tone_hz=hz, attempt_id=number, **more)  # type: ignore[arg-type]


def test_a_unit_that_was_run_at_one_tone_does_not_count_over_a_band() -> None:
    alone = row(READ)
    assert not alone.counts and alone.left_out == "Nothing was run at 20 Hz, an edge of the band."
    half = row(READ, at_tone(READ, 20.0, 2))
    assert not half.counts and "20 kHz" in half.left_out
    assert row(READ, at=ONE).counts and row(READ, at=replace(BAND, band_low_hz=None, band_high_hz=None)).counts


def test_a_unit_whose_reading_was_withdrawn_says_so_and_not_that_nobody_tested_it() -> None:
    def left_out(*evidence: Evidence, place: Place) -> str:
        taken_back = {1: [TakenBack(place, "Its load was wrong.")]}
        (found,) = sample_rows(ONE, [(unit(1), evidence)], MethodProfile(), taken_back=taken_back)
        return found.left_out

    assert left_out(place=("main", 4.0, False)) == "Its reading was withdrawn: Its load was wrong."
    assert left_out(place=("main", 2.0, False)) == "Nobody has tested it at 4 Ω."
    assert left_out(READ, place=("main", 4.0, False)) == ""  # another one stands


def test_edges_that_were_run_to_the_limit_decide_with_the_weakest() -> None:
    found = row(READ, at_tone(READ, 20.0, 2), at_tone(READ, 20_000.0, 3, watts=(97.0, 99.0)))
    assert found.counts and not found.censored and found.attempt_id == 3
    assert found.watts == pytest.approx(97.0)


def test_edges_that_were_only_held_leave_at_least_so_much() -> None:
    found = row(READ, at_tone(PROOF, 20.0, 2), at_tone(PROOF, 20_000.0, 3, watts=(77.5, 78.0)))
    assert found.counts and found.censored and found.watts == pytest.approx(76.5)
    # Held twice at an edge: the most that it held there.
    again = row(
        READ,
        *(
            at_tone(PROOF, hz, at, watts=(watts, watts))
            for at, (hz, watts) in enumerate([(20.0, 70.0), (20.0, 80.0), (20_000.0, 90.0)], 2)
        ),
    )
    assert again.watts == pytest.approx(80.0)


@pytest.mark.parametrize(
    "edge",
    [
        at_tone(PROOF, 20.0, 2, supply_volts=15.2),  # held with more volts than the rating has
        at_tone(PROOF, 20.0, 2, load_ohms=2.0, measured_ohms=2.0),
        at_tone(PROOF, 20.0, 2, invalid="Clipped."),
        at_tone(PROOF, 30.0, 2),  # not near enough
        at_tone(READ, 20.0, 2, mode=Mode.BURST),
    ],
)
def test_what_does_not_speak_for_an_edge(edge: Evidence) -> None:
    assert "20 Hz" in row(READ, edge, at_tone(PROOF, 20_000.0, 3)).left_out
