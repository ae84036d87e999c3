"""Answers about readings from outside: by hand, recorded, in tables."""

from typing import Literal

from rulvek.core.measure.steps import Mode
from rulvek.services.views.attempt import AttemptView, FindingView
from rulvek.services.views.base import View, view


@view
class TypedChannelView(View):
    """One channel of a typed reading: its watts and how they come about; null where nothing was typed yet."""

    channel: int
    watts: float | None
    how: str


@view
class EarlierColumnView(View):
    """A column of a table of earlier results, and what it is most likely to be; empty where that cannot be told."""

    name: str
    example: str
    field: str


@view
class TableView(View):
    """A table of earlier results as it came; ``needed`` are the fields that some column must be."""

    file: str
    columns: list[EarlierColumnView]
    rows: int
    needed: list[str]
    fields: list[str]


@view
class RowProblemView(View):
    """Why a row cannot be taken; rows count from 1, the heading's."""

    row: int
    what: str


@view
class EarlierReadingView(View):
    """A reading of a table, as it stands on record (or would: then without an attempt)."""

    row: int
    serial: str
    mode: Mode
    load_ohms: float
    bridged: bool
    weakest_watts: float
    expanded_watts: float | None
    findings: list[FindingView]
    attempt_id: int | None


@view
class EarlierView(View):
    """What a table gives; with any problem nothing of it can be kept."""

    readings: list[EarlierReadingView]
    problems: list[RowProblemView]
    more_problems: int


@view
class ColumnView(View):
    """A column of a recording; ``factor`` makes volts, amps or seconds of its numbers."""

    name: str
    unit: str
    factor: float


@view
class LayoutView(View):
    """How a recording's numbers are laid out, as far as its first lines tell; columns count from 0."""

    kind: Literal["wav", "csv"]
    columns: list[ColumnView]
    sample_rate: float | None
    separator: str
    decimal: str
    header_lines: int
    time_column: int | None
    preview: list[list[str]]


@view
class EnvelopeView(View):
    """A channel's extremes in even columns over the whole recording, in V."""

    channel: int
    lows: list[float]
    highs: list[float]


@view
class SectionView(View):
    """A stretch of one level, or one burst, in seconds; ``window`` is what was read of it."""

    start: float
    stop: float
    window: list[float]
    weakest_watts: float
    worst_thd_n_percent: float | None
    chosen: bool


@view
class FoundView(View):
    """What was found in a recording by itself."""

    kind: Literal["steady", "sweep", "bursts"]
    tone_hz: float
    seconds: float
    burst: str
    envelopes: list[EnvelopeView]
    sections: list[SectionView]


@view
class RecordingView(View):
    """A recorded file that waits to be read or kept; ``attempt`` is what would be put on record."""

    id: str
    name: str
    bytes: int
    state: Literal["laid out", "reading", "read", "failed", "stopped"]
    doing: str
    done: float
    problem: str
    layout: LayoutView
    found: FoundView | None
    attempt: AttemptView | None


@view
class TypedView(View):
    """A typed reading worked out; ``complete`` when it can be kept."""

    channels: list[TypedChannelView]
    weakest_watts: float | None
    expanded_watts: float | None
    average_watts: float | None
    efficiency_percent: float | None
    sag_volts: float | None
    equivalent: str | None
    complete: bool
    findings: list[FindingView]


@view
class TypedKept(View):
    """Where a typed reading was kept."""

    attempt_id: int
