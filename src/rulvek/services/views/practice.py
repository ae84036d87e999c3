"""Answers about practice: jobs as they are shown, marked sheets, exams."""

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import Protocol

from rulvek.core.practice.faults import LESSONS, REMEDY_WORDS, Fault, Remedy, SheetPart
from rulvek.core.practice.marking import Answer, OfClaim, marked, result
from rulvek.core.practice.sayings import SAYINGS, Measured
from rulvek.core.practice.scenarios import Level, Scenario
from rulvek.core.practice.sheet import ReadBy, RunSheet, Sheet
from rulvek.core.practice.traces import trace
from rulvek.core.readings.point import ChannelReading
from rulvek.core.runs.modes import End, Mode
from rulvek.services.views.attempt import PointView, percent, read_point_view
from rulvek.services.views.base import View, view
from rulvek.services.views.evidence import SpectrumView, WaveView


class JobOnRecord(Protocol):
    """What is on record of a job."""

    @property
    def id(self) -> int: ...
    @property
    def level(self) -> Level: ...
    @property
    def seed(self) -> int: ...
    @property
    def begun_at(self) -> datetime: ...
    @property
    def answered_at(self) -> datetime | None: ...
    @property
    def points(self) -> int | None: ...
    @property
    def of(self) -> int | None: ...


class ExamOnRecord(Protocol):
    """What is on record of an exam."""

    @property
    def id(self) -> int: ...
    @property
    def by(self) -> str: ...
    @property
    def level(self) -> Level: ...
    @property
    def jobs(self) -> int: ...
    @property
    def begun_at(self) -> datetime: ...
    @property
    def ended_at(self) -> datetime | None: ...
    @property
    def points(self) -> int | None: ...
    @property
    def of(self) -> int | None: ...


@view
class PracticeSummaryView(View):
    """One of somebody's jobs; percent null until it is answered."""

    id: int
    level: Level
    seed: int
    begun_at: datetime
    answered_at: datetime | None
    percent: float | None
    passed: bool


@view
class ExamView(View):
    """An exam; percent null while it goes on. ``next_job_id`` is the one to be answered."""

    id: int
    by: str
    level: Level
    jobs: int
    answered: int
    next_job_id: int | None
    begun_at: datetime
    ended_at: datetime | None
    percent: float | None
    passed: bool


@view
class PracticeBenchView(View):
    """Where a job's practice bench is, on this server."""

    address: str


@view
class PracticeView(View):
    """What somebody practised, and everybody's exams."""

    jobs: list[PracticeSummaryView]
    exam: ExamView | None
    exams: list[ExamView]


@view
class ExamPlaceView(View):
    """Which job of an exam this is."""

    exam_id: int
    place: int
    jobs: int
    next_job_id: int | None
    ended: bool


@view
class FaultChoiceView(View):
    """A fault that can be named."""

    fault: Fault
    words: str


@view
class RemedyChoiceView(View):
    """Something that can be done."""

    remedy: Remedy
    words: str


@view
class PracticeGainView(View):
    """A channel's gain at the test's tone and beside it."""

    channel: int
    gain_db: float
    beside_db: float


@view
class PracticeLoadView(View):
    """A connection's load: as planned, and as measured before and after."""

    number: int
    nominal_ohms: float
    before_ohms: float
    after_ohms: float


@view
class PracticeBeforeView(View):
    """What was found before power."""

    clamp_indicates: float
    clamp_zero: float
    tone_hz: float
    beside_hz: float
    gains: list[PracticeGainView]
    loads: list[PracticeLoadView]
    start_volts: float
    sink_c: float


@view
class PracticeReadingView(View):
    """A channel's reading; volts rms null where somebody read the peak."""

    channel: int
    watts: float
    volts_rms: float | None
    volts_peak: float | None
    thd_n_percent: float | None


@view
class PracticeRunView(View):
    """A run with its sweep and its readings; none where nothing was within the limit."""

    number: int
    mode: Mode
    tone_hz: float
    driven: list[int]
    channels: list[int]
    end: End
    read_by: ReadBy
    points: list[PointView]
    readings: list[PracticeReadingView]
    supply_volts: float | None
    supply_amps: float | None
    efficiency_percent: float | None
    has_wave: bool
    limit_percent: float


@view
class PracticeFaultView(View):
    """A fault as it is marked: what shows it, where, and why it matters."""

    fault: Fault
    words: str
    remedy: str
    remedy_right: bool
    part: SheetPart
    trace: str
    why: str


@view
class PracticeFigureView(View):
    """A figure that tells whether a saying holds."""

    what: str
    value: float
    unit: str


@view
class MarksView(View):
    """A marked answer."""

    found: list[PracticeFaultView]
    missed: list[PracticeFaultView]
    accused: list[FaultChoiceView]
    claim: OfClaim
    claim_right: bool
    saying_holds: bool
    saying_right: bool
    saying_figures: list[PracticeFigureView]
    points: int
    of: int
    percent: float
    passed: bool


@view
class GivenView(View):
    """What was answered."""

    faults: list[Fault]
    claim: OfClaim
    saying_holds: bool


@view
class PracticeJobView(View):
    """A job with all that it shows. ``seed`` and ``marks`` are null until they may be seen."""

    id: int
    level: Level
    seed: int | None
    exam: ExamPlaceView | None
    words: str
    load_ohms: float
    bridged: bool
    supply_volts: float | None
    claim: str
    note: str
    fuses: list[float]
    before: PracticeBeforeView
    runs: list[PracticeRunView]
    saying: str
    faults: list[FaultChoiceView]
    remedies: list[RemedyChoiceView]
    answered_at: datetime | None
    given: GivenView | None
    marks: MarksView | None


@view
class PracticeChannelView(View):
    """The wave and the spectrum of a reading."""

    wave: WaveView
    spectrum: SpectrumView


def summary_view(row: JobOnRecord) -> PracticeSummaryView:
    """A job in a list."""
    came = result([(row.points, row.of)]) if row.points is not None and row.of is not None else None
    return PracticeSummaryView(
        id=row.id,
        level=row.level,
        seed=row.seed,
        begun_at=row.begun_at,
        answered_at=row.answered_at,
        percent=came.percent if came else None,
        passed=came.passed if came else False,
    )


def exam_view(row: ExamOnRecord, taken: Sequence[JobOnRecord]) -> ExamView:
    """An exam in a list."""
    came = result([(row.points, row.of)]) if row.points is not None and row.of is not None else None
    return ExamView(
        id=row.id,
        by=row.by,
        level=row.level,
        jobs=row.jobs,
        answered=sum(one.answered_at is not None for one in taken),
        next_job_id=next((one.id for one in taken if one.answered_at is None), None),
        begun_at=row.begun_at,
        ended_at=row.ended_at,
        percent=came.percent if came else None,
        passed=came.passed if came else False,
    )


def job_view(
    row: JobOnRecord,
    given: Answer | None,
    scenario: Scenario,
    sheet: Sheet,
    exam: ExamPlaceView | None,
    marks: MarksView | None,
) -> PracticeJobView:
    """A job as people see it."""
    job = scenario.job
    return PracticeJobView(
        id=row.id,
        level=row.level,
        seed=None if marks is None else row.seed,
        exam=exam,
        words=job.words,
        load_ohms=job.load_ohms,
        bridged=job.bridged,
        supply_volts=None if job.policy is job.policy.BANK else job.supply_volts,
        claim=sheet.claim.words,
        note=sheet.note,
        fuses=list(sheet.fuses),
        before=_before(sheet),
        runs=[_run(number, one) for number, one in enumerate(sheet.runs, 1)],
        saying=SAYINGS[scenario.saying].words,
        faults=_faults(sorted(Fault, key=lambda one: LESSONS[one].words)),
        remedies=[
            RemedyChoiceView(remedy=one, words=REMEDY_WORDS[one])
            for one in sorted(Remedy, key=lambda one: REMEDY_WORDS[one])
        ],
        answered_at=row.answered_at,
        given=GivenView(faults=list(given.faults), claim=given.claim, saying_holds=given.saying_holds)
        if given
        else None,
        marks=marks,
    )


def _faults(some: Iterable[Fault]) -> list[FaultChoiceView]:
    return [FaultChoiceView(fault=one, words=LESSONS[one].words) for one in some]


def _before(sheet: Sheet) -> PracticeBeforeView:
    before = sheet.before
    return PracticeBeforeView(
        clamp_indicates=before.clamp_indicates,
        clamp_zero=before.clamp_zero,
        tone_hz=before.tone_hz,
        beside_hz=before.beside_hz,
        gains=[
            PracticeGainView(channel=channel, gain_db=gain, beside_db=before.beside_db[channel])
            for channel, gain in sorted(before.gains_db.items())
        ],
        loads=[
            PracticeLoadView(
                number=number,
                nominal_ohms=load.nominal_ohms,
                before_ohms=load.measured_ohms,
                after_ohms=before.loads_after[number].measured_ohms,
            )
            for number, load in sorted(before.loads.items())
        ],
        start_volts=before.start_volts,
        sink_c=before.sink_c,
    )


def _run(number: int, run: RunSheet) -> PracticeRunView:
    point = run.reading
    return PracticeRunView(
        number=number,
        mode=run.mode,
        tone_hz=run.tone_hz,
        driven=list(run.driven),
        channels=[one.channel for one in (run.sweep[0].point.channels if run.sweep else ())],
        end=run.end,
        read_by=run.read_by,
        points=[read_point_view(one.point, one.phase, one.over_limit) for one in run.sweep],
        readings=[_reading(one, run) for one in point.channels] if point else [],
        supply_volts=point.supply_volts if point else None,
        supply_amps=point.supply_amps if point else None,
        efficiency_percent=run.efficiency_percent,
        has_wave=run.capture is not None,
        limit_percent=run.limit_percent,
    )


def _reading(one: ChannelReading, run: RunSheet) -> PracticeReadingView:
    by_peak = run.read_by is ReadBy.PEAK
    return PracticeReadingView(
        channel=one.channel,
        watts=run.read_watts[one.channel],
        volts_rms=None if by_peak else one.volts_rms,
        volts_peak=run.peak_volts.get(one.channel) if by_peak else None,
        thd_n_percent=percent(one.thd_n),
    )


def marks_view(scenario: Scenario, answer: Answer, sheet: Sheet, figures: Sequence[Measured]) -> MarksView:
    """An answer as it is marked."""
    marks = marked(scenario, answer)

    def told(faults: Iterable[Fault]) -> list[PracticeFaultView]:
        return [
            PracticeFaultView(
                fault=one,
                words=LESSONS[one].words,
                remedy=REMEDY_WORDS[LESSONS[one].remedy],
                remedy_right=one in marks.remedies,
                part=LESSONS[one].part,
                trace=trace(one, sheet),
                why=LESSONS[one].why,
            )
            for one in faults
        ]

    return MarksView(
        found=told(marks.found),
        missed=told(marks.missed),
        accused=_faults(marks.accused),
        claim=marks.claim,
        claim_right=marks.claim_right,
        saying_holds=SAYINGS[scenario.saying].holds,
        saying_right=marks.saying_right,
        saying_figures=[PracticeFigureView(what=one.what, value=one.value, unit=one.unit) for one in figures],
        points=marks.points,
        of=marks.of,
        percent=marks.percent,
        passed=marks.passed,
    )
