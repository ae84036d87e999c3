"""The lives of ratings: drafted, proposed, signed, published, looked at again, superseded or withdrawn."""

from collections.abc import Sequence
from dataclasses import replace

from rulvek import __version__, clock
from rulvek.core.errors import Conflict, Stale
from rulvek.core.ratings.basis import (
    Basis,
    RatingTerms,
    changed_figures,
    promise_of,
    refuse_unborne,
    refuse_unfit_terms,
    worked_out,
)
from rulvek.core.ratings.changes import changes
from rulvek.core.ratings.life import OPEN, WORDS, RatingState, Step, StepKind, refuse_step
from rulvek.core.ratings.population import bound_of
from rulvek.core.ratings.printed import covers, printed_beside, same_conditions
from rulvek.core.ratings.sample import LEAST_WATTS, RatedAt, counted
from rulvek.core.ratings.texts import HOUSE_STYLE, PrintedTexts, printed_texts, refuse_unfit_style, wording
from rulvek.core.ratings.unsettled import Unsettling, individuals, lots_since, unsettled, valid_until
from rulvek.core.records.actor import Actor
from rulvek.core.records.kept import Kind
from rulvek.core.records.product import Model
from rulvek.services.conclusions import Conclusions
from rulvek.services.ratings.ratings import step_of
from rulvek.services.ratings.samples import refuse_unfit_conditions, sampled
from rulvek.services.ratings.watch import RatingWatch
from rulvek.services.views.rating_lives import RatingView, SeriesProposalView, SinceSentBack, rating_view
from rulvek.services.views.ratings import population_view
from rulvek.store import audit, conclusions, kept, load, methods, people, ratings, seals
from rulvek.store.engine import Database, Session
from rulvek.store.queries import line as line_queries
from rulvek.store.ratings import Frozen, RatingRow


class RatingLives:
    """Takes each step by the rules of the core; a step is one transaction, its sample worked out before."""

    def __init__(
        self, database: Database, conclusions: Conclusions, watch: RatingWatch, house_style: str = HOUSE_STYLE
    ) -> None:
        refuse_unfit_style(house_style)
        self._database, self._conclusions, self._watch = database, conclusions, watch
        self._house_style = house_style

    def one(self, rating_id: int) -> RatingView:
        """A rating with what it rests on, what unsettles it, and where it is printed.

        Raises:
            NotFound: there is none.
        """
        with self._database.reading() as session:
            return self._view(session, ratings.one(session, rating_id))

    def texts(self, rating_id: int) -> PrintedTexts:
        """A published rating as others print it.

        Raises:
            Conflict: it is not published, or not any more.
        """
        with self._database.reading() as session:
            rating = ratings.one(session, rating_id)
            basis, model = _basis(session, rating), load.model(session, rating.model_id)
        if basis is None or rating.life.state is not RatingState.PUBLISHED:
            raise Conflict(f"This rating is {rating.life.state.value}: only a published one is printed.")
        group = model.product.group(rating.terms.at.group)
        return printed_texts(model.name, rating.terms, group, basis.reference_volts, self._house_style)

    def draft(self, model_id: int, terms: RatingTerms, actor: Actor) -> RatingView:
        """Begin a rating.

        Raises:
            BadInput: a field by its name.
            NotFound: no such model.
            Conflict: one at the same conditions is on its way.
        """
        with self._database.writing() as session:
            model = load.model(session, model_id)
            self._refuse_unfit(session, model, terms, None)
            rating_id = ratings.add(session, model_id)
            step = Step(1, StepKind.DRAFTED, actor.name, clock.now())
            refuse_step(None, step)
            _take(session, rating_id, step, actor, _text(session, model, terms), terms=terms)
        return self.one(rating_id)

    def redraft(self, rating_id: int, seen: int, terms: RatingTerms, actor: Actor) -> RatingView:
        """Change a draft.

        Raises:
            BadInput: a field by its name.
            Conflict: it is no draft any more.
            Stale: somebody took a step meanwhile.
        """
        with self._database.writing() as session:
            rating = ratings.one(session, rating_id)
            model = load.model(session, rating.model_id)
            self._refuse_unfit(session, model, terms, rating)
            step = Step(seen + 1, StepKind.DRAFTED, actor.name, clock.now())
            refuse_step(rating.life, step)
            _take(session, rating_id, step, actor, _text(session, model, terms), terms=terms)
        return self.one(rating_id)

    def propose(self, rating_id: int, seen: int, reason: str, actor: Actor) -> RatingView:
        """Freeze what a rating rests on, and propose it.

        Raises:
            Conflict: the units bear less.
            Stale: somebody took a step, or evidence came, meanwhile.
        """
        step = Step(seen + 1, StepKind.PROPOSED, actor.name, clock.now(), reason.strip())
        with self._database.reading() as session:
            rating = ratings.one(session, rating_id)
            refuse_step(rating.life, step)
            version = _version(session, rating)
            basis = self._frozen(session, rating)
        kept_as = ratings.frozen(basis)
        with self._database.writing() as session:
            _refuse_moved(session, rating, version)
            refuse_step(ratings.one(session, rating_id).life, replace(step, digest=kept_as.digest))
            text = _text(session, load.model(session, rating.model_id), rating.terms)
            _take(session, rating_id, replace(step, digest=kept_as.digest), actor, text, basis=kept_as)
        return self.one(rating_id)

    def propose_series(self, series_id: int, actor: Actor) -> list[SeriesProposalView]:
        """Propose what units bear at every load of a series where no rating is published or on its way.

        Each is a rating of its own; what cannot be proposed says why, and keeps none of the others.

        Raises:
            NotFound: no such series.
        """
        with self._database.reading() as session:
            line_queries.series_entry(session, series_id)  # there is one
            models = load.models(session, line_queries.models_of_series(session, series_id))
            known = {model.id: ratings.of_model(session, model.id) for model in models}
            volts = methods.usual(session).reference_volts
        found = []
        for model in models:
            for group, ohms, bridged in model.places:
                at = RatedAt(group, ohms, bridged)
                if not any(_stands_in_the_way(one, at, volts) for one in known[model.id]):
                    found.append(self._proposed_at(model, at, actor))
        return found

    def _proposed_at(self, model: Model, at: RatedAt, actor: Actor) -> SeriesProposalView:
        told = SeriesProposalView(
            model_id=model.id,
            model=model.name,
            group=at.group,
            load_ohms=at.load_ohms,
            bridged=at.bridged,
            watts=None,
            rating_id=None,
            why="",
        )
        try:
            with self._database.reading() as session:
                rows = sampled(session, self._conclusions, model.id, model.product, at, {}).rows
                step = step_of(session, model.id)
            terms = RatingTerms(at, LEAST_WATTS)
            bound = worked_out(rows, promise_of(terms, rows, step))
            if bound.proposal_watts is None:
                return replace(told, why=bound.notes[-1] if bound.notes else "These units bear no figure.")
            drafted = self.draft(model.id, replace(terms, watts=bound.proposal_watts), actor)
            proposed = self.propose(drafted.id, drafted.seen, "", actor)
        except Conflict as refused:
            return replace(told, why=refused.what)
        return replace(told, watts=bound.proposal_watts, rating_id=proposed.id)

    def sign(self, rating_id: int, seen: int, digest: str, actor: Actor) -> RatingView:
        """Answer for a proposal; by nobody who measured, drafted or proposed it.

        Raises:
            NotAllowed: by one of those.
            Conflict: another basis than was looked at, or something that unsettles it.
            Stale: somebody took a step, or evidence came, meanwhile.
        """
        return self._answer(rating_id, Step(seen + 1, StepKind.SIGNED, actor.name, clock.now(), "", digest), actor)

    def publish(self, rating_id: int, seen: int, digest: str, actor: Actor) -> RatingView:
        """Publish a signed figure, which supersedes the one before it.

        Raises:
            Conflict: the figures come out otherwise, something unsettles it, or it was only simulated.
            Stale: somebody took a step, or evidence came, meanwhile.
        """
        step = Step(seen + 1, StepKind.PUBLISHED, actor.name, clock.now(), "", digest)
        return self._answer(rating_id, step, actor)

    def send_back(self, rating_id: int, seen: int, reason: str, actor: Actor) -> RatingView:
        """Make a proposal a draft again, for a reason."""
        return self._plainly(rating_id, seen, StepKind.SENT_BACK, reason, actor)

    def withdraw(self, rating_id: int, seen: int, reason: str, actor: Actor) -> RatingView:
        """Take a published figure back, for a reason."""
        return self._plainly(rating_id, seen, StepKind.WITHDRAWN, reason, actor)

    def drop(self, rating_id: int, seen: int, reason: str, actor: Actor) -> RatingView:
        """Give a draft up, for a reason."""
        return self._plainly(rating_id, seen, StepKind.DROPPED, reason, actor)

    def confirm(self, rating_id: int, seen: int, keys: Sequence[str], reason: str, actor: Actor) -> RatingView:
        """Say that a published figure holds, whatever of ``keys`` had unsettled it.

        Raises:
            Conflict: it takes a new proposal, or that does not unsettle it.
            NotAllowed: by somebody who had a hand in it.
        """
        step = Step(seen + 1, StepKind.CONFIRMED, actor.name, clock.now(), reason.strip(), settles=tuple(keys))
        with self._database.reading() as session:
            rating = ratings.one(session, rating_id)
            basis = _basis(session, rating)
            refuse_step(rating.life, step, basis.measured_by if basis else ())
            known = {one.key: one for one in self._unsettled(session, rating, basis)} if basis else {}
        for key in keys:
            if key not in known:
                raise Conflict("What is confirmed does not unsettle it (any more).", todo="Look at it again.")
            if not known[key].confirmable:
                raise Conflict(f"This takes a new proposal: {known[key].what}", todo=known[key].settle)
        with self._database.writing() as session:
            refuse_step(ratings.one(session, rating_id).life, step, basis.measured_by if basis else ())
            _take(session, rating_id, step, actor, step.reason)
        return self.one(rating_id)

    def _answer(self, rating_id: int, step: Step, actor: Actor) -> RatingView:
        """Sign or publish: only what still stands as it was proposed."""
        with self._database.reading() as session:
            rating = ratings.one(session, rating_id)
            version = _version(session, rating)
            basis = _basis(session, rating)
            measured = basis.measured_by if basis else frozenset()
            refuse_step(rating.life, step, measured)
            if basis is None:
                raise Conflict("There is no proposal to answer for.")
            moved = changed_figures(basis)
            against = self._unsettled(session, rating, basis)
            demo = people.is_demo(session, actor.name)
        if moved:
            raise Conflict(
                f"Worked out again it comes to another {moved[0].replace('_', ' ')}.", todo="Propose it anew."
            )
        if against:
            raise Conflict(against[0].what, todo=against[0].settle)
        if step.kind is StepKind.PUBLISHED and basis.simulated and not demo:
            raise Conflict(
                "Its readings come from a simulated bench: no amplifier gave this, and nobody may publish it.",
                todo="Measure units.",
            )
        with self._database.writing() as session:
            _refuse_moved(session, rating, version)
            refuse_step(ratings.one(session, rating_id).life, step, measured)
            model = load.model(session, rating.model_id)
            _take(session, rating_id, step, actor, _text(session, model, rating.terms))
            if step.kind is StepKind.PUBLISHED:
                for other in _superseded(session, rating, basis.reference_volts):
                    after = Step(
                        other.life.seen + 1, StepKind.SUPERSEDED, actor.name, step.at, f"By rating {rating_id}."
                    )
                    refuse_step(other.life, after)
                    _take(session, other.id, after, actor, after.reason)
        return self.one(rating_id)

    def _plainly(self, rating_id: int, seen: int, kind: StepKind, reason: str, actor: Actor) -> RatingView:
        step = Step(seen + 1, kind, actor.name, clock.now(), reason.strip())
        with self._database.writing() as session:
            refuse_step(ratings.one(session, rating_id).life, step)
            _take(session, rating_id, step, actor, step.reason)
        return self.one(rating_id)

    def _refuse_unfit(self, session: Session, model: Model, terms: RatingTerms, own: RatingRow | None) -> None:
        refuse_unfit_terms(terms)
        refuse_unfit_conditions(model.product, terms.at)
        volts = methods.usual(session).reference_volts
        for other in ratings.of_model(session, model.id):
            if own is not None and other.id == own.id:
                continue
            if other.life.state in OPEN and same_conditions(other.terms.at, terms.at, volts):
                if covers(other.terms.at, terms.at) or covers(terms.at, other.terms.at):
                    raise Conflict(
                        f"Rating {other.id} at these conditions is on its way: {other.life.state.value}.",
                        todo="Go on with that one, or drop it.",
                    )

    def _frozen(self, session: Session, rating: RatingRow) -> Basis:
        model = load.model(session, rating.model_id)
        terms = rating.terms
        found = sampled(session, self._conclusions, model.id, model.product, terms.at, terms.without)
        step = step_of(session, model.id)
        promise = promise_of(terms, found.rows, step)
        bound = worked_out(found.rows, promise)
        refuse_unborne(terms.watts, bound, promise)
        return Basis(
            model=model.name,
            terms=terms,
            rows=found.rows,
            readings=found.readings,
            revisions=kept.names(session, Kind.REVISION, [model.id]).get(model.id, ()),
            reference_volts=found.method.reference_volts,
            step_watts=step,
            method=found.method.as_data(),
            program=__version__,
            bound=bound,
            budget=found.budget,
        )

    def _unsettled(self, session: Session, rating: RatingRow, basis: Basis) -> tuple[Unsettling, ...]:
        return unsettled(basis, rating.life, self._watch.today(session, [rating])[rating.id])

    def _view(self, session: Session, rating: RatingRow) -> RatingView:
        model = load.model(session, rating.model_id)
        basis = _basis(session, rating)
        today = self._watch.today(session, [rating])[rating.id]
        rows = basis.rows if basis else today.rows
        step = basis.step_watts if basis else step_of(session, model.id)
        promise = promise_of(rating.terms, rows, step)
        bound = basis.bound if basis else bound_of(sample, promise) if (sample := counted(rows)) else None
        reference = basis.reference_volts if basis else methods.usual(session).reference_volts
        before = _before(session, rating, reference)
        earlier = _basis(session, before) if before else None
        return rating_view(
            rating.id,
            model,
            rating.life,
            rating.terms,
            population_view(rating.terms.at, promise, rows, bound),
            basis,
            reference,
            unsettled(basis, rating.life, today) if basis else (),
            valid_until(basis, rating.life) if basis else None,
            printed_beside(rating.terms, model.claims, reference),
            before.id if before else None,
            changes(earlier, basis) if earlier and basis else (),
            _since_sent_back(session, rating, basis),
            individuals(basis, today) if basis else None,
            lots_since(basis, today) if basis else (),
        )


def _since_sent_back(session: Session, rating: RatingRow, basis: Basis | None) -> SinceSentBack | None:
    """What is other than in the proposal that was sent back: the first thing that its signer asks."""
    found = rating.life.sent_back_proposal
    if found is None or basis is None:
        return None
    proposal, back = found
    kept = ratings.basis_of(session, rating, proposal)
    return SinceSentBack(back, changes(kept.basis, basis)) if kept else None


def _basis(session: Session, rating: RatingRow) -> Basis | None:
    found = ratings.basis_of(session, rating)
    return found.basis if found else None


def _take(
    session: Session,
    rating_id: int,
    step: Step,
    actor: Actor,
    text: str,
    terms: RatingTerms | None = None,
    basis: Frozen | None = None,
) -> None:
    step_id = ratings.take(session, rating_id, step, terms, basis)
    sealed = seals.rating_seals(session, [step_id])
    audit.note(session, actor, f"{WORDS[step.kind]} a rating", f"rating/{rating_id}", sealed, text=text)


def _text(session: Session, model: Model, terms: RatingTerms) -> str:
    group = model.product.group(terms.at.group)
    return f"{model.name}: {wording(terms, group, methods.usual(session).reference_volts)}"


def _version(session: Session, rating: RatingRow) -> str:
    return conclusions.model_versions(session, [rating.model_id])[rating.model_id]


def _refuse_moved(session: Session, rating: RatingRow, version: str) -> None:
    """What was worked out before a transaction must still be so within it."""
    if _version(session, rating) != version:
        raise Stale("Evidence of this model came in meanwhile.", todo="Look at it again.")


def _stands_in_the_way(rating: RatingRow, at: RatedAt, reference_volts: float) -> bool:
    """Whether a rating at these conditions is published already, or on its way."""
    alive = rating.life.state in (*OPEN, RatingState.PUBLISHED)
    return alive and same_conditions(rating.terms.at, at, reference_volts)


def _superseded(session: Session, rating: RatingRow, reference_volts: float) -> list[RatingRow]:
    """Published ratings that another one takes the place of."""
    return [
        other
        for other in ratings.of_model(session, rating.model_id)
        if other.life.state is RatingState.PUBLISHED
        and other.id != rating.id
        and same_conditions(other.terms.at, rating.terms.at, reference_volts)
        and covers(rating.terms.at, other.terms.at)
    ]


def _before(session: Session, rating: RatingRow, reference_volts: float) -> RatingRow | None:
    """The last rating at the same conditions that was published before this one."""
    began = rating.life.steps[0].at
    known = [
        (published.at, other)
        for other in ratings.of_model(session, rating.model_id)
        if other.id != rating.id
        and (published := other.life.last(StepKind.PUBLISHED)) is not None
        and published.at < began
        and same_conditions(other.terms.at, rating.terms.at, reference_volts)
    ]
    return max(known, key=lambda one: one[0])[1] if known else None
