"""What else units tell beside their watts, against arithmetic by hand."""

import math
from dataclasses import replace
from datetime import UTC, datetime

import pytest

from rulvek.core.electrical.supply import VoltageFit
from rulvek.core.judgement.evidence import Evidence
from rulvek.core.method.profile import MethodProfile
from rulvek.core.ratings.aspects import Aspect, aspects_of
from rulvek.core.ratings.sample import RatedAt
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.claims import Claim, Withdrawal
from rulvek.core.records.facts import ModelFacts, Price
from rulvek.core.records.product import ChannelGroup, Model, Product
from rulvek.core.runs.modes import End

AT = RatedAt("main", 4.0, supply_volts=14.4)
METHOD = MethodProfile()
PRODUCT = Product((ChannelGroup("main", (1, 2), (4.0, 2.0)),), topology="AB")
MODEL = Model(1, "Series", "T2", "", PRODUCT, 1.0, (), "")
READ = Evidence(
    attempt_id=1,
    group="main",
    load_ohms=4.0,
    bridged=False,
    tone_hz=1000.0,
    watts=(100.0, 104.0),
    supply_volts=14.4,
    all_driven=True,
    end=End.LIMIT,
    thd_n=0.0099,
    bracket_db=0.0,
    load_tolerance=0.001,
    measured_ohms=4.0,
    supply_amps=25.0,
)
HALF = replace(READ, attempt_id=2, load_ohms=2.0, measured_ohms=2.0, watts=(170.0, 175.0), supply_amps=44.0)
BASS = replace(READ, attempt_id=3, tone_hz=40.0, watts=(98.0, 101.0))


def unit(number: int) -> Unit:
    return Unit(number, 1, f"U{number}", "2609", "A", "Pulled from production", datetime(2026, 11, 2, tzinfo=UTC), "")


def told(*evidence: Evidence, model: Model = MODEL):  # type: ignore[no-untyped-def]
    return aspects_of(AT, model, [(unit(1), evidence)], METHOD)


def test_halved_loads_bass_channels_and_efficiency() -> None:
    found = told(READ, HALF)
    # A little less than the 3.01 dB of an output whose volts hold: 170 W for 100 W
    assert found[Aspect.HALVED_LOAD].mean == pytest.approx(10 * math.log10(1.7), abs=1e-6)
    assert found[Aspect.CHANNELS].mean == pytest.approx(10 * math.log10(1.04))
    assert found[Aspect.EFFICIENCY].mean == pytest.approx(100 * 204 / (14.4 * 25))  # 56.7 %
    assert Aspect.BASS not in found and Aspect.PRICE not in found and Aspect.CLAIMED not in found
    assert told(READ, BASS)[Aspect.BASS].mean == pytest.approx(10 * math.log10(0.98))


@pytest.mark.parametrize(
    "bass",
    [
        replace(BASS, supply_volts=13.8),  # other volts
        replace(BASS, load_ohms=2.0, measured_ohms=2.0),  # another load
        replace(BASS, end=End.OPERATOR),  # not at its limit
        replace(BASS, invalid="Clipped."),
        replace(BASS, tone_hz=100.0),
    ],
)
def test_what_is_not_alike_is_not_held_against_each_other(bass: Evidence) -> None:
    assert Aspect.BASS not in told(READ, bass)


def test_a_group_that_is_not_all_of_the_amplifier_has_no_efficiency_and_no_price() -> None:
    five = Product((*PRODUCT.groups, ChannelGroup("bass", (3,), (2.0,), bass=True)))
    priced = replace(MODEL, product=five, facts=ModelFacts(list_price=Price(300.0, "EUR")))
    assert {Aspect.EFFICIENCY, Aspect.PRICE}.isdisjoint(told(READ, model=priced))
    assert Aspect.EFFICIENCY not in told(replace(READ, supply_amps=None))


def test_claims_and_price() -> None:
    """The most that still stands there: 110 W of 120 W is withdrawn, so that 100 W of 110 W are measured."""
    gone = Withdrawal("Wrong carton", "Tamsin", datetime(2026, 11, 2, tzinfo=UTC))
    claims = (
        Claim("Manual", "main", 110.0, 4.0, id=1),
        Claim("Carton", "main", 120.0, 4.0, id=2, withdrawn=gone),
        Claim("Manual", "main", 200.0, 2.0, id=3),
    )
    found = told(READ, model=replace(MODEL, claims=claims, facts=ModelFacts(list_price=Price(300.0, "EUR"))))
    assert found[Aspect.CLAIMED].mean == pytest.approx(100 * 100 / 110, rel=1e-3)
    price = found[Aspect.PRICE]
    assert price.mean == pytest.approx(300 / 200, rel=1e-3) and price.currency == "EUR"


def test_the_exponent_is_each_units_own_and_unknown_ones_do_not_count() -> None:
    fits = [VoltageFit(n, n - 0.1, n + 0.1, (12.0, 13.0, 14.4), (70.0, 82.0, 100.0)) for n in (1.9, 2.1)]
    unknown = VoltageFit(None, 0.0, 2.3, (), ())
    shown = [(unit(at), (replace(READ, attempt_id=at, fit=fit),)) for at, fit in enumerate([*fits, unknown], 1)]
    found = aspects_of(AT, MODEL, shown, METHOD)[Aspect.EXPONENT]
    assert (found.units, found.low, found.high) == (2, 1.9, 2.1) and found.mean == pytest.approx(2.0)


def test_a_group_without_a_figure_tells_nothing() -> None:
    assert aspects_of(AT, MODEL, [(unit(1), ())], METHOD) == {}
