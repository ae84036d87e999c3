"""What a bench is made of: read, kept, refused by field; looked at before anybody trusts it."""

import pytest

from rulvek.bench.benches import OF_INSTRUMENTS, kind_of
from rulvek.bench.instruments.assembly import Assembly, kept_assembly, read_assembly
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.description import BenchRole, Description, shipped
from rulvek.bench.instruments.selftest import self_test
from rulvek.cli.bench import EXAMPLE
from rulvek.core.errors import BadInput
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
    assert found.simulated and set(found.stations) == set(BenchRole)
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
    assert [one.at for one in looked if not one.passed] == [] and len(looked) == 8
    assert not behind.amplifier.powered and behind.is_muted
    assert {one.at: one.found for one in looked}["instruments"].startswith("7 answer")


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
