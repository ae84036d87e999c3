"""Methods: the lab's own, version by version, and those that campaigns were planned under."""

import json
import threading
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any, ClassVar

from annotated_types import Len

from rulvek import clock
from rulvek.core.errors import BadInput, NotFound
from rulvek.core.method.differences import Difference, differences
from rulvek.core.method.fields import changed, method_fields, said
from rulvek.core.method.profile import MethodProfile
from rulvek.core.method.versions import (
    USUAL,
    MethodVersion,
    before,
    in_use,
    proposed,
    refuse_approval,
    to_begin_with,
)
from rulvek.core.quantities import ENTERED, Name, Text, Title, refuse_out_of_bounds
from rulvek.core.records.actor import Actor
from rulvek.services.views.methods import (
    LabMethodsView,
    MethodDifferenceView,
    MethodFieldView,
    MethodUsedView,
    MethodVersionView,
)
from rulvek.store import audit
from rulvek.store import methods as store
from rulvek.store.engine import Database, Session
from rulvek.store.queries import methods as queries


@dataclass(frozen=True, slots=True)
class MethodChange:
    """A field of a method, and what it is to be, as typed."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    field: Name
    value: Title


@dataclass(frozen=True, slots=True)
class MethodEntry:
    """The next version of a method, as somebody proposes it: what it has otherwise, as typed, and why."""

    __pydantic_config__: ClassVar[Any] = ENTERED

    name: Annotated[Name, Len(1)]
    changes: Annotated[tuple[MethodChange, ...], Len(0, 80)]
    reason: Annotated[Text, Len(1)]


class Methods:
    """Proposes and approves versions, and reads what was used; a campaign keeps its method for good."""

    def __init__(self, database: Database) -> None:
        self._database, self._used = database, _Used()

    def lab(self) -> LabMethodsView:
        """The lab's own methods."""
        with self._database.reading() as session:
            versions, used = store.versions(session), self._used.rows(session)
        standing = {one.id for one in in_use(versions).values()}
        return LabMethodsView(
            versions=[_version_view(one, versions, used, one.id in standing) for one in reversed(versions)],
            fields=[
                MethodFieldView(name=one.name, kind=one.kind.value, unit=one.unit, usual=one.usual, origin=one.origin)
                for one in method_fields()
            ],
        )

    def propose(self, entry: MethodEntry, actor: Actor) -> LabMethodsView:
        """Put the next version of a method on record; nobody plans under it before it is approved.

        Raises:
            BadInput: a field by its name, or nothing that is changed.
        """
        refuse_out_of_bounds(entry)
        name = entry.name.strip()
        if not name or not entry.reason.strip():
            field = "reason" if name else "name"
            raise BadInput("Say why." if name else "Say what the method is called.", field=field)
        if "," in name:  # campaigns call a version by its name, a comma and its number
            raise BadInput("The name of a method has no comma.", field="name")
        with self._database.writing() as session:
            versions = store.versions(session)
            # Whoever writes it otherwise means the one that there is.
            name = next((one.name for one in versions if one.name.casefold() == name.casefold()), name)
            number = 1 + sum(one.name == name for one in versions)
            typed = [(one.field, one.value) for one in entry.changes]
            profile = proposed(changed(to_begin_with(name, versions), typed), name, number, versions)
            made = store.add(session, name, number, profile, entry.reason.strip(), actor.name, clock.now())
            audit.note(session, actor, "proposed a method", f"method/{made.id}", text=f"{made.title}: {made.reason}")
        return self.lab()

    def approve(self, version_id: int, actor: Actor) -> LabMethodsView:
        """Approve a version: campaigns are planned under it from now on.

        Raises:
            NotFound: no such version.
            Conflict: it is approved, a later one is, or it is one's own.
        """
        with self._database.writing() as session:
            version = store.version(session, version_id)
            refuse_approval(version, actor.name, store.versions(session))
            store.approve(session, version_id, actor.name, clock.now())
            audit.note(session, actor, "approved a method", f"method/{version_id}", text=version.title)
        return self.lab()

    def profile(self, session: Session, name: str | None) -> MethodProfile:
        """What is planned under: the version in use of a method, the usual one where nobody says which.

        Raises:
            NotFound: no version of such a method is approved.
        """
        if not name or name == USUAL:
            return store.usual(session)
        standing = in_use(store.versions(session)).get(name)
        if standing is None:
            raise NotFound(f"There is no approved method “{name}”.", todo="Choose another, or have it approved.")
        return standing.profile

    def wished(self, name: str | None, dwell: str, thd_n_limit_percent: float | None) -> MethodProfile:
        """A method as somebody plans under it: with another dwell, and another limit of THD+N, where they are told.

        Raises:
            NotFound: no version of such a method is approved.
            BadInput: no such dwell.
        """
        with self._database.reading() as session:
            method = self.profile(session, name).with_dwell(dwell)
        return method if thd_n_limit_percent is None else replace(method, thd_n_limit_percent=thd_n_limit_percent)

    def used(self) -> list[MethodUsedView]:
        """Those used last first; what only an older program stored otherwise is one."""
        with self._database.reading() as session:
            rows = self._used.rows(session)
        return [_view(row) for row in rows]


class _Used:
    """What campaigns were planned under, each read once: of a hundred thousand attempts that is a while."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._up_to, self._known = 0, list[queries.MethodRow]()

    def rows(self, session: Session) -> list[queries.MethodRow]:
        """All of them, those used last first."""
        settled = queries.settled(session)
        with self._lock:
            if settled > self._up_to:
                self._known = _merged([*self._known, *queries.used(session, self._up_to, settled)])
                self._up_to = settled
            up_to, known = self._up_to, self._known
        return _merged([*known, *queries.used(session, up_to)])


def _merged(rows: Iterable[queries.MethodRow]) -> list[queries.MethodRow]:
    found: dict[str, queries.MethodRow] = {}
    for row in rows:
        key = json.dumps(MethodProfile.from_data(row.method).as_data(), sort_keys=True, default=str)
        held = found.get(key)
        found[key] = row if held is None else _together(held, row)
    return sorted(found.values(), key=lambda row: row.latest_campaign, reverse=True)


def _together(one: queries.MethodRow, other: queries.MethodRow) -> queries.MethodRow:
    latest = max(one, other, key=lambda row: row.latest_campaign)
    return replace(
        latest,
        campaigns=one.campaigns + other.campaigns,
        first=min(one.first, other.first),
        last=max(one.last, other.last),
    )


def _view(row: queries.MethodRow) -> MethodUsedView:
    method = MethodProfile.from_data(row.method)
    return MethodUsedView(
        name=method.name,
        campaigns=row.campaigns,
        first=row.first,
        last=row.last,
        latest_campaign_id=row.latest_campaign,
        differences=_differences(method, MethodProfile()),
    )


def _version_view(
    version: MethodVersion, versions: Sequence[MethodVersion], used: Sequence[queries.MethodRow], stands: bool
) -> MethodVersionView:
    # A campaign's own dwell or limit makes no other method of it: it bears the version's name.
    own = [row for row in used if str(row.method.get("name", "")).startswith(version.title)]
    own = [row for row in own if row.method["name"][len(version.title) :][:1] in ("", ",")]
    return MethodVersionView(
        id=version.id,
        name=version.name,
        number=version.number,
        title=version.title,
        reason=version.reason,
        proposed_by=version.proposed_by,
        proposed_at=version.proposed_at,
        approved_by=version.approved_by,
        approved_at=version.approved_at,
        in_use=stands,
        campaigns=sum(row.campaigns for row in own),
        latest_campaign_id=max((row.latest_campaign for row in own), default=None),
        thd_n_limit_percent=version.profile.thd_n_limit_percent,
        reference_volts=version.profile.reference_volts,
        full_range_tone_hz=version.profile.full_range_tone_hz,
        bass_tone_hz=version.profile.bass_tone_hz,
        burst_full_range=version.profile.burst_full_range,
        burst_bass=version.profile.burst_bass,
        differences=_differences(version.profile, before(version, versions)),
    )


def _differences(here: MethodProfile, there: MethodProfile) -> list[MethodDifferenceView]:
    return [_difference_view(one) for one in differences(here, there)]


def _difference_view(one: Difference) -> MethodDifferenceView:
    return MethodDifferenceView(field=one.field, here=said(one.here), today=said(one.there), origin=one.origin)
