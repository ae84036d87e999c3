"""Answers about readings from outside: by hand, recorded, in tables."""

from collections.abc import Mapping
from typing import Any, Literal

from rulvek.core.judgement.judged import JudgedAttempt
from rulvek.core.readings.point import Point
from rulvek.core.readings.survey import Survey
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.recording import Recorded
from rulvek.services.views.attempt import (
    AttemptView,
    FindingView,
    attempt_view,
    equivalent_words,
    finding_views,
    percent,
)
from rulvek.services.views.base import View, view

InboxState = Literal["laid out", "reading", "read", "failed", "stopped"]


@view
class HandChannelView(View):
    """One channel of a reading by hand: its watts and how they come about; null where nothing was typed yet."""

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
    peak_volts: float


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
    state: InboxState
    doing: str
    done: float
    problem: str
    layout: LayoutView
    found: FoundView | None
    attempt: AttemptView | None


@view
class HandView(View):
    """A reading by hand worked out; ``complete`` when it can be kept."""

    channels: list[HandChannelView]
    weakest_watts: float | None
    expanded_watts: float | None
    average_watts: float | None
    supply_amps: float | None
    efficiency_percent: float | None
    sag_volts: float | None
    equivalent: str | None
    complete: bool
    findings: list[FindingView]


@view
class SheetView(View):
    """A unit's readings together, in the order in which they were given."""

    cells: list[HandView]


@view
class KeptSheetView(View):
    """The campaign that a unit's readings were kept in."""

    campaign_id: int


@view
class KeptView(View):
    """Where a reading from outside was kept."""

    attempt_id: int


def hand_view(judged: JudgedAttempt, channels: list[HandChannelView], complete: bool) -> HandView:
    """A reading by hand worked out, as people see it."""
    return HandView(
        channels=channels,
        weakest_watts=judged.attempt.weakest_watts,
        expanded_watts=judged.weakest_expanded,
        average_watts=judged.average_watts,
        supply_amps=judged.attempt.ending.supply_amps if judged.attempt.ending else None,
        efficiency_percent=percent(judged.efficiency),
        sag_volts=judged.sag_volts,
        equivalent=equivalent_words(judged.equivalent),
        complete=complete,
        findings=finding_views(judged.question),
    )


def recording_view(
    identity: str,
    name: str,
    size: int,
    state: InboxState,
    progress: tuple[str, float, str],
    layout: Mapping[str, Any],
    seen: Survey | None,
    recorded: Recorded | None,
    judged: JudgedAttempt | None,
) -> RecordingView:
    """How far a file has come, and what was found, as people see it; ``layout`` is its fields by name."""
    doing, done, problem = progress
    columns = [ColumnView(**column) for column in layout["columns"]]
    return RecordingView(
        id=identity,
        name=name,
        bytes=size,
        state=state,
        doing=doing,
        done=done,
        problem=problem,
        layout=LayoutView(**{**layout, "columns": columns, "preview": [list(row) for row in layout["preview"]]}),
        found=_found_view(seen, recorded) if seen is not None and recorded is not None else None,
        attempt=attempt_view(judged) if judged is not None else None,
    )


def _found_view(seen: Survey, recorded: Recorded) -> FoundView:
    rate, points = seen.sample_rate, recorded.outcome.points
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
                peak_volts=float(max(-seen.lows[index].min(), seen.highs[index].max())),
            )
            for index, channel in enumerate(seen.channels)
        ],
        sections=[
            SectionView(
                start=section.start / rate,
                stop=section.stop / rate,
                window=[section.window[0] / rate, section.window[1] / rate],
                weakest_watts=points[index].weakest_watts,
                worst_thd_n_percent=_worst_percent(points[index]),
                chosen=index == recorded.chosen,
            )
            for index, section in enumerate(recorded.found.sections)
        ],
    )


def _worst_percent(point: Point) -> float | None:
    return None if any(c.thd_n is None for c in point.channels) else 100 * point.worst_thd_n
