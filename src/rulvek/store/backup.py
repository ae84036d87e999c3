"""Backups: the records and every file they name, taken while they are worked with, verified before they are restored.

A backup is a ZIP file, or a folder to which only what is new is copied. Either holds the database as it stood at one
moment, the files by their hashes, and a manifest with the hash of each and the head of the audit chain: a shortened
chain is found too.
"""

import hashlib
import json
import shutil
import sqlite3
import tempfile
import zipfile
import zlib
from collections.abc import Callable, Iterator, Mapping
from contextlib import closing, contextmanager
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any, Protocol

from rulvek.core.errors import BadInput, Conflict
from rulvek.store import named
from rulvek.store.copying import copy_records
from rulvek.store.engine import Database, Session
from rulvek.store.files import FileStore, sha256_of

FORMAT = "rulvek-backup 1"
DATABASE, FILES, MANIFEST = "rulvek.db", "captures", "manifest.json"
_PIECE = 2**20
Progress = Callable[[int, int], None]
"""Hears how many files of how many are done."""


@dataclass(frozen=True, slots=True)
class Manifest:
    """What a backup holds: each file by its path with its hash, and where the audit chain ended."""

    made_at: str
    schema: str
    chain_entries: int
    chain_head: str
    files: Mapping[str, str]
    format: str = FORMAT

    @staticmethod
    def from_text(text: str) -> "Manifest":
        """Read one.

        Raises:
            BadInput: it is none.
        """
        try:
            said = json.loads(text)
            if said["format"] != FORMAT:
                raise KeyError
            return Manifest(**said)
        except (ValueError, KeyError, TypeError):
            raise BadInput("The manifest of this backup cannot be read.", field="file") from None


@dataclass(frozen=True, slots=True)
class BackedUp:
    """What was done: the whole of it, and what had to be copied."""

    manifest: Manifest
    copied: int
    bytes: int


class _Target(Protocol):
    def has(self, path: str, sha256: str) -> bool: ...

    def put(self, path: str, source: Path, sha256: str) -> None: ...


def back_up(database: Database, files: FileStore, target: Path, progress: Progress = lambda *_: None) -> BackedUp:
    """Take a backup while the records are worked with; nobody waits for it.

    The database is copied in one step: in write-ahead mode that is a reader, whom no writer waits for. Of a server's
    records a file is made, row by row from one moment's view: a backup is the same wherever it was taken.

    Raises:
        Conflict: a file that the records name is gone or damaged, or there is something else at the target.
        BadInput: the records are not in a file.
    """
    if not database.is_kept:
        raise BadInput("Records in memory cannot be backed up.", field="data")
    with tempfile.TemporaryDirectory(prefix="rulvek-backup-") as folder:
        copy = Path(folder) / DATABASE
        _copy_database(database, copy)
        named = _opened(copy, lambda session: dict(_files_of(session, files)))
        schema, entries, head = _state_of(copy)
        hashes = {DATABASE: sha256_of(copy)} | {f"{FILES}/{path}": sha256 for path, (_, sha256) in named.items()}
        made_at = datetime.now(UTC).isoformat(timespec="seconds")
        manifest = Manifest(made_at, schema, entries, head, hashes)
        with _writing(target) as out:
            copied, size = 0, 0
            for done, (path, (source_file, sha256)) in enumerate(named.items(), 1):
                if not out.has(f"{FILES}/{path}", sha256):
                    if sha256_of(source_file) != sha256:
                        raise Conflict(f"The file {source_file.name} is not as it was kept.", todo="rulvek verify")
                    out.put(f"{FILES}/{path}", source_file, sha256)
                    copied, size = copied + 1, size + source_file.stat().st_size
                progress(done, len(named))
            out.put(DATABASE, copy, hashes[DATABASE])
            said = Path(folder) / MANIFEST
            said.write_text(json.dumps(asdict(manifest), indent=1) + "\n", encoding="utf-8")
            out.put(MANIFEST, said, sha256_of(said))
            return BackedUp(manifest, copied, size + copy.stat().st_size)


def is_backup(source: Path) -> bool:
    """Whether a path is meant as a backup: a ZIP file, or a folder with a manifest."""
    return source.suffix.lower() == ".zip" or (source / MANIFEST).is_file()


def verify_backup(source: Path) -> tuple[Manifest, list[str]]:
    """Hold a backup against its manifest: what is wrong with it, one line each.

    Raises:
        BadInput: it is no backup.
    """
    with _reading(source) as (manifest, open_one):
        faults = []
        for path, sha256 in manifest.files.items():
            digest = open_one(path)
            if digest is None:
                faults.append(f"{path} is missing.")
            elif digest != sha256:
                faults.append(f"{path} is not as it was backed up.")
        return manifest, faults


def restore(source: Path, folder: Path) -> Manifest:
    """Put a backup into an empty folder, once all of it was verified; the records come to the newest schema later.

    Raises:
        BadInput: it is no backup, or the folder is not empty.
        Conflict: something of it is damaged; nothing is written.
    """
    if folder.exists() and any(folder.iterdir()):
        raise BadInput(f"{folder} is not empty: a backup is restored into a folder of its own.", field="folder")
    manifest, faults = verify_backup(source)
    if faults:
        raise Conflict(f"The backup is damaged: {faults[0]}", todo="Nothing was written. Take another one.")
    folder.parent.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(prefix="rulvek-restore-", dir=folder.parent) as made:
        out = Path(made) / "records"
        out.mkdir()
        if source.is_dir():
            for path in manifest.files:
                (out / path).parent.mkdir(parents=True, exist_ok=True)
                shutil.copyfile(source / path, out / path)
        else:
            with zipfile.ZipFile(source) as packed:
                for path in manifest.files:
                    packed.extract(path, out)
        if _state_of(out / DATABASE) != (manifest.schema, manifest.chain_entries, manifest.chain_head):
            raise Conflict("The audit chain of the backup does not end where its manifest says.")
        if folder.exists():
            folder.rmdir()
        out.rename(folder)
    return manifest


def _copy_database(database: Database, copy: Path) -> None:
    if database.engine.dialect.name == "sqlite":
        source = Path(database.engine.url.database or "")
        if not source.is_file():
            raise BadInput(f"There are no records in {source.parent}.", field="data")
        with closing(sqlite3.connect(f"file:{source}?mode=ro", uri=True, timeout=60)) as reader:
            with closing(sqlite3.connect(copy)) as out:
                reader.backup(out, pages=-1)
    else:
        with closing(Database(f"sqlite:///{copy}")) as made:
            copy_records(database, made)
    with closing(sqlite3.connect(copy)) as out:
        out.execute("PRAGMA journal_mode=DELETE")  # one file, without another beside it


def _opened(path: Path, look: Callable[[Session], Any]) -> Any:
    database = Database(f"sqlite:///{path}")
    try:
        with database.reading() as session:
            return look(session)
    finally:
        database.close()


def _state_of(path: Path) -> tuple[str, int, str]:
    """Schema, and the audit chain's length and head, asked without changing a byte of the file."""
    connection = sqlite3.connect(f"file:{path}?mode=ro&immutable=1", uri=True)
    try:
        (schema,) = connection.execute("SELECT version_num FROM alembic_version").fetchone()
        entries, last = connection.execute("SELECT count(*), max(id) FROM audit_entry").fetchone()
        head = connection.execute("SELECT hash FROM audit_entry WHERE id = ?", (last,)).fetchone() if last else ("",)
        return schema, entries, head[0]
    except sqlite3.DatabaseError as damage:
        raise Conflict(f"The database of the backup is damaged: {damage}.") from None
    finally:
        connection.close()


def files_named(session: Session, files: FileStore) -> list[Path]:
    """Every file that the records name."""
    return [path for _, (path, _) in _files_of(session, files)]


def _files_of(session: Session, files: FileStore) -> Iterator[tuple[str, tuple[Path, str]]]:
    """Every file that the records name, by its path in the folder of files, with its hash."""
    root = files.root.resolve()
    for _, kept in named.captures(session):
        for found, sha256 in files.parts(kept):
            yield str(found.relative_to(root)), (found, sha256)
    for path, sha256 in (*((path, sha256) for _, path, sha256 in named.originals(session)), *named.brought(session)):
        yield path, (files.path(path), sha256)


@contextmanager
def _writing(target: Path) -> Iterator[_Target]:
    if target.suffix.lower() == ".zip":
        if target.exists():
            raise Conflict(f"{target.name} is there already.", todo="Choose another name.")
        target.parent.mkdir(parents=True, exist_ok=True)
        partial = target.with_name(f"{target.name}.part")
        try:
            with zipfile.ZipFile(partial, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as packed:
                yield _Zip(packed)
            partial.replace(target)
        except BaseException:
            partial.unlink(missing_ok=True)
            raise
        return
    if target.exists() and any(target.iterdir()) and not (target / MANIFEST).is_file():
        raise Conflict(f"{target} holds something else than a backup.", todo="Choose an empty folder.")
    target.mkdir(parents=True, exist_ok=True)
    yield _Folder(target)


@dataclass(frozen=True, slots=True)
class _Zip:
    packed: zipfile.ZipFile

    def has(self, path: str, sha256: str) -> bool:
        return False

    def put(self, path: str, source: Path, sha256: str) -> None:
        self.packed.write(source, path)


@dataclass(frozen=True, slots=True)
class _Folder:
    root: Path

    def has(self, path: str, sha256: str) -> bool:
        """Files are named by their hashes: what is there with its size is there; ``verify`` reads it again."""
        return (self.root / path).is_file()

    def put(self, path: str, source: Path, sha256: str) -> None:
        target = self.root / path
        target.parent.mkdir(parents=True, exist_ok=True)
        partial = target.with_name(f"{target.name}.part")
        shutil.copyfile(source, partial)
        partial.replace(target)


@contextmanager
def _reading(source: Path) -> Iterator[tuple[Manifest, Callable[[str], str | None]]]:
    """The manifest, and what tells the hash of a file in the backup; None for one that is not there."""
    if source.is_dir():
        if not (source / MANIFEST).is_file():
            raise BadInput(f"{source} holds no backup.", field="file")
        manifest = Manifest.from_text((source / MANIFEST).read_text(encoding="utf-8"))
        yield manifest, lambda path: sha256_of(source / path) if (source / path).is_file() else None
        return
    try:
        with zipfile.ZipFile(source) as packed:
            manifest = Manifest.from_text(packed.read(MANIFEST).decode("utf-8"))
            names = set(packed.namelist())
            yield manifest, lambda path: _digest(packed, path) if path in names else None
    except (zipfile.BadZipFile, OSError, KeyError, UnicodeDecodeError):
        raise BadInput(f"{source} is no backup that can be read.", field="file") from None


def _digest(packed: zipfile.ZipFile, path: str) -> str:
    digest = hashlib.sha256()
    try:
        with packed.open(path) as file:
            while piece := file.read(_PIECE):
                digest.update(piece)
    except (zipfile.BadZipFile, zlib.error):
        return ""
    return digest.hexdigest()
