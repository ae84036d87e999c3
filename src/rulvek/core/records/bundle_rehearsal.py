"""What would become of a bundle here: what is new, what is there, what is kept as it is here, and what clashes.

A thing of the other lab is the same as one here by what nobody changes: a series and a model by name, a unit by its
serial number, a claim by its terms, whatever is kept with them by name, or by who entered it and when; a campaign by
its unit, who planned it and when; a run by its position; an attempt by its number.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Any, TypeVar

from rulvek.core.records.attempts import Attempt, ReadingWithdrawal, Remark, SecondReading, SetAside
from rulvek.core.records.before_power import Preparation
from rulvek.core.records.bundles import Bundle, BundleCampaign, BundleClaim, BundleUnit, Entered
from rulvek.core.records.campaigns import Choice, Run
from rulvek.core.records.claims import Withdrawal
from rulvek.core.records.entered import SeriesEntry
from rulvek.core.records.facts import differing
from rulvek.core.records.kept import NAMED, Kind, title

T = TypeVar("T")


class State(StrEnum):
    """What would become of a part of a bundle."""

    NEW = "new"
    THERE = "there"
    KEPT = "kept as here"
    CLASH = "clash"


@dataclass(frozen=True, slots=True)
class Told:
    """What would become of one part, which kind of thing it is, and in words why."""

    kind: str
    name: str
    state: State
    words: str = ""


@dataclass(frozen=True, slots=True)
class Here:
    """What this lab has of what a bundle is about, in the shape of a bundle; None where there is no such model.

    Attributes:
        series: The series of that name.
        elsewhere: Of the bundle's units those that are on record of another model, with the model's name.
    """

    series: SeriesEntry | None = None
    bundle: Bundle | None = None
    campaigns: Sequence[BundleCampaign] = ()
    elsewhere: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Later:
    """What was added to an attempt that is there; ``attempt_id`` is its number here."""

    attempt_id: int
    remarks: tuple[Remark, ...] = ()
    seconds: tuple[SecondReading, ...] = ()
    set_aside: tuple[SetAside, ...] = ()
    withdrawals: tuple[ReadingWithdrawal, ...] = ()

    @property
    def words(self) -> list[str]:
        """“2 remarks”, and on."""
        counts = (
            (len(self.remarks), "remark"),
            (len(self.seconds), "second reading"),
            (len(self.set_aside), "finding set aside"),
            (len(self.withdrawals), "withdrawal"),
        )
        return [counted(count, what) for count, what in counts if count]


@dataclass(frozen=True, slots=True)
class Grown:
    """A campaign that is there and gets more: attempts, by the number that their run has here, and what came later."""

    here: BundleCampaign
    brought: BundleCampaign
    attempts: tuple[tuple[int, Attempt], ...] = ()
    later: tuple[Later, ...] = ()
    choices: tuple[tuple[int, Choice], ...] = ()
    preparations: tuple[Preparation, ...] = ()


@dataclass(slots=True)
class Rehearsal:
    """What would become of each part, and with it what is to be written."""

    told: list[Told] = field(default_factory=list)
    new_series: bool = False
    new_model: bool = False
    claims: list[BundleClaim] = field(default_factory=list)
    withdrawn: list[tuple[BundleClaim, Withdrawal]] = field(default_factory=list)
    kept: list[tuple[Kind, Entered[Any]]] = field(default_factory=list)
    units: list[BundleUnit] = field(default_factory=list)
    kept_of_units: list[tuple[str, Kind, Entered[Any]]] = field(default_factory=list)
    campaigns: list[BundleCampaign] = field(default_factory=list)
    grown: list[Grown] = field(default_factory=list)

    @property
    def clashes(self) -> list[Told]:
        """What stands in the way: with any of these nothing is taken in."""
        return [one for one in self.told if one.state is State.CLASH]

    @property
    def has_news(self) -> bool:
        """Whether there is anything to take in."""
        return any(one.state is State.NEW for one in self.told)

    def tell(self, kind: str, name: str, state: State, words: str = "") -> State:
        """Say what would become of a part."""
        self.told.append(Told(kind, name, state, words))
        return state


def rehearse(brought: Bundle, campaigns: Sequence[BundleCampaign], here: Here) -> Rehearsal:
    """What would become of a bundle."""
    found = Rehearsal()
    _series_and_model(found, brought, here)
    known = here.bundle
    _claims(found, brought, known)
    _kept(found, brought.model.name, brought.kept(), known.kept() if known else (), found.kept.append)
    own = {unit.entry.serial.casefold(): unit for unit in (known.units if known else ())}
    for unit in brought.units:
        _unit(found, unit, own.get(unit.entry.serial.casefold()), here.elsewhere)
    there = {campaign.key: campaign for campaign in here.campaigns}
    for one in campaigns:
        campaign = one.brought_by(brought.lab)
        if (same := there.get(campaign.key)) is None:
            found.campaigns.append(campaign)
            found.tell("campaign", name_of(campaign), State.NEW, counted(len(list(campaign.attempts)), "attempt"))
        else:
            _campaign(found, same, campaign)
    return found


def name_of(campaign: BundleCampaign) -> str:
    """“CB1-2604-0117, 2026-05-04 09:12, E. Brack”."""
    return f"{campaign.unit}, {campaign.created_at:%Y-%m-%d %H:%M}, {campaign.created_by}"


def counted(count: int, what: str) -> str:
    """Count things in words.

    >>> counted(1, "finding set aside"), counted(2, "remark"), counted(2, "finding set aside")
    ('1 finding set aside', '2 remarks', '2 findings set aside')
    """
    first, *rest = what.split(" ")
    if count == 1:
        return f"1 {what}"
    return f"{count} {what}s" if first != "finding" else " ".join([str(count), f"{first}s", *rest])


def _series_and_model(found: Rehearsal, brought: Bundle, here: Here) -> None:
    if here.series is None:
        found.new_series = True
        found.tell("series", brought.series.name, State.NEW)
    else:
        _compare(found, "series", brought.series.name, brought.series, here.series)
    if here.bundle is None:
        found.new_model = True
        found.tell("model", brought.model.name, State.NEW)
        return
    theirs, ours = brought.model.product(), here.bundle.model.product()
    if brought.series.name.casefold() != here.bundle.series.name.casefold():
        words = f"here it is one of the series “{here.bundle.series.name}”"
        found.tell("model", brought.model.name, State.CLASH, words)
    elif {group.name: group.channels for group in theirs.groups} != {g.name: g.channels for g in ours.groups}:
        words = "its groups of channels are others here, so that no reading could be told to which it belongs"
        found.tell("model", brought.model.name, State.CLASH, words)
    else:
        _compare(found, "model", brought.model.name, brought.model, here.bundle.model)


def _compare(found: Rehearsal, kind: str, name: str, brought: Any, here: Any) -> None:
    """Tell of what is maintained in both labs: it stays as it is here, and is told where it differs."""
    labels = list(differing(here, brought))
    state = State.KEPT if labels else State.THERE
    found.tell(kind, name, state, f"differs in {', '.join(labels)}" if labels else "")


def _claims(found: Rehearsal, brought: Bundle, here: Bundle | None) -> None:
    ours = {(one.terms, one.by, one.at): one for one in (here.claims if here else ())}
    standing = {one.terms: one for one in ours.values() if one.withdrawn is None}
    for claim in brought.claims:
        name = f"{claim.terms.watts:g} W at {claim.terms.load_ohms:g} Ω, {claim.terms.document}"
        known = ours.get((claim.terms, claim.by, claim.at)) or standing.get(claim.terms)
        if known is None:
            found.claims.append(claim)
            found.tell("claim", name, State.NEW)
        elif claim.withdrawn and not known.withdrawn:
            found.withdrawn.append((known, claim.withdrawn))
            found.tell("claim", name, State.NEW, f"withdrawn by {claim.withdrawn.by}: {claim.withdrawn.reason}")
        else:
            found.tell("claim", name, State.THERE)


def _kept(found: Rehearsal, of: str, brought: Any, here: Any, take: Any) -> None:
    ours = {_kept_key(kind, one): one for kind, one in here}
    for kind, one in brought:
        name = f"{title(kind, one.entry)}, {of}"
        known = ours.get(_kept_key(kind, one))
        if known is None:
            take((kind, one))
            found.tell(kind.value, name, State.NEW)
        else:
            _compare(found, kind.value, name, one.entry, known.entry)


def _kept_key(kind: Kind, one: Entered[Any]) -> tuple[Any, ...]:
    return (kind, one.entry.name.casefold()) if kind in NAMED else (kind, one.by, one.at)


def _unit(found: Rehearsal, unit: BundleUnit, here: BundleUnit | None, elsewhere: Mapping[str, str]) -> None:
    serial = unit.entry.serial
    other = elsewhere.get(serial.casefold())
    if other is not None:
        found.tell("unit", serial, State.CLASH, f"here it is one of the model “{other}”")
        return
    if here is None:
        found.units.append(unit)
        found.tell("unit", serial, State.NEW)
    else:
        _compare(found, "unit", serial, unit.entry, here.entry)
    _kept(
        found,
        serial,
        unit.kept(),
        here.kept() if here else (),
        lambda one: found.kept_of_units.append((serial, *one)),
    )


def _campaign(found: Rehearsal, here: BundleCampaign, brought: BundleCampaign) -> None:
    name = name_of(brought)
    wrong = _clash(here, brought)
    if wrong:
        found.tell("campaign", name, State.CLASH, wrong)
        return
    more, words = _growth(here, brought)
    if not words:
        found.tell("campaign", name, State.THERE)
        return
    if more.attempts and not here.came_from:
        unknown = f"it was conducted here, and not with the bundle's {counted(len(more.attempts), 'further attempt')}"
        found.tell("campaign", name, State.CLASH, unknown)
        return
    found.grown.append(more)
    found.tell("campaign", name, State.NEW, ", ".join(words))


def _clash(here: BundleCampaign, brought: BundleCampaign) -> str:
    """Why two campaigns that must be one are none; empty where they are."""
    if [planned(run) for run in here.runs] != [planned(run) for run in brought.runs] or here.method != brought.method:
        return "its runs are planned otherwise here"
    for ours, theirs in zip(here.runs, brought.runs, strict=True):
        numbers = {attempt.id: attempt.number for run in (ours, theirs) for attempt in run.attempts}
        for one, other in zip(ours.attempts, theirs.attempts, strict=False):
            where = f"attempt {one.number} of run {ours.position}"
            if as_read(one) != as_read(other) or steps_of(here, one) != steps_of(brought, other):
                return f"{where} is not the same in both labs"
            for what in ("set_aside", "withdrawals"):
                if not _is_prefix(getattr(one, what), getattr(other, what)):
                    return f"of {where} both labs decided otherwise"
        if not _is_prefix(_chosen(ours, numbers), _chosen(theirs, numbers)):
            return f"both labs chose otherwise at run {ours.position}"
    return ""


def _growth(here: BundleCampaign, brought: BundleCampaign) -> tuple[Grown, list[str]]:
    """What a campaign that is there gets, and that in words; none where it has all of it."""
    attempts: list[tuple[int, Attempt]] = []
    later: list[Later] = []
    choices: list[tuple[int, Choice]] = []
    for ours, theirs in zip(here.runs, brought.runs, strict=True):
        attempts += [(ours.id, one) for one in theirs.attempts[len(ours.attempts) :]]
        choices += [(ours.id, one) for one in theirs.choices[len(ours.choices) :]]
        for one, other in zip(ours.attempts, theirs.attempts, strict=False):
            more = Later(
                one.id,
                tuple(remark for remark in other.remarks if remark not in one.remarks),
                tuple(second for second in other.seconds if second not in one.seconds),
                other.set_aside[len(one.set_aside) :],
                other.withdrawals[len(one.withdrawals) :],
            )
            if more.words:
                later.append(more)
    preparations = tuple(one for one in brought.preparations if one not in here.preparations)
    words = [counted(len(attempts), "attempt")] if attempts else []
    words += [word for one in later for word in one.words]
    words += [counted(len(choices), "choice")] if choices else []
    words += [counted(len(preparations), "preparation")] if preparations and here.came_from else []
    return Grown(here, brought, tuple(attempts), tuple(later), tuple(choices), preparations), words


def planned(run: Run) -> Run:
    """A run as it was planned, without what came of it."""
    return replace(run, id=0, attempts=(), choices=())


def as_read(attempt: Attempt) -> Attempt:
    """An attempt as it ended, without what was said of it later."""
    return replace(attempt, id=0, remarks=(), set_aside=(), withdrawals=(), seconds=())


def steps_of(campaign: BundleCampaign, attempt: Attempt) -> Any:
    """What happened in an attempt."""
    return campaign.steps.get(attempt.id, ())


def _chosen(run: Run, numbers: Mapping[int, int]) -> tuple[Choice, ...]:
    """Choices by the numbers of their attempts within the run, which are the same in every lab."""
    return tuple(replace(one, attempt_id=numbers.get(one.attempt_id, 0)) for one in run.choices)


def _is_prefix(one: Sequence[T], other: Sequence[T]) -> bool:
    """Whether one of two goes on where the other ends."""
    shared = min(len(one), len(other))
    return list(one[:shared]) == list(other[:shared])
