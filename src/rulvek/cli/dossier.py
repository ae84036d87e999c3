"""``rulvek dossier`` and ``rulvek verify-dossier``: the evidence behind a rating, handed over and looked at."""

import json
import math
import shutil
import tempfile
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from rulvek.cli.common import app, clear_errors, settings_from
from rulvek.core.errors import BadInput

if TYPE_CHECKING:
    from rulvek.services.ratings import Checked


@app.command()
@clear_errors
def dossier(
    rating: Annotated[int, typer.Argument(help="The rating's number.")],
    out: Annotated[Path | None, typer.Option(help="Where to write it; .zip takes its records along.")] = None,
    data: Annotated[Path | None, typer.Option(help="Data folder.")] = None,
) -> None:
    """Write a rating's dossier, signed with the lab's certificate."""
    from rulvek.composition import make_services, opened
    from rulvek.core.records.actor import PROGRAM

    settings = settings_from(data_folder=data)
    target = out or Path(f"rating-{rating}.pdf")
    if target.suffix.lower() not in (".pdf", ".zip"):
        raise BadInput("A dossier is a .pdf, or a .zip with its records.", field="out")
    services = make_services(opened(settings), settings.captures, math.inf, inbox="dossier", lab=settings.lab)
    try:
        if target.suffix.lower() == ".pdf":
            target.write_bytes(services.rating_dossiers.signed(rating))
        else:
            shutil.move(services.rating_dossiers.with_records(rating, PROGRAM), target)
    except OSError as failure:
        raise BadInput(f"{target} cannot be written: {failure.strerror}.", field="out") from None
    finally:
        services.close()
    typer.echo(f"Written to {target}.")


@app.command("verify-dossier")
@clear_errors
def verify_dossier(
    file: Annotated[Path | None, typer.Argument(help="A dossier: .pdf, or .zip with its records.")] = None,
    trust: Annotated[Path | None, typer.Option(help="A certificate (PEM) that is known to be the lab's.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print one JSON object.")] = False,
    schema: Annotated[bool, typer.Option("--schema", help="Print the JSON Schema of the basis it carries.")] = False,
) -> None:
    """Look at a dossier without any records: its signature, its digests, its figures worked out again. 1: faults."""
    from rulvek.services.ratings import basis_schema, check_dossier

    if schema:
        typer.echo(json.dumps(basis_schema(), indent=1, ensure_ascii=False))
        return
    if file is None:
        raise BadInput("Name the dossier.", field="file")
    trusted = _bytes(trust) if trust else None
    if file.suffix.lower() == ".zip":
        from rulvek.store.formats.dossiers import read_dossier

        with tempfile.TemporaryDirectory(prefix="rulvek-dossier-") as folder:
            if not file.is_file():
                raise BadInput(f"There is no file {file}.", field="file")
            unpacked = read_dossier(file, Path(folder))
            found = check_dossier(unpacked.pdf, trusted)
            faults, held = [*found.faults, *_recomputed(found, unpacked.records, Path(folder) / "data")], True
    else:
        found = check_dossier(_bytes(file), trusted)
        faults, held = list(found.faults), False
    if as_json:
        typer.echo(json.dumps(_data(found, faults, held), allow_nan=False))
    else:
        for line in _lines(found, faults, held):
            typer.echo(line)
    if faults:
        raise typer.Exit(1)


def _recomputed(found: "Checked", records: Path, folder: Path) -> list[str]:
    """What comes out otherwise when a dossier's records are taken into an empty folder and worked out there."""
    from rulvek.composition import make_services
    from rulvek.core.records.actor import PROGRAM
    from rulvek.store.engine import Database

    folder.mkdir()
    database = Database(f"sqlite:///{folder}/rulvek.db", durable=False)
    database.migrate()
    services = make_services(database, folder / "captures", math.inf)
    try:
        arriving = services.bundles.arriving(records.name)
        with records.open("rb") as source:
            while piece := source.read(2**20):
                arriving.write(piece)
        waiting = services.bundles.arrived(arriving)
        taken = services.bundles.take_in(waiting.id, PROGRAM)
        return list(services.ratings.held_against(taken.model_id, found.basis))
    finally:
        services.close()


def _bytes(file: Path) -> bytes:
    try:
        return file.read_bytes()
    except OSError as failure:
        raise BadInput(f"{file} cannot be read: {failure.strerror}.", field="file") from None


def _data(found: "Checked", faults: list[str], held: bool) -> dict[str, Any]:
    signature, bound = found.signature, found.basis.bound
    return {
        "rating": found.wording,
        "basis": found.digest,
        "units": bound.n,
        "bound": bound.bound_watts,
        "proposal": bound.proposal_watts,
        "signed_by": signature.by if signature else None,
        "fingerprint": signature.fingerprint if signature else None,
        "trusted": signature.trusted if signature else None,
        "from_records": held,
        "simulated": found.basis.simulated,
        "faults": faults,
    }


def _lines(found: "Checked", faults: list[str], held: bool) -> list[str]:
    signature, bound = found.signature, found.basis.bound
    lines = [f"{found.wording}{', simulated' if found.basis.simulated else ''}."]
    if signature is not None:
        lines.append(f"Signed by {signature.by}; its certificate's SHA-256 is {signature.fingerprint}.")
        if signature.trusted is None:
            lines.append("Whether that is the lab's, nobody but the lab can say: compare it, or give --trust.")
    if bound.bound_watts is not None:
        lines.append(f"{bound.n} units bear {bound.bound_watts:.2f} W; {bound.proposal_watts} W may be proposed.")
    if not faults:
        of = "from its records, in an empty folder" if held else "from its basis"
        lines.append(f"Worked out again {of}: the same figures. Everything is as it was signed.")
    return lines + faults
