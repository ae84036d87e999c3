"""The whole truth table: every combination of conditions, held against a list of rules of which the first one counts.

The rules say in words of the conditions what 2-computation's verdicts mean; they know no number of the core.
"""

from collections import Counter
from collections.abc import Iterator, Mapping
from dataclasses import replace
from itertools import product

import pytest

from rulvek.core.judgement.evidence import Evidence
from rulvek.core.judgement.verdict import VerdictKind, VerdictOutcome, judge
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.claims import Claim, ClaimKind
from rulvek.core.runs.modes import End, Mode

V = VerdictKind
CLAIM = Claim(
    "Manual", "main", 100.0, 4.0, supply_volts=14.4, thd_n_percent=1.0, band_low_hz=20.0, band_high_hz=2e4, id=1
)
RUN = Evidence(7, "main", 4.0, False, 1000.0, (100.0,), 14.4, True, End.LIMIT, 0.0098, 0.03, 0.01)

CONDITIONS: Mapping[str, tuple[str, ...]] = {
    "sort": ("continuous by certified", "continuous by burst", "burst by burst", "burst by certified"),
    "place": ("as claimed", "another load"),
    "driven": ("all channels", "not all"),
    "tone": ("in the band", "outside of the band"),
    "checks": ("valid", "invalid"),
    "volts": ("far below", "in the window", "above"),
    "watts": ("clearly more", "just more", "just less", "clearly less", "far less"),
    "end": ("at the limit", "tripped", "stopped early"),
    "thd": ("at its limit", "far under it", "over it", "not known"),
    "rule": ("guarded", "simple"),
    "documents": ("agree", "conflict"),
}
Case = dict[str, str]
MORE, LESS = ("clearly more", "just more"), ("just less", "clearly less", "far less")
DOUBTFUL = ("just more", "just less")
LITTLE_LESS = ("just less", "clearly less")
SHORT_OF_IT = ("tripped", "stopped early")
BURST = "burst by burst"

# The first rule whose conditions all hold gives the verdict.
RULES: list[tuple[Mapping[str, str | tuple[str, ...]], VerdictKind]] = [
    # Only a run of the claim's own sort, place and band speaks to it, and only a valid one.
    ({"sort": ("continuous by burst", "burst by certified")}, V.NO_EVIDENCE),
    ({"place": "another load"}, V.NO_EVIDENCE),
    ({"tone": "outside of the band"}, V.NO_EVIDENCE),
    ({"checks": "invalid"}, V.NO_EVIDENCE),
    # Channels that are not driven leave more to the others: it can only refute.
    ({"driven": "not all", "watts": MORE}, V.NO_EVIDENCE),
    ({"driven": "not all", "watts": "just less", "rule": "guarded"}, V.NO_EVIDENCE),
    ({"driven": "not all", "volts": "far below", "watts": LITTLE_LESS}, V.NO_EVIDENCE),
    # More distortion than is claimed gives more power: it can only refute. So does a distortion that nobody knows,
    # but that of a steady run which went to the limit: it was at it.
    ({"thd": "over it", "watts": MORE}, V.NO_EVIDENCE),
    ({"thd": "over it", "watts": "just less", "rule": "guarded"}, V.NO_EVIDENCE),
    ({"thd": "over it", "volts": "far below", "watts": ("just less", "clearly less")}, V.NO_EVIDENCE),
    ({"thd": "not known", "end": SHORT_OF_IT, "watts": MORE}, V.NO_EVIDENCE),
    ({"thd": "not known", "end": SHORT_OF_IT, "watts": "just less", "rule": "guarded"}, V.NO_EVIDENCE),
    ({"thd": "not known", "end": SHORT_OF_IT, "volts": "far below", "watts": LITTLE_LESS}, V.NO_EVIDENCE),
    ({"thd": "not known", "sort": BURST, "watts": MORE}, V.NO_EVIDENCE),
    ({"thd": "not known", "sort": BURST, "watts": "just less", "rule": "guarded"}, V.NO_EVIDENCE),
    ({"thd": "not known", "sort": BURST, "volts": "far below", "watts": LITTLE_LESS}, V.NO_EVIDENCE),
    # What stopped before the limit gave less than it could have: it can only back.
    ({"end": "stopped early", "watts": LESS}, V.NO_EVIDENCE),
    ({"end": "stopped early", "watts": "just more", "rule": "guarded"}, V.NO_EVIDENCE),
    ({"end": "at the limit", "thd": "far under it", "watts": LESS}, V.NO_EVIDENCE),
    ({"end": "at the limit", "thd": "far under it", "watts": "just more", "rule": "guarded"}, V.NO_EVIDENCE),
    # At more volts than claimed a pass is none yet, a shortfall is one.
    ({"volts": "above", "watts": "clearly more"}, V.ABOVE_RATED_ONLY),
    ({"volts": "above", "watts": "just more", "rule": "simple"}, V.ABOVE_RATED_ONLY),
    ({"volts": "above", "watts": DOUBTFUL, "rule": "guarded"}, V.ESTIMATED),
    ({"volts": "above"}, V.SHORT),
    # A pass is a pass, at the claim's volts and all the more at fewer.
    ({"sort": BURST, "watts": "clearly more"}, V.BACKED),
    ({"sort": BURST, "watts": "just more", "rule": "simple"}, V.BACKED),
    # But a claim over a band is backed only where the tone was.
    ({"watts": "clearly more"}, V.ONE_TONE),
    ({"watts": "just more", "rule": "simple"}, V.ONE_TONE),
    # At fewer volts a shortfall only allows an estimate, unless no exponent could make up for it.
    ({"volts": "far below", "watts": "far less"}, V.SHORT),
    ({"volts": "far below"}, V.ESTIMATED),
    # At the claim's volts: short, or too close to call by the guarded rule.
    ({"watts": DOUBTFUL, "rule": "guarded"}, V.TOO_CLOSE),
    ({}, V.SHORT),
]


def holds(rule: Mapping[str, str | tuple[str, ...]], case: Case) -> bool:
    return all(case[name] in ((wanted,) if isinstance(wanted, str) else wanted) for name, wanted in rule.items())


def expected(case: Case) -> tuple[int, VerdictKind]:
    number, kind = next((n, verdict) for n, (rule, verdict) in enumerate(RULES) if holds(rule, case))
    if kind is V.NO_EVIDENCE and case["documents"] == "conflict" and case["sort"].startswith("continuous"):
        kind = V.CONFLICTS
    return number, kind


def all_cases() -> Iterator[Case]:
    for values in product(*CONDITIONS.values()):
        yield dict(zip(CONDITIONS, values, strict=True))


def evidence(case: Case) -> Evidence:
    watts = dict(zip(CONDITIONS["watts"], (104.0, 100.2, 99.3, 96.0, 60.0), strict=True))[case["watts"]]
    return replace(
        RUN,
        mode=Mode.BURST if case["sort"].endswith("burst") else Mode.CERTIFIED,
        load_ohms=4.0 if case["place"] == "as claimed" else 2.0,
        all_driven=case["driven"] == "all channels",
        tone_hz=1000.0 if case["tone"] == "in the band" else 10.0,
        invalid="" if case["checks"] == "valid" else "It cannot be.",
        supply_volts={"far below": 13.0, "in the window": 14.4, "above": 14.8}[case["volts"]],
        watts=(watts, watts + 1),
        end={"at the limit": End.LIMIT, "tripped": End.PROTECTED, "stopped early": End.OPERATOR}[case["end"]],
        thd_n={"at its limit": 0.0098, "far under it": 0.001, "over it": 0.03, "not known": float("inf")}[case["thd"]],
    )


@pytest.mark.parametrize("sort", CONDITIONS["sort"])
def test_every_combination_of_conditions_has_the_verdict_of_the_first_rule_that_holds(sort: str) -> None:
    methods = {"guarded": MethodProfile(), "simple": MethodProfile(guarded=False)}
    used: Counter[int] = Counter()
    for case in all_cases():
        if case["sort"] != sort:
            continue
        number, kind = expected(case)
        used[number] += 1
        claim = replace(CLAIM, kind=ClaimKind.BURST if sort.startswith("burst") else ClaimKind.CONTINUOUS)
        others = (2,) if case["documents"] == "conflict" else ()
        verdict = judge(claim, [evidence(case)], methods[case["rule"]], others)
        assert verdict.kind is kind, case
        assert verdict.reason and bool(verdict.settle) == (verdict.outcome is VerdictOutcome.OPEN), case
        assert (verdict.outcome is VerdictOutcome.FAILS) == (kind is V.SHORT), case
        if verdict.outcome is VerdictOutcome.PASSES:
            assert kind in (V.BACKED, V.ABOVE_RATED_ONLY), case
    if sort in ("continuous by certified", BURST):  # no rule is there for nothing
        assert set(used) == {
            n
            for n, (rule, kind) in enumerate(RULES)
            if n and rule.get("sort", sort) == sort and (kind, sort) != (V.ONE_TONE, BURST)
        }
    else:
        assert set(used) == {0}
