"""What a bench is made of: read, kept, refused by field; looked at before anybody trusts it."""

import math
import re
from dataclasses import replace

import pytest

from rulvek.bench.benches import OF_INSTRUMENTS, kind_of
from rulvek.bench.instruments.assembly import Assembly, kept_assembly, read_assembly
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.description import BenchRole, Description, shipped
from rulvek.bench.instruments.selftest import LOOP_DBV, self_test
from rulvek.bench.sim.catalogue import DESIGNS
from rulvek.cli.bench import EXAMPLE
from rulvek.core.electrical.loads import LoadBox
from rulvek.core.errors import BadInput
from rulvek.core.records.benches import Looked
from tests.bench.instruments.conftest import Run, assembled


def described(name: str) -> Description:
    known = shipped()
    if name not in known:
        raise BadInput(f"{name} cannot be read.", field="file")
    return known[name]


def read(text: str) -> Assembly:
    return read_assembly(text, described, "bench.toml")


def test_the_example_is_a_bench_and_is_kept_with_its_descriptions() -> None:
    found = read(EXAMPLE)
    assert found.simulated and set(found.stations) == set(BenchRole) - {BenchRole.OFF}
    assert kept_assembly(found.as_json()) == found
    kind = kind_of(OF_INSTRUMENTS, found.as_json())
    offers = kind.equipment("Bench 7")
    assert kind.simulated and (offers.name, offers.inputs, offers.supply_limit_amps) == ("Bench 7", 8, 250.0)
    assert [box.ohms for box in offers.boxes] == [4.0, 2.0]


@pytest.mark.parametrize(
    ("before", "after", "field", "words"),
    [
        ("supply = {", "time2 = {", "stations.time2", "input should be"),
        ('"simulated-supply"', '"simulated-generator"', "stations.supply", "cannot be a supply"),
        ('"simulated-supply"', '"mine.toml"', "file", "mine.toml cannot be read"),
        ("1 = 1", "1 = 12", "inputs", "8 inputs, none number 12"),
        ("supply_amps = 250.0", "", "limits.supply_amps", "field required"),
        ("[stations]", "[places]", "stations", "no stations"),
        ('cable = { gauge = "0"', 'cable = { gauge = "x"', "gauge", "no AWG gauge"),
        ("[limits]", "[limits", "bench", "no TOML"),
    ],
)
def test_what_is_wrong_is_named_by_field(before: str, after: str, field: str, words: str) -> None:
    assert before in EXAMPLE
    with pytest.raises(BadInput) as refused:
        read(EXAMPLE.replace(before, after))
    assert words in refused.value.what and (refused.value.field or "").startswith(field)


def test_a_bench_that_is_as_it_should_be_passes_and_is_safe_afterwards(on_bench: Run) -> None:
    _, running, behind = on_bench("two-ab")
    bench = InstrumentBench("Bench 1", assembled(running))
    looked = list(self_test(bench, 2, powered=True))
    bench.close()
    assert [one.at for one in looked if not one.passed] == [] and len(looked) == 10
    assert not behind.amplifier.powered and behind.is_muted
    assert {one.at: one.found for one in looked}["instruments"].startswith("7 answer")


def test_a_known_level_comes_back_straight_from_the_source(on_bench: Run) -> None:
    """Half a volt, within the recorder's 0.05 %; the amplifier is never powered for it."""
    _, running, behind = on_bench("two-ab")
    bench = InstrumentBench("Bench 1", assembled(running))
    looked = list(self_test(bench, 2, looped=True))
    found = {one.at: one for one in looked if one.at.startswith("loopback")}
    assert [one.at for one in looked if not one.passed] == [] and len(found) == 2
    volts = float(found["loopback of channel 2"].found.split(" V")[0])
    assert volts == pytest.approx(10 ** (LOOP_DBV / 20), rel=1e-3)
    assert not behind.looped and not behind.amplifier.powered and behind.is_muted
    with pytest.raises(BadInput, match="before power"):
        next(self_test(bench, 2, powered=True, looped=True))
    bench.close()


def test_a_divider_that_nobody_told_of_shows_in_the_loopback(on_bench: Run) -> None:
    _, running, _ = on_bench("two-ab")
    bench = InstrumentBench("Bench 1", replace(assembled(running), volts_per_unit=20.0))
    failed = {one.at: one.found for one in self_test(bench, 1, looped=True) if not one.passed}
    bench.close()
    assert failed.keys() == {"loopback of channel 1"} and failed["loopback of channel 1"].startswith("10.0")


def test_the_gain_into_a_known_load_is_the_amplifiers(on_bench: Run) -> None:
    """Beside what the amplifier is made with; watts are V²/R of what was read."""
    _, running, _ = on_bench("two-ab")
    bench = InstrumentBench("Bench 1", assembled(running))
    told = {one.at: one.found for one in self_test(bench, 2, powered=True)}["known level on channel 1"]
    bench.close()
    decibels, milliwatts, ohms = (float(one) for one in re.findall(r"[\d.]+", told))
    made_with = 20 * math.log10(DESIGNS["two-ab"].groups[0].gain)
    assert decibels == pytest.approx(made_with, abs=0.5)  # its controls are a little apart
    assert milliwatts / 1000 == pytest.approx((0.01 * 10 ** (decibels / 20)) ** 2 / ohms, rel=0.01)


def test_a_supply_that_does_not_come_on_ends_the_look(on_bench: Run) -> None:
    _, running, behind = on_bench("two-ab")
    bench = InstrumentBench("Bench 1", assembled(running))
    usual = running["supply"].heard
    running["supply"].heard = lambda message: (  # type: ignore[method-assign]
        b'1;-240,"Hardware error"\n' if "OUTPut:ON" in message else usual(message)
    )
    last = list(self_test(bench, 2, powered=True))[-1]
    bench.close()
    assert (last.at, last.passed) == ("supply on", False) and "Hardware error" in last.found
    assert not behind.amplifier.powered and behind.is_muted


def test_outputs_that_are_wired_crosswise_are_found(on_bench: Run) -> None:
    _, running, _ = on_bench("two-ab")
    bench = InstrumentBench("Bench 1", replace(assembled(running), inputs={1: 2, 2: 1}))
    failed = {one.at: one.found for one in self_test(bench, 2, powered=True) if not one.passed}
    bench.close()
    assert failed.keys() == {"known level on channel 1", "known level on channel 2"}
    assert "nothing comes of 10 mV" in failed["known level on channel 1"]


def test_a_cold_load_is_held_to_the_register(on_bench: Run) -> None:
    """4.03 Ω is a load of 4 Ω, and not the one that was 4.20 Ω when it was put on the register."""
    _, running, _ = on_bench("two-ab")
    made = assembled(running)

    def looked(cold: float) -> dict[str, Looked]:
        boxes = (replace(made.limits.boxes[0], cold_ohms=cold), *made.limits.boxes[1:])
        bench = InstrumentBench("Bench 1", replace(made, limits=replace(made.limits, boxes=boxes)))
        found = {one.at: one for one in self_test(bench, 1)}
        bench.close()
        return found

    assert looked(4.0)["load on channel 1"].passed
    other = looked(4.20)["load on channel 1"]
    assert not other.passed and other.found.endswith("4.2 Ω on the register")
    with pytest.raises(BadInput, match="5 Ω cold is no load of 4 Ω") as refused:
        looked(5.0)
    assert refused.value.field == "boxes.0.cold_ohms"


@pytest.mark.parametrize(
    ("cold", "warm", "celsius", "field", "told"),
    [
        (None, 4.05, 120.0, "cold_ohms", "only beside cold ones"),
        (4.0, None, 120.0, "warm_ohms", "the ohms are missing"),
        (4.0, 4.05, None, "warm_c", "at how many °C"),
        (4.0, 4.05, 23.0, "warm_c", "At 23 °C a load is not warm"),
        (4.0, 40.5, 120.0, "warm_ohms", "40.5 Ω warm is no load of 4 Ω cold"),
    ],
)
def test_what_was_measured_warm_is_whole_or_refused(
    on_bench: Run, cold: float | None, warm: float | None, celsius: float | None, field: str, told: str
) -> None:
    _, running, _ = on_bench("two-ab")
    made = assembled(running)
    box = replace(made.limits.boxes[0], cold_ohms=4.0, warm_ohms=4.05, warm_c=120.0)

    def with_box(one: LoadBox) -> Assembly:
        return replace(made, limits=replace(made.limits, boxes=(one, *made.limits.boxes[1:])))

    with_box(box).refuse_unfit()
    with pytest.raises(BadInput, match=told) as refused:
        with_box(replace(box, cold_ohms=cold, warm_ohms=warm, warm_c=celsius)).refuse_unfit()
    assert refused.value.field == f"boxes.0.{field}"


def test_what_is_not_is_told_by_what_was_found(on_bench: Run) -> None:
    _, running, behind = on_bench("two-ab")
    bench = InstrumentBench("Bench 1", assembled(running))
    connect = behind.connect

    def worn(links: object) -> None:
        connect(links)  # type: ignore[arg-type]
        behind._ohms.update({number: 5.1 for number in behind._ohms if number == 2})

    behind.connect = worn  # type: ignore[method-assign, assignment]
    running["supply"].heard = lambda message: (  # type: ignore[method-assign]
        b'1;0,"No error"\n' if "OUTPut:OFF" in message else running["supply"].tree.answer(message)
    )
    failed = {one.at: one.found for one in self_test(bench, 2, powered=True) if not one.passed}
    assert failed.keys() == {"load on channel 2", "supply off"}
    assert failed["load on channel 2"].startswith("5.0") and "nominal 4 Ω" in failed["load on channel 2"]
    running["supply"].heard = running["supply"].tree.answer  # type: ignore[method-assign]
    bench.close()
    assert not behind.amplifier.powered
