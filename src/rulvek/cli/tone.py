"""``rulvek tone``: a test tone to play from any source."""

from pathlib import Path
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors


@app.command()
@clear_errors
def tone(
    file: Annotated[Path, typer.Argument(help="The WAV file to write.")],
    hz: Annotated[float, typer.Option(help="Frequency in Hz.")] = 1000.0,
    seconds: Annotated[float, typer.Option(help="Length (of each step), rounded to whole cycles.")] = 10.0,
    level: Annotated[list[float] | None, typer.Option(help="Peak level in dB re full scale; repeat for steps.")] = None,
    rate: Annotated[int, typer.Option(help="Sample rate in Hz.")] = 48_000,
    depth: Annotated[str, typer.Option(help="pcm24 or float32.")] = "pcm24",
    burst: Annotated[str, typer.Option(help="A burst profile by name, as “1 kHz”, “40 Hz” or “8 cycles”.")] = "",
) -> None:
    """Write a sine, a sine stepped through several levels, or bursts, as a WAV file to play from any source."""
    from rulvek.services.desk import ToneSpec, write_tone

    samples = write_tone(file, ToneSpec(hz, seconds, tuple(level or [0.0]), rate, depth, burst))
    typer.echo(f"{file}: {samples / rate:.3f} s of {hz:g} Hz at {rate} Hz, {depth}.")
