"""``rulvek check``: typed figures questioned."""

import json
import math
from dataclasses import asdict
from typing import TYPE_CHECKING, Annotated

import typer

from rulvek.cli.common import app, clear_errors
from rulvek.core.errors import BadInput
from rulvek.core.runs.modes import End, Mode

if TYPE_CHECKING:
    from rulvek.core.judgement.figures import Figures


@app.command()
@clear_errors
def check(
    mode: Annotated[Mode | None, typer.Option(help="How the unit was driven.")] = None,
    load: Annotated[float | None, typer.Option(help="Nominal load in Ω.", min=0.05)] = None,
    load_measured: Annotated[float | None, typer.Option(help="Load as measured, warm, in Ω.", min=0.05)] = None,
    watts: Annotated[float | None, typer.Option(help="Power of the weakest channel in W.", min=0)] = None,
    channel: Annotated[list[float] | None, typer.Option(help="Power of each channel in W; repeat.")] = None,
    volts_rms: Annotated[float | None, typer.Option(help="Output in V rms.", min=0)] = None,
    volts_peak: Annotated[float | None, typer.Option(help="Output in V peak, from an oscilloscope.", min=0)] = None,
    start_volts: Annotated[float | None, typer.Option(help="Supply before the run in V.", min=0)] = None,
    supply_volts: Annotated[float | None, typer.Option(help="Supply at the reading in V.", min=0)] = None,
    amps: Annotated[float | None, typer.Option(help="Supply current at the reading in A.")] = None,
    idle_amps: Annotated[float, typer.Option(help="What the clamp indicated at idle; it is taken off.")] = 0.0,
    clamp_zeroed: Annotated[bool | None, typer.Option(help="Whether the clamp was zeroed on the idle bench.")] = None,
    charger_amps: Annotated[float | None, typer.Option(help="What a charger added in A.", min=0)] = None,
    thd_n: Annotated[float | None, typer.Option(help="THD+N in %.", min=0)] = None,
    topology: Annotated[str | None, typer.Option("--class", help="AB or D.")] = None,
    sink: Annotated[float | None, typer.Option(help="Heat sink at the start in °C.")] = None,
    end: Annotated[End | None, typer.Option(help="How the run ended.")] = None,
    certified: Annotated[float | None, typer.Option(help="Certified W at the same load, to compare with.")] = None,
    uncertified: Annotated[float | None, typer.Option(help="Uncertified W at the same load.")] = None,
    floating: Annotated[bool, typer.Option("--bank", help="A bank floated; nothing held the supply.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Question typed figures: whatever can be checked by what is given is checked."""
    from rulvek.core.judgement.checks import check as check_figures
    from rulvek.core.judgement.figures import Figures
    from rulvek.core.method.profile import MethodProfile

    if topology is not None and topology.upper() not in ("AB", "D"):
        raise BadInput(f"--class takes AB or D, not “{topology}”.", field="class")
    beside = {Mode.CERTIFIED: certified, Mode.UNCERTIFIED: uncertified}
    figures = Figures(
        mode=mode,
        topology=topology.upper() if topology else None,
        end=end,
        thd_n_percent=thd_n,
        load_nominal=load,
        load_measured=load_measured,
        watts=watts if watts is not None else min(channel) if channel else None,
        channel_watts=tuple(channel or ()),
        output_watts=sum(channel) if channel else None,
        volts_rms=volts_rms,
        volts_peak=volts_peak,
        floating=floating,
        start_volts=start_volts,
        supply_volts=supply_volts,
        amps=None if amps is None else amps - idle_amps,
        clamp_zeroed=clamp_zeroed,
        charger_amps=charger_amps,
        sink_start_c=sink,
        beside={known: value for known, value in beside.items() if value is not None},
    )
    _refuse_endless(figures)
    found = check_figures(figures, MethodProfile())
    if as_json:
        typer.echo(json.dumps({"checks": [asdict(finding) for finding in found]}, ensure_ascii=False))
        return
    for finding in found:
        typer.echo(f"{finding.severity.value:8s}{finding.code}: {finding.message} {finding.advice}")
    if not found:
        typer.echo("Nothing to object to in what was given.")


def _refuse_endless(figures: "Figures") -> None:
    for name, value in asdict(figures).items():
        values = value if isinstance(value, list | tuple) else [value]
        if any(isinstance(v, float) and not math.isfinite(v) for v in values):
            raise BadInput(f"--{name.replace('_', '-')} must be a finite number.", field=name)
