"""The archive of waveforms read again, looked at, and adopted."""

from pydantic import Field

from rulvek.api.asking import HEAVY, Person, Use
from rulvek.api.calls import Calls
from rulvek.api.schemas import LARGEST_ID, Body, ReasonIn
from rulvek.core.quantities import Name
from rulvek.services.views.reanalysis import ReanalysisView

router = Calls("evidence")


class ReanalysisIn(Body):
    """By what it is read, and of which model."""

    version_id: int | None = Field(
        None, ge=1, le=LARGEST_ID, description="one of the lab's methods; each campaign's own method left out"
    )
    model: Name = Field("", description="the name of one model; all of them left out")


@router.get("/reanalysis")
def get_reanalysis(use: Use) -> ReanalysisView:
    """The reading that is under way, or what the last one came to."""
    return use.rereading.view()


@router.post("/reanalysis", status_code=201)
def begin_reanalysis(body: ReanalysisIn, use: Use, person: Person) -> ReanalysisView:
    """Read every stored waveform again, in the background; nothing on record changes by it."""
    return use.rereading.begin(body.version_id, body.model, person)


@router.delete("/reanalysis")
def stop_reanalysis(use: Use) -> ReanalysisView:
    """Stop it; the next reading of the same kind goes on from there."""
    return use.rereading.stop()


@router.post("/reanalysis/adoption", status_code=201, dependencies=HEAVY)
def adopt_reanalysis(body: ReasonIn, use: Use, person: Person) -> ReanalysisView:
    """Put on record what comes to other figures, as attempts beside those that stand."""
    return use.rereading.adopt(body.reason, person)
