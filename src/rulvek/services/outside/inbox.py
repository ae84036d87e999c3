"""Recorded files while they wait to be kept: what was said of each, how far it has come, what was found."""

import threading
from collections import Counter
from dataclasses import dataclass, field
from datetime import date
from pathlib import Path
from typing import Annotated, Any, ClassVar

from annotated_types import Ge, Gt, Le, Len, Lt

from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import Conflict, NotFound, RulvekError
from rulvek.core.judgement.judged import JudgedAttempt
from rulvek.core.quantities import ENTERED, Amps, InstrumentName, InstrumentPercent, Ohms, SupplyVolts, Text
from rulvek.core.readings.survey import Survey
from rulvek.core.runs.modes import End
from rulvek.core.runs.recording import Recorded
from rulvek.core.runs.spec import RunSpec
from rulvek.services.arriving import ArrivingFile
from rulvek.services.views.outside import InboxState
from rulvek.store.formats.recorded_files import MOST_COLUMNS, ColumnUse, Layout, inspect

MOST_BYTES = 500 * 2**20
MOST_OF_ONE = 8
MOST_WAITING = 4 * MOST_OF_ONE
"""Of everybody: who sends many takes nobody else's place."""


@dataclass(frozen=True, slots=True)
class RecordingSetup:
    """What a person says of a recording: which run it is, what its columns are, and what no column tells.

    ``load_measured`` is used where no output current was recorded; volts and amps where no supply column was.
    ``accuracy_percent`` is the recorder's limit in percent of its volts. ``end`` is how the run ended, where the wave
    alone does not tell; ``read_on`` is None for today.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    run: RunSpec
    rows: Annotated[tuple[ColumnUse, ...], Len(1, MOST_COLUMNS)]
    instrument: InstrumentName = ""
    accuracy_percent: InstrumentPercent = 1.0
    load_measured: Ohms | None = None
    time_column: Annotated[int, Ge(0), Lt(MOST_COLUMNS)] | None = None
    sample_rate: Annotated[float, Gt(0), Le(1e8)] | None = None
    start_volts: SupplyVolts | None = None
    loaded_volts: SupplyVolts | None = None
    amps: Amps | None = None
    clamp_zeroed: bool | None = None
    controls_in_position: bool | None = None
    all_loaded: bool = True
    remark: Text = ""
    policy: SupplyPolicy = SupplyPolicy.HELD
    read_on: date | None = None
    end: End | None = None


@dataclass(slots=True)
class InboxFile:
    """A file that was taken in, what was said of it, and how far it has come."""

    id: str
    name: str
    whose: str
    path: Path
    layout: Layout
    state: InboxState = "laid out"
    doing: str = ""
    done: float = 0.0
    problem: str = ""
    setup: RecordingSetup | None = None
    unit_id: int | None = None
    seen: Survey | None = None
    recorded: Recorded | None = None
    sha256: str = ""
    judged: JudgedAttempt | None = None
    kept_as: int | None = None
    keeping: threading.Lock = field(default_factory=threading.Lock)
    thread: threading.Thread | None = None
    stopping: threading.Event = field(default_factory=threading.Event)

    @property
    def is_being_read(self) -> bool:
        """Whether somebody waits for it to be read."""
        return self.thread is not None and self.thread.is_alive()


class Inbox:
    """The files that wait in one folder, which belongs to this process; what it finds there at first is left over.

    A full inbox takes nothing more: nobody's file is deleted to make room for another's.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._files: dict[str, InboxFile] = {}
        self._arriving: Counter[str] = Counter()
        self._door = threading.Lock()

    def clear(self) -> None:
        """Delete what an earlier process left behind."""
        for file in self.folder.glob("*"):
            file.unlink()

    def arriving(self, name: str, whose: str) -> "Arriving":
        """Begin to take a file in.

        Raises:
            Conflict: somebody's share of the inbox is full, or all of it.
        """
        with self._door:
            own = self._arriving[whose] + sum(file.whose == whose for file in self._files.values())
            if own >= MOST_OF_ONE:
                raise _full(f"{MOST_OF_ONE} of your recordings wait to be kept already.")
            if self._arriving.total() + len(self._files) >= MOST_WAITING:
                raise _full(f"{MOST_WAITING} recordings wait to be kept already.")
            self._arriving[whose] += 1
        return Arriving(self, name, whose)

    def arrived(self, path: Path, name: str, whose: str) -> InboxFile:
        """Lay a complete file out; it waits under its own id until it is kept or let go.

        Raises:
            BadCapture: neither WAV nor a table of numbers; the file is gone then.
        """
        try:
            layout = inspect(path, name)
        except RulvekError:
            path.unlink(missing_ok=True)
            raise
        file = InboxFile(path.name, name, whose, path, layout)
        self._files[file.id] = file
        return file

    def gave_up_or_arrived(self, whose: str) -> None:
        """A file that was arriving is not any more."""
        with self._door:
            self._arriving[whose] -= 1

    def file(self, identity: str) -> InboxFile:
        """A waiting file.

        Raises:
            NotFound: there is none of that id.
        """
        found = self._files.get(identity)
        if found is None:
            raise NotFound("There is no such recording waiting.", todo="Drop the file again.")
        return found

    def everything(self) -> list[InboxFile]:
        """All that waits, the oldest first."""
        return list(self._files.values())

    def forget(self, identity: str) -> None:
        """A file does not wait any more."""
        self._files.pop(identity, None)


def _full(what: str) -> Conflict:
    todo = "Keep some of them or let them go, then send this one again."
    return Conflict(what, todo=todo, code="inbox-full")


class Arriving(ArrivingFile):
    """A recording while it is being sent; it has a place in the inbox from the start."""

    def __init__(self, inbox: Inbox, name: str, whose: str) -> None:
        super().__init__(inbox.folder, name, MOST_BYTES, "recording", "Cut it into shorter recordings.")
        self._inbox, self._whose, self._over = inbox, whose, False

    def finish(self) -> InboxFile:
        """The file is complete."""
        try:
            return self._inbox.arrived(self.complete(), self.name, self._whose)
        finally:
            self._end()

    def abandon(self) -> None:
        """The file will not be complete."""
        super().abandon()
        self._end()

    def _end(self) -> None:
        if not self._over:
            self._over = True
            self._inbox.gave_up_or_arrived(self._whose)
