"""The guard: what goes wrong between a program and an instrument is one clear fault, and never a reading."""

import time
from collections.abc import Callable
from dataclasses import replace

import pytest

from rulvek.bench.conductor import Finished, conduct
from rulvek.bench.instruments.bench import InstrumentBench
from rulvek.bench.instruments.description import SHIPPED, BenchRole, Description, read_description, shipped
from rulvek.bench.instruments.link import Link
from rulvek.bench.sim.instruments.server import SocketInstrument
from rulvek.core.errors import BadInput, BenchFault
from rulvek.core.runs.modes import End, Mode
from tests.bench.instruments.conftest import Run, assembled
from tests.bench.instruments.test_runs import FOUR, setup_of


def quick(name: str) -> Description:
    return replace(shipped()[name], timeout_seconds=1.0)


@pytest.fixture
def supply(on_bench: Run) -> SocketInstrument:
    return on_bench("two-ab")[1]["supply"]


@pytest.fixture
def link(supply: SocketInstrument) -> Link:
    link = Link(quick("simulated-supply"), supply.address)
    link.open()
    return link


def answering(instrument: SocketInstrument, otherwise: Callable[[str, Callable[[str], bytes]], bytes]) -> None:
    """From now on an instrument answers otherwise."""
    heard = instrument.heard
    instrument.heard = lambda message: otherwise(message, heard)  # type: ignore[method-assign]


def test_a_late_reply_is_never_taken_for_the_next_answer(link: Link, supply: SocketInstrument) -> None:
    link.act("set_volts", volts=12.0)
    late = [True]

    def slow(message: str, heard: Callable[[str], bytes]) -> bytes:
        if "MEASure:VOLTage?" in message and late:
            late.clear()
            time.sleep(1.6)
            return b"99.0\n"
        return heard(message)

    answering(supply, slow)
    with pytest.raises(BenchFault, match=r"did not answer MEASure:VOLTage\? within 1 s"):
        link.number("read_volts")
    time.sleep(1.0)  # by now the late reply was sent
    assert link.number("read_volts") == pytest.approx(12.0, abs=0.1)


@pytest.mark.parametrize("garbage", [b"\xff\xfe\x00\n", b"twelve\n", b"nan\n", b"9.91E37\n", b"\n"])
def test_garbage_is_no_number(link: Link, supply: SocketInstrument, garbage: bytes) -> None:
    answering(supply, lambda message, heard: garbage if "MEASure" in message else heard(message))
    with pytest.raises(BenchFault, match="Simulated supply at TCPIP0"):
        link.number("read_volts")


def test_an_error_in_the_queue_is_told_in_the_instruments_words(link: Link, supply: SocketInstrument) -> None:
    def refusing(message: str, heard: Callable[[str], bytes]) -> bytes:
        return b'1;-221,"Settings conflict;no fuse"\n' if "OUTPut:ON" in message else heard(message)

    answering(supply, refusing)
    with pytest.raises(BenchFault, match='refuses OUTPut:ON: -221,"Settings conflict;no fuse"'):
        link.act("switch_on")


def test_an_error_is_told_with_what_it_means_here(supply: SocketInstrument) -> None:
    text = (SHIPPED / "simulated-supply.toml").read_text(encoding="utf-8")
    told = Link(read_description(f'{text}\n[meanings]\n-221 = "its fuse is out"\n'), supply.address)
    answering(
        supply,
        lambda message, heard: b'1;-221,"Settings conflict"\n' if "OUTPut:ON" in message else heard(message),
    )
    with pytest.raises(BenchFault, match='refuses OUTPut:ON: -221,"Settings conflict", its fuse is out'):
        told.act("switch_on")
    told.close()


@pytest.mark.parametrize(("most", "sent"), [(40.0, "40"), (200.0, "90")], ids=["the bench's", "all that it has"])
def test_a_supply_that_has_a_limit_is_set_to_it_before_it_comes_on(on_bench: Run, most: float, sent: str) -> None:
    _, running, behind = on_bench("two-ab")
    found = assembled(running)
    text = (SHIPPED / "simulated-supply.toml").read_text(encoding="utf-8")
    text = text.replace("\n[acts]\n", '\n[acts]\nlimit_amps.send = "SOURce:CURRent {amps:.6g}"\n')
    described = read_description(text.replace("\n[ranges]\n", "\n[ranges]\namps = { low = 0, high = 90 }\n"))
    station = replace(found.stations[BenchRole.SUPPLY], description=described)
    found = replace(
        found,
        stations={**found.stations, BenchRole.SUPPLY: station},
        limits=replace(found.limits, supply_amps=most),
    )
    said: list[tuple[str, bool]] = []

    def limited(message: str, heard: Callable[[str], bytes]) -> bytes:
        if "SOURce:CURRent" not in message:
            return heard(message)
        said.append((message.split(";")[0], behind.amplifier.powered))
        return b'1;0,"No error"\n'

    answering(running["supply"], limited)
    bench = InstrumentBench("Bench 1", found)
    bench.open()
    try:
        bench.supply.switch_on()
        assert said == [(f"SOURce:CURRent {sent}", False)] and behind.amplifier.powered
    finally:
        bench.close()


def test_what_is_not_understood_is_told_though_nothing_answers(supply: SocketInstrument) -> None:
    wrong = read_description(
        'name = "Misdescribed supply"\nidentifies = "Rulvek"\nroles = ["supply"]\nsafe = ["OUTPut:OFF"]\n'
        'timeout_seconds = 1.0\n[acts]\nset_volts.send = "VOLTS {volts:.6g}"\nswitch_on.send = "OUTPut:ON"\n'
        'switch_off.send = "OUTPut:OFF"\nread_volts.ask = "MEASure:VOLTage?"'
    )
    link = Link(wrong, supply.address)
    link.open()
    with pytest.raises(BenchFault, match="refuses VOLTS 12: -113"):
        link.act("set_volts", volts=12.0)
    assert link.number("read_volts") >= 0


def test_a_value_out_of_range_is_not_sent(link: Link, supply: SocketInstrument) -> None:
    said: list[str] = []

    def listening(message: str, heard: Callable[[str], bytes]) -> bytes:
        said.append(message)
        return heard(message)

    answering(supply, listening)
    with pytest.raises(BadInput, match="volts is 24 V, outside of 1 to 20"):
        link.act("set_volts", volts=24.0)
    assert said == []


def test_another_instrument_at_an_address_is_named(on_bench: Run) -> None:
    _, running, _ = on_bench("two-ab")
    wrong = Link(quick("simulated-supply"), running["source"].address)
    with pytest.raises(BenchFault, match=r"there is 'Rulvek,simulated generator.*which is no Simulated supply"):
        wrong.open()


def test_nobody_at_an_address_is_told(supply: SocketInstrument) -> None:
    nobody = Link(quick("simulated-supply"), "TCPIP0::127.0.0.1::9::SOCKET")
    with pytest.raises(BenchFault, match="does not answer"):
        nobody.open()


def test_a_connection_that_drops_ends_the_run_safe_and_without_a_reading_of_the_fault(on_bench: Run) -> None:
    bench, running, behind = on_bench("two-ab")
    asked = [0]

    def dropping(message: str, heard: Callable[[str], bytes]) -> bytes:
        asked[0] += message.startswith("READ?")
        if asked[0] == 4 and message.startswith("READ?"):
            raise ConnectionResetError
        return heard(message)

    answering(running["recorder"], dropping)
    faults: list[str] = []
    two = setup_of(Mode.CERTIFIED, FOUR[:2])
    outcome = conduct(
        bench, two, lambda event: faults.append(event.fault) if isinstance(event, Finished) else None
    ).outcome
    assert outcome.end is End.LINK_LOST and not behind.amplifier.powered and behind.is_muted
    assert len(faults) == 1 and "Simulated digitizer" in faults[0] and "did not answer READ?" in faults[0]


def test_a_supply_that_stays_on_is_told_with_the_amps_that_flow(on_bench: Run) -> None:
    bench, running, behind = on_bench("two-ab")
    heard = running["supply"].heard
    done = b'1;0,"No error"\n'
    answering(
        running["supply"],
        lambda message, heard: done if "OUTPut:OFF" in message and behind.amplifier.powered else heard(message),
    )
    faults: list[str] = []
    two = setup_of(Mode.CERTIFIED, FOUR[:2])
    outcome = conduct(
        bench, two, lambda event: faults.append(event.fault) if isinstance(event, Finished) else None
    ).outcome
    assert behind.amplifier.powered and outcome.end is End.LIMIT  # what was measured before stays
    assert "A flow although the supply was switched off." in faults[0]
    assert "Switch the supply off by hand: it may still be on." in faults[0]
    running["supply"].heard = heard  # type: ignore[method-assign]


def test_a_source_that_cannot_be_muted_keeps_no_supply_on_and_the_run_says_so(on_bench: Run) -> None:
    bench, running, behind = on_bench("two-ab")

    def deaf(message: str, heard: Callable[[str], bytes]) -> bytes:
        if message.startswith("OUTPut:MUTE") and behind.amplifier.powered:
            raise ConnectionResetError
        return heard(message)

    answering(running["source"], deaf)
    faults: list[str] = []
    two = setup_of(Mode.CERTIFIED, FOUR[:2])
    conduct(bench, two, lambda event: faults.append(event.fault) if isinstance(event, Finished) else None)
    assert not behind.amplifier.powered
    assert "Simulated generator" in faults[0] and "Switch the supply off by hand: it may still be on." in faults[0]


@pytest.mark.parametrize(
    "cut",
    [
        lambda whole: whole[: len(whole) // 2],  # it stays out
        lambda whole: b"#0" + whole[2:],  # of no length
        lambda whole: b"#3abc" + whole[5:],
        lambda whole: b"READY\n",
    ],
)
def test_a_block_that_is_none_is_no_record(on_bench: Run, cut: Callable[[bytes], bytes]) -> None:
    _, running, _ = on_bench("two-ab")
    link = Link(quick("simulated-digitizer"), running["recorder"].address)
    link.open()
    whole = b"#232" + bytes(32) + b"\n"
    answering(running["recorder"], lambda message, heard: cut(whole) if message.startswith("READ?") else heard(message))
    with pytest.raises(BenchFault, match="did not answer READ"):
        link.block("record", 8, samples=1, inputs=8)
    assert link.open().startswith("Rulvek,simulated digitizer")
