"""``rulvek exponent``: power against supply voltage."""

import json
import math
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors
from rulvek.core.errors import BadInput


@app.command()
@clear_errors
def exponent(
    runs: Annotated[list[str], typer.Argument(help="Loaded volts and watts of each run, as 12.5:301.")],
    at: Annotated[float | None, typer.Option(help="Estimate the power at this supply voltage.", min=0.1)] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Fit how a unit's power follows its supply voltage; an estimate, never evidence."""
    from rulvek.core.electrical.supply import fit_voltage

    fit = fit_voltage([_run_of(text) for text in runs])
    estimate = fit.estimate(at) if at is not None else None
    if as_json:
        answer = {
            "exponent": fit.exponent,
            "interval": [fit.low, fit.high],
            "estimate_watts": estimate[0] if estimate else None,
            "estimate_interval": list(estimate[1:]) if estimate else None,
        }
        typer.echo(json.dumps(answer, allow_nan=False))
        return
    if fit.exponent is None:
        typer.echo("Three voltages over at least 1 V tell the exponent; until then it lies between 0 and 2.3.")
    else:
        typer.echo(f"exponent {fit.exponent:.2f} (95 %: {fit.low:.2f} to {fit.high:.2f})")
    if estimate and at is not None:
        typer.echo(f"estimated at {at:g} V: {estimate[0]:.4g} W ({estimate[1]:.4g} to {estimate[2]:.4g} W)")


def _run_of(text: str) -> tuple[float, float]:
    """“12.5:301” as volts and watts."""
    volts, colon, watts = text.partition(":")
    try:
        run = float(volts), float(watts)
    except ValueError:
        run = (0.0, 0.0)
    if not (colon and all(math.isfinite(value) and value > 0 for value in run)):
        raise BadInput(f"“{text}” is no run: write volts and watts above 0, as 12.5:301.", field="runs")
    return run
