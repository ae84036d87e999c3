"""``rulvek judge``: claims and readings from a file, verdicts out; nothing is recorded."""

import json
from dataclasses import asdict
from pathlib import Path
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors, text_of
from rulvek.core.errors import BadInput

EXAMPLE = {
    "product": {"topology": "AB", "regulated": False, "groups": [{"name": "main", "channels": [1, 2]}]},
    "method": {"thd_n_limit_percent": 1.0},
    "claims": [
        {
            "id": 1,
            "document": "Manual",
            "group": "main",
            "watts": 75,
            "load_ohms": 4,
            "supply_volts": 14.4,
            "thd_n_percent": 1,
            "band_low_hz": 20,
            "band_high_hz": 20000,
        }
    ],
    "units": [
        {
            "serial": "T2-0001",
            "readings": [
                {
                    "mode": "certified",
                    "group": "main",
                    "load_ohms": 4,
                    "measured_ohms": 3.97,
                    "tone_hz": 1000,
                    "watts": [78.4, 79.1],
                    "thd_n_percent": 0.98,
                    "supply_volts": 14.38,
                    "end": "limit",
                    "bracket_db": 0.05,
                    "volts_percent": 0.5,
                    "at": "2026-03-02T10:15:00Z",
                }
            ],
        }
    ],
}


@app.command()
@clear_errors
def judge(
    file: Annotated[Path | None, typer.Argument(help="A JSON file of claims and readings; - for input.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
    example: Annotated[bool, typer.Option("--example", help="Print a file to begin with.")] = False,
    schema: Annotated[bool, typer.Option("--schema", help="Print the JSON Schema of the file.")] = False,
) -> None:
    """Judge claims by readings, without records."""
    from pydantic import TypeAdapter, ValidationError

    from rulvek.core.judgement.statement import Statement, described, judge_statement
    from rulvek.malformed import field_of, sentence

    if example:
        typer.echo(json.dumps(EXAMPLE, indent=2, ensure_ascii=False))
        return
    if schema:
        typer.echo(json.dumps(TypeAdapter(Statement).json_schema(), indent=1, ensure_ascii=False))
        return
    if file is None:
        raise BadInput("A file of claims and readings is missing.", todo="See --example.", field="file")
    try:
        statement = TypeAdapter(Statement).validate_json(text_of(file))
    except ValidationError as error:
        first = dict(error.errors()[0])
        raise BadInput(sentence(first), field=field_of(first)) from None
    verdicts = judge_statement(statement)
    if as_json:
        typer.echo(json.dumps({"verdicts": [asdict(one) for one in verdicts]}, allow_nan=False, ensure_ascii=False))
        return
    for line in described(verdicts):
        typer.echo(line)
