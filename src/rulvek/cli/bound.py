"""``rulvek bound``: what measured units say of a whole production."""

import csv
import io
import json
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from rulvek.cli.common import app, clear_errors, text_of
from rulvek.core.errors import BadInput
from rulvek.core.quantities import typed_number

if TYPE_CHECKING:
    from rulvek.core.ratings.population import Bound, Promise, SampledUnit

COLUMNS = ("unit", "lot", "watts", "censored")
_YES, _NO = ("1", "yes", "true", "x"), ("", "0", "no", "false")


@app.command()
@clear_errors
def bound(
    file: Annotated[
        Path, typer.Argument(help="CSV with the columns unit, lot, watts, censored; - for standard input.")
    ],
    share: Annotated[float, typer.Option(help="Share of all units that is to reach the figure.")] = 0.95,
    confidence: Annotated[float, typer.Option(help="Confidence that they do.")] = 0.95,
    systematic: Annotated[
        float, typer.Option(help="Standard uncertainty in W that all readings share, as by their calibration.")
    ] = 0.0,
    step: Annotated[float, typer.Option(help="The proposal is a multiple of so many W.")] = 1.0,
    wanted: Annotated[float | None, typer.Option(help="A figure in W that somebody would like to print.")] = None,
    channels: Annotated[
        int, typer.Option(help="Of so many channels each unit's figure is the weakest; 1: figures scatter normally.")
    ] = 1,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
) -> None:
    """Say which figure a production bears by its measured units, one figure each, all at the same conditions."""
    from rulvek.core.ratings.population import Promise, bound_of

    sample = sample_of(text_of(file))
    promise = Promise(share, confidence, systematic, step_watts=step, wanted_watts=wanted, channels=channels)
    found = bound_of(sample, promise)
    if as_json:
        typer.echo(json.dumps(_data(found), allow_nan=False))
        return
    for line in _lines(found, promise):
        typer.echo(line)


def sample_of(text: str) -> "list[SampledUnit]":
    """Units of a CSV, by commas or semicolons; ``lot`` and ``censored`` may be missing.

    Raises:
        BadInput: a column that is missing or not known, or a cell that is none, by its line.
    """
    from rulvek.core.ratings.population import SampledUnit

    head = text.lstrip("\ufeff").partition("\n")[0]
    delimiter = ";" if head.count(";") > head.count(",") else ","
    try:
        rows = list(csv.DictReader(io.StringIO(text.lstrip("\ufeff")), delimiter=delimiter, skipinitialspace=True))
    except csv.Error as error:
        raise BadInput(f"The file is no CSV: {error}.", field="file") from None
    if head and not rows and {"unit", "watts"} <= {one.strip().casefold() for one in head.split(delimiter)}:
        raise BadInput("The file has headings, but no unit below them.", field="file")
    named = [(name or "").strip().casefold() for name in (rows[0] if rows else {}) if name is not None]
    strange = next((name for name in named if name not in COLUMNS), None)
    if not rows or strange or not {"unit", "watts"} <= set(named):
        wrong = f"there is no column “{strange[:40]}”" if strange else "it needs the columns unit and watts"
        raise BadInput(f"The file is no sample: {wrong}; the columns are {', '.join(COLUMNS)}.", field="file")
    found = []
    for at, row in enumerate(rows, start=2):
        cells = {(name or "").strip().casefold(): (cell or "").strip() for name, cell in row.items() if name}
        if None in row or any(cell is None for cell in row.values()):
            raise BadInput(f"Line {at} has another number of cells than the headings.", field="file")
        if not any(cells.values()):
            continue
        found.append(SampledUnit(cells["unit"], _watts(cells["watts"], at), cells.get("lot", ""), _censored(cells, at)))
    return found


def _watts(text: str, line: int) -> float:
    try:
        value = typed_number(text)
    except ValueError:
        raise BadInput(f"Line {line}: “{text[:40]}” is no number of watts.", field="watts") from None
    if not value > 0:
        raise BadInput(f"Line {line}: watts must be above 0, got {text[:40]}.", field="watts")
    return value


def _censored(cells: dict[str, str], line: int) -> bool:
    word = cells.get("censored", "").casefold()
    if word not in _YES + _NO:
        raise BadInput(f"Line {line}: censored is yes or no, not “{word[:40]}”.", field="censored")
    return word in _YES


def _data(found: "Bound") -> dict[str, Any]:
    fit = found.normality
    return {
        "n": found.n,
        "lots": found.lots,
        "mean": found.mean,
        "spread": found.spread,
        "between": found.between,
        "within": found.within,
        "method": found.method.value,
        "k": found.k,
        "bound": found.bound_watts,
        "proposal": found.proposal_watts,
        "normality": {"statistic": fit.statistic, "p": fit.p} if fit else None,
        "more_units": found.more_units,
        "notes": list(found.notes),
    }


def _lines(found: "Bound", promise: "Promise") -> list[str]:
    lots = f"{found.lots} lot{'' if found.lots == 1 else 's'}"
    said = [f"{found.n} units of {lots}, {found.method.value}"]
    if found.mean is not None and found.spread is not None:
        said.append(f"mean {found.mean:.5g} W, spread {found.spread:.3g} W")
    if found.between is not None and found.within is not None:
        said.append(f"between lots {found.between:.3g} W, within {found.within:.3g} W")
    if found.bound_watts is not None:
        of_all = f"{100 * promise.share:g} % of all units"
        of = f", for the weakest of {promise.channels} channels" if promise.channels > 1 else ""
        factor = f" (k = {found.k:.4g}{of})" if found.k is not None else ""
        said.append(f"bound {found.bound_watts:.5g} W{factor}: {of_all} reach it, at {100 * promise.confidence:g} %")
    said.append(f"proposal {found.proposal_watts:g} W" if found.proposal_watts is not None else "no figure to propose")
    if found.more_units:
        said.append(f"{found.more_units} more units for {promise.wanted_watts:g} W")
    return [*said, *found.notes]
