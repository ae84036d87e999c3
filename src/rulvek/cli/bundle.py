"""``rulvek bundle``: what a bundle of another lab holds, and whether it is as it was packed."""

import json
import tempfile
from pathlib import Path
from typing import Annotated

import typer

from rulvek.cli.common import app, clear_errors


@app.command()
@clear_errors
def bundle(
    file: Annotated[Path | None, typer.Argument(help="A bundle.")] = None,
    schema: Annotated[bool, typer.Option("--schema", help="Print the JSON Schema of a bundle's JSON.")] = False,
) -> None:
    """Hold a bundle against its manifest and its schema, and tell what is in it; no records are needed."""
    from rulvek.core.errors import BadInput
    from rulvek.core.records.bundle_rehearsal import counted
    from rulvek.services.bundles import opened
    from rulvek.store.formats import bundles as formats

    if schema:
        typer.echo(json.dumps(formats.schema(), indent=1, ensure_ascii=False))
        return
    if file is None or not file.is_file():
        raise BadInput(f"There is no bundle {file or ''}".rstrip() + ".", field="file")
    with tempfile.TemporaryDirectory(prefix="rulvek-bundle-") as folder:
        found = opened(file, Path(folder))
    said = found.bundle
    attempts = sum(1 for campaign in found.campaigns for _ in campaign.attempts)
    lab = said.lab or "a lab that does not name itself"
    typer.echo(f"{said.of}, packed by {said.packed_by} at {lab}, {said.packed_at:%Y-%m-%d %H:%M} UTC.")
    counts = (len(said.units), "unit"), (len(found.campaigns), "campaign"), (attempts, "attempt")
    held = [counted(count, what) for count, what in (*counts, (len(found.files), "file"))]
    typer.echo(f"{said.model.name}: {', '.join(held)}; all as packed.")
    typer.echo(f"The audit chain there ended at entry {said.chain_entries}, {said.chain_head[:12]}.")
