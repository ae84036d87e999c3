"""Units, models, revisions or lots in one table of differences: facts, inside, readings, claims."""

from collections.abc import Iterator, Sequence
from typing import Literal, cast, get_args

from rulvek.core.errors import BadInput
from rulvek.core.judgement.reach import Reach
from rulvek.core.judgement.verdict import DecisionRule, Verdict
from rulvek.core.quantities import field_names
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.differences import Saying, side_by_side
from rulvek.core.records.facts import in_words, label_of, said
from rulvek.core.records.inside import InsideEntry, fuses_doubted
from rulvek.core.records.kept import Kept, Kind
from rulvek.core.records.product import Model
from rulvek.core.rounding import rounded
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.side_by_side import DifferenceView, SideBySideView, SubjectView
from rulvek.store import kept, load
from rulvek.store.engine import Database, Session
from rulvek.store.queries import line as line_queries

Sort = Literal["unit", "model", "revision", "lot"]
FEWEST, MOST = 2, 6
UNITS_OF_A_LOT = 200


class SideBySide:
    """Lays several things of one sort beside each other."""

    def __init__(self, database: Database, conclusions: Conclusions) -> None:
        self._database, self._conclusions = database, conclusions

    def of(self, sort: Sort, ids: Sequence[int], rule: DecisionRule = DecisionRule.AS_STORED) -> SideBySideView:
        """The table of some things of a sort.

        Raises:
            BadInput: fewer than two, too many, or the same one twice.
            NotFound: one that is not on record.
        """
        if not FEWEST <= len(ids) <= MOST or len(set(ids)) != len(ids):
            raise BadInput(f"Choose {FEWEST} to {MOST} different ones.", field="id")
        tell = {"unit": self._unit, "model": self._model}.get(sort)
        with self._database.reading() as session:
            if tell is not None:
                found = [tell(session, one, rule) for one in ids]
            else:
                found = [self._batch(session, Kind(sort), one, rule) for one in ids]
        rows = side_by_side([sayings for _, sayings in found])
        return SideBySideView(
            subjects=[subject for subject, _ in found],
            rows=[
                DifferenceView(section=one.section, label=one.label, values=list(one.values), same=one.is_same)
                for one in rows
            ],
        )

    def _unit(self, session: Session, unit_id: int, rule: DecisionRule) -> tuple[SubjectView, list[Saying]]:
        unit = load.unit(session, unit_id)
        model = load.model(session, unit.model_id)
        drawn = self._conclusions.units(session, model, [unit_id], rule)[unit_id]
        seen = [one for one in kept.all_of(session, Kind.INSIDE, [unit_id]) if not one.closed]
        sayings = [
            *_of_unit(unit, model),
            *_of_inside(seen, model),
            *_of_reaches(drawn.reaches),
            *_of_verdicts(drawn.verdicts, model),
        ]
        return SubjectView(id=unit.id, name=unit.serial, of=model.name), sayings

    def _model(self, session: Session, model_id: int, rule: DecisionRule) -> tuple[SubjectView, list[Saying]]:
        model = load.model(session, model_id)
        drawn = self._conclusions.models(session, [model], rule)[model_id]
        sayings = [
            *_of_model(model),
            ("units", "on record", str(drawn.units)),
            *_of_claims(model),
            *_of_reaches(drawn.reaches),
            *_of_verdicts(drawn.verdicts, model),
        ]
        return SubjectView(id=model.id, name=model.name, of=model.series_name), sayings

    def _batch(
        self, session: Session, kind: Kind, kept_id: int, rule: DecisionRule
    ) -> tuple[SubjectView, list[Saying]]:
        one = kept.one(session, kind, kept_id)
        model = load.model(session, one.of_id)
        units = line_queries.units_named(session, kind, model.id, one.entry.name, UNITS_OF_A_LOT)
        drawn = self._conclusions.units(session, model, [unit.id for unit in units], rule)
        seen = [
            inside for inside in kept.all_of(session, Kind.INSIDE, [unit.id for unit in units]) if not inside.closed
        ]
        said_of = [
            (kind.value, label_of(name), in_words(value))
            for name in field_names(one.entry)
            if name != "name" and (value := getattr(one.entry, name)) not in (None, "")
        ]
        sayings: list[Saying] = [
            *said_of,
            ("units", "on record", str(len(units))),
            ("units", "serial numbers", ", ".join(unit.serial for unit in units)),
            *_of_inside(seen, model),
            *_of_reaches(_weakest([reach for unit in units for reach in drawn[unit.id].reaches])),
        ]
        return SubjectView(id=one.id, name=f"{kind.value} {one.entry.name}", of=model.name), sayings


def sort_of(word: str) -> Sort:
    """A sort by its word.

    Raises:
        BadInput: there is none of that name.
    """
    if word not in get_args(Sort):
        raise BadInput(f"Side by side stand {', '.join(get_args(Sort))}.", field="kind")
    return cast(Sort, word)


def _of_unit(unit: Unit, model: Model) -> Iterator[Saying]:
    yield "unit", "model", model.name
    for label in ("lot", "revision", "origin"):
        if words := getattr(unit, label):
            yield "unit", label, words
    yield "unit", "received", unit.received_at.date().isoformat()
    for label, words in said(unit.facts):
        yield "unit", label, words


def _of_model(model: Model) -> Iterator[Saying]:
    product = model.product
    yield "model", "what it is", model.description
    yield "model", "class", product.topology
    yield "model", "supply regulated", in_words(product.regulated) if model.facts.regulation_known else "not known"
    yield "model", "supply, V", "–".join(f"{volts:g}" for volts in product.supply_range)
    if product.fuse_amps:
        yield "model", "fuses, A", " + ".join(f"{amps:g}" for amps in product.fuse_amps)
    for group in product.groups:
        loads = " ".join(f"{ohms:g}" for ohms in group.rated_loads)
        bridged = f", bridged {' '.join(f'{ohms:g}' for ohms in group.bridged_loads)}" if group.bridged_loads else ""
        yield "channels", group.name, f"{len(group.channels)} × {loads} Ω{bridged}"
    for label, words in said(model.facts):
        if label != "controls":
            yield "model", label, words
    for control in model.facts.controls:
        yield "controls", control.kind.value, in_words(control)


def _of_inside(found: Sequence[Kept], model: Model) -> Iterator[Saying]:
    for one in found:
        entry: InsideEntry = one.entry
        if entry.board_revision:
            yield "inside", "board revision", entry.board_revision
        for part in entry.parts:
            rating = [f"{part.volts:g} V"] if part.volts else []
            rating += [f"{part.celsius:g} °C"] if part.celsius else []
            words = " ".join(filter(None, [f"{part.count} ×", part.value, *rating, part.mark]))
            whose = f", channel {', '.join(map(str, part.channels))}" if part.channels else ""
            yield "inside", part.place.value + whose, words
        if entry.fuses:
            fuses = ", ".join(f"{f.amps:g} A{'' if f.in_circuit else ' not in circuit'}" for f in entry.fuses)
            yield "inside", "fuses", fuses
            if doubt := fuses_doubted(entry.fuses, model.product.fuse_amps):
                yield "inside", "fuses in doubt", doubt
        if entry.fan_ran is not None:
            yield "inside", "fan ran", in_words(entry.fan_ran)


def _of_reaches(reaches: Sequence[Reach]) -> Iterator[Saying]:
    for reach in reaches:
        place = _place(reach.group, reach.load_ohms, reach.bridged)
        for label, watts, expanded in (
            ("certified", reach.certified_watts, reach.expanded_watts),
            ("uncertified", reach.uncertified_watts, reach.uncertified_expanded_watts),
            ("burst", reach.burst_watts, reach.burst_expanded_watts),
        ):
            if watts is not None:
                simulated = ", simulated" if reach.simulated else ""
                yield "measured", f"{place}, {label}", f"{rounded(watts, expanded)} W{simulated}"


def _of_claims(model: Model) -> Iterator[Saying]:
    for claim in model.standing_claims:
        volts = f" at {claim.supply_volts:g} V" if claim.supply_volts else ""
        yield "claims", _place(*claim.place), f"{claim.watts:g} W{volts} ({claim.document})"


def _of_verdicts(verdicts: Sequence[Verdict], model: Model) -> Iterator[Saying]:
    by_id = {claim.id: claim for claim in model.standing_claims}
    for verdict in verdicts:
        if (claim := by_id.get(verdict.claim_id)) is not None:
            yield "verdicts", f"{claim.watts:g} W, {_place(*claim.place)}, {claim.document}", verdict.kind.value


def _place(group: str, ohms: float, bridged: bool) -> str:
    return f"{group} at {ohms:g} Ω{' bridged' if bridged else ''}"


def _weakest(reaches: Sequence[Reach]) -> list[Reach]:
    """Of each place the reach with the least certified power; those without any come last."""
    found: dict[tuple[str, float, bool], Reach] = {}
    for reach in reaches:
        known = found.get(reach.place)
        if known is None or (reach.certified_watts or float("inf")) < (known.certified_watts or float("inf")):
            found[reach.place] = reach
    return list(found.values())
