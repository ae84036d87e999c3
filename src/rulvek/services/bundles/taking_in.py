"""Writing what is new in a bundle, within one transaction: nobody sees a part of it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from rulvek.core.errors import BadInput
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.actor import Actor
from rulvek.core.records.attempts import Attempt, KeptFile
from rulvek.core.records.bundle_rehearsal import Grown, Rehearsal, name_of
from rulvek.core.records.bundles import Bundle, BundleCampaign, Entered
from rulvek.core.records.campaigns import Campaign, Choice
from rulvek.core.records.documents import FileEntry
from rulvek.core.records.kept import OF, Kind, files_of, title
from rulvek.core.records.listening import ListeningEntry
from rulvek.core.records.product import Model
from rulvek.services.campaigns import save_campaign
from rulvek.services.catalogue import entering
from rulvek.services.catalogue.files import JPEG, media_of, put_away
from rulvek.services.catalogue.named import note_documents
from rulvek.services.views.bundles import TakenInView
from rulvek.store import audit, kept, load, save, seals
from rulvek.store.engine import Session
from rulvek.store.files import FileStore
from rulvek.store.formats.bundles import Unpacked
from rulvek.store.formats.pictures import looks_like_picture, read_picture
from rulvek.store.queries import campaigns as campaign_queries
from rulvek.store.queries import line as line_queries
from rulvek.store.seals import StepsDigest


class BroughtFiles:
    """The files of a bundle: captures and recordings that its attempts name, and what people brought."""

    def __init__(self, unpacked: Unpacked) -> None:
        self._unpacked = unpacked
        self.entries: dict[str, FileEntry] = {}

    def refuse_unfit(self, folder: Path) -> None:
        """Hold the files to what they are said to be.

        Args:
            folder: Where the bundle was unpacked.

        Raises:
            BadInput: one is missing, is nothing that anything speaks of, or something else than it is said to be.
        """
        unpacked, store = self._unpacked, FileStore(folder)
        spoken_of = {file.sha256 for file in unpacked.bundle.files}
        for campaign in unpacked.campaigns:
            for _, attempt in campaign.attempts:
                if attempt.outside is not None and attempt.outside.original:
                    spoken_of.add(attempt.outside.original_sha256)
                    self._path(attempt.outside.original_sha256, attempt.outside.original)
                for capture in attempt.captures:
                    spoken_of |= {capture.sha256, capture.described_sha256}
                    self._path(capture.sha256, capture.path)
                    _refuse_unreadable(store, capture)
        if strange := unpacked.files.keys() - spoken_of:
            raise BadInput(f"Nothing in the bundle speaks of its file {min(strange)[:12]}….", field="file")
        for file in unpacked.bundle.files:
            if self._media(self._path(file.sha256).read_bytes()) != file.media:
                raise BadInput(f"The file {file.name} of the bundle is not what it is said to be.", field="file")

    def put(self, store: FileStore) -> None:
        """Put all files away: until records speak of them, they do no harm."""
        for sha256, path in self._unpacked.files.items():
            store.take(path, sha256, path.suffix)
        for file in self._unpacked.bundle.files:
            content = self._path(file.sha256).read_bytes()
            self.entries[file.sha256] = put_away(store, content, file.name, as_it_is=True)

    def __len__(self) -> int:
        return len(self._unpacked.files)

    def _path(self, sha256: str, place: str = "") -> Path:
        path = self._unpacked.files.get(sha256)
        if path is None or (place and not place.endswith(f"/{path.name}")):
            raise BadInput("The bundle speaks of a file that it does not hold.", field="file")
        return path

    @staticmethod
    def _media(content: bytes) -> str:
        if not looks_like_picture(content[:32]):
            return media_of(content)[0]
        read_picture(content)
        return JPEG if content.startswith(b"\xff\xd8\xff") else "image/other"


def _refuse_unreadable(store: FileStore, capture: KeptFile) -> None:
    try:
        store.load_capture(capture)
    except Exception:  # a damaged file meets its readers with anything
        what = f"The capture {Path(capture.path).name[:12]}… of the bundle is no WAV file, or it is damaged."
        raise BadInput(what, field="file") from None


Digests = Mapping[tuple[Any, int], StepsDigest]
"""Of what happened in each attempt, by its campaign's key and its number in the bundle."""


def step_digests(campaigns: Sequence[BundleCampaign]) -> Digests:
    """Worked out before the transaction in which everybody else waits."""
    return {
        (campaign.key, attempt.id): StepsDigest(steps_in(campaign, attempt))
        for campaign in campaigns
        for _, attempt in campaign.attempts
    }


def steps_in(campaign: BundleCampaign, attempt: Attempt) -> list[tuple[str, float, dict[str, Any]]]:
    """What happened in an attempt: kind, seconds since its start, data."""
    return [(step.kind, step.at_seconds, dict(step.data)) for step in campaign.steps.get(attempt.id, ())]


@dataclass(slots=True)
class _Taking:
    """A bundle that is being written, and what was written of it."""

    session: Session
    bundle: Bundle
    actor: Actor
    files: BroughtFiles
    serials: Mapping[int, str]
    digests: Digests
    units: dict[str, int] = field(default_factory=dict)
    touched: set[int] = field(default_factory=set)
    campaign_ids: list[int] = field(default_factory=list)
    attempts: int = 0

    def note(self, action: str, subject: str, sealed: Sequence[audit.Seal] = (), **detail: Any) -> None:
        """An entry of the audit chain that says where it came from."""
        audit.note(self.session, self.actor, action, subject, sealed, lab=self.bundle.lab, **detail)


def take_in(
    session: Session,
    bundle: Bundle,
    found: Rehearsal,
    serials: Mapping[int, str],
    files: BroughtFiles,
    digests: Digests,
    actor: Actor,
) -> TakenInView:
    """Write everything that is new in a bundle.

    Args:
        serials: Serial numbers by the numbers under which the rehearsal speaks of units.
    """
    taking = _Taking(session, bundle, actor, files, serials, digests)
    with audit.gathered(session):
        model_id = _model(taking, found)
        for kind, one in found.kept:
            _kept(taking, kind, model_id, one)
        _claims(taking, model_id, found)
        model = load.model(session, model_id)
        _units(taking, model, found)
        for serial, kind, one in found.kept_of_units:
            _kept(taking, kind, taking.units[serial.casefold()], one)
        for campaign in found.campaigns:
            _campaign(taking, campaign, taking.units[campaign.unit.casefold()])
        for grown in found.grown:
            _grow(taking, grown)
        text = f"{bundle.of}, packed by {bundle.packed_by} at {bundle.lab or 'another lab'}"
        head = {"entries": bundle.chain_entries, "head": bundle.chain_head}
        taking.note("took in a bundle", f"model/{model_id}", text=text, chain=head)
    return TakenInView(
        model_id=model_id,
        unit_ids=sorted(taking.touched),
        campaign_ids=taking.campaign_ids,
        attempts=taking.attempts,
        files=len(files),
    )


def _model(taking: _Taking, found: Rehearsal) -> int:
    session, bundle, actor = taking.session, taking.bundle, taking.actor
    if not found.new_model:
        model_id = line_queries.model_named(session, bundle.model.name)
        assert model_id is not None, "the rehearsal found it"
        return model_id
    series_id = line_queries.series_named(session, bundle.series.name)
    if series_id is None:
        series_id = entering.enter_series(session, bundle.series, actor)
    model_id = entering.enter_model(session, series_id, bundle.model, actor)
    save.stand_in(session, model_id, bundle.stand_in.design, bundle.stand_in.described)
    return model_id


def _kept(taking: _Taking, kind: Kind, of_id: int, one: Entered[Any]) -> None:
    session, entry = taking.session, one.entry
    if isinstance(entry, ListeningEntry):
        entry = _compared_here(taking, entry)
    for sha256 in files_of(entry):
        kept.add_file(session, taking.files.entries[sha256], one.by, one.at)
    kept_id = kept.add(session, kind, of_id, entry, one.by, one.at)
    if one.closed:
        kept.close(session, kept_id, True)
    of = f"{OF[kind]}/{of_id}"
    text, after = title(kind, entry), kept.data_of(kind, entry)
    taking.note(f"took in the {kind.value}", f"{kind.value}/{kept_id}", of=of, text=text, by=one.by, after=after)
    if OF[kind] == "unit":
        taking.touched.add(of_id)


def _compared_here(taking: _Taking, entry: ListeningEntry) -> ListeningEntry:
    """Its comparisons by the numbers that units have here; one with a unit that is not on record becomes a remark."""
    serials = [taking.serials[other.than_unit] for other in entry.comparisons]
    ids = {unit.serial.casefold(): unit.id for unit in line_queries.units_called(taking.session, serials)}
    pairs = list(zip(entry.comparisons, serials, strict=True))
    compared = tuple(
        replace(one, than_unit=ids[serial.casefold()]) for one, serial in pairs if serial.casefold() in ids
    )
    words = [
        f"{one.verdict.value.capitalize()} than {serial}{f': {one.remark}' if one.remark else ''}."
        if one.verdict.value != "alike"
        else f"Like {serial}{f': {one.remark}' if one.remark else ''}."
        for one, serial in pairs
        if serial.casefold() not in ids
    ]
    remarks = " ".join([entry.remarks, *words]).strip()[:2_000]
    return replace(entry, comparisons=compared, remarks=remarks)


def _claims(taking: _Taking, model_id: int, found: Rehearsal) -> None:
    session = taking.session
    note_documents(session, [(model_id, claim.terms.document) for claim in found.claims], taking.actor)
    for claim in found.claims:
        terms = claim.terms
        claim_id = save.claim(session, model_id, terms, claim.by, claim.at)
        seal = seals.claim_seal(session, claim_id)
        text = f"{terms.watts:g} W at {terms.load_ohms:g} Ω, {terms.document}"
        taking.note("took in a claim", f"model/{model_id}", [seal] if seal else [], claim=claim_id, text=text)
        if claim.withdrawn is not None:
            save.withdrawal(session, model_id, claim_id, claim.withdrawn)
    here = load.model(session, model_id).claims
    for claim, gone in found.withdrawn:
        known = next(
            one for one in here if (one.terms, one.added_by, one.added_at) == (claim.terms, claim.by, claim.at)
        )
        save.withdrawal(session, model_id, known.id, gone)
        text = f"{claim.terms.watts:g} W at {claim.terms.load_ohms:g} Ω: {gone.reason}"
        taking.note("withdrew a claim", f"model/{model_id}", claim=known.id, text=text)


def _units(taking: _Taking, model: Model, found: Rehearsal) -> None:
    session = taking.session
    for unit in found.units:
        entering.enter_unit(session, model, unit.entry, taking.actor, unit.design)
    serials = [unit.entry.serial for unit in taking.bundle.units]
    taking.units = {unit.serial.casefold(): unit.id for unit in line_queries.units_called(session, serials)}
    taking.touched |= {taking.units[unit.entry.serial.casefold()] for unit in found.units}


def _campaign(taking: _Taking, campaign: BundleCampaign, unit_id: int) -> None:
    session = taking.session
    record = Campaign(
        id=0,
        unit=load.unit(session, unit_id),
        bench=campaign.bench,
        supply_volts=campaign.supply_volts,
        method=MethodProfile.from_data(campaign.method),
        wishes=campaign.wishes,
        created_by=campaign.created_by,
        created_at=campaign.created_at,
        runs=campaign.runs,
        came_from=campaign.came_from,
    )
    campaign_id, run_ids = save_campaign(session, record)
    runs = dict(zip((run.id for run in campaign.runs), run_ids, strict=True))
    new = [(runs[run.id], attempt) for run, attempt in campaign.attempts]
    ids, sealed = _attempts(taking, campaign_id, campaign, new)
    for run in campaign.runs:
        _choices(taking, campaign_id, [(runs[run.id], choice) for choice in run.choices], ids)
    for preparation in campaign.preparations:
        save.preparation(session, campaign_id, preparation)
    save.arrived(session, [campaign_id])
    taking.note("took in a campaign", f"campaign/{campaign_id}", sealed, text=name_of(campaign))
    taking.campaign_ids.append(campaign_id)
    taking.touched.add(unit_id)


def _grow(taking: _Taking, grown: Grown) -> None:
    session = taking.session
    campaign_id = campaign_queries.campaign_of_run(session, grown.here.runs[0].id)
    ids, sealed = _attempts(taking, campaign_id, grown.brought, grown.attempts)
    # Attempts that were there are known by their place, which is the same in both labs.
    for ours, theirs in zip(grown.here.runs, grown.brought.runs, strict=True):
        ids |= {other.id: one.id for one, other in zip(ours.attempts, theirs.attempts, strict=False)}
    _choices(taking, campaign_id, grown.choices, ids)
    for preparation in grown.preparations:
        save.preparation(session, campaign_id, preparation)
    second_ids: list[int] = []
    for more in grown.later:
        second_ids += _said_later(taking, campaign_id, more.attempt_id, more)
    sealed = [*sealed, *seals.second_reading_seals(session, second_ids)]
    save.arrived(session, [campaign_id])
    taking.note("took in more of a campaign", f"campaign/{campaign_id}", sealed, text=name_of(grown.brought))
    taking.campaign_ids.append(campaign_id)
    taking.touched.add(taking.units[grown.here.unit.casefold()])


def _attempts(
    taking: _Taking, campaign_id: int, campaign: BundleCampaign, new: Sequence[tuple[int, Attempt]]
) -> tuple[dict[int, int], list[audit.Seal]]:
    """Write attempts with all that hangs on them; returns their ids by those of the bundle, and their seals."""
    session = taking.session
    ids = save.attempts(session, new)
    written = [(identity, attempt) for identity, (_, attempt) in zip(ids, new, strict=True)]
    save.steps_of(session, {identity: steps_in(campaign, attempt) for identity, attempt in written})
    save.captures(session, [(identity, capture) for identity, attempt in written for capture in attempt.captures])
    second_ids: list[int] = []
    for identity, attempt in written:
        second_ids += _said_later(taking, campaign_id, identity, replace(attempt, remarks=()))
    taking.attempts += len(ids)
    digests = {identity: taking.digests[campaign.key, attempt.id] for identity, attempt in written}
    sealed = [*seals.attempt_seals(session, ids, digests), *seals.second_reading_seals(session, second_ids)]
    return dict(zip((attempt.id for _, attempt in new), ids, strict=True)), sealed


def _said_later(taking: _Taking, campaign_id: int, attempt_id: int, said: Any) -> list[int]:
    """Write what was said of an attempt; returns the ids of second instruments' readings."""
    session = taking.session
    for remark in said.remarks:
        save.remark(session, attempt_id, remark)
    for aside in said.set_aside:
        save.set_aside(session, campaign_id, attempt_id, aside)
    for withdrawal in said.withdrawals:
        save.reading_withdrawal(session, campaign_id, attempt_id, withdrawal)
    return save.second_readings(session, campaign_id, attempt_id, said.seconds) if said.seconds else []


def _choices(taking: _Taking, campaign_id: int, new: Sequence[tuple[int, Choice]], ids: Mapping[int, int]) -> None:
    for run_id, choice in new:
        chosen = replace(choice, attempt_id=ids[choice.attempt_id])
        save.choice(taking.session, campaign_id, run_id, chosen)
