"""Waveforms read again by several processes, here or elsewhere."""

import hashlib
import multiprocessing
import os
from collections.abc import Iterator, Sequence
from concurrent.futures import FIRST_COMPLETED, Executor, Future, ProcessPoolExecutor, wait
from contextlib import contextmanager
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from threading import Event

from rulvek.core.errors import BadCapture, BadInput, RulvekError
from rulvek.core.judgement.reanalysis import Reread, Wanted, reread
from rulvek.services.beside import stand_back
from rulvek.store.files import capture_of

AT_ONCE = 8
"""Waveforms of one task: enough that handing it over costs little, few enough that progress shows."""
WAITING_TASKS = 4
"""Tasks that wait for each process."""
CONNECT_SECONDS = 10


@dataclass(frozen=True, slots=True)
class Task:
    """A waveform to read, where its two files lie, and what they hash to; of before, one hash is over both."""

    wanted: Wanted
    wav: str
    described: str
    sha256: str
    described_sha256: str


@contextmanager
def processes(
    count: int | None = None, scheduler: str | None = None, give_way: int = 0
) -> Iterator[tuple[Executor, int]]:
    """Who reads: processes of this machine, or the workers of a scheduler of dask.distributed; and how many they are.

    Args:
        count: How many of this machine; one a core without it.
        scheduler: Address of a scheduler.
        give_way: By how much they stand back for others on this machine, 0 to 19.

    Raises:
        BadInput: a scheduler is asked for that cannot be reached, or what it takes is not installed.
    """
    if scheduler is None:
        count = count or os.cpu_count() or 1
        spawn = multiprocessing.get_context("spawn")
        with ProcessPoolExecutor(count, mp_context=spawn, initializer=stand_back, initargs=(give_way,)) as pool:
            yield pool, count
        return
    try:
        from distributed import Client
    except ImportError:
        what = "A scheduler takes dask.distributed, which is not installed."
        raise BadInput(what, todo="pip install 'rulvek[cluster]'", field="scheduler") from None
    try:
        client = Client(scheduler, timeout=CONNECT_SECONDS)
    except (OSError, ValueError) as failure:
        raise BadInput(f"The scheduler {scheduler} cannot be reached: {failure}.", field="scheduler") from None
    with client:
        yield client.get_executor(), max(1, len(client.scheduler_info()["workers"]))


def read_all(tasks: Sequence[Task]) -> list[Reread]:
    """Read some waveforms, in whatever process."""
    return [_read(one) for one in tasks]


def _read(task: Task) -> Reread:
    try:
        wav, described = (_bytes(one) for one in (task.wav, task.described))
    except OSError:
        return Reread(task.wanted.attempt_id, problem="Its waveform is gone from the folder of captures.")
    parts = {task.sha256: wav, task.described_sha256: described}
    if not task.described_sha256:
        parts = {task.sha256: wav + described}
    if any(hashlib.sha256(part).hexdigest() != digest for digest, part in parts.items()):
        return Reread(task.wanted.attempt_id, problem="Its waveform is not the one that was kept.")
    try:
        return reread(capture_of(wav, described, Path(task.wav).name), task.wanted)
    except (BadCapture, ValueError, KeyError) as failure:
        what = failure.what if isinstance(failure, RulvekError) else "Its waveform is not described as it should be."
        return Reread(task.wanted.attempt_id, problem=what)


def _bytes(url: str) -> bytes:
    if "://" not in url:
        return Path(url).read_bytes()
    import fsspec  # takes long to load, and most archives are a folder

    with fsspec.open(url, "rb") as file:
        content: bytes = file.read()
    return content


def in_turn(executor: Executor, workers: int, left: Iterator[Task], stop: Event) -> Iterator[list[tuple[Task, Reread]]]:
    """Hand tasks out so that nobody waits and little is under way; what has come, as it comes."""
    under_way: dict[Future[list[Reread]], list[Task]] = {}
    while True:
        while len(under_way) < workers * WAITING_TASKS and not stop.is_set():
            some = list(islice(left, AT_ONCE))
            if not some:
                break
            under_way[executor.submit(read_all, some)] = some
        if not under_way:
            return
        done, _ = wait(under_way, return_when=FIRST_COMPLETED)
        for one in done:
            yield list(zip(under_way.pop(one), one.result(), strict=True))
