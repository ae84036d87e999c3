"""Bundles between two labs, each on records of its own: out, in, and home again; all of it or nothing."""

import errno
import hashlib
import json
import zipfile
from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from pathlib import Path
from typing import Any

import jsonschema_rs
import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from rulvek.cli import app
from rulvek.composition import Services
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.records.bundles import Scope
from rulvek.core.records.documents import DocumentEntry, DocumentKind
from rulvek.core.records.entered import GroupEntry, ModelEntry, SeriesEntry, UnitEntry
from rulvek.core.records.inside import FuseFound, InsideEntry, PhotographEntry
from rulvek.core.records.kept import Kind
from rulvek.core.records.listening import Better, Comparison, ListeningEntry
from rulvek.core.records.outside import HandChannel, HandReading, OtherReading
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.services.bundles import taking_in
from rulvek.services.catalogue import entering
from rulvek.services.catalogue.named import note_lots
from rulvek.services.views.bundles import BundleView
from rulvek.store import load, save
from rulvek.store.formats.bundles import schema
from rulvek.store.verify import verify
from tests.conftest import CERTIFIED, JOREN, TAMSIN, conducted, copy_of, put_attempt, services_in, write_line
from tests.pictures import drawn

PDF = b"%PDF-1.7\n% a manual\n"
NEVER = datetime(2026, 1, 1, tzinfo=UTC)


@pytest.fixture(scope="module")
def written(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The records of one lab: a conducted campaign, a reading by hand, and everything that is kept of a product."""
    folder = tmp_path_factory.mktemp("written")
    lab = services_in(folder)
    unit_id = write_line(lab)
    with lab.database.writing() as session:
        unit = load.unit(session, unit_id)
        note_lots(session, [unit], TAMSIN)
        sibling = save.unit(session, replace(unit, id=0, serial="T2-0002"))
    campaign = lab.campaigns.create(unit_id, TAMSIN, CERTIFIED)
    conducted(lab, campaign.id)
    hand = HandReading(
        RunSpec(Mode.CERTIFIED, "main", 2.0, 1000, 14.4),
        (HandChannel(volts_rms=14.2), HandChannel(volts_rms=14.3)),
        instrument="Meter 4",
        start_volts=14.4,
        loaded_volts=14.3,
        end=End.LIMIT,
    )
    lab.by_hand.keep(sibling, hand, JOREN)
    first = lab.campaigns.get(campaign.id).runs[0].attempts[0]
    lab.campaigns.remark(first.id, TAMSIN, "Warm from the day before")
    picture = lab.kept_files.take(drawn((120, 90)), "board.jpg", TAMSIN)
    manual = lab.kept_files.take(PDF, "manual.pdf", TAMSIN)
    paper = lab.dossiers.all_of(Kind.DOCUMENT, 1)[0]
    named = DocumentEntry(paper.entry.name, DocumentKind.MANUAL, "B", file=manual.sha256)
    lab.dossiers.change(Kind.DOCUMENT, paper.id, paper.number, named, TAMSIN)
    found = InsideEntry(made_safe=True, opened_on=date(2026, 5, 4), fuses=(FuseFound(30, True),))
    lab.dossiers.add(Kind.INSIDE, unit_id, found, TAMSIN)
    lab.dossiers.add(Kind.PHOTOGRAPH, unit_id, PhotographEntry(picture.sha256, "The board"), TAMSIN)
    heard = ListeningEntry(date(2026, 5, 5), comparisons=(Comparison(sibling, Better.BETTER, "below 40 Hz"),))
    lab.dossiers.add(Kind.LISTENING, unit_id, heard, TAMSIN)
    lab.close()
    return folder


@pytest.fixture
def ours(written: Path, tmp_path: Path) -> Iterator[Services]:
    copy_of(written, tmp_path / "ours")
    made = services_in(tmp_path / "ours")
    yield made
    made.close()


@pytest.fixture(scope="module")
def whole(written: Path, tmp_path_factory: pytest.TempPathFactory) -> bytes:
    """The lab's model as a bundle."""
    folder = tmp_path_factory.mktemp("whole") / "records"
    copy_of(written, folder)
    lab = services_in(folder)
    content = packed(lab).read_bytes()
    lab.close()
    return content


@pytest.fixture(scope="module")
def empty(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Services]:
    """A lab that everything is refused to, so that nothing is ever on its records."""
    made = services_in(tmp_path_factory.mktemp("empty"))
    yield made
    made.close()


@pytest.fixture
def theirs(tmp_path: Path) -> Iterator[Services]:
    (tmp_path / "theirs").mkdir()
    made = services_in(tmp_path / "theirs")
    yield made
    made.close()


def packed(lab: Services, scope: Scope = Scope.MODEL, identity: int = 1) -> Path:
    return lab.bundles.pack(scope, identity, TAMSIN).path


def sent(lab: Services, bundle: Path) -> BundleView:
    arriving = lab.bundles.arriving("a.bundle.zip")
    arriving.write(bundle.read_bytes())
    return lab.bundles.arrived(arriving)


def taken(lab: Services, bundle: Path) -> Any:
    return lab.bundles.take_in(sent(lab, bundle).id, JOREN)


def contents(bundle: Path) -> dict[str, Any]:
    """Every JSON of a bundle, without what names the lab that packed it or numbers of its records."""

    def plain(data: Any) -> Any:
        if isinstance(data, dict):
            gone = {"id", "attempt_id", "than_unit", "others", "steps", "lab", "packed_at", "packed_by"}
            gone |= {"chain_head", "chain_entries", "came_from", "bench"}
            return {name: plain(value) for name, value in data.items() if name not in gone} | {
                "all_steps": list(data["steps"].values()) if "steps" in data else None
            }
        return [plain(one) for one in data] if isinstance(data, list) else data

    with zipfile.ZipFile(bundle) as zipped:
        return {
            name: plain(json.loads(zipped.read(name)))
            for name in zipped.namelist()
            if name == "bundle.json" or name.startswith("campaigns/")
        } | {"files": sorted(name for name in zipped.namelist() if name.startswith("files/"))}


def states(view: BundleView) -> dict[str, tuple[str, str]]:
    return {f"{part.kind} {part.name}": (part.state, part.words) for part in view.parts}


def test_a_model_goes_to_another_lab_as_it_is(ours: Services, theirs: Services) -> None:
    bundle = packed(ours)
    told = sent(theirs, bundle)
    assert (told.clashes, told.kept_as_here, told.there) == (0, 0, 0) and told.new == len(told.parts)
    assert theirs.catalogue.line().series == []  # a rehearsal leaves nothing
    done = theirs.bundles.take_in(told.id, JOREN)
    assert (done.attempts, len(done.campaign_ids), len(done.unit_ids)) == (4, 2, 2)
    assert contents(packed(theirs)) == contents(bundle)
    checked = verify(theirs.database, theirs.files)
    assert checked.faults == () and (checked.sealed, checked.unsealed) == (4, 0)
    here, there = ours.catalogue.model(1), theirs.catalogue.model(1)
    assert here.claims[0].verdict is not None and there.claims[0].verdict is not None
    assert there.claims[0].verdict.reason == here.claims[0].verdict.reason and there.claims[0].verdict.simulated
    assert there.reaches == here.reaches and here.reaches
    attempt = theirs.evidence.attempt(there.claims[0].verdict.attempt_id or 0)
    assert attempt.captures[0].intact and attempt.attempt.remarks[0].text == "Warm from the day before"
    (photograph,) = theirs.dossiers.all_of(Kind.PHOTOGRAPH, 1)
    assert theirs.kept_files.path(photograph.entry.file, small=True)[1].is_file()
    assert [one.entry.fuses for one in theirs.dossiers.all_of(Kind.INSIDE, 1)] == [(FuseFound(30, True),)]
    actions = [entry.action for entry in theirs.histories.of("model", "1", None).entries]
    assert "took in a bundle" in actions and "took in a claim" in actions


def test_what_was_conducted_elsewhere_is_not_conducted_here(ours: Services, theirs: Services) -> None:
    started = ours.campaigns.create(1, TAMSIN, CERTIFIED)  # not one run of it done
    taken(theirs, packed(ours))
    (brought,) = [one for one in theirs.campaigns.listed(which="done").items if one.created_at == started.created_at]
    assert theirs.campaigns.listed(which="open").items == []
    view = theirs.campaigns.get(brought.id)
    assert (view.bench, view.bench_id) == ("Bench 1, another lab", None)
    with pytest.raises(NotFound, match="Bench 1, another lab"):
        theirs.benches.room_of_run(view.runs[0].id)


def test_what_is_here_already_is_told_and_not_taken_twice(ours: Services, theirs: Services) -> None:
    bundle = packed(ours)
    taken(theirs, bundle)
    again = sent(theirs, bundle)
    assert (again.new, again.clashes, again.parts) == (0, 0, [])
    with pytest.raises(Conflict, match="on record already"):
        theirs.bundles.take_in(again.id, JOREN)
    home = sent(ours, packed(theirs))
    assert home.parts == [] and home.there == again.there


def test_what_the_other_lab_added_comes_home(ours: Services, theirs: Services) -> None:
    taken(theirs, packed(ours))
    verdict = theirs.catalogue.model(1).claims[0].verdict
    assert verdict is not None and verdict.attempt_id is not None
    theirs.campaigns.remark(verdict.attempt_id, JOREN, "Looked at by us, too")
    theirs.second.add(verdict.attempt_id, "Our meter", 1.0, [OtherReading(1, watts=80.0)], JOREN)
    theirs.campaigns.withdraw(verdict.attempt_id, JOREN, "The lead was not ours")
    theirs.dossiers.add(Kind.INSIDE, 1, InsideEntry(made_safe=True, opened_on=date(2026, 6, 1)), JOREN)
    own = theirs.campaigns.create(1, JOREN, CERTIFIED)
    conducted(theirs, own.id)
    home = packed(theirs)
    words = {words for _, words in states(sent(ours, home)).values()}
    assert {"1 remark, 1 second reading, 1 withdrawal", "3 attempts"} <= words
    done = taken(ours, home)
    assert done.attempts == 3
    attempt = ours.evidence.attempt(verdict.attempt_id).attempt
    assert attempt.withdrawn is not None and attempt.withdrawn.by == "Joren Haldvik"
    assert [remark.by for remark in attempt.remarks] == ["Tamsin Oduwell", "Joren Haldvik"]
    assert len(ours.dossiers.all_of(Kind.INSIDE, 1)) == 2
    now = ours.catalogue.model(1).claims[0].verdict
    assert now is not None and now.attempt_id not in (None, verdict.attempt_id)  # it rests on theirs
    assert verify(ours.database, ours.files).faults == ()
    assert sent(ours, home).new == 0


def test_a_lab_that_goes_on_sends_only_what_is_new(ours: Services, theirs: Services) -> None:
    taken(theirs, packed(ours))
    put_attempt(ours, 1, (80.0, 80.1), number=2, reason="Once more")
    told = sent(theirs, packed(ours))
    assert [(part.state, part.words) for part in told.parts] == [("new", "1 attempt")]
    assert theirs.bundles.take_in(told.id, JOREN).attempts == 1
    assert len(theirs.campaigns.get(1).runs[0].attempts) == 2


def test_nobody_adds_attempts_to_what_was_conducted_here(ours: Services, theirs: Services) -> None:
    bundle = packed(ours)
    taken(theirs, bundle)
    put_attempt(theirs, 1, (99.0, 99.0), number=2, reason="Invented")
    told = sent(ours, packed(theirs))
    (clash,) = [part for part in told.parts if part.state == "clash"]
    assert "it was conducted here, and not with the bundle's 1 further attempt" in clash.words


def test_two_labs_that_decided_otherwise_clash_and_nothing_is_taken(ours: Services, theirs: Services) -> None:
    taken(theirs, packed(ours))
    for lab, reason in ((ours, "The lead was off"), (theirs, "It was too warm")):
        lab.campaigns.withdraw(1, TAMSIN, reason)
    theirs.dossiers.add(Kind.INSIDE, 1, InsideEntry(made_safe=True, opened_on=date(2026, 6, 1)), JOREN)
    told = sent(ours, packed(theirs))
    assert told.clashes == 1 and any("both labs decided otherwise" in part.words for part in told.parts)
    with pytest.raises(Conflict, match=r"both labs decided otherwise\. Nothing was taken in"):
        ours.bundles.take_in(told.id, JOREN)
    assert len(ours.dossiers.all_of(Kind.INSIDE, 1)) == 1


def test_what_both_labs_maintain_stays_as_it_is_here(ours: Services, theirs: Services) -> None:
    taken(theirs, packed(ours))
    seen = ours.entries.model(1)
    facts = replace(seen.entry.facts, weight_kg=2.5)
    ours.entries.change_model(1, seen.number, replace(seen.entry, facts=facts, description="Another"), TAMSIN)
    told = states(sent(theirs, packed(ours)))
    assert told["model Test two"] == ("kept as here", "differs in description, weight, kg")


@pytest.mark.parametrize(
    ("groups", "series", "unit_of", "said"),
    [
        ((GroupEntry("main", 4, (4.0,)),), "Test series", "", "its groups of channels are others here"),
        ((GroupEntry("main", 2, (4.0,), (4.0,)),), "Boats", "", "here it is one of the series “Boats”"),
        ((GroupEntry("main", 2, (4.0,), (4.0,)),), "Test series", "Other", "here it is one of the model “Other”"),
    ],
)
def test_what_cannot_be_one_clashes(
    ours: Services, theirs: Services, groups: tuple[GroupEntry, ...], series: str, unit_of: str, said: str
) -> None:
    with theirs.database.writing() as session:
        series_id = entering.enter_series(session, SeriesEntry(series), JOREN)
        entering.enter_model(session, series_id, ModelEntry("test TWO", groups), JOREN)
        if unit_of:
            entering.enter_model(session, series_id, ModelEntry(unit_of, groups), JOREN)
    if unit_of:
        theirs.catalogue.receive_unit(2, UnitEntry("t2-0001"), JOREN)
    told = sent(theirs, packed(ours))
    assert any(part.state == "clash" and said in part.words for part in told.parts)
    with pytest.raises(Conflict, match="Nothing was taken in"):
        theirs.bundles.take_in(told.id, JOREN)
    assert len(theirs.catalogue.line().series[0].models) == 1 + bool(unit_of)


def test_a_unit_alone_speaks_of_others_in_words(ours: Services, theirs: Services) -> None:
    taken(theirs, packed(ours, Scope.UNIT))
    (heard,) = theirs.dossiers.all_of(Kind.LISTENING, 1)
    assert heard.entry.comparisons == () and heard.entry.remarks == "Better than T2-0002: below 40 Hz."
    whole = taken(theirs, packed(ours))  # the other unit comes after it
    assert whole.attempts == 1 and len(whole.unit_ids) == 1


def test_comparisons_find_their_units_under_other_numbers(ours: Services, theirs: Services) -> None:
    write_line(theirs)  # the first model and unit there are others, so that numbers differ
    with theirs.database.writing() as session:
        known = entering.change_model
        seen = theirs.entries.model(1)
        known(session, 1, seen.number, replace(seen.entry, name="Something else"), JOREN)
        unit = theirs.entries.unit(1)
        entering.change_unit(session, 1, unit.number, replace(unit.entry, serial="X-1"), JOREN)
    done = taken(theirs, packed(ours))
    assert done.model_id == 2 and done.unit_ids == [2, 3]
    (heard,) = theirs.dossiers.all_of(Kind.LISTENING, 2)
    assert [one.than_unit for one in heard.entry.comparisons] == [3]
    assert sent(theirs, packed(ours)).new == 0


def test_a_campaign_goes_by_itself(ours: Services, theirs: Services) -> None:
    done = taken(theirs, packed(ours, Scope.CAMPAIGN, 2))
    assert (done.attempts, [row.serial for row in theirs.catalogue.model(1).units]) == (1, ["T2-0002"])
    (attempt,) = theirs.evidence.attempts().items
    assert (attempt.origin, attempt.simulated) == ("typed", False)


def test_the_json_is_as_the_published_schema_has_it(ours: Services) -> None:
    """Held against the schema by a validator of others (JSON Schema 2020-12, `jsonschema_rs`)."""
    published = json.loads(Path("docs/bundle.schema.json").read_text())
    assert published == schema()
    whole = jsonschema_rs.Draft202012Validator(published)
    campaign = jsonschema_rs.Draft202012Validator(published | {"$ref": "#/$defs/BundleCampaign"})
    with zipfile.ZipFile(packed(ours)) as zipped:
        said = json.loads(zipped.read("bundle.json"))
        whole.validate(said)
        campaign.validate(json.loads(zipped.read("campaigns/1.json")))
        assert not whole.is_valid(said | {"lab": 5}) and not whole.is_valid(said | {"more": 1})
        hashes = json.loads(zipped.read("manifest.json"))["files"]
        for name, sha256 in hashes.items():
            assert hashlib.sha256(zipped.read(name)).hexdigest() == sha256


def test_a_damaged_capture_is_not_packed(ours: Services) -> None:
    kept = next(ours.files.root.glob("*/*.wav"))
    kept.write_bytes(kept.read_bytes()[:-4] + b"\0\0\0\1")
    with pytest.raises(Conflict, match="is not as it was kept"):
        packed(ours)


def test_too_much_for_one_bundle_is_said_on_either_side(
    whole: bytes, ours: Services, theirs: Services, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    bundle = tmp_path / "whole.zip"
    bundle.write_bytes(whole)
    monkeypatch.setattr("rulvek.core.records.bundles.MOST_ATTEMPTS", 3)
    monkeypatch.setattr("rulvek.services.bundles.packing.MOST_ATTEMPTS", 3)
    with pytest.raises(BadInput, match="at most 3 attempts"):
        sent(theirs, bundle)
    with pytest.raises(Conflict, match="These are 4 attempts; a bundle has at most 3"):
        packed(ours)
    assert packed(ours, Scope.UNIT).is_file()


def test_a_fault_in_the_middle_leaves_nothing(
    ours: Services, theirs: Services, monkeypatch: pytest.MonkeyPatch
) -> None:
    told = sent(theirs, packed(ours))
    calls = 0

    def fails(*args: Any) -> None:
        nonlocal calls
        calls += 1
        if calls == 2:
            raise OSError("the disk is full")

    with monkeypatch.context() as patch:
        patch.setattr(taking_in.save, "captures", fails)
        with pytest.raises(OSError, match="full"):
            theirs.bundles.take_in(told.id, JOREN)
    assert theirs.catalogue.line().series == [] and theirs.evidence.attempts().items == []
    assert theirs.bundles.take_in(told.id, JOREN).attempts == 4  # it still waits


def test_what_changes_meanwhile_is_looked_at_again(
    ours: Services, theirs: Services, monkeypatch: pytest.MonkeyPatch
) -> None:
    told = sent(theirs, packed(ours))
    put = taking_in.BroughtFiles.put

    def slowly(self: Any, store: Any) -> None:
        put(self, store)
        with theirs.database.writing() as session:
            entering.enter_series(session, SeriesEntry("TEST series"), JOREN)

    monkeypatch.setattr(taking_in.BroughtFiles, "put", slowly)
    theirs.bundles.take_in(told.id, JOREN)
    assert [one.name for one in theirs.catalogue.line().series] == ["TEST series"]


Change = Callable[[dict[str, Any]], None]


def _set(path: str, value: Any) -> Change:
    def change(data: dict[str, Any]) -> None:
        *around, last = path.split(".")
        at: Any = data
        for name in around:
            at = at[int(name) if name.isdigit() else name]
        at[int(last) if last.isdigit() else last] = value

    return change


def _deep(data: dict[str, Any]) -> None:
    nested: Any = 1
    for _ in range(200):
        nested = [nested]
    data["campaigns"] = nested


ATTEMPT = "runs.0.attempts.0"
TOMORROW = (datetime.now(UTC) + timedelta(days=3)).isoformat()


@pytest.mark.parametrize(
    ("part", "change", "said"),
    [
        ("bundle.json", _set("format", "rulvek-bundle-9"), "not as it must be at format"),
        ("bundle.json", _set("unknown", 1), "not as it must be at unknown"),
        ("bundle.json", _set("model.groups", []), "at least one group"),
        ("bundle.json", _set("model.name", " "), "Give it a name"),
        ("bundle.json", _set("series.name", "A\0B"), "too long, or none"),
        ("bundle.json", _set("of", "x" * 30_000), "too long, or none"),
        ("bundle.json", _set("chain_entries", 10**18), "out of all bounds"),
        ("bundle.json", _set("packed_at", "2026-01-01T00:00:00"), "a time that cannot be"),
        ("bundle.json", _set("packed_at", "0001-01-01T00:00:00Z"), "a time that cannot be"),
        ("bundle.json", _set("claims.0.at", TOMORROW), "a time that cannot be"),
        ("bundle.json", _set("claims.0.terms.group", "bass"), "no channel group “bass”"),
        ("bundle.json", _set("claims.0.terms.watts", -5), "not as it must be at claims.0.terms.watts"),
        ("bundle.json", _set("documents.0.entry.file", "0" * 64), "names a file that the bundle does not hold"),
        ("bundle.json", _set("units.1.entry.serial", "T2-0001"), "unit is in the bundle twice"),
        ("bundle.json", _set("units.0.insides.0.entry.made_safe", False), "Tick that it was disconnected"),
        ("bundle.json", _set("others", {}), "compared with one that the bundle does not name"),
        ("bundle.json", _set("stand_in.design", "nothing-known"), "no simulated amplifier “nothing-known”"),
        ("bundle.json", _set("units.0.design", "five-d"), "The stand-in has 5 channels, the model 2"),
        ("bundle.json", _set("campaigns", 1), "does not hold the campaigns"),
        ("bundle.json", _set("files.0.media", "text/html"), "not as it must be at files"),
        ("bundle.json", _set("files", []), "names a file that the bundle does not hold"),
        ("bundle.json", _deep, "nested too deeply"),
        ("campaigns/1.json", _set("unit", "X-9"), "of a unit X-9, which the bundle does not hold"),
        (
            "campaigns/1.json",
            _set("method", {"dwell_seconds": "long"}),
            "method profile of the bundle is not as it must",
        ),
        ("campaigns/1.json", _set("runs.0.position", 7), "does not count its runs from 1"),
        ("campaigns/1.json", _set("runs.0.channels", [9]), "reads channels that its model does not have"),
        ("campaigns/1.json", _set("runs.0.spec.load_ohms", 0), "not as it must be at runs.0.spec.load_ohms"),
        ("campaigns/1.json", _set(f"{ATTEMPT}.number", 3), "does not count its attempts from 1"),
        ("campaigns/1.json", _set(f"{ATTEMPT}.ending", None), "has an attempt that has not ended"),
        ("campaigns/1.json", _set(f"{ATTEMPT}.readings.0.channel", 2), "channels that were not under test"),
        ("campaigns/1.json", _set(f"{ATTEMPT}.readings.0.watts", 1e9), "readings that no amplifier gives"),
        ("campaigns/1.json", _set(f"{ATTEMPT}.readings.0.load.measured_ohms", 0.0), "readings that no amplifier gives"),
        ("campaigns/1.json", _set(f"{ATTEMPT}.started_at", "2026-01-01T00:00:00"), "a time that cannot be"),
        ("campaigns/1.json", _set(f"{ATTEMPT}.captures.0.sha256", "0" * 64), "a file that it does not hold"),
        ("campaigns/1.json", _set(f"{ATTEMPT}.captures.0.path", "../../etc/passwd"), "a file that it does not hold"),
        ("campaigns/1.json", _set(f"{ATTEMPT}.captures", []), "Nothing in the bundle speaks of its file"),
        ("campaigns/1.json", _set("steps", {"999": []}), "attempts that cannot be told apart"),
        (
            "campaigns/1.json",
            _set("runs.0.choices", [{"attempt_id": 9, "reason": "x", "by": "y", "at": "2026-05-05T10:00:00Z"}]),
            "chooses an attempt that is not one of its run",
        ),
        ("campaigns/2.json", _set(f"{ATTEMPT}.outside.origin", "recorded"), "where its readings come from"),
        ("campaigns/2.json", _set(f"{ATTEMPT}.simulated", True), "where its readings come from"),
    ],
)
def test_a_forged_part_is_refused_in_a_sentence(
    whole: bytes, empty: Services, tmp_path: Path, part: str, change: Change, said: str
) -> None:
    bundle = tmp_path / "forged.zip"
    bundle.write_bytes(whole)
    _rewrite(bundle, part, change)
    with pytest.raises(BadInput) as refused:
        sent(empty, bundle)
    assert said in refused.value.what and refused.value.field is not None
    _nothing_is_left(empty)


def _rewrite(bundle: Path, part: str, change: Change) -> None:
    """Change a part of a bundle and its manifest with it."""
    with zipfile.ZipFile(bundle) as zipped:
        files = {name: zipped.read(name) for name in zipped.namelist()}
    data = json.loads(files[part])
    change(data)
    files[part] = json.dumps(data).encode()
    said = json.loads(files["manifest.json"])
    said["files"][part] = hashlib.sha256(files[part]).hexdigest()
    files["manifest.json"] = json.dumps(said).encode()
    _zip(bundle, files)


def _zip(bundle: Path, files: dict[str, bytes]) -> None:
    with zipfile.ZipFile(bundle, "w") as zipped:
        for name, content in files.items():
            zipped.writestr(name, content)


def _nothing_is_left(lab: Services) -> None:
    assert list((lab.files.root.parent / "arriving-bundles").iterdir()) == []
    assert lab.catalogue.line().series == []


def _files(bundle: Path) -> dict[str, bytes]:
    with zipfile.ZipFile(bundle) as zipped:
        return {name: zipped.read(name) for name in zipped.namelist()}


Breaking = Callable[[dict[str, bytes]], None]


def _swap_first_wav(files: dict[str, bytes]) -> None:
    name = next(name for name in files if name.endswith(".wav"))
    files[name] = files[name][:-1] + b"\x7f"


def _evil_name(files: dict[str, bytes]) -> None:
    files["../../evil.json"] = b"{}"
    said = json.loads(files["manifest.json"])
    said["files"]["../../evil.json"] = hashlib.sha256(b"{}").hexdigest()
    files["manifest.json"] = json.dumps(said).encode()


def _other_wav(files: dict[str, bytes]) -> None:
    """A capture whose bytes are no WAV, named by their own hash everywhere."""
    name = next(name for name in files if name.endswith(".wav"))
    old, new = name[6:-4], hashlib.sha256(b"no sound").hexdigest()
    del files[name]
    for part in list(files):
        if part.endswith(".json"):
            text = files[part].decode()
            files[part] = text.replace(f"{old[:2]}/{old}", f"{new[:2]}/{new}").replace(old, new).encode()
    files[f"files/{new}.wav"] = b"no sound"
    said = json.loads(files["manifest.json"])
    said["files"] = {one: hashlib.sha256(files[one]).hexdigest() for one in said["files"]}
    files["manifest.json"] = json.dumps(said).encode()


@pytest.mark.parametrize(
    ("breaking", "said"),
    [
        (lambda files: files.pop("manifest.json"), "no manifest of a bundle"),
        (lambda files: files.pop("bundle.json"), "just the files that its manifest names"),
        (lambda files: files.update({"files/more.exe": b"MZ"}), "just the files that its manifest names"),
        (_swap_first_wav, "is not as it was packed"),
        (_evil_name, "no manifest of a bundle that this version reads"),
        (_other_wav, "is no WAV file, or it is damaged"),
        (lambda files: files.update({"manifest.json": b"[]"}), "no manifest of a bundle"),
        (lambda files: files.update({"manifest.json": b"[" * 100_000}), "no manifest of a bundle"),
    ],
)
def test_a_damaged_bundle_is_refused_in_a_sentence(
    whole: bytes, empty: Services, tmp_path: Path, breaking: Breaking, said: str
) -> None:
    bundle = tmp_path / "damaged.zip"
    bundle.write_bytes(whole)
    files = _files(bundle)
    breaking(files)
    _zip(bundle, files)
    with pytest.raises(BadInput, match=said):
        sent(empty, bundle)
    _nothing_is_left(empty)


@pytest.mark.parametrize("content", [b"", b"PK\x03\x04", b"no bundle at all", PDF])
def test_what_is_no_bundle_is_refused(empty: Services, content: bytes) -> None:
    arriving = empty.bundles.arriving("a.zip")
    arriving.write(content)
    with pytest.raises(BadInput, match="no bundle that can be read"):
        empty.bundles.arrived(arriving)
    _nothing_is_left(empty)


def test_nothing_cut_short_is_taken(whole: bytes, empty: Services, tmp_path: Path) -> None:
    """Cut anywhere, a ZIP has lost its directory, which stands at its end."""
    bundle = tmp_path / "cut.zip"
    for share in (0.01, 0.3, 0.7, 0.999):
        bundle.write_bytes(whole[: int(len(whole) * share)])
        with pytest.raises(BadInput, match="no bundle that can be read"):
            sent(empty, bundle)
    _nothing_is_left(empty)


def test_a_full_disk_is_not_called_a_fault_of_the_bundle(
    whole: bytes, empty: Services, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    bundle = tmp_path / "whole.zip"
    bundle.write_bytes(whole)

    def full(*_: Any) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr("rulvek.store.formats.bundles._unpack", full)
    with pytest.raises(OSError, match="No space left"):
        sent(empty, bundle)
    _nothing_is_left(empty)


def test_only_so_many_wait(ours: Services, theirs: Services) -> None:
    bundle = packed(ours, Scope.CAMPAIGN, 2)
    waiting = [sent(theirs, bundle).id for _ in range(4)]
    with pytest.raises(Conflict, match="4 bundles wait"):
        sent(theirs, bundle)
    theirs.bundles.let_go(waiting[0])
    with pytest.raises(NotFound):
        theirs.bundles.view(waiting[0])
    assert theirs.bundles.view(waiting[1]).new == 8


def test_the_command_tells_what_a_bundle_holds(whole: bytes, tmp_path: Path) -> None:
    bundle = tmp_path / "a.zip"
    bundle.write_bytes(whole)
    told = CliRunner().invoke(app, ["bundle", str(bundle)])
    assert told.exit_code == 0
    assert "Test two: 2 units, 2 campaigns, 4 attempts, 8 files; all as packed." in told.output
    bundle.write_bytes(whole[:-100])
    broken = CliRunner().invoke(app, ["bundle", str(bundle)])
    assert broken.exit_code != 0 and "no bundle that can be read" in broken.output
    assert json.loads(CliRunner().invoke(app, ["bundle", "--schema"]).output) == schema()


def test_a_bundle_goes_over_http(client: TestClient, whole: bytes, services: Services) -> None:
    told = client.post("/api/bundles", params={"name": "a.zip"}, content=whole)
    assert told.status_code == 201, told.text
    path = f"/api/bundles/{told.json()['id']}"
    assert client.get(path).json() == told.json()
    done = client.post(f"{path}/taking-in")
    assert done.status_code == 201 and done.json()["attempts"] == 4
    assert client.get(path).status_code == 404 == client.post(f"{path}/taking-in").status_code
    out = client.get("/api/units/1/bundle")
    assert out.headers["content-type"] == "application/zip"
    assert out.headers["content-disposition"].startswith('attachment; filename="T2-0001.bundle.zip"')
    refused = client.post("/api/bundles", params={"name": "a.zip"}, content=out.content[:500])
    assert refused.status_code == 422 and refused.json()["field"] == "file"
    again = client.post("/api/bundles", params={"name": "a.zip"}, content=out.content).json()
    assert (again["new"], again["parts"]) == (0, [])
    assert client.delete(f"/api/bundles/{again['id']}").status_code == 204
    assert list((services.files.root.parent / "arriving-bundles").iterdir()) == []
    assert client.get("/api/campaigns/99/bundle").status_code == 404
