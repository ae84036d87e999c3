"""How fast an archive is read again: waveforms a second a core beside the bare analysis, and the memory it takes."""

import resource
import time
from collections.abc import Callable
from pathlib import Path

from rulvek.core.judgement.reanalysis import reread
from rulvek.services.reanalysis import AT_ONCE, Archive, Task, processes, read_all
from rulvek.store.engine import Database
from rulvek.store.files import capture_of

Report = Callable[[str, float, float], None]
ROUNDS = 3


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
    print(f"  {sorted(rates)[ROUNDS // 2]:.0f} waveforms a second a core")
    report("an archive read again: bare analysis ÷ all of it, 0.6 ÷ share", 0.6 / sorted(shares)[ROUNDS // 2], 1.0)
    report(
        "peak memory of a process that reads, MB", resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024, 400
    )


if __name__ == "__main__":
    import sys

    archive(lambda what, value, most: print(f"    {what}: {value:.2f} ({most:g})"), Path(sys.argv[1]))
