"""What is on record of a model, in the shape of a bundle: to be packed, or to hold a bundle of another lab against."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from rulvek.core.errors import Conflict
from rulvek.core.records.attempts import Attempt, KeptFile
from rulvek.core.records.bundles import (
    FORMAT,
    MOST_ATTEMPTS,
    Bundle,
    BundleCampaign,
    BundleClaim,
    BundleFile,
    BundleStep,
    BundleUnit,
    Entered,
    Scope,
)
from rulvek.core.records.campaigns import Campaign, Unit
from rulvek.core.records.entered import ModelEntry, StandInEntry, unit_entry
from rulvek.core.records.kept import Kept, Kind, files_of
from rulvek.store import audit, kept, load
from rulvek.store.engine import Session
from rulvek.store.files import FileStore, place
from rulvek.store.queries import campaigns as campaign_queries
from rulvek.store.queries import line as line_queries

EPOCH = datetime(1970, 1, 1, tzinfo=UTC)


@dataclass(slots=True)
class Gathered:
    """What is on record of a model and some of its units, with the files that it speaks of, by their hashes."""

    bundle: Bundle
    campaigns: list[BundleCampaign]
    files: dict[str, Path] = field(default_factory=dict)


class Packer:
    """Gathers what is on record, within one transaction; ``exact`` reads every file to its last byte."""

    def __init__(self, session: Session, files: FileStore, exact: bool = True) -> None:
        self._session, self._store, self._exact = session, files, exact
        self._files: dict[str, Path] = {}

    def gather(self, model_id: int, units: Sequence[Unit], campaigns: Sequence[Campaign]) -> Gathered:
        """A model, some of its units with what is kept of them, and some of their campaigns.

        Raises:
            Conflict: it is too much for one bundle, something of it cannot be read, or a file is not as it was kept.
        """
        session = self._session
        attempts = sum(1 for campaign in campaigns for _ in campaign.attempts())
        if self._exact and attempts > MOST_ATTEMPTS:
            what = f"These are {attempts} attempts; a bundle has at most {MOST_ATTEMPTS}."
            raise Conflict(what, todo="Pack the units one by one.")
        model = load.model(session, model_id)
        packed = [self._campaign(one) for one in campaigns]
        bundled_units = tuple(self._unit(unit) for unit in units)
        of_model = {kind: self._kept(kind, model_id) for kind in (Kind.REVISION, Kind.LOT, Kind.DOCUMENT)}
        documents = of_model[Kind.DOCUMENT]
        spoken_of = [
            other.than_unit for unit in bundled_units for one in unit.listening for other in one.entry.comparisons
        ]
        entries, head = audit.head(session)
        bundle = Bundle(
            format=FORMAT,
            lab="",
            scope=Scope.MODEL,
            of=model.name,
            packed_by="",
            packed_at=EPOCH,
            chain_entries=entries,
            chain_head=head,
            series=line_queries.series_entry(session, line_queries.series_of_model(session, model_id)),
            model=ModelEntry.of(model),
            stand_in=StandInEntry(model.design, model.described_design),
            claims=tuple(
                BundleClaim(claim.terms, claim.added_by, claim.added_at or EPOCH, claim.withdrawn)
                for claim in model.claims
            ),
            revisions=of_model[Kind.REVISION],
            lots=of_model[Kind.LOT],
            documents=documents,
            units=bundled_units,
            others=line_queries.serials(session, spoken_of),
            files=tuple(self._brought([*documents, *(one for unit in bundled_units for _, one in unit.kept())])),
        )
        return Gathered(bundle, packed, self._files)

    def _unit(self, unit: Unit) -> BundleUnit:
        return BundleUnit(
            entry=unit_entry(unit),
            design=unit.design,
            insides=self._kept(Kind.INSIDE, unit.id),
            photographs=self._kept(Kind.PHOTOGRAPH, unit.id),
            listening=self._kept(Kind.LISTENING, unit.id),
        )

    def _kept(self, kind: Kind, of_id: int) -> tuple[Entered[Any], ...]:
        return tuple(_entered(one) for one in kept.all_of(self._session, kind, [of_id]))

    def _brought(self, entries: Sequence[Entered[Any]]) -> Iterator[BundleFile]:
        for sha256 in sorted({sha256 for one in entries for sha256 in files_of(one.entry)}):
            file = kept.file(self._session, sha256)
            self._files[sha256] = self._intact(file.path, sha256)
            yield BundleFile(sha256, file.name, file.media)  # type: ignore[arg-type]  # no others are taken in

    def _campaign(self, campaign: Campaign) -> BundleCampaign:
        if campaign.unreadable:
            raise Conflict(campaign.unreadable[0].what, todo="Run rulvek verify; nothing was packed.")
        runs = tuple(
            replace(run, attempts=tuple(self._attempt(one) for one in run.attempts if one.ending is not None))
            for run in campaign.runs
        )
        return BundleCampaign(
            unit=campaign.unit.serial,
            bench=campaign.bench,
            supply_volts=campaign.supply_volts,
            method=campaign.method.as_data(),
            wishes=campaign.wishes,
            created_by=campaign.created_by,
            created_at=campaign.created_at,
            runs=runs,
            preparations=campaign.preparations,
            steps={attempt.id: self._steps(attempt.id) for run in runs for attempt in run.attempts},
            came_from=campaign.came_from,
        )

    def _steps(self, attempt_id: int) -> tuple[BundleStep, ...]:
        rows = campaign_queries.steps(self._session, attempt_id)
        return tuple(BundleStep(step.kind, step.at_seconds, step.data) for step in rows)

    def _attempt(self, attempt: Attempt) -> Attempt:
        """With its files named by their hashes, as older ones are not."""
        outside = attempt.outside
        if outside is not None and outside.original:
            path = self._intact(outside.original, outside.original_sha256)
            self._files[outside.original_sha256] = path
            outside = replace(outside, original=place(outside.original_sha256, path.suffix.lower()))
        return replace(attempt, outside=outside, captures=tuple(map(self._capture, attempt.captures)))

    def _capture(self, capture: KeptFile) -> KeptFile:
        if self._exact and not self._store.is_intact(capture):
            raise _not_as_kept(capture.path)
        (wav, wav_sha256), (described, described_sha256) = self._store.parts(capture)
        self._files |= {wav_sha256: wav, described_sha256: described}
        path = place(wav_sha256, ".wav")
        return replace(capture, path=path, sha256=wav_sha256, described_sha256=described_sha256, changed_at=None)

    def _intact(self, path: str, sha256: str) -> Path:
        if self._exact and not self._store.holds(path, sha256):
            raise _not_as_kept(path)
        return self._store.path(path)


def _entered(one: Kept) -> Entered[Any]:
    return Entered(one.entry, one.by, one.at, one.closed)


def _not_as_kept(path: str) -> Conflict:
    what = f"The file {Path(path).name} is not as it was kept, so that nothing was packed."
    return Conflict(what, todo="Run rulvek verify.")
