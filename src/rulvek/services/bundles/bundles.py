"""Bundles out and in: packed from what is on record, rehearsed against it, taken in as a whole or not at all."""

import secrets
import shutil
import threading
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta
from pathlib import Path

from rulvek import clock
from rulvek.bench.benches import refuse_unfit_stand_in
from rulvek.core.errors import Conflict, NotFound
from rulvek.core.records.actor import Actor
from rulvek.core.records.bundle_rehearsal import Here, Rehearsal, rehearse
from rulvek.core.records.bundles import Bundle, Scope, refuse_unfit_bundle, renumbered
from rulvek.core.records.campaigns import Campaign, Unit
from rulvek.services.arriving import ArrivingFile
from rulvek.services.bundles.packing import Gathered, Packer
from rulvek.services.bundles.taking_in import BroughtFiles, step_digests, take_in
from rulvek.services.conclusions import Conclusions
from rulvek.services.views.bundles import BundlePartView, BundleView, TakenInView
from rulvek.store import audit, load
from rulvek.store.engine import Database, Session
from rulvek.store.files import FileStore
from rulvek.store.formats.bundles import Unpacked, read_bundle, write_bundle
from rulvek.store.queries import line as line_queries

MOST_BYTES = 2 * 2**30
MOST_WAITING = 4
FORGOTTEN = timedelta(hours=1)
"""A bundle that waits longer is let go as soon as its place is wanted."""
TRIES = 3
SHOWN = 2_000


@dataclass(frozen=True, slots=True)
class Packed:
    """A bundle that was packed: a file that belongs to its caller, and what it may be called."""

    path: Path
    name: str


@dataclass(slots=True)
class _Waiting:
    """A bundle that arrived; ``folder`` holds its files."""

    id: str
    folder: Path
    unpacked: Unpacked
    bytes: int
    arrived: datetime
    door: threading.Lock = field(default_factory=threading.Lock)


@dataclass(frozen=True, slots=True)
class _Rehearsed:
    """What would become of a bundle, at a state of the records that the end of the audit chain tells."""

    found: Rehearsal
    serials: dict[int, str]
    chain: tuple[int, str]


class Bundles:
    """Packs, and takes in what others packed. ``lab`` is what this lab calls itself on what it packs."""

    def __init__(
        self, database: Database, conclusions: Conclusions, files: FileStore, folder: Path, lab: str = ""
    ) -> None:
        self._database, self._conclusions, self._files = database, conclusions, files
        self._folder, self._lab = folder, lab.strip()
        self._waiting: dict[str, _Waiting] = {}

    def clear(self) -> None:
        """Delete what an earlier process left behind."""
        shutil.rmtree(self._folder, ignore_errors=True)

    close = clear

    def pack(self, scope: Scope, identity: int, actor: Actor) -> Packed:
        """Pack a model with all of its units, a unit with all of its campaigns, or one campaign.

        Raises:
            NotFound: there is none.
            Conflict: something of it cannot be read, or a file is not as it was kept.
        """
        with self._database.reading() as session:
            name, found = _gathered(session, Packer(session, self._files), scope, identity)
        bundle = replace(found.bundle, lab=self._lab, scope=scope, of=name, packed_by=actor.name, packed_at=clock.now())
        self._folder.mkdir(parents=True, exist_ok=True)
        target = self._folder / f"{secrets.token_hex(8)}.zip"
        try:
            write_bundle(target, bundle, found.campaigns, found.files)
        except BaseException:
            target.unlink(missing_ok=True)
            raise
        return Packed(target, f"{name}.bundle.zip")

    def arriving(self, name: str) -> ArrivingFile:
        """Begin to take a bundle in.

        Raises:
            Conflict: too many wait already.
        """
        now = clock.now()
        for old in [one for one in self._waiting.values() if now - one.arrived > FORGOTTEN]:
            self.let_go(old.id)
        if len(self._waiting) >= MOST_WAITING:
            what = f"{MOST_WAITING} bundles wait to be taken in already."
            raise Conflict(what, todo="Take some of them in or let them go, then send this one again.")
        return ArrivingFile(self._folder, name, MOST_BYTES, "bundle", "Let it be packed by unit or by campaign.")

    def arrived(self, file: ArrivingFile) -> BundleView:
        """Look into a bundle that is complete, and rehearse it; it waits until it is taken in or let go.

        Raises:
            BadInput: no bundle, a damaged one, or one that does not hold together.
        """
        source = file.complete()
        folder = source.with_suffix(".unpacked")
        try:
            folder.mkdir()
            unpacked = opened(source, folder)
            waiting = _Waiting(source.name, folder, unpacked, source.stat().st_size, clock.now())
            view = _view(waiting, self._rehearsed(unpacked).found)
        except BaseException:
            shutil.rmtree(folder, ignore_errors=True)
            raise
        finally:
            source.unlink(missing_ok=True)
        self._waiting[waiting.id] = waiting
        return view

    def view(self, identity: str) -> BundleView:
        """What would become of a waiting bundle now.

        Raises:
            NotFound: none of that id waits.
        """
        waiting = self._one(identity)
        return _view(waiting, self._rehearsed(waiting.unpacked).found)

    def let_go(self, identity: str) -> None:
        """Delete a waiting bundle."""
        waiting = self._one(identity)
        with waiting.door:
            self._forget(waiting)

    def take_in(self, identity: str, actor: Actor) -> TakenInView:
        """Take a waiting bundle in: all of what is new in it, or nothing.

        Raises:
            Conflict: something clashes, nothing is new, or the records change faster than can be looked at.
        """
        waiting = self._one(identity)
        with waiting.door:
            self._one(identity)  # whoever held the door may have taken it in
            brought = BroughtFiles(waiting.unpacked)
            brought.put(self._files)
            digests = step_digests(waiting.unpacked.campaigns)
            for _ in range(TRIES):
                rehearsed = self._rehearsed(waiting.unpacked)
                found = rehearsed.found
                if found.clashes:
                    what = f"{found.clashes[0].name}: {found.clashes[0].words}. Nothing was taken in."
                    raise Conflict(what, todo="Settle it in one of the labs, and pack again.")
                if not found.has_news:
                    raise Conflict("All of it is on record already.")
                with self._database.writing() as session:
                    if audit.head(session) != rehearsed.chain:
                        continue  # somebody did something since: look again
                    bundle = waiting.unpacked.bundle
                    taken = take_in(session, bundle, found, rehearsed.serials, brought, digests, actor)
                self._forget(waiting)
                for unit_id in taken.unit_ids:
                    self._conclusions.changed(taken.model_id, unit_id)
                self._conclusions.changed(taken.model_id)
                return taken
            raise Conflict("The records are being changed.", todo="Try again in a moment.")

    def _one(self, identity: str) -> _Waiting:
        found = self._waiting.get(identity)
        if found is None:
            raise NotFound("There is no such bundle waiting.", todo="Send it again.")
        return found

    def _forget(self, waiting: _Waiting) -> None:
        self._waiting.pop(waiting.id, None)
        shutil.rmtree(waiting.folder, ignore_errors=True)

    def _rehearsed(self, unpacked: Unpacked) -> _Rehearsed:
        with self._database.reading() as session:
            chain = audit.head(session)
            here = _here(session, self._files, unpacked.bundle)
        brought = unpacked.bundle
        known = here.bundle.others.values() if here.bundle else ()
        numbers = {serial: at for at, serial in enumerate(sorted({*brought.others.values(), *known}), 1)}
        if here.bundle is not None:
            here = replace(here, bundle=renumbered(here.bundle, numbers))
        found = rehearse(renumbered(brought, numbers), unpacked.campaigns, here)
        return _Rehearsed(found, {at: serial for serial, at in numbers.items()}, chain)


def opened(source: Path, folder: Path) -> Unpacked:
    """Unpack a bundle into a folder, and hold it against its manifest, its schema and itself.

    Raises:
        BadInput: no bundle, a damaged one, or one that does not hold together.
    """
    unpacked = read_bundle(source, folder)
    refuse_unfit_bundle(unpacked.bundle, unpacked.campaigns, clock.now())
    _refuse_unfit_design(unpacked.bundle)
    BroughtFiles(unpacked).refuse_unfit(folder)
    return unpacked


def _gathered(session: Session, packer: Packer, scope: Scope, identity: int) -> tuple[str, Gathered]:
    units: list[Unit]
    campaigns: list[Campaign]
    if scope is Scope.MODEL:
        model = load.model(session, identity)
        name, model_id = model.name, model.id
        units = [load.unit(session, one) for one in line_queries.unit_ids(session, identity)]
        campaigns = [one for own in load.campaigns_by_unit(session, [unit.id for unit in units]) for one in own]
    elif scope is Scope.UNIT:
        unit = load.unit(session, identity)
        name, model_id, units = unit.serial, unit.model_id, [unit]
        campaigns = load.campaigns_of_unit(session, unit.id)
    else:
        campaign = load.campaign(session, identity)
        name, model_id = f"{campaign.unit.serial}, campaign {campaign.id}", campaign.unit.model_id
        units, campaigns = [campaign.unit], [campaign]
    return name, packer.gather(model_id, units, campaigns)


def _here(session: Session, files: FileStore, brought: Bundle) -> Here:
    """What this lab has of what a bundle is about."""
    series_id = line_queries.series_named(session, brought.series.name)
    series = line_queries.series_entry(session, series_id) if series_id is not None else None
    model_id = line_queries.model_named(session, brought.model.name)
    called = line_queries.units_called(session, [unit.entry.serial for unit in brought.units])
    others = [unit for unit in called if unit.model_id != model_id]
    elsewhere = {unit.serial.casefold(): load.model(session, unit.model_id).name for unit in others}
    if model_id is None:
        return Here(series, None, (), elsewhere)
    units = [unit for unit in called if unit.model_id == model_id]
    campaigns = [one for own in load.campaigns_by_unit(session, [unit.id for unit in units]) for one in own]
    found = Packer(session, files, exact=False).gather(model_id, units, campaigns)
    return Here(series, found.bundle, found.campaigns, elsewhere)


def _refuse_unfit_design(bundle: Bundle) -> None:
    channels = len(bundle.model.product().channels)
    if bundle.stand_in.design or bundle.stand_in.described:
        refuse_unfit_stand_in(bundle.stand_in.design, bundle.stand_in.described, channels)
    for unit in bundle.units:
        if unit.design:
            refuse_unfit_stand_in(unit.design, "", channels)


def _view(waiting: _Waiting, found: Rehearsal) -> BundleView:
    bundle = waiting.unpacked.bundle
    told: Sequence[BundlePartView] = [
        BundlePartView(kind=one.kind, name=one.name, state=one.state.value, words=one.words) for one in found.told
    ]
    count = {one: sum(part.state == one for part in told) for one in ("new", "there", "kept as here", "clash")}
    return BundleView(
        id=waiting.id,
        lab=bundle.lab,
        scope=bundle.scope.value,
        of=bundle.of,
        packed_by=bundle.packed_by,
        packed_at=bundle.packed_at,
        bytes=waiting.bytes,
        files=len(waiting.unpacked.files),
        parts=[part for part in told if part.state != "there"][:SHOWN],
        new=count["new"],
        there=count["there"],
        kept_as_here=count["kept as here"],
        clashes=count["clash"],
    )
