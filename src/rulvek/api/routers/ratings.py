"""What a model's units say of its production."""

from fastapi import APIRouter
from pydantic import Field

from rulvek.api.asking import HEAVY, Use
from rulvek.api.schemas import Body, Id
from rulvek.core.quantities import Identity, Watts
from rulvek.core.ratings.population import Promise, Share, StepWatts
from rulvek.core.ratings.sample import RatedAt
from rulvek.services.views.ratings import PopulationView

router = APIRouter(tags=["ratings"])


class PopulationIn(Body):
    """The conditions of a rating, and what it is to mean; the step is the series' unless it is told."""

    at: RatedAt
    share: Share = 0.95
    confidence: Share = 0.95
    step_watts: StepWatts | None = None
    wanted_watts: Watts | None = None
    without: list[Identity] = Field([], max_length=500, description="units that are left out, by their numbers")


@router.post("/models/{model_id}/population", dependencies=HEAVY)
def work_out_population(model_id: Id, body: PopulationIn, use: Use) -> PopulationView:
    """Which figure a production bears by its units on record; nothing is stored."""
    promise = Promise(body.share, body.confidence, wanted_watts=body.wanted_watts)
    return use.ratings.population(model_id, body.at, promise, body.step_watts, body.without)
