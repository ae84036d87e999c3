"""Readings of one unit held against each other, across campaigns and hands."""

from dataclasses import replace

import pytest

from rulvek.core.judgement.comparisons import comparisons
from rulvek.core.judgement.evidence import Evidence
from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import End, Mode

METHOD = MethodProfile()
AT_4 = Evidence(1, "main", 4.0, False, 1000.0, (100.0,), 14.4, True, End.LIMIT, 0.0098, 0.03, 0.01)


def other(attempt_id: int = 2, **changes: object) -> Evidence:
    return replace(AT_4, attempt_id=attempt_id, **changes)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("second", "code"),
    [
        ({"mode": Mode.BURST, "watts": (95.0,)}, "order-unusual"),
        ({"mode": Mode.BURST, "watts": (96.0,)}, None),  # within 0.2 dB
        ({"mode": Mode.BURST, "watts": (95.0,), "campaign_id": 9, "by_hand": True}, "order-unusual"),
        ({"mode": Mode.BURST, "watts": (95.0,), "supply_volts": 13.8}, None),
        ({"mode": Mode.UNCERTIFIED, "end": End.CLIP, "watts": (90.0,)}, "order-unusual"),
        ({"mode": Mode.UNCERTIFIED, "end": End.CLIP, "watts": (123.0,)}, None),
        ({"tone_hz": 40.0, "watts": (88.0,)}, "tones-apart"),  # 0.56 dB
        ({"tone_hz": 40.0, "watts": (90.0,)}, None),
        ({"tone_hz": 900.0, "watts": (80.0,)}, None),  # not another tone, but another day: repeatability tells that
        ({"load_ohms": 2.0, "watts": (90.0,)}, "less-at-lower-load"),
        ({"load_ohms": 2.0, "watts": (180.0,)}, None),
        ({"load_ohms": 2.0, "watts": (215.0,)}, "too-much-at-lower-load"),  # V²/R of the same V gives 200 W at most
        ({"load_ohms": 8.0, "bridged": True, "watts": (200.0,)}, None),  # each channel of the pair works into 4 Ω
        ({"load_ohms": 8.0, "bridged": True, "watts": (170.0,)}, "pair-and-channels-apart"),
        ({"group": "bass", "watts": (20.0,), "load_ohms": 2.0}, None),
        ({"mode": Mode.BURST, "watts": (50.0,), "invalid": "It cannot be."}, None),
        ({"mode": Mode.BURST, "watts": (50.0,), "end": End.OPERATOR}, None),
        ({"mode": Mode.PROOF, "end": End.HELD, "watts": (60.0,), "tone_hz": 20.0}, None),
    ],
)
def test_two_readings(second: dict[str, object], code: str | None) -> None:
    for order in ([AT_4, other(**second)], [other(**second), AT_4]):
        found = comparisons(order, METHOD)
        assert [one.code for one in found] == ([code] if code else [])
        assert all(set(one.attempt_ids) == {1, 2} and one.advice for one in found)


def test_a_burst_below_certified_asks_for_the_likeliest_first() -> None:
    (found,) = comparisons([AT_4, other(mode=Mode.BURST, watts=(60.0,))], METHOD)
    words = ["a bad start", "rails that switch", "protection", "a regulated supply"]
    assert [word for word in words if word in found.advice] == words
    places = [found.advice.index(word) for word in words]
    assert places == sorted(places)  # common practice, no source


def test_only_the_latest_of_each_kind_is_held_against_the_others() -> None:
    bad, good = other(2, mode=Mode.BURST, watts=(60.0,)), other(3, mode=Mode.BURST, watts=(130.0,))
    assert comparisons([AT_4, bad, good], METHOD) == ()
    assert len(comparisons([AT_4, good, bad], METHOD)) == 1
