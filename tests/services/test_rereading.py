"""The archive read again within a server: beside everything else, stopped and gone on with, adopted by a reviewer."""

import os
import signal
import subprocess
import sys
import threading
from collections.abc import Iterator
from concurrent.futures import BrokenExecutor, Executor, ThreadPoolExecutor
from contextlib import contextmanager
from pathlib import Path

import pytest

from rulvek.composition import Services
from rulvek.core.errors import BadInput, Conflict, NotFound
from rulvek.core.judgement.reanalysis import Reread
from rulvek.core.records.actor import Actor
from rulvek.services.gear.methods import MethodChange, MethodEntry
from rulvek.services.reanalysis import Rereading, reading
from rulvek.services.views.reanalysis import ReanalysisView
from rulvek.store.verify import verify
from tests.conftest import TAMSIN, until
from tests.services.days import a_day

pytestmark = [pytest.mark.files, pytest.mark.begins_with.with_args(a_day)]
REVIEWER = Actor("Odile Marchwood")
PATIENCE_SECONDS = 60.0


@contextmanager
def threads() -> Iterator[tuple[Executor, int]]:
    """Readers that start at once."""
    with ThreadPoolExecutor(1) as pool:
        yield pool, 1


@pytest.fixture
def rereading(services: Services) -> Iterator[Rereading]:
    made = another(services)
    yield made
    made.close()


def another(services: Services) -> Rereading:
    """As a server has one, of the same records."""
    return Rereading(services.database, services.files.root, services.files.root.parent / "reanalysis", threads)


def ended(rereading: Rereading) -> ReanalysisView:
    until(lambda: not rereading.view().running, PATIENCE_SECONDS)
    return rereading.view()


def half_a_percent(services: Services) -> int:
    """A version of the lab's method that nobody approved yet: half the THD+N that the day was measured to."""
    entry = MethodEntry("Standard", (MethodChange("thd_n_limit_percent", "0.5"),), "Ours says so")
    return services.methods.propose(entry, TAMSIN).versions[0].id


def test_before_anybody_asked_there_is_nothing(rereading: Rereading) -> None:
    view = rereading.view()
    assert (view.asked_by, view.running, view.complete, view.adopted) == ("", False, False, [])
    rereading.stop()
    with pytest.raises(Conflict, match="not read to its end"):
        rereading.adopt("because", REVIEWER)


def test_by_the_own_method_all_of_it_stands(services: Services, rereading: Rereading) -> None:
    begun = rereading.begin(None, "", TAMSIN)
    assert begun.asked_by == TAMSIN.name
    view = ended(rereading)
    assert view.complete and view.done == view.of >= 6 and view.problem == ""
    assert (view.changed, view.changes, view.verdicts, view.ratings) == (0, [], [], [])
    with pytest.raises(Conflict, match="comes to what stands"):
        rereading.adopt("because", REVIEWER)
    assert services.campaigns.listed(None, 10, "all", None).items[0].id == 1  # and nothing was put on record


def test_what_a_method_would_change_is_seen_before_it_is_approved_and_adopted_after(
    services: Services, rereading: Rereading
) -> None:
    version = half_a_percent(services)
    rereading.begin(version, "", TAMSIN)
    view = ended(rereading)
    # Every certified reading was taken at the limit of 1 %; an uncertified one has its own limit, a burst has none.
    over = [one for one in view.changes if "over the limit of 0.5 %" in one.problem]
    assert view.complete and len(over) == view.changed >= 2 and all(one.watts is None for one in over)
    assert {one.was_thd_n_percent is not None and one.was_thd_n_percent > 0.5 for one in over} == {True}
    assert view.verdicts_changed == len(view.verdicts) > 0
    assert view.not_adopted_because.startswith("Standard, version 1 is not approved")
    with pytest.raises(Conflict, match="not approved"):
        rereading.adopt("because", REVIEWER)
    services.methods.approve(version, REVIEWER)
    assert rereading.view().not_adopted_because == ""
    # What comes to no figures is not put on record.
    with pytest.raises(Conflict, match="Nothing comes to other figures"):
        rereading.adopt("because", REVIEWER)


def narrower(services: Services) -> int:
    """An approved version that reads less of the spectrum: THD+N is less, watts are a little."""
    entry = MethodEntry("Standard", (MethodChange("band_high_hz", "2500"),), "Ours says so")
    version = services.methods.propose(entry, TAMSIN).versions[0].id
    services.methods.approve(version, REVIEWER)
    return version


def test_it_is_adopted_once_whoever_presses_twice(services: Services, rereading: Rereading) -> None:
    rereading.begin(narrower(services), "", TAMSIN)
    assert ended(rereading).changed > 0
    with pytest.raises(BadInput) as refused:
        rereading.adopt("  ", REVIEWER)
    assert refused.value.field == "reason"
    with ThreadPoolExecutor(4) as hands:
        presses = [hands.submit(rereading.adopt, "A new band", REVIEWER) for _ in range(4)]
    went_well = [one for one in presses if one.exception() is None]
    assert len(went_well) == 1 and all(isinstance(one.exception(), Conflict) for one in presses if one not in went_well)
    (campaign_id,) = rereading.view().adopted
    campaign = services.campaigns.get(campaign_id)
    assert campaign.created_by == REVIEWER.name
    read_again = {attempt.read_again for run in campaign.runs for attempt in run.attempts}
    assert all(one and "by Standard, version 1, Rulvek" in one for one in read_again)
    assert verify(services.database, services.files).faults == ()
    rereading.begin(None, "", TAMSIN)  # the next reading begins with nothing of the last
    assert ended(rereading).adopted == []


def test_one_is_read_at_a_time_and_goes_on_where_it_was_stopped(
    services: Services, rereading: Rereading, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(reading, "AT_ONCE", 1)
    monkeypatch.setattr(reading, "WAITING_TASKS", 1)
    go, read = threading.Semaphore(2), list[int]()
    as_it_is = reading.read_all

    def slowly(tasks: list[reading.Task]) -> list[Reread]:
        go.acquire()
        read.extend(one.wanted.attempt_id for one in tasks)
        return as_it_is(tasks)

    monkeypatch.setattr(reading, "read_all", slowly)
    rereading.begin(None, "", TAMSIN)
    until(lambda: rereading.view().done == 2, PATIENCE_SECONDS)
    left = rereading.view().seconds_left
    assert left is not None and left >= 0
    with pytest.raises(Conflict, match="being read already"):
        rereading.begin(None, "", REVIEWER)
    rereading.stop()
    go.release()  # what is under way is read to its end
    view = ended(rereading)
    assert not view.complete and view.done == 3 and view.problem == "" and view.seconds_left is None
    with pytest.raises(Conflict, match="not read to its end"):
        rereading.adopt("because", REVIEWER)
    for _ in range(view.of):
        go.release()
    after_a_restart = another(services)
    after_a_restart.begin(None, "", TAMSIN)
    assert ended(after_a_restart).complete
    assert len(read) == len(set(read)) == view.of  # none of them twice
    after_a_restart.begin(None, "", TAMSIN)
    assert ended(after_a_restart).complete and len(read) == view.of  # nor when it is asked for once more


def test_a_model_or_a_version_that_is_not_there_is_told_at_once(rereading: Rereading) -> None:
    with pytest.raises(NotFound, match="no model “Tern 9”") as unknown:
        rereading.begin(None, "Tern 9", TAMSIN)
    assert unknown.value.field == "model"
    with pytest.raises(NotFound, match="no version of a method with the number 7"):
        rereading.begin(7, "", TAMSIN)
    assert rereading.view().asked_by == ""


def test_readers_that_end_by_themselves_are_told(services: Services) -> None:
    @contextmanager
    def broken() -> Iterator[tuple[Executor, int]]:
        raise BrokenExecutor("a process of it was killed")
        yield

    made = Rereading(services.database, services.files.root, services.files.root.parent / "reanalysis", broken)
    made.begin(None, "", TAMSIN)
    view = ended(made)
    assert "a process of it was killed" in view.problem and not view.complete
    with services.database.writing():  # and nothing is held
        pass


def test_processes_end_with_a_server_that_was_killed(tmp_path: Path) -> None:
    script = tmp_path / "reads.py"
    script.write_text(
        "import os, time\n"
        "from rulvek.services.reanalysis import processes\n"
        "if __name__ == '__main__':\n"
        "    with processes(1, give_way=5) as (pool, count):\n"
        "        print(pool.submit(os.getpid).result(), pool.submit(os.nice, 0).result(), flush=True)\n"
        "        time.sleep(60)\n"
    )
    server = subprocess.Popen([sys.executable, script], stdout=subprocess.PIPE, text=True)
    assert server.stdout is not None
    reader, nice = map(int, server.stdout.readline().split())
    assert nice >= 5
    server.send_signal(signal.SIGKILL)
    server.wait()
    until(lambda: not _is_there(reader), PATIENCE_SECONDS)


def _is_there(process: int) -> bool:
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    state = Path(f"/proc/{process}/stat")
    return not state.exists() or state.read_text().rsplit(")", 1)[1].split()[0] != "Z"
