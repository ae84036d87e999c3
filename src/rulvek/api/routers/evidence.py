"""The evidence: attempts, their waves, spectra and files, and what people say of them."""

from datetime import date
from typing import Annotated

from fastapi import Query
from fastapi.responses import FileResponse
from pydantic import Field

from rulvek.api.asking import HEAVY, Person, Use, Who, require
from rulvek.api.calls import Calls
from rulvek.api.schemas import LARGEST_ID, Before, Body, Id, Limit, Rule
from rulvek.core.judgement.checks import CHECKS, Severity
from rulvek.core.judgement.verdict import DecisionRule
from rulvek.core.quantities import InstrumentName, InstrumentPercent, Name, Reason
from rulvek.core.records.outside import OtherReading
from rulvek.core.records.people import Deed
from rulvek.core.records.summaries import AttemptFilter
from rulvek.core.runs.modes import End, Mode
from rulvek.services.views.attempt import StepView
from rulvek.services.views.campaign import CampaignView
from rulvek.services.views.evidence import AttemptList, AttemptPage, SpectrumView, WaveView

router = Calls("evidence")
Part = Annotated[str, Query(max_length=80, description="any part of the name")]
Channel = Annotated[int, Query(ge=1, le=64)]


class RemarkIn(Body):
    """A note on an attempt."""

    text: str = Field("", max_length=2000)


class OverrulingIn(Body):
    """A finding that somebody sets aside."""

    code: Name
    reason: Reason = ""


class WithdrawalIn(Body):
    """That a reading is withdrawn, or counts again."""

    reason: Reason = ""
    withdrawn: bool = True


class SecondIn(Body):
    """Another instrument's reading of an attempt."""

    instrument: InstrumentName = ""
    accuracy_percent: InstrumentPercent = 1.0
    channels: list[OtherReading] = Field(min_length=1, max_length=16)


@router.get("/checks")
def list_checks() -> list[str]:
    """The codes of all checks that readings pass through, in their order."""
    return list(CHECKS)


@router.get("/attempts", dependencies=HEAVY)
def list_attempts(
    use: Use,
    before: Before = None,
    limit: Limit = 50,
    model_id: Annotated[int | None, Query(ge=1, le=LARGEST_ID)] = None,
    model: Part = "",
    unit: Part = "",
    mode: Mode | None = None,
    load: Annotated[float | None, Query(gt=0, le=1000)] = None,
    end: End | None = None,
    person: Part = "",
    since: date | None = None,
    until: date | None = None,
    check: Annotated[str, Query(max_length=40, description="a code, or “any”")] = "",
    stands: bool | None = None,
) -> AttemptList:
    """Attempts, the newest first; all, or those that are asked for."""
    wanted = AttemptFilter(model_id, model, unit, mode, load, end, person, since, until, check, stands)
    return use.evidence.attempts(before, limit, wanted)


@router.get("/attempts/{attempt_id}")
def get_attempt(attempt_id: Id, use: Use, rule: Rule = DecisionRule.AS_STORED) -> AttemptPage:
    """Everything on one attempt."""
    return use.evidence.attempt(attempt_id, rule)


@router.get("/attempts/{attempt_id}/steps")
def get_steps(attempt_id: Id, use: Use) -> list[StepView]:
    """All steps of an attempt so far."""
    return use.campaigns.steps(attempt_id)


@router.post("/attempts/{attempt_id}/overrulings", status_code=201)
def overrule(attempt_id: Id, body: OverrulingIn, use: Use, who: Who) -> CampaignView:
    """Set a finding of the checks aside, for a reason; what makes a reading invalid is a reviewer's to set aside."""
    invalid = use.campaigns.weight_of(attempt_id, body.code) is Severity.INVALID
    require(who, Deed.SIGN if invalid else Deed.PLAN)
    return use.campaigns.set_aside(attempt_id, body.code, who.actor, body.reason)


@router.post("/attempts/{attempt_id}/withdrawal", status_code=201)
def withdraw_reading(attempt_id: Id, body: WithdrawalIn, use: Use, person: Person) -> CampaignView:
    """Withdraw a reading, or let it count again; both stay on record."""
    return use.campaigns.withdraw(attempt_id, person, body.reason, body.withdrawn)


@router.post("/attempts/{attempt_id}/remarks", status_code=201)
def remark(attempt_id: Id, body: RemarkIn, use: Use, person: Person) -> CampaignView:
    """Note something about an attempt."""
    return use.campaigns.remark(attempt_id, person, body.text)


@router.post("/attempts/{attempt_id}/second", status_code=201)
def add_second(attempt_id: Id, body: SecondIn, use: Use, person: Person) -> AttemptPage:
    """Keep what another instrument read at the same attempt."""
    use.second.add(attempt_id, body.instrument, body.accuracy_percent, body.channels, person)
    return use.evidence.attempt(attempt_id)


@router.get("/attempts/{attempt_id}/wave")
def get_wave(
    attempt_id: Id, use: Use, channel: Channel, cycles: Annotated[float, Query(gt=0, le=50)] = 3.0
) -> WaveView:
    """A few cycles of the capture that the reading was taken from."""
    return use.evidence.wave(attempt_id, channel, cycles)


@router.get("/attempts/{attempt_id}/spectrum")
def get_spectrum(attempt_id: Id, use: Use, channel: Channel) -> SpectrumView:
    """The spectrum of the same capture, harmonics marked."""
    return use.evidence.spectrum(attempt_id, channel)


@router.get("/attempts/{attempt_id}/capture.wav", response_class=FileResponse)
def get_capture(attempt_id: Id, use: Use) -> FileResponse:
    """The capture itself: float32 WAV re the full scale in the JSON beside it."""
    path = use.evidence.capture_path(attempt_id)
    return FileResponse(path, media_type="audio/wav", filename=f"attempt-{attempt_id}.wav")


@router.get("/attempts/{attempt_id}/original", response_class=FileResponse)
def get_original(attempt_id: Id, use: Use) -> FileResponse:
    """The file that a recorded attempt was read from, as it was sent."""
    path = use.evidence.original_path(attempt_id)
    return FileResponse(path, media_type="application/octet-stream", filename=f"attempt-{attempt_id}{path.suffix}")
