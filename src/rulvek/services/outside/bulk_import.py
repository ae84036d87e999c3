"""Many recordings at once, without a browser: what each one is comes from options or from the rows of a list."""

import csv
import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from rulvek.core.errors import BadInput, RulvekError
from rulvek.core.quantities import typed_number
from rulvek.core.records.actor import Actor
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.services.outside.inbox import RecordingSetup
from rulvek.services.outside.recordings import Recordings
from rulvek.services.views.attempt import AttemptView
from rulvek.services.views.outside import RecordingView
from rulvek.store import load, methods
from rulvek.store.engine import Database
from rulvek.store.formats.recorded_files import ColumnUse, Layout

PART_BYTES = 1 << 20
LIST_COLUMNS = (
    "file",
    "unit",
    "mode",
    "group",
    "load",
    "channels",
    "bridged",
    "full_scale",
    "load_measured",
    "held_volts",
    "loaded_volts",
    "instrument",
    "remark",
)
_QUANTITY_BY_UNIT = {"a": "output_amps", "ma": "output_amps"}


@dataclass(frozen=True, slots=True)
class Job:
    """One file and what it is; ``channels`` are those under test, in the order of the file's columns.

    ``full_scale`` is the volts that 1.0 of a WAV file stands for; a table's units speak for themselves.
    """

    file: Path
    unit: str
    mode: Mode = Mode.CERTIFIED
    group: str = ""
    load: float = 4.0
    channels: tuple[int, ...] = ()
    bridged: bool = False
    full_scale: float = 1.0
    load_measured: float | None = None
    held_volts: float = 14.4
    loaded_volts: float | None = None
    instrument: str = ""
    remark: str = ""


@dataclass(frozen=True, slots=True)
class Imported:
    """What became of a file: the attempt as it stands on record (or would), or the problem."""

    file: Path
    attempt_id: int | None
    attempt: AttemptView | None
    problem: str


def read_list(path: Path, defaults: Job) -> list[Job]:
    """Jobs from a CSV with a heading: ``file`` and any of the other columns; empty cells take the defaults.

    Columns are parted by commas, semicolons or tabs; a decimal comma is one.

    Raises:
        BadInput: no such file, a column that is not known, or a cell that cannot be used; the sentence names the row.
    """
    try:
        with path.open(newline="", encoding="utf-8-sig") as file:
            heading = file.readline()
            file.seek(0)
            reader = csv.DictReader(file, delimiter=max(",;\t", key=heading.count))
            unknown = [name for name in reader.fieldnames or [] if name not in LIST_COLUMNS]
            if unknown or "file" not in (reader.fieldnames or []):
                wrong = f"has a column “{unknown[0]}”" if unknown else "has no column “file”"
                raise BadInput(f"{path.name} {wrong}; known are {', '.join(LIST_COLUMNS)}.", field="list")
            return [_job(path.parent, row, number, defaults) for number, row in enumerate(reader, 2)]
    except (OSError, UnicodeDecodeError, csv.Error):
        raise BadInput(f"{path} cannot be read as a CSV list.", field="list") from None


def _job(folder: Path, row: Mapping[str, str | None], number: int, defaults: Job) -> Job:
    job = defaults
    for name, cell in row.items():
        text = (cell or "").strip()
        if text:
            job = replace(job, **{name: _value(folder, name, text, number)})
    return job


def _value(folder: Path, name: str, text: str, number: int) -> Any:
    try:
        if name == "file":
            return folder / text
        if name == "mode":
            return Mode(text.lower())
        if name == "channels":
            return tuple(int(part) for part in text.split())
        if name == "bridged":
            return {"yes": True, "no": False}[text.lower()]
        if name in ("unit", "group", "instrument", "remark"):
            return text
        value = typed_number(text)
        if value <= 0:
            raise ValueError
        return value
    except (ValueError, KeyError):
        raise BadInput(f"Row {number}: “{text}” is no {name.replace('_', ' ')}.", field=name) from None


def import_one(
    database: Database,
    recordings: Recordings,
    job: Job,
    actor: Actor,
    tell: Callable[[RecordingView], None],
    dry_run: bool = False,
) -> Imported:
    """Take one file in, read it, and keep it unless it is a dry run. A problem is an answer, not an end."""
    identity = None
    try:
        unit_id, spec, channels = _place(database, job)
        identity, layout = _taken_in(recordings, job, actor)
        recordings.read(identity, unit_id, _setup(job, spec, channels, layout))
        while (shown := recordings.view(identity)).state == "reading":
            tell(shown)
            time.sleep(0.05)
        if shown.attempt is None:
            return Imported(job.file, None, None, shown.problem)
        if dry_run:
            return Imported(job.file, None, shown.attempt, "")
        attempt_id, identity = recordings.keep(identity, actor), None
        return Imported(job.file, attempt_id, shown.attempt, "")
    except RulvekError as error:
        return Imported(job.file, None, None, f"{error.what} {error.todo}".strip())
    finally:
        if identity is not None:
            recordings.let_go(identity)


def _taken_in(recordings: Recordings, job: Job, actor: Actor) -> tuple[str, Layout]:
    if not job.file.is_file():
        raise BadInput(f"There is no file {job.file}.", field="file")
    arriving = recordings.arriving(job.file.name, actor)
    try:
        with job.file.open("rb") as file:
            while part := file.read(PART_BYTES):
                arriving.write(part)
    except BaseException:
        arriving.abandon()
        raise
    shown = arriving.finish()
    return shown.id, recordings.layout(shown.id)


def _place(database: Database, job: Job) -> tuple[int, RunSpec, tuple[int, ...]]:
    """The unit, the run, and the channels that the run reads."""
    with database.reading() as session:
        unit = load.unit_by_serial(session, job.unit)
        product, method = load.model(session, unit.model_id).product, methods.usual(session)
    group = product.group(job.group or product.groups[0].name)
    channels = job.channels or tuple(channels[0] for channels in group.read(job.bridged))
    burst = method.burst_of(group.bass).name if job.mode is Mode.BURST else ""
    spec = RunSpec(job.mode, group.name, job.load, method.tone_of(group.bass), job.held_volts, job.bridged, burst)
    return unit.id, spec, channels


def _setup(job: Job, spec: RunSpec, channels: tuple[int, ...], layout: Layout) -> RecordingSetup:
    """Columns in their order: volts are the channels' outputs, amps after them the outputs' currents."""
    rows: list[ColumnUse] = []
    for index, column in enumerate(layout.columns):
        if index == layout.time_column:
            continue
        quantity = _QUANTITY_BY_UNIT.get(column.unit, "output_volts")
        known = sum(row.signal.quantity == quantity for row in rows)
        if known < len(channels):
            factor = job.full_scale if layout.kind == "wav" else column.factor
            rows.append(ColumnUse(index, quantity, channels[known], factor))  # type: ignore[arg-type]
    return RecordingSetup(
        spec,
        tuple(rows),
        job.instrument,
        load_measured=job.load_measured,
        time_column=layout.time_column,
        loaded_volts=job.loaded_volts,
        remark=job.remark,
    )
