"""A place to practise."""

from typing import Annotated

from pydantic import Field

from rulvek.api.asking import HEAVY, Houses, Person, Use
from rulvek.api.calls import Calls
from rulvek.api.schemas import Body, Id
from rulvek.core.practice.faults import Fault, Remedy
from rulvek.core.practice.marking import Answer, OfClaim
from rulvek.core.practice.scenarios import Level
from rulvek.services.views.practice import PracticeBenchView, PracticeChannelView, PracticeJobView, PracticeView

router = Calls("practice")


class PracticeJobIn(Body):
    """How hard, and by which seed: drawn without one."""

    level: Level
    seed: Annotated[int, Field(ge=0, lt=1_000_000)] | None = None


class ExamIn(Body):
    """How hard."""

    level: Level


class PracticeAnswerIn(Body):
    """What was found: each fault with what is to be done about it, what may be said of the claim, and of the saying."""

    faults: dict[Fault, Remedy | None] = Field(max_length=20)
    claim: OfClaim
    saying_holds: bool


@router.get("/practice")
def get_practice(use: Use, person: Person) -> PracticeView:
    """What somebody practised, and everybody's exams."""
    return use.practice.overview(person)


@router.post("/practice", status_code=201, dependencies=HEAVY)
def begin_practice(body: PracticeJobIn, use: Use, person: Person) -> PracticeJobView:
    """Have a job drawn and conducted. Nothing of it is evidence."""
    return use.practice.begin(body.level, body.seed, person)


@router.post("/practice/exams", status_code=201, dependencies=HEAVY)
def begin_exam(body: ExamIn, use: Use, person: Person) -> PracticeJobView:
    """Begin an exam, or go on with the one that somebody is in."""
    return use.practice.begin_exam(body.level, person)


@router.post("/practice/{job_id}/bench", status_code=201, dependencies=HEAVY)
def open_practice_bench(job_id: Id, houses: Houses, person: Person) -> PracticeBenchView:
    """Put the job's unit on a practice bench, with all screens of a real one; nothing that is done there is kept."""
    house = houses.enter(job_id, person)
    return PracticeBenchView(address=f"/practice-bench/{job_id}/campaigns/{house.campaign_id}/live")


@router.get("/practice/{job_id}", dependencies=HEAVY)
def get_practice_job(job_id: Id, use: Use, person: Person) -> PracticeJobView:
    """A job with all that it shows."""
    return use.practice.job(job_id, person)


@router.get("/practice/{job_id}/runs/{run}/channels/{channel}", dependencies=HEAVY)
def get_practice_channel(job_id: Id, run: Id, channel: Id, use: Use, person: Person) -> PracticeChannelView:
    """The wave and the spectrum of a reading."""
    return use.practice.channel(job_id, run, channel, person)


@router.post("/practice/{job_id}/answer", dependencies=HEAVY)
def answer_practice(job_id: Id, body: PracticeAnswerIn, use: Use, person: Person) -> PracticeJobView:
    """Answer a job and have it marked."""
    return use.practice.answer(job_id, Answer(body.faults, body.claim, body.saying_holds), person)
