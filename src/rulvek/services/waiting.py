"""A recorded file while it waits to be kept: what a person said of it, how far it has come, what was found."""

import threading
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal

from rulvek.core.measure.reading import Point
from rulvek.core.measure.recorded import Recorded
from rulvek.core.measure.recording import Survey
from rulvek.core.planning.wiring import RunSpec
from rulvek.services.views.attempt import AttemptView
from rulvek.services.views.outside import ColumnView, EnvelopeView, FoundView, LayoutView, RecordingView, SectionView
from rulvek.store.recordings import Layout, Row

State = Literal["laid out", "reading", "read", "failed", "stopped"]


@dataclass(frozen=True, slots=True)
class Setup:
    """What a person says of a recording: which run it is, what its columns are, and what no column tells.

    ``load_measured`` is used where no output current was recorded; volts and amps where no supply column was.
    ``accuracy_percent`` is the recorder's limit in percent of its volts.
    """

    spec: RunSpec
    rows: tuple[Row, ...]
    instrument: str
    accuracy_percent: float = 1.0
    load_measured: float | None = None
    time_column: int | None = None
    sample_rate: float | None = None
    start_volts: float | None = None
    loaded_volts: float | None = None
    amps: float | None = None
    clamp_zeroed: bool | None = None
    controls_in_position: bool | None = None
    all_loaded: bool = True
    remark: str = ""


@dataclass(slots=True)
class Waiting:
    """A file that was taken in, what was said of it, and how far it has come."""

    id: str
    name: str
    path: Path
    layout: Layout
    state: State = "laid out"
    doing: str = ""
    done: float = 0.0
    problem: str = ""
    setup: Setup | None = None
    unit_id: int | None = None
    seen: Survey | None = None
    recorded: Recorded | None = None
    sha256: str = ""
    attempt: AttemptView | None = None
    thread: threading.Thread | None = None
    stopping: threading.Event = field(default_factory=threading.Event)


def waiting_view(waiting: Waiting) -> RecordingView:
    """How far a file has come, and what was found, as people see it."""
    layout = waiting.layout
    return RecordingView(
        id=waiting.id,
        name=waiting.name,
        bytes=waiting.path.stat().st_size if waiting.path.exists() else 0,
        state=waiting.state,
        doing=waiting.doing,
        done=waiting.done,
        problem=waiting.problem,
        layout=LayoutView(
            kind=layout.kind,
            columns=[ColumnView(name=c.name, unit=c.unit, factor=c.factor) for c in layout.columns],
            sample_rate=layout.sample_rate,
            separator=layout.separator,
            decimal=layout.decimal,
            header_lines=layout.header_lines,
            time_column=layout.time_column,
            preview=[list(row) for row in layout.preview],
        ),
        found=_found_view(waiting),
        attempt=waiting.attempt if waiting.state == "read" else None,
    )


def _found_view(waiting: Waiting) -> FoundView | None:
    recorded, seen = waiting.recorded, waiting.seen
    if waiting.state != "read" or recorded is None or seen is None:
        return None
    rate = seen.sample_rate
    points = recorded.outcome.points
    return FoundView(
        kind=recorded.found.kind.value,
        tone_hz=recorded.found.tone_hz,
        seconds=seen.seconds,
        burst=recorded.found.profile.name if recorded.found.profile else "",
        envelopes=[
            EnvelopeView(
                channel=channel,
                lows=[round(float(v), 4) for v in seen.lows[index]],
                highs=[round(float(v), 4) for v in seen.highs[index]],
            )
            for index, channel in enumerate(seen.channels)
        ],
        sections=[
            SectionView(
                start=section.start / rate,
                stop=section.stop / rate,
                window=[section.window[0] / rate, section.window[1] / rate],
                weakest_watts=points[index].weakest_watts,
                worst_thd_n_percent=_percent(points[index]),
                chosen=index == recorded.chosen,
            )
            for index, section in enumerate(recorded.found.sections)
        ],
    )


def _percent(point: Point) -> float | None:
    return None if any(c.thd_n is None for c in point.channels) else 100 * point.worst_thd_n
