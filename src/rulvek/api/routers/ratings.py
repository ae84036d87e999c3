"""Ratings: what a model's units say of its production, and the steps from a draft to a published figure."""

from typing import Annotated, Any, Literal

from fastapi.responses import FileResponse, Response
from pydantic import Field
from starlette.background import BackgroundTask

from rulvek.api.asking import HEAVY, Person, Use
from rulvek.api.calls import Calls
from rulvek.api.downloads import XLSX, download
from rulvek.api.schemas import Body, Id, ReasonIn, Seen, version_seen
from rulvek.core.quantities import Identity, Name, Watts
from rulvek.core.ratings.basis import RatingTerms
from rulvek.core.ratings.compare import Asked, GroupOf
from rulvek.core.ratings.population import Promise, Share, StepWatts
from rulvek.core.ratings.sample import RatedAt
from rulvek.core.ratings.value import PriceBasis
from rulvek.services.ratings import basis_schema
from rulvek.services.views.audits import AuditRow, AuditView
from rulvek.services.views.campaign import CampaignView
from rulvek.services.views.comparison import ComparedView
from rulvek.services.views.rating_board import BoardView
from rulvek.services.views.rating_lives import RatingView, SeriesProposalView, TextsView, texts_view
from rulvek.services.views.ratings import PopulationView

router = Calls("ratings")


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


class ComparisonIn(Body):
    """Two groups of units, at the same conditions."""

    at: RatedAt
    first: GroupOf
    second: GroupOf
    asked: Asked = Asked()


@router.post("/comparisons", dependencies=HEAVY)
def compare_groups(body: ComparisonIn, use: Use) -> ComparedView:
    """How two groups of units differ: lots, revisions, siblings, before and after a change; nothing is stored."""
    return use.ratings.compared(body.at, body.first, body.second, body.asked)


Digest = Annotated[str, Field(pattern="^[0-9a-f]{64}$", description="of the basis that was looked at")]


class AnswerIn(Body):
    """What somebody answers for."""

    digest: Digest


class ConfirmIn(Body):
    """What was looked at, and why the figure holds all the same."""

    reason: str = Field("", max_length=500)
    keys: list[Annotated[str, Field(max_length=300)]] = Field(min_length=1, max_length=200)


class ProofsIn(Body):
    """Which unit proves what is promised; on the first bench unless one is named."""

    unit_id: Identity
    bench: Name | None = None


@router.get("/audits", dependencies=HEAVY)
def list_audits(use: Use) -> list[AuditRow]:
    """Every audit plan in use, and how many units are owed."""
    return use.audits.rows()


@router.get("/audits/{plan_id}", dependencies=HEAVY)
def get_audit(plan_id: Id, use: Use) -> AuditView:
    """An audit plan: its periods, what was found in them, its ratings as units came, and who could be next."""
    return use.audits.one(plan_id)


@router.post("/audit-plans/{plan_id}/campaigns", status_code=201)
def plan_proofs(plan_id: Id, body: ProofsIn, use: Use, person: Person) -> CampaignView:
    """Plan the proofs of an audit for a unit."""
    return use.audits.prove(plan_id, body.unit_id, person, body.bench)


@router.get("/ratings", dependencies=HEAVY)
def get_board(use: Use, price: PriceBasis = PriceBasis.LIST) -> BoardView:
    """Every load of every model: what is printed, what is rated, what has to be done first, what a watt costs."""
    return use.rating_board.board(price)


@router.get("/ratings/sheet.xlsx", response_class=Response, dependencies=HEAVY)
def get_rating_sheet(use: Use, price: PriceBasis = PriceBasis.LIST) -> Response:
    """The same as a spreadsheet."""
    return download(use.rating_board.workbook(price), XLSX, "ratings.xlsx")


@router.get("/ratings/sheet.pdf", response_class=Response, dependencies=HEAVY)
def get_printed_ratings(use: Use, price: PriceBasis = PriceBasis.LIST, paper: Literal["a4", "a3"] = "a4") -> Response:
    """The same to print, on paper laid across."""
    return download(use.rating_board.printed(price, paper=paper), "application/pdf", "ratings.pdf")


@router.get("/ratings/{rating_id}", dependencies=HEAVY)
def get_rating(rating_id: Id, use: Use) -> RatingView:
    """A rating with what it rests on and what unsettles it."""
    return use.rating_lives.one(rating_id)


@router.post("/models/{model_id}/ratings", status_code=201)
def draft_rating(model_id: Id, body: RatingTerms, use: Use, person: Person) -> RatingView:
    """Begin a rating."""
    return use.rating_lives.draft(model_id, body, person)


@router.post("/series/{series_id}/proposals", status_code=201, dependencies=HEAVY)
def propose_series(series_id: Id, use: Use, person: Person) -> list[SeriesProposalView]:
    """Propose what units bear at every load of a series that has no rating; each stays its own decision."""
    return use.rating_lives.propose_series(series_id, person)


@router.put("/ratings/{rating_id}")
def change_rating(rating_id: Id, body: RatingTerms, use: Use, person: Person, seen: Seen) -> RatingView:
    """Change a draft."""
    return use.rating_lives.redraft(rating_id, version_seen(seen), body, person)


@router.post("/ratings/{rating_id}/proposal", dependencies=HEAVY)
def propose_rating(rating_id: Id, body: ReasonIn, use: Use, person: Person, seen: Seen) -> RatingView:
    """Freeze what a draft rests on, and propose it."""
    return use.rating_lives.propose(rating_id, version_seen(seen), body.reason, person)


@router.post("/ratings/{rating_id}/signature", dependencies=HEAVY)
def sign_rating(rating_id: Id, body: AnswerIn, use: Use, person: Person, seen: Seen) -> RatingView:
    """Answer for a proposal."""
    return use.rating_lives.sign(rating_id, version_seen(seen), body.digest, person)


@router.post("/ratings/{rating_id}/return")
def send_rating_back(rating_id: Id, body: ReasonIn, use: Use, person: Person, seen: Seen) -> RatingView:
    """Make a proposal a draft again."""
    return use.rating_lives.send_back(rating_id, version_seen(seen), body.reason, person)


@router.post("/ratings/{rating_id}/publication", dependencies=HEAVY)
def publish_rating(rating_id: Id, body: AnswerIn, use: Use, person: Person, seen: Seen) -> RatingView:
    """Publish a signed figure."""
    return use.rating_lives.publish(rating_id, version_seen(seen), body.digest, person)


@router.post("/ratings/{rating_id}/confirmation", dependencies=HEAVY)
def confirm_rating(rating_id: Id, body: ConfirmIn, use: Use, person: Person, seen: Seen) -> RatingView:
    """Say that a published figure holds, whatever had unsettled it."""
    return use.rating_lives.confirm(rating_id, version_seen(seen), body.keys, body.reason, person)


@router.post("/ratings/{rating_id}/withdrawal")
def withdraw_rating(rating_id: Id, body: ReasonIn, use: Use, person: Person, seen: Seen) -> RatingView:
    """Take a published figure back."""
    return use.rating_lives.withdraw(rating_id, version_seen(seen), body.reason, person)


@router.post("/ratings/{rating_id}/end")
def drop_rating(rating_id: Id, body: ReasonIn, use: Use, person: Person, seen: Seen) -> RatingView:
    """Give a draft up."""
    return use.rating_lives.drop(rating_id, version_seen(seen), body.reason, person)


@router.get("/ratings/{rating_id}/dossier.pdf", response_class=Response, dependencies=HEAVY)
def get_dossier(rating_id: Id, use: Use) -> Response:
    """A rating's dossier, signed with the lab's certificate."""
    return download(use.rating_dossiers.signed(rating_id), "application/pdf", f"rating-{rating_id}.pdf")


@router.get("/ratings/{rating_id}/dossier.zip", response_class=FileResponse, dependencies=HEAVY)
def get_dossier_with_records(rating_id: Id, use: Use, person: Person) -> FileResponse:
    """The dossier with the records that it rests on, for whoever works it out again."""
    path = use.rating_dossiers.with_records(rating_id, person)
    sent = BackgroundTask(path.unlink, missing_ok=True)
    return FileResponse(path, filename=f"rating-{rating_id}.zip", media_type="application/zip", background=sent)


@router.get("/ratings/{rating_id}/texts")
def get_rating_texts(rating_id: Id, use: Use) -> TextsView:
    """A published rating as others print it: a line in the house style, data, JSON-LD, a label."""
    return texts_view(use.rating_lives.texts(rating_id))


@router.get("/ratings/{rating_id}/label.svg", response_class=Response)
def get_rating_label(rating_id: Id, use: Use) -> Response:
    """The label of a published rating."""
    return download(use.rating_lives.texts(rating_id).label, "image/svg+xml", f"rating-{rating_id}.svg")


@router.get("/signing-certificate", response_class=Response)
def get_signing_certificate(use: Use) -> Response:
    """What this lab signs with: whoever receives a dossier compares it."""
    return download(use.rating_dossiers.certificate, "application/x-pem-file", "lab-certificate.pem")


@router.get("/schema/basis")
def get_basis_schema() -> dict[str, Any]:
    """The JSON Schema of what a dossier carries."""
    return basis_schema()
