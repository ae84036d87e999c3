"""``rulvek sound``: what it prints, what it refuses, and the register."""

import tomllib
from pathlib import Path

import pytest

from rulvek.bench.sound.calibration import AMPLITUDE
from rulvek.core.records.instruments import InstrumentRole
from tests.api.test_command_line import call
from tests.bench.sound.fake import FakePortAudio, put
from tests.conftest import migrated, services_in, url_in


@pytest.fixture(autouse=True)
def card(monkeypatch: pytest.MonkeyPatch) -> FakePortAudio:
    return put(monkeypatch)


def test_interfaces_are_listed_with_their_addresses() -> None:
    assert call("sound", "list").stdout == "Interface: 2 in, 2 out, by Simulated; its address is sound:Interface\n"
    assert "see rulvek sound" in call("instruments", "list").stdout


def test_a_loopback_passes_and_fails_with_its_exit_code(card: FakePortAudio) -> None:
    passed = call("sound", "loopback", "Interface", "--seconds", 1)
    assert passed.exit_code == 0 and passed.stdout.count("passed") == 5
    card.wire = lambda sent: 0 * sent
    failed = call("sound", "loopback", "sound:Interface", "--seconds", 1)
    assert failed.exit_code == 1 and "does not come back at input 1" in failed.stdout


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (("loopback", "Nothing"), "There is no audio interface “Nothing” on this machine."),
        (("loopback", "Interface", "--rate", 44_100), "cannot be had at 44100 Hz"),
        (("levels", "Interface"), "Say beside which meter: --meter."),
        (("levels", "Interface", "--meter", "M", "--data", "."), "Say who does it: --by."),
        (("levels", "Interface", "--meter", "M", "--response", "20,abc"), "got “abc”"),
    ],
)
def test_what_cannot_be_is_one_sentence(words: tuple[object, ...], told: str) -> None:
    result = call("sound", *words)
    assert result.exit_code == 2 and told in result.stderr and "Traceback" not in result.stderr


def test_levels_are_printed_as_a_bench_has_them_and_put_on_the_register(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The meter reads 0.4 V and 0.5 V; a decimal comma is one, and a word is asked again."""
    migrated(tmp_path).close()
    monkeypatch.setenv("RULVEK_DATABASE_URL", url_in(tmp_path))
    said = iter(["four", "0,4", "0.5"])
    monkeypatch.setattr("typer.prompt", lambda *_, **__: next(said))
    words = ("--meter", "Meter 4", "--u-percent", 0.5, "--data", tmp_path, "--by", "Tamsin Oduwell")
    result = call("sound", "levels", "Interface", *words)
    assert result.exit_code == 0, result.output
    levels = tomllib.loads(result.stdout)["levels"]
    assert levels["output_volts"] == pytest.approx([0.4 / AMPLITUDE, 0.5 / AMPLITUDE])
    assert levels["input_volts"] == pytest.approx(levels["output_volts"], rel=1e-5)
    services = services_in(tmp_path)
    entries = [one.entry for one in services.gear.view().instruments]
    (entered,) = [one for one in entries if one.role is InstrumentRole.OUTPUT and one.name == "Interface"]
    services.close()
    assert (entered.percent_of_reading, entered.certificate) == (0.5, "beside Meter 4, 1000 Hz")
