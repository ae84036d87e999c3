"""``rulvek bench``: a bench of instruments checked, put on record, and looked at before anybody trusts it."""

import math
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rulvek.cli.common import app, clear_errors, text_of, with_records
from rulvek.core.errors import BadInput, NotFound, RulvekError

if TYPE_CHECKING:
    from rulvek.bench.instruments.assembly import Assembly
    from rulvek.bench.instruments.by_hand import Asking
    from rulvek.bench.instruments.description import Description
    from rulvek.core.records.benches import Looked
    from rulvek.settings import Settings

FAILED_EXIT = 1
ASKED_EVERY_SECONDS = 0.05
bench = typer.Typer(help="Benches of instruments: add, list and look at them.", no_args_is_help=True)
app.add_typer(bench, name="bench")
EXAMPLE = """\
# A bench: who fills each role, the wires, and what it can stand. Descriptions by the names that
# `rulvek instruments list` tells, or files beside this one.
volts_per_unit = 1.0  # what the recorder's 1 is in volts at the amplifier, as 20.0 behind a 20:1 divider

[stations]
source = { description = "simulated-generator", address = "TCPIP0::127.0.0.1::5610::SOCKET" }
recorder = { description = "simulated-digitizer", address = "TCPIP0::127.0.0.1::5611::SOCKET" }
supply = { description = "simulated-supply", address = "TCPIP0::127.0.0.1::5612::SOCKET" }
current = { description = "simulated-current-probe", address = "TCPIP0::127.0.0.1::5613::SOCKET" }
loads = { description = "simulated-load-bank", address = "TCPIP0::127.0.0.1::5614::SOCKET" }
temperatures = { description = "simulated-thermometer", address = "TCPIP0::127.0.0.1::5615::SOCKET" }
time = { description = "simulated-clock", address = "TCPIP0::127.0.0.1::5616::SOCKET" }

[inputs]  # amplifier channel = recorder input
1 = 1
2 = 2
3 = 3
4 = 4

[limits]
supply_amps = 250.0
boxes = [{ ohms = 4.0, watts = 600.0, count = 6 }, { ohms = 2.0, watts = 900.0, count = 6 }]
cable = { gauge = "0", metres = 1.0 }
"""


@bench.command()
@clear_errors
def add(
    name: Annotated[str, typer.Argument(help="What people call it.")] = "",
    file: Annotated[Path | None, typer.Argument(help="What it is made of: a TOML file.")] = None,
    data: Annotated[Path | None, typer.Option(help="Folder of the records.")] = None,
    by: Annotated[str, typer.Option(help="Who adds it.")] = "",
    example: Annotated[bool, typer.Option("--example", help="Print a file to begin with.")] = False,
) -> None:
    """Put a bench of instruments on record; nothing is connected yet. See `rulvek bench selftest`."""
    from rulvek.bench.benches import OF_INSTRUMENTS
    from rulvek.composition import make_services
    from rulvek.core.records.actor import Actor
    from rulvek.store.engine import Database

    if example:
        typer.echo(EXAMPLE, nl=False)
        return
    for field, said in (("name", name), ("by", by), ("file", str(file or ""))):
        if not said.strip():
            raise BadInput(f"Say the bench's {field}." if field != "by" else "Say who adds it: --by.", field=field)
    settings = with_records(data)
    assembly = _assembly(Path(str(file)))
    services = make_services(Database(settings.database), settings.captures, math.inf, inbox="bench")
    try:
        services.database.refuse_other_version()
        services.benches.add(name, OF_INSTRUMENTS, Actor(by.strip()), assembly.as_json())
    finally:
        services.close()
    typer.echo(
        f"{name.strip()} is on record{', simulated' if assembly.simulated else ''}. A server takes it up at once."
    )


@bench.command()
@clear_errors
def selftest(
    name: Annotated[str, typer.Argument(help="A bench on record, or the TOML file of one.")],
    data: Annotated[Path | None, typer.Option(help="Folder of the records.")] = None,
    channels: Annotated[int, typer.Option(help="How many outputs are wired to loads.", min=1, max=16)] = 1,
    powered: Annotated[
        bool, typer.Option("--powered", help="Switch the amplifier on, send it 10 mV, and off again.")
    ] = False,
    looped: Annotated[
        bool, typer.Option("--looped", help="Cables go from the source's outputs straight to the recorder.")
    ] = False,
    by: Annotated[str, typer.Option(help="Who looks at a bench on record.")] = "",
) -> None:
    """Look at a bench: who answers, zero, loads, supply, silence; with --powered a known level into each load, and Off;
    with --looped a known level straight from the source. Exit code 1 if not.

    What is found of a bench on record is kept; nobody else works at it meanwhile.

    See to the usual cautions first: fuse, disconnect within reach, loads ventilated, nobody at the terminals.
    """
    looks = _Looks(channels, powered, looped)
    found = looks.at_file(Path(name)) if name.endswith(".toml") else looks.at_record(name, with_records(data), by)
    failed = 0
    for looked in found:
        failed += not looked.passed
        typer.echo(f"{'passed' if looked.passed else 'FAILED':8}{looked.at:34}{looked.found}")
    if failed:
        raise typer.Exit(FAILED_EXIT)


@dataclass(frozen=True)
class _Looks:
    channels: int
    powered: bool
    looped: bool

    def at_file(self, file: Path) -> "Iterator[Looked]":
        """A bench that is on no record yet."""
        from rulvek.bench.instruments.bench import InstrumentBench
        from rulvek.bench.instruments.by_hand import Asking
        from rulvek.bench.instruments.selftest import self_test

        asking = Asking()
        on = InstrumentBench(file.stem, _assembly(file), asking=asking)
        threading.Thread(target=_answer, args=(asking,), daemon=True).start()
        try:
            yield from self_test(on, self.channels, self.powered, looped=self.looped)
        finally:
            on.close()

    def at_record(self, name: str, settings: "Settings", by: str) -> "Iterator[Looked]":
        """A bench on record, in the way of a server: nobody else has it, and what is found is kept."""
        from rulvek.composition import make_services
        from rulvek.core.records.actor import PROGRAM, Actor
        from rulvek.store.engine import Database

        actor = Actor(by.strip()) if by.strip() else PROGRAM
        services = make_services(Database(settings.database), settings.captures, settings.bench_speed, inbox="bench")
        try:
            services.database.refuse_other_version()
            services.benches.watch()
            rooms = {one.name.casefold(): one for one in services.benches.rooms()}
            if (room := rooms.get(name.casefold())) is None:
                raise NotFound(f"There is no bench “{name}”.")
            room.look(self.channels, self.powered, actor, self.looped)
            threading.Thread(target=_answer, args=(room.standing.asking,), daemon=True).start()
            told = 0
            while room.busy or told < len(room.looked):
                found = room.looked[told:]
                yield from found
                told += len(found)
                time.sleep(ASKED_EVERY_SECONDS)
        finally:
            services.close()


def _answer(asking: "Asking") -> None:
    """Put to whoever sits at the terminal what the bench asks, one thing after the other."""
    while True:
        asked = asking.question
        if asked is None:
            time.sleep(ASKED_EVERY_SECONDS)
            continue
        said = typer.prompt(f"{asked.words}{f' ({asked.unit})' if asked.unit else ''}", default="", err=True)
        try:
            asking.answer(asked.id, float(said.replace(",", ".")) if asked.unit else None)
        except (RulvekError, ValueError) as failure:
            typer.echo(failure.what if isinstance(failure, RulvekError) else f"“{said}” is no number.", err=True)


def _assembly(file: Path) -> "Assembly":
    from rulvek.bench.instruments.assembly import read_assembly
    from rulvek.bench.instruments.description import read_description, shipped

    known = shipped()

    def described(name: str) -> "Description":
        return known[name] if name in known else read_description(text_of(file.parent / name), name)

    return read_assembly(text_of(file), described, str(file))
