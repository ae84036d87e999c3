"""Whether U holds what it says: a Monte Carlo of the whole measurement (JCGM 101), the truth at the claim's conditions.

A stage with rails of some exponent and some output resistance is drawn, measured with instruments that err within
their limits, at volts and ohms within the method's tolerances, with the limit anywhere within the bracket.
"""

import os
from dataclasses import dataclass

import numpy as np
import pytest

from rulvek.core.judgement.evidence import Evidence
from rulvek.core.judgement.uncertainty import Meters
from rulvek.core.judgement.verdict import VerdictOutcome, judge
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.claims import Claim
from rulvek.core.records.instruments import Specification
from rulvek.core.runs.modes import End

METHOD = MethodProfile()
VOLTS, OHMS, BRACKET = 14.4, 4.0, 0.05
OUTPUT_PERCENT, SUPPLY_PERCENT, LOAD_PERCENT = 0.5, 0.2, 0.5
DRAWS = 800 * int(os.environ.get("RULVEK_EXAMPLES", "1"))


@dataclass(frozen=True)
class Conditions:
    """Half-widths of volts (V) and ohms (ratio) about the claim's, and how many attempts there are.

    ``limit_slope`` is d ln P / d ln THD+N, and THD+N itself is read wrong; ``load_c`` what the loads warmed up to.
    """

    volts: float = 0.0
    ohms: float = 0.0
    bracket: float = BRACKET
    attempts: int = 1
    limit_slope: float = 0.0
    load_c: float = 23.0


def drawn(c: Conditions, rng: np.random.Generator) -> tuple[Evidence, float]:
    """A unit that was measured, and what it truly gives at the claim's conditions."""
    exponent, source_ohms = rng.uniform(0, 2.3), rng.uniform(0.0, 0.35)
    volts = VOLTS + c.volts * rng.uniform(-1, 1)
    ohms = OHMS * (1 + c.ohms * rng.uniform(-1, 1))

    def power(v: float, r: float) -> float:
        return float(100 * (v / VOLTS) ** exponent * r / (r + source_ohms) ** 2 * (OHMS + source_ohms) ** 2 / OHMS)

    gain = 1 + OUTPUT_PERCENT / 100 * rng.uniform(-1, 1)
    gain *= 1 + METHOD.recorder_response_percent / 100 * rng.uniform(-1, 1)
    read_ohms = ohms * (1 + LOAD_PERCENT / 100 * rng.uniform(-1, 1)) * (1 + 0.01 * rng.uniform(-1, 1))
    read_ohms *= 1 + METHOD.load_ppm_per_kelvin * 1e-6 * (c.load_c - 23) * rng.uniform(-1, 1)
    read_ohms *= 1 + METHOD.sense_cable_milliohms / 1000 / OHMS * rng.uniform(-1, 1)
    watts = []
    for _ in range(c.attempts):
        at_limit = power(volts, ohms) * (1 + METHOD.repeatability_percent / 100 * rng.normal())
        at_limit *= 1 + c.limit_slope * METHOD.thd_n_reading_percent / 100 * rng.uniform(-1, 1)
        at_level = at_limit * 10 ** (-c.bracket * rng.uniform(0, 1) / 10)
        watts.append(at_level * ohms * gain**2 / read_ohms)
    evidence = Evidence(
        attempt_id=1,
        group="main",
        load_ohms=OHMS,
        bridged=False,
        tone_hz=1000.0,
        watts=(watts[0],),
        supply_volts=volts * (1 + SUPPLY_PERCENT / 100 * rng.uniform(-1, 1)),
        all_driven=True,
        end=End.LIMIT,
        thd_n=0.0098,
        bracket_db=c.bracket,
        load_tolerance=0.01,
        meters=Meters(
            Specification("output", percent_of_reading=OUTPUT_PERCENT),
            Specification("supply", percent_of_reading=SUPPLY_PERCENT),
            Specification("loads", percent_of_reading=LOAD_PERCENT),
        ),
        measured_ohms=read_ohms,
        method=METHOD,
        attempts=tuple(watts) if c.attempts > 1 else (),
        limit_slope=c.limit_slope,
        load_c=c.load_c,
    )
    return evidence, power(VOLTS, OHMS)


def covered(c: Conditions, seed: int) -> float:
    """Share of draws in which the truth lies within ± U of the estimate."""
    rng = np.random.default_rng(seed)
    hits = 0
    for _ in range(DRAWS):
        evidence, truth = drawn(c, rng)
        budget = evidence.brought_to(VOLTS, OHMS)
        hits += abs(budget.estimate - truth) <= budget.expanded
    return hits / DRAWS


@pytest.mark.parametrize(
    "conditions",
    [
        Conditions(),
        Conditions(volts=METHOD.reference_volts_tolerance),
        Conditions(ohms=METHOD.load_tolerance_percent / 100),
        Conditions(volts=METHOD.reference_volts_tolerance, ohms=METHOD.load_tolerance_percent / 100),
        Conditions(bracket=0.2),
        Conditions(attempts=2),
        Conditions(limit_slope=0.5, load_c=150.0),
    ],
    ids=["nominal", "volts", "ohms", "both", "full bracket", "two attempts", "hot, by a wrong THD+N"],
)
def test_u_covers_the_truth_at_the_claims_conditions(conditions: Conditions) -> None:
    """A sum of rectangles has shorter tails than the normal distribution that k = 2 is from: 97 %, rather than 95 %."""
    assert 0.94 <= covered(conditions, 1) <= 0.985 + 0.005 * (DRAWS < 2000)


@pytest.mark.parametrize("spread", [0.01, 0.03, 0.1])
def test_a_verdict_is_hardly_ever_wrong(spread: float) -> None:
    """Random units, claims near what they give, volts from well below the claim's to above: guarded acceptance."""
    rng = np.random.default_rng(2)
    wrong = decided = 0
    for _ in range(DRAWS):
        around = Conditions(volts=rng.choice([0.1, 0.6]), ohms=0.02, attempts=int(rng.integers(1, 3)))
        evidence, truth = drawn(around, rng)
        claim = Claim("Manual", "main", truth * (1 + spread * rng.uniform(-1, 1)), OHMS, supply_volts=VOLTS, id=1)
        verdict = judge(claim, [evidence], METHOD)
        decided += verdict.outcome is not VerdictOutcome.OPEN
        wrong += verdict.outcome is (VerdictOutcome.PASSES if truth < claim.watts else VerdictOutcome.FAILS)
    assert decided > 0.05 * DRAWS
    assert wrong / DRAWS <= 0.025
