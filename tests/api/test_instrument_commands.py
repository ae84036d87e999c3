"""The commands for instruments and benches, with simulated instruments in a process of their own."""

import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

import pytest

from rulvek.bench.benches import OF_INSTRUMENTS
from rulvek.cli.bench import EXAMPLE
from rulvek.demo.scenario import instruments_of_the_second
from rulvek.store.queries import records
from tests import postgres
from tests.api.test_command_line import call
from tests.conftest import TAMSIN, migrated, services_in, until, url_in

FIRST_PORT = 5610


@pytest.fixture
def records_folder(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    folder = tmp_path / "records"
    folder.mkdir()
    migrated(folder).close()
    if postgres.WANTED:
        monkeypatch.setenv("RULVEK_DATABASE_URL", url_in(folder))
    return folder


@contextmanager
def simulating(*more: str) -> Iterator[dict[str, str]]:
    """Addresses by role, on ports that are free."""
    with subprocess.Popen(
        [sys.executable, "-m", "rulvek.cli", "instruments", "simulate", "--design", "two-ab", *more],
        stdout=subprocess.PIPE,
        text=True,
        bufsize=1,
    ) as process:
        assert process.stdout is not None
        found = {}
        for _ in range(7):
            role, _, address = process.stdout.readline().split()
            found[role] = address
        try:
            yield found
        finally:
            process.send_signal(signal.SIGINT)
        assert process.wait(20) == 0


@pytest.fixture(scope="module")
def simulated() -> Iterator[dict[str, str]]:
    with simulating() as found:
        yield found


@pytest.fixture
def bench(simulated: dict[str, str], tmp_path: Path) -> Path:
    text = EXAMPLE
    for at, role in enumerate(("source", "recorder", "supply", "current", "loads", "temperatures", "time")):
        text = text.replace(f"TCPIP0::127.0.0.1::{FIRST_PORT + at}::SOCKET", simulated[role])
    path = tmp_path / "bench.toml"
    path.write_text(text, encoding="utf-8")
    return path


def test_what_ships_is_listed_and_checked() -> None:
    listed = call("instruments", "list").stdout
    assert "simulated-digitizer" in listed and "scpi-supply" in listed
    assert "it can set_volts" in call("instruments", "check", "scpi-supply").stdout
    assert '"identifies"' in call("instruments", "check", "--schema").stdout


def test_a_description_that_does_not_hold_is_one_sentence(tmp_path: Path) -> None:
    path = tmp_path / "mine.toml"
    path.write_text('name = "A"\nidentifies = ""\nroles = ["current"]\nacts = {}', encoding="utf-8")
    for words, told in (
        ((path,), "does not say how to read amps."),
        (("nowhere.toml",), "nowhere.toml cannot be read"),
        ((), "Say which description"),
    ):
        result = call("instruments", "check", *words)
        assert result.exit_code == 2 and told in result.stderr and result.stderr.count("\n") == 1


def test_trying_says_what_answered_what(simulated: dict[str, str]) -> None:
    result = call("instruments", "try", "simulated-supply", simulated["supply"])
    assert result.exit_code == 0, result.output
    assert "*IDN?: Rulvek,simulated supply" in result.stdout and "OUTPut:OFF: done" in result.stdout
    assert "MEASure:VOLTage?: 14." in result.stdout
    other = call("instruments", "try", "simulated-thermometer", simulated["supply"])
    assert other.exit_code == 2 and "which is no Simulated thermometer" in other.stderr
    nobody = call("instruments", "check", "scpi-supply", "--at", "TCPIP0::127.0.0.1::9::SOCKET")
    assert nobody.exit_code == 2 and "does not answer" in nobody.stderr
    none = call("instruments", "try", "simulated-supply", "the one on the left")
    assert none.exit_code == 2 and "“the one on the left” is no address of an instrument. Write it as" in none.stderr


def test_a_bench_is_put_on_record_and_looked_at(bench: Path, records_folder: Path) -> None:
    by = ("--data", records_folder, "--by", "Tamsin Oduwell")
    added = call("bench", "add", "Bench 7", bench, *by)
    assert added.exit_code == 0 and "Bench 7 is on record, simulated." in added.stdout, added.output
    assert "There is a bench “Bench 7” already." in call("bench", "add", "Bench 7", bench, *by).stderr
    looked = call("bench", "selftest", "bench 7", "--data", records_folder, "--channels", 2, "--powered")
    assert looked.exit_code == 0 and looked.stdout.count("passed") == 10 and "FAILED" not in looked.stdout
    assert "Bench 1 is no bench of instruments" in call("bench", "selftest", "Bench 1", "--data", records_folder).stderr
    assert "There is no bench “Bench 9”" in call("bench", "selftest", "Bench 9", "--data", records_folder).stderr


def test_what_is_found_of_a_bench_on_record_is_kept(records_folder: Path) -> None:
    """Of one whose instruments are simulated nearby, as the demo's Bench 2 is."""
    services = services_in(records_folder)
    services.benches.add("Bench 8", OF_INSTRUMENTS, TAMSIN, instruments_of_the_second().as_json())
    words = ("bench", "selftest", "Bench 8", "--data", records_folder, "--by", "Joren Falk", "--channels", 2)
    looked = call(*words)
    assert looked.exit_code == 0 and looked.stdout.count("passed") == 7, looked.output
    with services.database.reading() as session:
        (row,) = (one for one in records.benches(session) if one.name == "Bench 8")
        (kept,) = records.self_tests(session, row.id)
    assert (kept.by, kept.channels, kept.passed) == ("Joren Falk", 2, True)
    assert looked.stdout.count("\n") == len(kept.looked)
    services.close()


def test_a_bench_that_somebody_works_at_is_left_alone(bench: Path, records_folder: Path) -> None:
    """A server's run goes on: its supply is not switched off by who wants to look."""
    call("bench", "add", "Bench 7", bench, "--data", records_folder, "--by", "Tamsin Oduwell")
    with closing(services_in(records_folder, bench_speed=1.0)) as services:
        room = services.benches.room("Bench 7")
        room.look(2, powered=True, actor=TAMSIN)
        refused = call("bench", "selftest", "Bench 7", "--data", records_folder)
        assert refused.exit_code == 2 and "Bench 7" in refused.stderr and "passed" not in refused.stdout
        until(lambda: not room.busy)
        assert len(room.looked) == 10 and all(one.passed for one in room.looked)


def test_what_is_missing_is_asked_for_and_a_bench_that_fails_says_so(bench: Path, records_folder: Path) -> None:
    assert call("bench", "add", "--example").stdout == EXAMPLE
    for words, told in (
        (("", bench), "Say the bench's name."),
        (("B",), "Say the bench's file."),
        (("B", bench), "Say who adds it: --by."),
    ):
        given = () if "--by" in told else ("--by", "Tamsin Oduwell")
        refused = call("bench", "add", *words, "--data", records_folder, *given)
        assert refused.exit_code == 2 and told in refused.stderr
    bench.write_text(bench.read_text(encoding="utf-8").replace("ohms = 4.0", "ohms = 8.0", 1), encoding="utf-8")
    gone = bench.with_name("gone.toml")
    supply = next(line for line in bench.read_text(encoding="utf-8").splitlines() if line.startswith("supply = "))
    dead = supply[: supply.index("127.0.0.1::")] + '127.0.0.1::9::SOCKET" }'
    gone.write_text(bench.read_text(encoding="utf-8").replace(supply, dead), encoding="utf-8")
    failed = call("bench", "selftest", gone)
    assert failed.exit_code == 1 and "FAILED  instruments" in failed.stdout
    assert "Simulated supply at TCPIP0::127.0.0.1::9::SOCKET does not answer" in failed.stdout


def test_a_slow_one_is_waited_for_and_a_dying_one_is_told() -> None:
    """Each as the descriptions' timeout of 2 s has it; whoever asks is told by name who is gone."""
    with simulating("--slow", "supply:0.3", "--dies", "temperatures:2") as where:
        began = time.monotonic()
        result = call("instruments", "try", "simulated-supply", where["supply"])
        assert result.exit_code == 0 and time.monotonic() - began > 0.9  # *IDN?, Off and the volts, at least
        gone = call("instruments", "try", "simulated-thermometer", where["temperatures"])
        assert gone.exit_code != 0 and "Simulated thermometer" in gone.output and "Traceback" not in gone.output


@pytest.mark.parametrize("said", ["nobody:1", "supply", "supply:x", "supply:-1", "supply:inf"])
def test_who_is_slow_or_dies_is_said_by_its_role(said: str) -> None:
    result = call("instruments", "simulate", "--slow", said)
    assert result.exit_code == 2 and f"not “{said}”" in result.stderr
