"""Draws jobs for people, has them conducted, marks what they answer, and keeps exams."""

import secrets
from functools import lru_cache

from rulvek import clock
from rulvek.bench import practice as bench
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.method.profile import MethodProfile
from rulvek.core.practice.marking import Answer, marked, result
from rulvek.core.practice.scenarios import Level, Scenario, drawn
from rulvek.core.practice.sheet import Sheet
from rulvek.core.records.actor import Actor
from rulvek.core.runs.modes import Mode
from rulvek.services.views.evidence import spectrum_view, wave_view
from rulvek.services.views.practice import (
    ExamPlaceView,
    PracticeChannelView,
    PracticeJobView,
    PracticeView,
    exam_view,
    job_view,
    marks_view,
    summary_view,
)
from rulvek.store import audit
from rulvek.store import practice as store
from rulvek.store.engine import Database, Session
from rulvek.store.practice import ExamRow, JobRow

SEEDS = 1_000_000
EXAM_JOBS = 5
SHOWN = 50


@lru_cache(maxsize=12)
def sheet_of(scenario: Scenario) -> Sheet:
    """A job conducted; the same each time, so that it need not be kept."""
    return bench.conducted(scenario)


class Practice:
    """What somebody practises."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def overview(self, actor: Actor) -> PracticeView:
        """Somebody's jobs and the exam they are in, and everybody's exams."""
        with self._database.reading() as session:
            jobs = store.jobs_of(session, actor.name, SHOWN)
            under_way = store.open_exam(session, actor.name)
            taken = store.jobs_of_exam(session, under_way.id) if under_way else []
            exams = store.exams(session, SHOWN)
        return PracticeView(
            jobs=[summary_view(row) for row in jobs],
            exam=exam_view(under_way, taken) if under_way else None,
            exams=[exam_view(row, []) for row in exams],
        )

    def begin(self, level: Level, seed: int | None, actor: Actor) -> PracticeJobView:
        """Draw a job, or have one again by its seed.

        Raises:
            BadInput: no seed that there is.
        """
        if seed is not None and not 0 <= seed < SEEDS:
            raise BadInput(f"A seed is a number from 0 to {SEEDS - 1}, not {seed}.", field="seed")
        chosen = secrets.randbelow(SEEDS) if seed is None else seed
        sheet_of(drawn(level, chosen))  # it takes a second or two: not while others wait to write
        with self._database.writing() as session:
            row = store.add_job(session, actor.name, level, chosen, None, clock.now())
        return self._view(row, None, [])

    def begin_exam(self, level: Level, actor: Actor) -> PracticeJobView:
        """Begin an exam; whoever is in one goes on where it was."""
        chosen = secrets.randbelow(SEEDS)
        with self._database.writing() as session:
            under_way = store.open_exam(session, actor.name)
            if under_way is None:
                under_way = store.add_exam(session, actor.name, level, EXAM_JOBS, clock.now())
                text = f"an exam of {EXAM_JOBS} jobs, level {level.value}"
                audit.note(session, actor, "began an exam", f"exam/{under_way.id}", text=text)
            row = self._next(session, under_way, chosen)
            taken = store.jobs_of_exam(session, under_way.id)
        return self._view(row, under_way, taken)

    def job(self, job_id: int, actor: Actor) -> PracticeJobView:
        """A job with all that it shows, and its marks once they may be seen.

        Raises:
            NotFound: there is none, or it is somebody else's.
        """
        return self._view(*self._own(job_id, actor))

    def scenario(self, job_id: int, actor: Actor) -> Scenario:
        """What was drawn for a job: for the bench that it is run on, never for a page.

        Raises:
            NotFound: there is none, or it is somebody else's.
        """
        row, _, _ = self._own(job_id, actor)
        return drawn(row.level, row.seed)

    def channel(self, job_id: int, run: int, channel: int, actor: Actor) -> PracticeChannelView:
        """The wave and the spectrum of a reading.

        Raises:
            NotFound: no such run or channel, or nothing was read there.
        """
        row, _, _ = self._own(job_id, actor)
        scenario = drawn(row.level, row.seed)
        runs = sheet_of(scenario).runs
        capture = runs[run - 1].capture if 0 < run <= len(runs) else None
        outputs = capture.outputs() if capture is not None else {}
        if capture is None or channel not in outputs:
            raise NotFound(f"Run {run} of this job has no waveform of channel {channel}.")
        method, shown = MethodProfile(), runs[run - 1]
        burst = method.burst_of(scenario.job.is_bass) if shown.mode is Mode.BURST else None
        volts, rate = outputs[channel], capture.sample_rate
        return PracticeChannelView(
            wave=wave_view(channel, volts, rate, shown.tone_hz),
            spectrum=spectrum_view(channel, volts, rate, shown.tone_hz, method.band, burst),
        )

    def answer(self, job_id: int, answer: Answer, actor: Actor) -> PracticeJobView:
        """Take an answer and mark it; in an exam it goes on with the next job.

        Raises:
            NotFound: there is none, or it is somebody else's.
            Conflict: it was answered already.
        """
        row, under_way, _ = self._own(job_id, actor)
        marks = marked(drawn(row.level, row.seed), answer)
        chosen = secrets.randbelow(SEEDS)
        with self._database.writing() as session:
            if not store.answer_job(session, job_id, answer, marks.points, marks.of, clock.now()):
                raise Conflict("This job was answered already.", todo="Begin another one.")
            if under_way is not None:
                self._go_on(session, under_way, chosen, actor)
        return self.job(job_id, actor)

    def _go_on(self, session: Session, under_way: ExamRow, seed: int, actor: Actor) -> None:
        taken = store.jobs_of_exam(session, under_way.id)
        if len(taken) < under_way.jobs:
            self._next(session, under_way, seed)
            return
        came = result((one.points or 0, one.of or 1) for one in taken)
        store.end_exam(session, under_way.id, came.points, came.of, clock.now())
        text = f"level {under_way.level.value}: {came.percent:.0f} %, {'passed' if came.passed else 'not passed'}"
        audit.note(session, actor, "ended an exam", f"exam/{under_way.id}", text=text)

    @staticmethod
    def _next(session: Session, under_way: ExamRow, seed: int) -> JobRow:
        """The job of an exam that is to be answered now."""
        taken = store.jobs_of_exam(session, under_way.id)
        waiting = next((one for one in taken if one.answered_at is None), None)
        return waiting or store.add_job(session, under_way.by, under_way.level, seed, under_way.id, clock.now())

    def _own(self, job_id: int, actor: Actor) -> tuple[JobRow, ExamRow | None, list[JobRow]]:
        with self._database.reading() as session:
            row = store.job(session, job_id)
            if row.by != actor.name:
                raise NotFound(f"There is no practice job number {job_id} of yours.")
            if row.exam_id is None:
                return row, None, []
            return row, store.exam(session, row.exam_id), store.jobs_of_exam(session, row.exam_id)

    def _view(self, row: JobRow, under_way: ExamRow | None, taken: list[JobRow]) -> PracticeJobView:
        scenario = drawn(row.level, row.seed)
        sheet = sheet_of(scenario)
        told = row.answer is not None and (under_way is None or under_way.ended_at is not None)
        place = None
        if under_way is not None:
            numbers = [one.id for one in taken]
            following = next((one.id for one in taken if one.id > row.id), None)
            place = ExamPlaceView(
                exam_id=under_way.id,
                place=numbers.index(row.id) + 1,
                jobs=under_way.jobs,
                next_job_id=following,
                ended=under_way.ended_at is not None,
            )
        marks = None
        if told and row.answer is not None:
            marks = marks_view(scenario, row.answer, sheet, bench.measured(scenario.saying))
        return job_view(row, row.answer, scenario, sheet, place, marks)
