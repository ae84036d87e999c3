"""``rulvek judge`` and ``rulvek simulate``: what they take and give, and that neither needs records."""

import json
from pathlib import Path
from typing import Any

import pytest
from clipper import closed_form

from rulvek.cli.judge import EXAMPLE
from rulvek.cli.simulate import EXAMPLE as DESIGN
from tests.api.test_command_line import call

DOCS = Path(__file__).parents[2] / "docs"
Json = dict[str, Any]


def judged(tmp_path: Path, **changes: Any) -> list[Json]:
    """Verdicts on the example, its one reading changed."""
    stated = json.loads(json.dumps(EXAMPLE))
    stated["units"][0]["readings"][0] |= changes
    file = tmp_path / "stated.json"
    file.write_text(json.dumps(stated))
    result = call("judge", file, "--json")
    assert result.exit_code == 0, result.output
    return json.loads(result.stdout)["verdicts"]  # type: ignore[no-any-return]


@pytest.mark.parametrize(
    ("changes", "kind", "outcome"),
    [
        ({}, "backed_at_one_tone_only", "open"),  # of a band
        ({"watts": [75.2, 76.0]}, "too_close", "open"),
        ({"watts": [70.0, 79.0]}, "short", "fails"),
        ({"supply_volts": 15.2, "watts": [90.0, 90.0]}, "backed_above_rated_voltage_only", "passes"),
        ({"supply_volts": 15.2}, "backed_above_rated_voltage_only", "open"),
        ({"supply_volts": None, "watts": [70.0, 70.0]}, "estimated", "open"),
        ({"measured_ohms": 4.5}, "no_evidence", "open"),
        ({"all_driven": False}, "no_evidence", "open"),
        ({"watts": [79.0]}, "no_evidence", "open"),  # one of two channels
        ({"thd_n_percent": None}, "backed_at_one_tone_only", "open"),
        ({"thd_n_percent": [0.9, 1.2]}, "no_evidence", "open"),
        ({"mode": "uncertified", "end": "clip", "thd_n_percent": 9.9}, "no_evidence", "open"),
        ({"bridged": True, "load_ohms": 8, "measured_ohms": 7.95, "watts": [160]}, "backed_at_one_tone_only", "open"),
    ],
)
def test_a_reading_and_its_verdict(tmp_path: Path, changes: Json, kind: str, outcome: str) -> None:
    own, together = judged(tmp_path, **changes)
    assert (own["kind"], own["outcome"]) == (kind, outcome), own["reason"]
    assert (own["claim"], own["unit"], together["unit"]) == (1, "T2-0001", None)
    assert {**together, "unit": own["unit"]} == own
    assert bool(own["settle"]) == (outcome == "open")


def test_proofs_at_the_edges_of_the_band_settle_it(tmp_path: Path) -> None:
    stated = json.loads(json.dumps(EXAMPLE))
    readings = stated["units"][0]["readings"]
    for hz in (20, 20_000):
        readings.append(
            readings[0] | {"mode": "proof", "end": "held", "tone_hz": hz, "watts": [76.6, 76.9], "thd_n_percent": 0.03}
        )
    file = tmp_path / "stated.json"
    file.write_text(json.dumps(stated))
    own = json.loads(call("judge", file, "--json").stdout)["verdicts"][0]
    assert (own["kind"], own["outcome"], own["reading"], own["settle"]) == ("backed", "passes", 1, "")


@pytest.mark.parametrize(
    ("path", "value", "words"),
    [
        (("claims", 0, "watts"), 0, "Power, W"),
        (("claims", 0, "group"), "rear", "no channel group “rear”"),
        (("units", 0, "readings", 0, "load_kohm"), 4, "no field"),
        (("units", 0, "readings", 0, "read_channels"), [9], "Channel 9"),
        (("units", 0, "readings", 0, "end"), "held", "Only a proof ends"),
        (("method", "guards"), True, "no field “guards”"),
        (("method", "guarded"), "yes", "guarded must be like True"),
        (("product", "topology"), "AC", "one of 'AB' or 'D'"),
    ],
)
def test_what_cannot_be_judged_is_one_sentence(tmp_path: Path, path: tuple[Any, ...], value: Any, words: str) -> None:
    stated = json.loads(json.dumps(EXAMPLE))
    inner = stated
    for step in path[:-1]:
        inner = inner[step]
    inner[path[-1]] = value
    file = tmp_path / "stated.json"
    file.write_text(json.dumps(stated))
    result = call("judge", file)
    assert result.exit_code == 2 and words in result.stderr
    assert result.stderr.count("\n") == 1 and "Traceback" not in result.stderr


@pytest.mark.parametrize("command", ["judge", "simulate"])
def test_the_published_schema_is_the_present_one(command: str) -> None:
    assert (DOCS / f"{command}.schema.json").read_text() == call(command, "--schema").stdout


# A wall at 30 V peak: 112.5 W into 4 Ω at the onset of clipping.
CLIPPER = """
gain_spread_db = 0.0
offset_spread_volts = 0.0
part_spread = 0.0
sink_joules_per_kelvin = 1e7
[[groups]]
channels = [1]
topology = "D"
gain = 20.0
rail_volts = 30.0
converter_ohms = 1e-4
rail_farads = 1.0
output_ohms = 1e-3
trip_amps = 1000.0
regulated_down_to = 11.0
lost_volts = 0.0
knee = 4096
curvature = 0.0
noise_volts = 1e-5
"""


def design(tmp_path: Path, text: str = DESIGN) -> Path:
    file = tmp_path / "design.toml"
    file.write_text(text)
    return file


def simulated(tmp_path: Path, *words: object, text: str = DESIGN) -> Json:
    result = call("simulate", design(tmp_path, text), "--json", *words)
    assert result.exit_code == 0, result.output
    return json.loads(result.stdout)  # type: ignore[no-any-return]


def test_one_run_of_each_mode(tmp_path: Path) -> None:
    certified, uncertified, burst = (
        simulated(tmp_path, "--mode", mode, "--load", 4) for mode in ("certified", "uncertified", "burst")
    )
    assert (certified["end"], uncertified["end"], burst["end"]) == ("limit", "clip", "limit")
    assert len(certified["watts"]) == 2 and max(certified["thd_n_percent"]) <= 1.0
    assert min(certified["watts"]) < min(uncertified["watts"])
    assert burst["onset_watts"] == min(burst["watts"]) < burst["largest_watts"]
    assert certified["supply_volts"] == pytest.approx(14.4, abs=0.1) and burst["supply_amps"] is None
    assert certified["band_high_hz"] == 20_000 and len(certified["points"]) > 20


@pytest.mark.parametrize(
    "hz", [20, 4000, 15_000, *(pytest.param(hz, marks=pytest.mark.long) for hz in (997, 7000, 10_000, 19_000, 20_000))]
)
def test_a_clipper_gives_what_its_closed_form_says(tmp_path: Path, hz: int) -> None:
    """Fourier's series of a clipped sine (tools/clipper.py), within half a percent, up to the band that it tells."""
    run = simulated(tmp_path, "--tone", hz, text=CLIPPER)
    last = int(run["band_high_hz"] / hz)
    assert run["end"] == "limit" and run["band_high_hz"] >= 3 * hz
    assert run["watts"] == [pytest.approx(112.5 * closed_form(0.01, last), rel=5e-3)]


def test_a_burst_far_beyond_a_wall_still_gives_more(tmp_path: Path) -> None:
    run = simulated(tmp_path, "--mode", "burst", text=CLIPPER)
    watts = [point["watts"][0] for point in run["points"]]
    assert max(watts) == run["largest_watts"] == watts[-1]  # it ended as a step gave hardly more, not less
    assert 112.5 * closed_form(0.10, 20) < run["largest_watts"] < 2 * 112.5  # a square wave has twice as much


@pytest.mark.parametrize(
    "bank", ["500 F", *(pytest.param(bank, marks=pytest.mark.long) for bank in ("200 F", "1000 F"))]
)
def test_a_bank_that_runs_down_is_held_where_it_can_be(tmp_path: Path, bank: str) -> None:
    """What is held for the dwell stays near what was read for a moment: it gives way as the volts fell."""
    run = simulated(tmp_path, "--bank", bank, "--load", 2)
    momentary = max(min(p["watts"]) for p in run["points"] if max(p["thd_n_percent"]) <= 1.0)
    assert run["end"] == "limit" and max(run["thd_n_percent"]) <= 1.0
    assert 0.8 * momentary < min(run["watts"]) <= momentary


def test_no_reading_says_why(tmp_path: Path) -> None:
    words = "No level was within the limit: THD+N was least at 11"
    crossover = CLIPPER + "crossover_volts = 0.7\n"
    run = simulated(tmp_path, text=crossover)
    assert run["watts"] == [] and run["no_reading"].startswith(words)
    assert words in call("simulate", design(tmp_path, crossover)).output
    assert simulated(tmp_path, text=CLIPPER.replace("1e-5", "1e-4"))["no_reading"] == ""


def test_the_same_seed_is_the_same_unit(tmp_path: Path) -> None:
    one, again, other = (simulated(tmp_path, "--seed", seed)["watts"] for seed in (1, 1, 2))
    assert one == again != other


def test_a_proof_holds_what_is_asked_for(tmp_path: Path) -> None:
    held, less = (simulated(tmp_path, "--mode", "proof", "--watts", watts, text=CLIPPER) for watts in (100, 150))
    assert held["end"] == "held" and held["watts"] == [pytest.approx(101, rel=0.011)]
    assert less["end"] == "limit" and less["watts"] == [pytest.approx(112.5 * closed_form(0.01, 20), rel=5e-3)]
    assert "needs the watts" in call("simulate", design(tmp_path), "--mode", "proof").output
    assert "only a proof" in call("simulate", design(tmp_path), "--watts", 5).output


def test_a_bank_ends_with_a_reading(tmp_path: Path) -> None:
    """Two farads hold little: what was there for a moment is a reading that was not held."""
    run = simulated(tmp_path, "--bank", "2 F", "--load", 2)
    assert run["watts"] and min(run["watts"]) > 1


def test_bridged_into_twice_the_load_gives_about_twice(tmp_path: Path) -> None:
    single, pair = simulated(tmp_path, "--load", 4)["watts"], simulated(tmp_path, "--bridged", "--load", 8)["watts"]
    assert pair == [pytest.approx(2 * min(single), rel=0.05)]


@pytest.mark.parametrize(
    ("text", "words", "says"),
    [
        ("gain = ", (), "no TOML"),
        (DESIGN.replace("gain = 25.5", "gain = 0"), (), "gain must be above 0"),
        (DESIGN + "colour = 1", (), "no field “Colour (groups 1)”"),
        (DESIGN.replace("[1, 2]", "[2, 3]"), (), "numbered from 1"),
        (DESIGN, ("--group", 2), "no group 2"),
        (DESIGN, ("--bank", "much"), "not “much”"),
        (DESIGN, ("--mode", "burst", "--burst", "long"), "no burst profile “long”"),
    ],
)
def test_what_cannot_be_simulated_is_one_sentence(tmp_path: Path, text: str, words: tuple[Any, ...], says: str) -> None:
    result = call("simulate", design(tmp_path, text), *words)
    assert result.exit_code == 2 and says in result.stderr
    assert result.stderr.count("\n") == 1


@pytest.mark.parametrize("command", ["judge", "simulate"])
def test_a_file_that_is_not_there(command: str, tmp_path: Path) -> None:
    assert "cannot be read" in call(command, tmp_path / "none").stderr
    assert "is missing" in call(command).stderr
