"""How fast an archive is read again: waveforms a second a core beside the bare analysis, and the memory it takes."""

import json
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from threading import Event

from rulvek.core.judgement.reanalysis import reread
from rulvek.services.reanalysis import AT_ONCE, Archive, Task, processes, read_all
from rulvek.store.engine import Database
from rulvek.store.files import capture_of

Report = Callable[[str, float, float], None]
ROUNDS = 3
LARGE_SECONDS = 60.0


def bare_seconds(tasks: list[Task]) -> float:
    """One waveform's analysis alone, once it is in memory."""
    asked = [
        (capture_of(Path(one.wav).read_bytes(), Path(one.described).read_bytes(), one.wav), one.wanted) for one in tasks
    ]
    start = time.perf_counter()
    for capture, wanted in asked:
        reread(capture, wanted)
    return (time.perf_counter() - start) / len(tasks)


def archive(report: Report, demo: Path) -> None:
    """All of the demo's waveforms, by one process, in turns with the bare analysis."""
    database = Database(f"sqlite:///{demo}/rulvek.db")
    tasks = list(Archive(database, str((demo / "captures").resolve()), demo / "reanalysis").tasks(None))
    database.close()
    parts = [tasks[at : at + AT_ONCE] for at in range(0, len(tasks), AT_ONCE)]
    shares, rates = [], []
    with processes(1) as (pool, _):
        pool.submit(read_all, tasks[:1]).result()  # its imports
        for _ in range(ROUNDS):
            bare = bare_seconds(tasks)
            start = time.perf_counter()
            for done in [pool.submit(read_all, some) for some in parts]:
                done.result()
            each = (time.perf_counter() - start) / len(tasks)
            shares.append(bare / each)
            rates.append(1 / each)
        peak = pool.submit(_peak_megabytes).result()
    print(f"  {sorted(rates)[ROUNDS // 2]:.0f} waveforms a second a core")
    report("an archive read again: bare analysis ÷ all of it, 0.6 ÷ share", 0.6 / sorted(shares)[ROUNDS // 2], 1.0)
    report("peak memory of a process that reads, MB", peak, 400)


def _peak_megabytes() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def large_archive(report: Report, database: Path, captures: Path, seconds: float = LARGE_SECONDS) -> None:
    """A hundred thousand waveforms: what one process reads of them in a minute, and what the one that hands out takes.

    It is a process of its own, so that nobody else's memory is counted.
    """
    done = subprocess.run(
        [sys.executable, __file__, "large", str(database), str(captures), str(seconds)],
        check=True,
        capture_output=True,
        text=True,
    )
    told = json.loads(done.stdout)
    print(
        f"  {told['read']} of {told['waveforms']} waveforms in {told['reading']:.0f} s by one process: "
        f"{told['read'] / told['reading']:.0f} a second; listed and compared in {told['beside']:.0f} s"
    )
    share = told["bare"] * told["read"] / told["reading"]
    report("a large archive read again: bare analysis ÷ all of it, 0.6 ÷ share", 0.6 / share, 1.0)
    report("peak memory of what hands its waveforms out, MB", told["megabytes"], 1000)


def _part_of_large(database: Path, captures: Path, seconds: float) -> None:
    moments: list[tuple[float, int, int]] = []
    stop = Event()

    def tell(done: int, of: int) -> None:
        moments.append((time.perf_counter(), done, of))
        if moments[-1][0] - moments[0][0] > seconds:
            stop.set()

    records = Database(f"sqlite:///{database}")
    with tempfile.TemporaryDirectory() as work, processes(1) as (pool, workers):
        archive_of = Archive(records, str(captures.resolve()), Path(work))
        start = time.perf_counter()
        found = archive_of.read_again(pool, workers, None, tell, stop)
        whole = time.perf_counter() - start
        few = [task for task, _ in zip(archive_of.tasks(None), range(100), strict=False)]
    (first, _, of), (last, read, _) = moments[0], moments[-1]
    records.close()
    told = {
        "waveforms": of,
        "read": read,
        "reading": last - first,
        "beside": whole - (last - first),
        "changed": len(found.changes),
        "bare": bare_seconds(few),
        "megabytes": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024,
    }
    print(json.dumps(told))


if __name__ == "__main__":
    if sys.argv[1] == "large":
        _part_of_large(Path(sys.argv[2]), Path(sys.argv[3]), float(sys.argv[4]))
    else:
        archive(lambda what, value, most: print(f"    {what}: {value:.2f} ({most:g})"), Path(sys.argv[1]))
