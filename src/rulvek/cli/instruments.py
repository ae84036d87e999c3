"""``rulvek instruments``: what descriptions there are, whether one holds, and simulated instruments to try it on."""

import json
import math
import signal
import threading
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from rulvek.cli.common import app, clear_errors, text_of
from rulvek.core.errors import BadInput

if TYPE_CHECKING:
    from rulvek.bench.instruments.description import Description

PROBLEM_EXIT = 1
instruments = typer.Typer(help="Instruments by description: list, check, try and simulate them.", no_args_is_help=True)
app.add_typer(instruments, name="instruments")


@instruments.command("list")
@clear_errors
def list_() -> None:
    """The descriptions that ship with it: name, roles and what each can do."""
    from rulvek.bench.instruments.description import shipped

    for name, one in shipped().items():
        roles = ", ".join(one.roles)
        acts = ", ".join(act.replace("_", " ") for act in one.acts)
        typer.echo(f"{name:28}{roles:20}{one.name}: {acts or 'see rulvek sound'}")


@instruments.command()
@clear_errors
def check(
    file: Annotated[str, typer.Argument(help="A description: a TOML file, - for input, or the name of one here.")] = "",
    at: Annotated[str, typer.Option(help="An address to try it at, as TCPIP0::192.0.2.7::5025::SOCKET.")] = "",
    schema: Annotated[bool, typer.Option("--schema", help="Print the JSON Schema of a description.")] = False,
) -> None:
    """Hold a description to what its roles take; with --at, try it as well."""
    from pydantic import TypeAdapter

    from rulvek.bench.instruments.description import Description

    if schema:
        typer.echo(json.dumps(TypeAdapter(Description).json_schema(), indent=1, ensure_ascii=False))
        return
    if not file:
        raise BadInput("Say which description: a file, or the name of one that ships with it.", field="file")
    found = _described(file)
    acts = ", ".join(found.acts)
    typer.echo(f"{found.name}: {', '.join(found.roles)}; {f'it can {acts}' if acts else 'see rulvek sound'}.")
    if at:
        _try(found, at)


@instruments.command("try")
@clear_errors
def try_(
    file: Annotated[str, typer.Argument(help="A description: a TOML file, or the name of one here.")],
    address: Annotated[str, typer.Argument(help="Where the instrument is, as TCPIP0::192.0.2.7::5025::SOCKET.")],
) -> None:
    """Connect, identify, make it safe, and ask all that is only asked: what answered what. Nothing is powered."""
    _try(_described(file), address)


@instruments.command()
@clear_errors
def simulate(
    design: Annotated[str, typer.Option(help="The amplifier on the bench: a name, or a TOML file.")] = "four-d",
    serial: Annotated[str, typer.Option(help="Which unit of it.")] = "S-0001",
    port: Annotated[int, typer.Option(help="The first of the ports; any that are free without it.", max=65_000)] = 0,
    slow: Annotated[list[str] | None, typer.Option(help="ROLE:SECONDS, who answers late; may be said again.")] = None,
    dies: Annotated[list[str] | None, typer.Option(help="ROLE:MESSAGES, who hangs up for good after so many.")] = None,
) -> None:
    """Run simulated instruments on this machine's loopback until Ctrl+C; prints the address of each."""
    from rulvek.bench.sim.bench import SimulatedBench
    from rulvek.bench.sim.catalogue import DESIGNS
    from rulvek.bench.sim.design import read_design
    from rulvek.bench.sim.instruments.devices import DESCRIBED, SimulatedInstruments
    from rulvek.bench.sim.instruments.server import on_sockets

    amplifier = DESIGNS[design] if design in DESIGNS else read_design(text_of(Path(design)))
    ended = threading.Event()
    for one in (signal.SIGINT, signal.SIGTERM):
        signal.signal(one, lambda *_: ended.set())
    trees = SimulatedInstruments(SimulatedBench(amplifier, serial)).trees
    late, lives = _by_role(slow or [], trees, "slow"), _by_role(dies or [], trees, "dies")
    try:
        with on_sockets(trees, port) as running:
            for role, seconds in late.items():
                running[role].late_seconds = seconds
            for role, messages in lives.items():
                running[role].lives_for = messages
            for role, instrument in running.items():
                typer.echo(f"{role:14}{DESCRIBED[role]:28}{instrument.address}")
            ended.wait()
    except OSError as error:
        raise BadInput(f"Port {port} and those after it cannot be had: {error.strerror}.", field="port") from None


def _by_role(said: list[str], roles: Iterable[str], field: str) -> dict[str, float]:
    """What is said of some roles, as ``supply:0.5``."""
    found = {}
    for one in said:
        role, _, number = one.partition(":")
        try:
            found[role] = float(number)
        except ValueError:
            found[role] = -1.0
        if role not in roles or not 0 <= found[role] < math.inf:
            raise BadInput(
                f"--{field} takes a role ({', '.join(roles)}), a colon and a number: not “{one}”.", field=field
            )
    return found


def _described(file: str) -> "Description":
    from rulvek.bench.instruments.description import read_description, shipped

    known = shipped()
    return known[file] if file in known else read_description(text_of(Path(file)), file)


def _try(description: "Description", address: str) -> None:
    from rulvek.bench.instruments.link import Link

    if description.sound or description.by_hand:
        what = "is looked at by rulvek sound loopback" if description.sound else "is a person: nothing answers there"
        raise BadInput(f"{description.name} {what}.", field="file")
    link = Link(description, address)
    wrong = 0
    try:
        typer.echo(f"*IDN?: {link.open()}")
        if description.safe:
            link.make_safe()
            typer.echo(f"{'; '.join(description.safe)}: done")
        for asked, answer, problem in link.try_all():
            typer.echo(f"{asked}: {problem or answer}")
            wrong += bool(problem)
    finally:
        link.close()
    if wrong:
        raise typer.Exit(PROBLEM_EXIT)
