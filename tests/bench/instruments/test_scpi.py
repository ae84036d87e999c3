"""The simulated instruments' SCPI, after SCPI-99 volume 1 and IEEE 488.2 (both from memory)."""

import struct
from typing import Any

import numpy as np
import pytest

from rulvek.bench.sim.instruments.scpi import Answer, Command, Tree, block


@pytest.fixture
def heard() -> list[Any]:
    return []


@pytest.fixture
def tree(heard: list[Any]) -> Tree:
    def set_volts(output: int, volts: float) -> Answer:
        heard.append((output, volts))
        return None

    return Tree(
        "Rulvek,box,1,1",
        [
            Command("SOURce#:VOLTage", set_volts, 1),
            Command("SOURce#:VOLTage?", lambda output: f"{output}.5"),
            Command("SOURce#:CURRent", lambda output, amps: heard.append(("amps", output, amps)), 1),
            Command("OUTPut", lambda state: heard.append(("output", state)), 1),
            Command("FETCh?", lambda: block(np.array([1.0, 2.0], "<f4").tobytes())),
        ],
    )


@pytest.mark.parametrize("header", ["SOUR:VOLT", "source:voltage", "Sour1:Voltage", ":SOURce:VOLT"])
def test_headers_are_taken_in_their_short_and_long_form(tree: Tree, heard: list[Any], header: str) -> None:
    assert tree.answer(f"{header} 12.5\n") == b""
    assert heard == [(1, 12.5)] and tree.answer("SYST:ERR?") == b'0,"No error"\n'


@pytest.mark.parametrize("header", ["SOURC:VOLT", "SOUR:VOLTA", "VOLT", "SOUR:VOLT:LEV"])
def test_no_other_form_is_one(tree: Tree, heard: list[Any], header: str) -> None:
    tree.answer(f"{header} 12.5")
    assert heard == [] and tree.answer("SYSTem:ERRor?").startswith(b'-113,"Undefined header')


def test_a_compound_message_goes_on_from_the_path_before(tree: Tree, heard: list[Any]) -> None:
    assert tree.answer("SOUR2:VOLT 3;CURR 4;:OUTP ON;*OPC?;:SYST:ERR?") == b'1;0,"No error"\n'
    assert heard == [(2, 3.0), ("amps", 2, 4.0), ("output", 1.0)]


def test_errors_queue_up_with_their_numbers_and_are_told_in_order(tree: Tree) -> None:
    for wrong in ("NONE", "SOUR:VOLT", "SOUR:VOLT 1,2", "SOUR:VOLT many"):
        assert tree.answer(wrong) == b""
    numbers = [int(tree.answer("SYST:ERR?").split(b",")[0]) for _ in range(5)]
    assert numbers == [-113, -109, -108, -104, 0]


def test_what_follows_what_was_not_understood_is_thrown_away(tree: Tree, heard: list[Any]) -> None:
    assert tree.answer("NONE;:SOUR:VOLT 1;*OPC?") == b"" and heard == []


def test_a_full_queue_says_so_and_clearing_empties_it(tree: Tree) -> None:
    for _ in range(40):
        tree.answer("NONE")
    told = [tree.answer("SYST:ERR?") for _ in range(16)]
    assert told[-1].startswith(b"-350") and tree.answer("SYST:ERR?").startswith(b"0,")
    tree.answer("NONE;")
    assert tree.answer("*STB?") == b"4\n"
    tree.answer("*CLS")
    assert tree.answer("*STB?") == b"0\n"


def test_the_event_status_is_told_once(tree: Tree) -> None:
    assert tree.answer("*ESR?") == b"128\n" and tree.answer("*ESR?") == b"0\n"  # it was switched on
    tree.answer("NONE")
    tree.answer("*OPC")
    assert tree.answer("*ESR?") == b"33\n"  # a command error, and an operation that is complete


def test_a_block_has_its_length_before_it(tree: Tree) -> None:
    answer = tree.answer("FETC?")
    assert answer[:3] == b"#18" and answer[-1:] == b"\n"
    assert struct.unpack("<2f", answer[3:-1]) == (1.0, 2.0)
