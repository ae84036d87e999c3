"""The demo's ratings, each at another point of its life. Their figures are what the conducted units bear."""

import tempfile
from collections.abc import Mapping
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from pathlib import Path

from rulvek.composition import Services
from rulvek.core.method.profile import MethodProfile
from rulvek.core.ratings.basis import VALID_MONTHS, RatingTerms
from rulvek.core.ratings.population import Promise
from rulvek.core.ratings.sample import RatedAt
from rulvek.core.records.actor import Actor
from rulvek.core.records.audit_plans import AuditPlanEntry
from rulvek.core.records.claims import ClaimTerms
from rulvek.core.records.kept import Kind
from rulvek.core.records.revisions import RevisionEntry
from rulvek.core.records.summaries import AttemptFilter
from rulvek.demo.scenario import CARTON, ENGINEER, MANAGER, MANUAL, PAGES, REVIEWER, TECHNICIAN, clamp, clamp_before
from rulvek.services.benches import conduct_all
from rulvek.services.reanalysis import Archive
from rulvek.services.views.rating_lives import RatingView
from rulvek.store import people

PROPOSES, SIGNS, PUBLISHES = (Actor(name) for name in (ENGINEER, REVIEWER, MANAGER))
MAIN, BASS = RatedAt("main", 4.0, supply_volts=14.4), RatedAt("bass", 4.0, supply_volts=14.4)


def publish_early(services: Services, models: Mapping[str, int]) -> None:
    """What was published weeks ago, for a month: until its next revision is measured."""
    if not _has_people(services):
        return
    book = _Book(services, models)
    if book.has("Thornmere T1"):
        book.print(book.published("Thornmere T1", BASS, months=1), MANUAL)


def publish_all(services: Services, models: Mapping[str, int]) -> None:
    """Take every rating as far as the scenario has it; nothing where the demo has no people of its own."""
    if not _has_people(services):
        return
    book = _Book(services, models)
    if book.has("Thornmere T2"):
        book.print(book.published("Thornmere T2", MAIN), MANUAL)
    if book.has("Thornmere R4"):
        gone = book.published("Thornmere R4", MAIN)
        book.print(gone, CARTON)
        why = "Units from the field run hot: the figure is taken back until the cause is known."
        services.rating_lives.withdraw(gone.id, gone.seen, why, PUBLISHES)
    if book.has("Thornmere T2 Slim"):
        book.published("Thornmere T2 Slim", MAIN)  # a lot that falls behind is measured afterwards
    if book.has("Thornmere T4 Slim"):
        proposed = book.proposed("Thornmere T4 Slim", MAIN)
        why = "One lot says nothing of the next: measure units of a second one."
        services.rating_lives.send_back(proposed.id, proposed.seen, why, SIGNS)
    if book.has("Thornmere T4"):
        # More than two units bear: a draft that says how many are missing.
        services.rating_lives.draft(models["Thornmere T4"], RatingTerms(MAIN, 100.0), PROPOSES)


def unsettle(services: Services, models: Mapping[str, int], today: date) -> None:
    """What comes to light afterwards: a reading that was wrong, and a clamp that was found out of tolerance."""
    if not _has_people(services):
        return
    slim = models.get("Thornmere T2 Slim")
    if slim is not None:
        first = services.evidence.attempts(wanted=AttemptFilter(model_id=slim)).items[-1]
        services.campaigns.withdraw(first.id, PROPOSES, "The load's fan stood still: its ohms had drifted.")
    if "Thornmere T1" in models:
        services.gear.enter(clamp_before(today, 0, 103.1), PROPOSES)
        services.gear.enter(clamp(today), PROPOSES)
        changed = RevisionEntry("B", "Another output transistor, as the first one is no longer made.")
        services.dossiers.add(Kind.REVISION, models["Thornmere T1"], changed, PROPOSES)


def read_again(services: Services, models: Mapping[str, int]) -> None:
    """The lab changes its method, and adopts what the early waveforms come to by the new one."""
    if "Thornmere T1" not in models or not _has_people(services):
        return
    method = MethodProfile(name="Harmonics to 500 Hz", band_high_hz=500.0)
    why = "The bass channels are filtered at 250 Hz: what lies higher is not theirs."
    with tempfile.TemporaryDirectory() as work:
        archive = Archive(services.database, str(services.files.root), Path(work), "Thornmere T1")
        with ThreadPoolExecutor(1) as reader:
            found = archive.read_again(reader, 1, method)
        archive.adopt(found, PROPOSES, why)


def audit(services: Services, models: Mapping[str, int], units: Mapping[str, int], today: date) -> None:
    """An audit with a unit still owed, and one whose lot falls behind."""
    for name, count in (("Thornmere T2", 2), ("Thornmere T2 Slim", 3)):
        if name in models and _has_people(services):
            plan = services.dossiers.add(Kind.AUDIT_PLAN, models[name], AuditPlanEntry(today, count), PROPOSES)
            if name == "Thornmere T2":
                proofs = services.audits.prove(plan.id, units["TT2-2611-0011"], PROPOSES)
                conduct_all(services.database, services.preparations, services.benches, proofs.id, Actor(TECHNICIAN))


def _has_people(services: Services) -> bool:
    with services.database.reading() as session:
        return people.is_demo(session, MANAGER)


class _Book:
    """Drafts, proposes and publishes in the names of the demo's people."""

    def __init__(self, services: Services, models: Mapping[str, int]) -> None:
        self._services, self._models = services, models

    def has(self, name: str) -> bool:
        """Whether the model is a part of this demo."""
        return name in self._models

    def proposed(self, name: str, at: RatedAt, months: int = VALID_MONTHS) -> RatingView:
        """A proposal of what the model's units bear."""
        lives, model_id = self._services.rating_lives, self._models[name]
        bound = self._services.ratings.population(model_id, at, Promise()).bound
        if bound is None or bound.proposal_watts is None:
            raise ValueError(f"the demo's units of {name} bear no figure")
        drafted = lives.draft(model_id, RatingTerms(at, bound.proposal_watts, valid_months=months), PROPOSES)
        return lives.propose(drafted.id, drafted.seen, "", PROPOSES)

    def published(self, name: str, at: RatedAt, months: int = VALID_MONTHS) -> RatingView:
        """The same, signed and published."""
        lives, proposed = self._services.rating_lives, self.proposed(name, at, months)
        signed = lives.sign(proposed.id, proposed.seen, proposed.digest, SIGNS)
        return lives.publish(signed.id, signed.seen, signed.digest, PUBLISHES)

    def print(self, rating: RatingView, document: str) -> None:
        """A document that states the figure."""
        at = rating.terms.at
        claim = ClaimTerms(
            document=document,
            group=at.group,
            watts=rating.terms.watts,
            load_ohms=at.load_ohms,
            supply_volts=at.supply_volts,
            thd_n_percent=at.thd_n_percent,
            stands_at=PAGES[document],
        )
        self._services.catalogue.add_claim(rating.model_id, claim, PROPOSES)
