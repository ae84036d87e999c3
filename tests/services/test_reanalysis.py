"""The archive read again: by the same method the same figures, whoever reads; others are told, nothing is touched."""

import hashlib
import json
import subprocess
import sys
import threading
from collections.abc import Sequence
from concurrent.futures import Executor, ThreadPoolExecutor
from dataclasses import replace
from pathlib import Path
from typing import Any

import fsspec
import numpy as np
import pytest
import soundfile

from rulvek.composition import Services
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.judgement.evidence import unit_evidence
from rulvek.core.judgement.reanalysis import Reread
from rulvek.core.judgement.verdict import DecisionRule, VerdictKind
from rulvek.core.method.profile import MethodProfile
from rulvek.core.records.outside import Origin
from rulvek.core.records.standing import alike_watts
from rulvek.core.runs.modes import Mode
from rulvek.services import reanalysis
from rulvek.services.reanalysis import Archive, Reanalysis, reading
from rulvek.store import load
from rulvek.store.queries import records as queries
from rulvek.store.verify import verify
from tests.conftest import JOREN, TAMSIN
from tests.services.days import a_day

pytestmark = [pytest.mark.files, pytest.mark.begins_with.with_args(a_day)]


@pytest.fixture
def archive(services: Services, tmp_path: Path) -> Archive:
    return archive_of(services, tmp_path)


def archive_of(services: Services, tmp_path: Path, captures: str | None = None) -> Archive:
    return Archive(services.database, captures or str(services.files.root), tmp_path / "reanalysis")


def in_threads(archive: Archive, method: MethodProfile | None = None, **more: Any) -> Reanalysis:
    with ThreadPoolExecutor(2) as pool:
        return archive.read_again(pool, 2, method, **more)


def everything(services: Services) -> str:
    """All that is on record, as one digest."""
    services.conclusions.flush()
    with services.database.reading() as session:
        rows = [load.campaigns_of_unit(session, 1)]
    return hashlib.sha256(repr(rows).encode()).hexdigest()


def test_by_its_own_method_it_comes_to_what_stands_and_nothing_is_touched(services: Services, archive: Archive) -> None:
    before = everything(services)
    found = in_threads(archive)
    assert found.complete and found.waveforms == found.read >= 6
    assert (found.changes, found.verdicts, found.ratings) == ((), (), ())
    assert everything(services) == before
    assert list((services.files.root.parent / "reanalysis").iterdir()) == []  # nothing is left to go on with


def test_one_model_can_be_read_alone(services: Services, archive: Archive, tmp_path: Path) -> None:
    name = services.catalogue.line().series[0].models[0].name
    alone = Archive(services.database, str(services.files.root), tmp_path / "alone", f" {name.upper()}")
    assert list(alone.tasks(None)) == list(archive.tasks(None))  # there is no other model
    with pytest.raises(NotFound, match="There is no model “Tern 9” on record"):
        in_threads(Archive(services.database, str(services.files.root), tmp_path / "alone", "Tern 9"))


def test_watts_are_the_mean_square_of_the_file_over_the_ohms(services: Services, archive: Archive) -> None:
    """Read by soundfile and numpy alone: what lies outside of the band is less than a thousandth here."""
    for task in archive.tasks(None):
        if task.wanted.spec.mode is Mode.BURST:
            continue
        (read,) = reanalysis.read_all([task])
        said = json.loads(Path(task.described).read_text())
        samples, _ = soundfile.read(task.wav, always_2d=True)
        volts = samples.T * said["volts_full_scale"]
        for row, role in enumerate(said["roles"]):
            mine = [one for one in read.readings if one.channel == role["channel"] and role["quantity"] == "output"]
            for one in mine:
                watts = float(np.mean(volts[row] ** 2)) / one.load.measured_ohms
                assert one.watts == pytest.approx(watts, rel=2e-3)


def read_by(archive: Archive, pool: Executor) -> list[Reread]:
    return [one for task in archive.tasks(None) for one in pool.submit(reanalysis.read_all, [task]).result()]


@pytest.mark.long
def test_whoever_reads_the_figures_are_the_same_to_the_last_bit(
    archive: Archive, monkeypatch: pytest.MonkeyPatch
) -> None:
    from distributed import LocalCluster

    # As the command line has it, and a worker of dask: products split over threads are added up in another order.
    monkeypatch.setenv("OPENBLAS_NUM_THREADS", "1")
    with reanalysis.processes(1) as (pool, count):
        assert count == 1
        here = read_by(archive, pool)
    with reanalysis.processes(2) as (pool, count):
        assert count == 2 and read_by(archive, pool) == here
    with (
        LocalCluster(n_workers=2, threads_per_worker=1, dashboard_address=None, host="127.0.0.1") as cluster,
        reanalysis.processes(scheduler=cluster.scheduler_address) as (pool, count),
    ):
        assert count == 2 and read_by(archive, pool) == here


def test_another_method_tells_what_would_change_and_on_which_claims(services: Services, archive: Archive) -> None:
    """A limit below what was reached leaves certified runs without a reading: their claims have no evidence."""
    with services.database.reading() as session:
        (campaign,) = load.campaigns_of_unit(session, 1)
    certified = [run.attempts[0] for run in campaign.runs if run.spec.mode is Mode.CERTIFIED]
    reached = max(one.thd_n or 0.0 for attempt in certified for one in attempt.readings)
    strict = MethodProfile(name="Strict", thd_n_limit_percent=100 * reached / 2)
    found = in_threads(archive, strict)
    assert found.by == "Strict" and found.complete
    assert {one.attempt_id for one in found.changes} == {attempt.id for attempt in certified}
    assert all(
        one.watts is None and one.percent is None and "over the limit of" in one.problem for one in found.changes
    )
    assert found.verdicts and all(one.now is not one.was for one in found.verdicts)
    assert VerdictKind.BACKED not in {one.now for one in found.verdicts}
    wide = in_threads(archive, replace(campaign.method, name="Wide", thd_n_limit_percent=100 * reached * 1.001))
    assert wide.changes == ()


def test_a_narrow_band_hears_less_distortion(services: Services, archive: Archive) -> None:
    """Below 2.5 kHz only the second harmonic of 1 kHz is left: no THD+N is more than in the whole band."""
    with services.database.reading() as session:
        (campaign,) = load.campaigns_of_unit(session, 1)
    narrow = in_threads(archive, replace(campaign.method, name="Narrow", band_high_hz=2500.0))
    steady = [one for one in narrow.changes if one.was_thd_n != one.thd_n]
    assert steady
    assert all(one.thd_n is not None and one.was_thd_n is not None and one.thd_n < one.was_thd_n for one in steady)


def test_what_was_ended_goes_on_where_it_was(archive: Archive, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(reading, "AT_ONCE", 1)
    monkeypatch.setattr(reading, "WAITING_TASKS", 1)
    whole = [one for task in archive.tasks(None) for one in reanalysis.read_all([task])]
    stop = threading.Event()
    told: list[tuple[int, int]] = []

    def tell(done: int, of: int) -> None:
        told.append((done, of))
        if done >= 3:
            stop.set()

    ended = in_threads(archive, tell=tell, stop=stop)
    assert not ended.complete and 3 <= ended.read < len(whole)
    (notes,) = (tmp_path / "reanalysis").iterdir()
    with notes.open("ab") as file:
        file.write(b'{"key": "cut off by a ki')
    read: list[int] = []

    def counting(tasks: Sequence[reanalysis.Task]) -> list[Reread]:
        read.extend(task.wanted.attempt_id for task in tasks)
        return [one for one in whole if one.attempt_id in {task.wanted.attempt_id for task in tasks}]

    monkeypatch.setattr(reading, "read_all", counting)
    rest = in_threads(archive)
    assert rest.complete and rest.changes == ()
    assert len(read) == len(whole) - ended.read
    assert not notes.exists()


def test_waveforms_that_are_gone_or_changed_are_told(services: Services, archive: Archive) -> None:
    first, second, third = list(archive.tasks(None))[:3]
    Path(first.wav).unlink()
    content = bytearray(Path(second.wav).read_bytes())
    content[-1] ^= 1
    Path(second.wav).write_bytes(content)
    Path(third.described).write_text("{}")
    problems = {one.attempt_id: one.problem for one in in_threads(archive).changes}
    assert problems == {
        first.wanted.attempt_id: "Its waveform is gone from the folder of captures.",
        second.wanted.attempt_id: "Its waveform is not the one that was kept.",
        third.wanted.attempt_id: "Its waveform is not the one that was kept.",
    }


def test_captures_may_lie_wherever_fsspec_reaches(services: Services, archive: Archive, tmp_path: Path) -> None:
    with fsspec.open("memory://archive/marker", "wb") as file:
        file.write(b"")
    memory = fsspec.filesystem("memory")
    memory.put(str(services.files.root), "/archive/captures", recursive=True)
    elsewhere = archive_of(services, tmp_path, "memory://archive/captures")
    found = in_threads(elsewhere)
    assert found.complete and found.changes == ()
    memory.rm("/archive", recursive=True)
    assert all("gone" in one.problem for one in in_threads(elsewhere).changes)


def test_a_scheduler_that_nobody_reaches_is_told(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(reading, "CONNECT_SECONDS", 1)
    with pytest.raises(BadInput, match=r"The scheduler tcp://127\.0\.0\.1:1 cannot be reached"):
        with reanalysis.processes(scheduler="tcp://127.0.0.1:1"):
            pass


def command(*words: str | Path) -> subprocess.CompletedProcess[str]:
    asked = [sys.executable, "-m", "rulvek.cli", "reanalyse", *map(str, words)]
    return subprocess.run(asked, capture_output=True, text=True, timeout=120)


def test_the_command_tells_it_in_words_and_as_json(services: Services, archive: Archive, tmp_path: Path) -> None:
    services.conclusions.flush()
    method = tmp_path / "half.json"
    method.write_text('{"thd_n_limit_percent": 0.5}')
    out = tmp_path / "found.json"
    done = command(tmp_path, "--method", method, "--processes", "1", "--out", out)
    assert done.returncode == 0, done.stderr
    said = json.loads(out.read_text())
    assert said["complete"] and said["method"] == "half" and said["changes"]
    assert f"{len(said['changes'])} attempts come to other figures." in done.stdout
    for text, sentence in (
        ("{", "is no JSON"),
        ("[]", "is not the fields of a method."),
        ('{"thd_n_limit": 1}', "A method has no field “thd_n_limit”."),
        ('{"thd_n_limit_percent": "one"}', "half.json has a field that is not of its kind."),
        ('{"thd_n_limit_percent": -1}', "thd_n_limit_percent must be above 0, got -1."),
    ):
        method.write_text(text)
        refused = command(tmp_path, "--method", method)
        assert refused.returncode == 2 and sentence in refused.stderr and "Traceback" not in refused.stderr
    assert JOREN.name not in done.stdout


def test_what_is_adopted_stands_beside_what_it_was_read_from(services: Services, archive: Archive) -> None:
    """As attempts of their own, in campaigns of that method; they are no repeats, and are adopted once."""
    with services.database.reading() as session:
        (source,) = load.campaigns_of_unit(session, 1)
    narrow = replace(source.method, name="Narrow", band_high_hz=2500.0)
    found = in_threads(archive, narrow)
    with pytest.raises(BadInput, match="Say why it is adopted"):
        archive.adopt(found, TAMSIN, " ")
    with pytest.raises(Conflict, match="not read to its end"):
        archive.adopt(replace(found, waveforms=found.waveforms + 1), TAMSIN, "A trial")
    (made,) = archive.adopt(found, TAMSIN, "The lab's new band")
    services.conclusions.flush()
    with services.database.reading() as session:
        before, anew = load.campaigns_of_unit(session, 1)
        faults = verify(services.database, services.files).faults
    assert before == source  # nothing of it is other than it was
    assert (anew.id, anew.method.name, anew.created_by) == (made, "Narrow", TAMSIN.name)
    assert faults == ()  # sealed in the chain, and its captures are the same files
    changed = {one.attempt_id: one for one in found.changes}
    pairs = [(run, run.attempts[0]) for run in anew.runs]
    assert len(pairs) == len(changed)
    for run, attempt in pairs:
        of = next(one for key, one in changed.items() if attempt.read_again.startswith(f"attempt {key}, by Narrow,"))
        assert attempt.origin is Origin.READ_AGAIN and attempt.captures and attempt.ending is not None
        assert attempt.weakest_watts == of.watts and attempt.outside is None
        assert alike_watts(run) == []
    with services.database.reading() as session:
        product = load.model(session, source.unit.model_id).product
    speaks = {one.attempt_id for one in unit_evidence([before, anew], product).evidence}
    assert {attempt.id for _, attempt in pairs} <= speaks and not speaks & set(changed)
    assert speaks == {one.attempt_id for one in unit_evidence([anew, before], product).evidence}
    shown = services.evidence.attempt(pairs[0][1].id, DecisionRule.AS_STORED).attempt
    assert shown.origin is Origin.READ_AGAIN and "by Narrow" in shown.read_again
    with services.database.reading() as session:
        told = [
            one.text for one in queries.entries_after(session, 0, 1000) if one.action == "adopted what was read again"
        ]
    assert len(told) == 1 and told[0].endswith("The lab's new band")
    with pytest.raises(Conflict, match="not adopted already"):
        archive.adopt(in_threads(archive, narrow), TAMSIN, "Once more")
    assert in_threads(archive).waveforms == found.waveforms  # what was read again is not read again itself


def test_the_command_adopts_in_somebodys_name(services: Services, archive: Archive, tmp_path: Path) -> None:
    services.conclusions.flush()
    method = tmp_path / "narrow.json"
    method.write_text('{"band_high_hz": 2500}')
    for words, sentence in (((), "--by"), (("--by", "Tamsin Oduwell"), "--reason")):
        refused = command(tmp_path, "--method", method, "--adopt", *words)
        assert refused.returncode == 2 and sentence in refused.stderr
    done = command(tmp_path, "--method", method, "--adopt", "--by", TAMSIN.name, "--reason", "A new band")
    assert done.returncode == 0 and "Adopted: campaigns 2." in done.stdout, done.stderr
    assert services.campaigns.get(2).created_by == TAMSIN.name
