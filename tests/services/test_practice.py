"""Practice: every planted fault shows on the screens, answers are marked, exams kept; nothing of it is evidence."""

from itertools import count

import pytest
from sqlalchemy import func, select

from rulvek.bench.practice import conducted, measured
from rulvek.composition import Services
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.practice.faults import Fault
from rulvek.core.practice.marking import Answer, OfClaim
from rulvek.core.practice.sayings import SAYINGS, Saying
from rulvek.core.practice.scenarios import Level, drawn
from rulvek.core.records.actor import Actor
from rulvek.services.practice import Practice
from rulvek.services.views.practice import MarksView
from rulvek.store import tables
from tests.examples import TIMES
from tests.services.trainees import Careful, Careless

TRAINEE, OTHER = Actor("Tamsin Oduwell"), Actor("Joren Haldvik")
TWENTY = [
    *((Level.SECOND, (fault,)) for fault in Fault),
    (Level.SECOND, ()),
    (Level.THIRD, (Fault.GAINS_APART, Fault.HOT_UNIT)),
    (Level.THIRD, (Fault.CLAMP_NOT_ZEROED, Fault.WRONG_LOAD)),
]
BESIDE_EACH_OTHER = 23
"""A seed of the third level with a bad contact where not all channels are driven."""


def seed_of(level: Level, faults: tuple[Fault, ...]) -> int:
    """The first seed that draws just these."""
    return next(seed for seed in count() if set(drawn(level, seed).faults) == set(faults))


def marks_of(practice: Practice, level: Level, seed: int, trainee: Careful | Careless) -> MarksView:
    job = practice.begin(level, seed, TRAINEE)
    assert job.marks is None
    assert job.seed is None  # what was drawn is not told before it is answered
    told = practice.answer(job.id, trainee.answer(job), TRAINEE)
    assert told.marks is not None
    return told.marks


@pytest.mark.parametrize(("level", "faults"), TWENTY, ids=lambda value: str(value))
def test_what_is_planted_can_be_seen_and_is_missed_by_whoever_does_not_look(
    services: Services, level: Level, faults: tuple[Fault, ...]
) -> None:
    practice, seed = services.practice, seed_of(level, faults)
    careful = marks_of(practice, level, seed, Careful(practice, TRAINEE))
    assert {one.fault for one in careful.found} == set(faults)
    assert (careful.percent, careful.missed, careful.accused) == (100, [], [])
    assert all(one.trace and one.remedy_right for one in careful.found)
    careless = marks_of(practice, level, seed, Careless())
    assert {one.fault for one in careless.missed} == set(faults)
    assert careless.passed == (not faults and careless.saying_right and careless.claim_right) or not faults


def test_a_bad_contact_shows_where_not_all_are_driven(services: Services) -> None:
    """It gets worse by working: so it lies at a load that works."""
    assert set(drawn(Level.THIRD, BESIDE_EACH_OTHER).faults) == {Fault.BAD_CONTACT, Fault.NOT_ALL_DRIVEN}
    careful = Careful(services.practice, TRAINEE)
    assert marks_of(services.practice, Level.THIRD, BESIDE_EACH_OTHER, careful).percent == 100


@pytest.mark.long
@pytest.mark.parametrize("level", Level)
def test_jobs_of_each_level_can_be_solved_by_what_they_show(services: Services, level: Level) -> None:
    for seed in range(15 * TIMES):
        marks = marks_of(services.practice, level, seed, Careful(services.practice, TRAINEE))
        assert marks.percent == 100, (level, seed, drawn(level, seed).faults, marks)


@pytest.mark.parametrize("saying", Saying)
def test_a_saying_is_told_by_measured_figures(saying: Saying) -> None:
    """What each figure must come to where the saying holds, or doesn't (handbook arithmetic)."""
    figures = [one.value for one in measured(saying)]
    match saying:
        case Saying.CERTIFIED_TO_CLIPPING:
            differ = figures[1] > 1.1 * figures[0]
        case Saying.FUSES_TELL:
            differ = figures[1] > 1.3 * figures[2]
        case Saying.BURST_EFFICIENCY:
            differ = figures[2] > 100  # more than all of it cannot be
        case Saying.HALF_LOAD_DOUBLE:
            differ = figures[2] < 1.9
        case Saying.ONE_FOR_ALL:
            differ = figures[0] > 1.03 * figures[1]
        case Saying.WEAKEST_BACKS:
            differ = not figures[1] < figures[0]
        case Saying.THREE_DECIBELS:
            differ = figures[1] != pytest.approx(10 ** (figures[0] / 10), rel=0.01)
    assert differ is not SAYINGS[saying].holds


def test_a_job_is_the_same_each_time() -> None:
    one, other = (conducted(drawn(Level.SECOND, 3)) for _ in range(2))
    assert one.before == other.before
    assert [run.outcome for run in one.runs] == [run.outcome for run in other.runs]


def test_nothing_of_it_is_evidence(services: Services) -> None:
    def counted() -> list[int | None]:
        with services.database.reading() as session:
            others = (tables.Attempt, tables.Campaign, tables.Unit, tables.Reading, tables.CaptureFile, tables.Step)
            return [session.scalar(select(func.count()).select_from(one)) for one in others]

    before = counted()
    marks_of(services.practice, Level.FIRST, 1, Careless())
    assert counted() == before


def test_a_job_is_answered_once_and_by_whom_it_was_drawn_for(services: Services) -> None:
    practice = services.practice
    job = practice.begin(Level.FIRST, 1, TRAINEE)
    answer = Answer({}, OfClaim.NOTHING_YET, False)
    with pytest.raises(NotFound, match="of yours"):
        practice.job(job.id, OTHER)
    with pytest.raises(NotFound, match="of yours"):
        practice.answer(job.id, answer, OTHER)
    practice.answer(job.id, answer, TRAINEE)
    with pytest.raises(Conflict, match="answered already"):
        practice.answer(job.id, answer, TRAINEE)
    assert practice.job(job.id, TRAINEE).given is not None
    with pytest.raises(NotFound, match="no waveform"):
        practice.channel(job.id, 1, 9, TRAINEE)
    with pytest.raises(BadInput, match="seed"):
        practice.begin(Level.FIRST, 1_000_000, TRAINEE)


def test_an_exam_goes_on_where_it_was_tells_at_its_end_and_stays_on_record(services: Services) -> None:
    practice = services.practice
    careful = Careful(practice, TRAINEE)
    job = practice.begin_exam(Level.FIRST, TRAINEE)
    assert job.exam is not None
    exam = job.exam.exam_id
    for place in range(1, job.exam.jobs + 1):
        again = practice.begin_exam(Level.THIRD, TRAINEE)  # nobody begins a second one to have easier jobs
        assert again.exam is not None
        assert (again.id, again.exam.exam_id, again.exam.place) == (job.id, exam, place)
        told = practice.answer(job.id, careful.answer(job), TRAINEE)
        assert told.exam is not None
        ended = place == told.exam.jobs
        assert (told.marks is not None, told.exam.ended) == (ended, ended)
        if not ended:
            assert told.exam.next_job_id is not None
            job = practice.job(told.exam.next_job_id, TRAINEE)
    seen = practice.overview(OTHER)  # a record is for others, too
    assert [(one.id, one.by, one.percent, one.passed) for one in seen.exams] == [(exam, TRAINEE.name, 100, True)]
    assert seen.jobs == []
    assert practice.overview(TRAINEE).exam is None
    with services.database.reading() as session:
        entries = session.scalars(select(tables.AuditEntry.action).order_by(tables.AuditEntry.id.desc()).limit(2))
        assert list(entries) == ["ended an exam", "began an exam"]


def test_a_failed_exam_is_on_record_as_such(services: Services) -> None:
    practice = services.practice
    job = practice.begin_exam(Level.FIRST, TRAINEE)
    assert job.exam is not None
    for _ in range(job.exam.jobs):
        told = practice.answer(job.id, Careless().answer(job), TRAINEE)
        assert told.exam is not None
        if told.exam.next_job_id is not None:
            job = practice.job(told.exam.next_job_id, TRAINEE)
    (exam,) = practice.overview(TRAINEE).exams
    assert exam.percent is not None
    assert exam.percent < 80
    assert not exam.passed
