"""The ladder of runs, the method profile, and what surrounds the amplifier."""

import json

import pytest

from rulvek.core.electrical.loads import bridged_equivalent, off_nominal
from rulvek.core.electrical.supply import efficiency, input_watts, power_at_voltage, sag
from rulvek.core.errors import BadInput
from rulvek.core.method.origins import ORIGINS
from rulvek.core.method.profile import MethodProfile
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.settings import search_settings


def test_profile_goes_to_storage_and_back() -> None:
    profile = MethodProfile(name="Soak", dwell_seconds=300.0, guarded=False, proof_tones_hz=(50.0, 6300.0))
    assert MethodProfile.from_data(json.loads(json.dumps(profile.as_data()))) == profile
    assert set(ORIGINS) <= set(profile.as_data())


def test_fields_of_another_version_are_kept_and_stored_again() -> None:
    stored = MethodProfile(name="Lab 2").as_data() | {"soak_hours": 2.0}
    profile = MethodProfile.from_data(stored)
    assert profile.name == "Lab 2" and profile.as_data() == stored
    del stored["gain_match_db"]  # a field that came later takes its default
    assert MethodProfile.from_data(stored).gain_match_db == MethodProfile().gain_match_db


@pytest.mark.parametrize(
    ("data", "field"),
    [
        ({"bracket_db": 0.0}, "bracket_db"),
        ({"dwell_seconds": float("nan")}, "dwell_seconds"),
        ({"proof_tones_hz": [50.0, 0.0]}, "proof_tones_hz"),
        ({"repeatability_freedom": 0.0}, "repeatability_freedom"),
    ],
)
def test_profile_refuses_impossible_fields(data: dict, field: str) -> None:  # type: ignore[type-arg]
    with pytest.raises(BadInput) as refused:
        MethodProfile.from_data(data)
    assert refused.value.field == field


def test_profile_makes_search_settings() -> None:
    settings = search_settings(MethodProfile(thd_n_limit_percent=0.5), Mode.CERTIFIED, -20.0, 12.0, 40.0, None)
    assert (settings.thd_n_limit, settings.reached) == (0.005, End.LIMIT)
    assert settings.capture_seconds == 0.5  # at least 20 cycles of the bass tone
    assert search_settings(MethodProfile(), Mode.CERTIFIED, -20.0, 12.0, 1000.0, None).capture_seconds == 0.2
    clipping = search_settings(MethodProfile(), Mode.UNCERTIFIED, -20.0, 12.0, 1000.0, None)
    assert (clipping.thd_n_limit, clipping.reached) == (0.10, End.CLIP)
    burst = MethodProfile.burst_named("40 Hz", 40.0)
    assert burst.name == "40 Hz"
    assert (
        search_settings(MethodProfile(), Mode.BURST, -20.0, 12.0, 40.0, burst).capture_seconds
        == burst.triggered_seconds
    )


def test_bridged_pair_of_the_job_document() -> None:
    """8 Ω bridged stands for 4 Ω per channel, each giving half (circuit theory)."""
    assert bridged_equivalent(110.0, 8.0) == (55.0, 4.0)
    assert off_nominal(4.0, 3.9) == pytest.approx(-0.025)


def test_supply_figures() -> None:
    assert input_watts(14.4, 50.0) == 720.0
    assert efficiency(540.0, 14.4, 50.0) == 0.75
    assert efficiency(540.0, 14.4, 0.0) is None
    assert sag(14.4, 13.9) == pytest.approx(0.5)
    assert power_at_voltage(100.0, 12.0, 14.4) == pytest.approx((100.0, 100.0 * 1.2**2.3))
    assert power_at_voltage(100.0, 14.4, 12.0) == pytest.approx((100.0 / 1.2**2.3, 100.0))
    with pytest.raises(ValueError, match="above 0"):
        power_at_voltage(100.0, 0.0, 14.4)
