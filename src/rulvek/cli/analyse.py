"""``rulvek analyse``: power and distortion from a WAV capture."""

import json
from pathlib import Path
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors


@app.command()
@clear_errors
def analyse(
    file: Annotated[Path, typer.Argument(help="A WAV file; its full scale stands for --volts-full-scale.")],
    volts_full_scale: Annotated[float, typer.Option(help="Volts that 1.0 (full scale) stands for.")],
    load: Annotated[float, typer.Option(help="Load in Ω.")],
    tone: Annotated[float | None, typer.Option(help="Frequency of the tone in Hz; found when left out.")] = None,
    band_low: Annotated[float, typer.Option(help="Lower limit of the THD+N band in Hz.")] = 10.0,
    band_high: Annotated[float, typer.Option(help="Upper limit of the THD+N band in Hz.")] = 20_000.0,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Read power and distortion of each channel from a WAV capture of a steady tone."""
    from rulvek.services.desk import analyse_wav

    report = analyse_wav(file, volts_full_scale, load, tone, band_low, band_high)
    if as_json:
        typer.echo(json.dumps(report, allow_nan=False))
        return
    for number, channel in enumerate(report["channels"], 1):
        typer.echo(
            f"channel {number}: {channel['watts']:.4g} W into {load:g} Ω, {channel['rms_volts']:.5g} V rms, "
            f"{channel['fundamental_hz']:.3f} Hz, THD {channel['thd_percent']:.4g} % of the fundamental, "
            f"THD+N {channel['thd_n_percent']:.4g} % of the whole, DC {channel['dc_volts']:.4g} V"
        )
