"""A dossier with its records in one ZIP: the signed PDF, and the bundle that its figures can be worked out from."""

import shutil
import zipfile
from dataclasses import dataclass
from pathlib import Path

from rulvek.core.errors import BadInput
from rulvek.store.formats.archives import of_somebody_else

PDF, RECORDS = "dossier.pdf", "records.zip"
MOST_BYTES = {PDF: 64 * 2**20, RECORDS: 2 * 2**30}
_AT = (1980, 1, 1, 0, 0, 0)


@dataclass(frozen=True, slots=True)
class UnpackedDossier:
    """The PDF, and where the records lie."""

    pdf: bytes
    records: Path


def write_dossier(target: Path, pdf: bytes, records: Path) -> None:
    """Write both parts; the records are packed already."""
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as packed:
        packed.writestr(zipfile.ZipInfo(PDF, _AT), pdf)
        with records.open("rb") as source, packed.open(zipfile.ZipInfo(RECORDS, _AT), "w", force_zip64=True) as out:
            shutil.copyfileobj(source, out, 2**20)


def read_dossier(source: Path, folder: Path) -> UnpackedDossier:
    """Read both parts, the records into a folder.

    Raises:
        BadInput: it is no such ZIP, is damaged, or holds something else or too much.
    """
    with of_somebody_else("This dossier is damaged, or is no ZIP."), zipfile.ZipFile(source) as packed:
        sizes = {one.filename: one.file_size for one in packed.infolist()}
        if set(sizes) != {PDF, RECORDS} or len(packed.infolist()) != 2:
            raise BadInput(f"This is no dossier: it holds {PDF} and {RECORDS}, and nothing else.", field="file")
        if any(size > MOST_BYTES[name] for name, size in sizes.items()):
            raise BadInput("This dossier is larger than any that Rulvek writes.", field="file")
        records = folder / RECORDS
        with packed.open(RECORDS) as inner, records.open("wb") as out:
            shutil.copyfileobj(inner, out, 2**20)
        return UnpackedDossier(packed.read(PDF), records)
