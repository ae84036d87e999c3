"""``rulvek simulate``: one run on a simulated amplifier that a file describes."""

import json
from pathlib import Path
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors, text_of
from rulvek.core.errors import BadInput
from rulvek.core.runs.modes import ENDS, Mode

EXAMPLE = """\
# An amplifier of two channels, class AB; every field of the design that is left out has its default.
converter_efficiency = 0.87
sink_joules_per_kelvin = 2600.0

[[groups]]
channels = [1, 2]
topology = "AB"
gain = 25.5
rail_volts = 32.0
converter_ohms = 0.28
output_ohms = 0.09
trip_amps = 24.0
lost_volts = 2.2
"""


@app.command()
@clear_errors
def simulate(
    file: Annotated[Path | None, typer.Argument(help="A TOML file that describes the amplifier; - for input.")] = None,
    mode: Annotated[Mode, typer.Option(help="How it is driven.")] = Mode.CERTIFIED,
    load: Annotated[float, typer.Option(help="Ω per channel, or across a pair.", min=0.05, max=100_000.0)] = 4.0,
    group: Annotated[int, typer.Option(help="Which of its groups, from 1.")] = 1,
    bridged: Annotated[bool, typer.Option("--bridged", help="Load pairs of channels, bridged.")] = False,
    tone: Annotated[float, typer.Option(help="Hz.", min=10.0, max=20_000.0)] = 1000.0,
    burst: Annotated[str, typer.Option(help="Name of a burst profile; the method's own when left out.")] = "",
    supply: Annotated[
        float, typer.Option(help="Volts that are held, or that a capacitor bank has.", min=1, max=20)
    ] = 14.4,
    bank: Annotated[str, typer.Option(help="A floating bank, like “2 F” or “100 Ah”, in place of the supply.")] = "",
    watts: Annotated[float | None, typer.Option(help="What a proof is to hold.", min=0.001)] = None,
    seed: Annotated[int, typer.Option(help="Which sample of the design.")] = 1,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
    example: Annotated[bool, typer.Option("--example", help="Print a description to begin with.")] = False,
    schema: Annotated[bool, typer.Option("--schema", help="Print the JSON Schema of a description.")] = False,
) -> None:
    """Conduct one run on a simulated amplifier; nothing of it is recorded."""
    from pydantic import TypeAdapter

    from rulvek.bench.sim.design import AmplifierDesign, read_design
    from rulvek.bench.sim.trial import Trial, outcome_data, run_trial

    if example:
        typer.echo(EXAMPLE, nl=False)
        return
    if schema:
        typer.echo(json.dumps(TypeAdapter(AmplifierDesign).json_schema(), indent=1, ensure_ascii=False))
        return
    if file is None:
        raise BadInput("A description of the amplifier is missing.", todo="See --example.", field="file")
    design = read_design(text_of(file))
    outcome = run_trial(
        Trial(design, mode, load, group, bridged, tone, burst, supply, bank, seed, watts),
    )
    data = outcome_data(outcome)
    if as_json:
        typer.echo(json.dumps(data, allow_nan=False))
        return
    typer.echo(f"{ENDS[outcome.end].words}, {len(outcome.points)} points")
    for number, (watts, percent) in enumerate(zip(data["watts"], data["thd_n_percent"], strict=True), 1):
        typer.echo(f"{'pair' if bridged else 'channel'} {number}: {watts:.4g} W at {percent:.3g} % THD+N")
    if data["no_reading"]:
        typer.echo(data["no_reading"])
    if data["largest_watts"] is not None:
        typer.echo(f"largest burst: {data['largest_watts']:.4g} W from the weakest")
    if data["tripped_watts"] is not None:
        typer.echo(f"protection tripped at {data['tripped_watts']:.4g} W")
    if data["supply_volts"] is not None:
        amps = "" if data["supply_amps"] is None else f", {data['supply_amps']:.1f} A"
        typer.echo(f"supply {data['supply_volts']:.2f} V{amps}")
