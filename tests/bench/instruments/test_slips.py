"""A recorder that loses a sample without a word, through the whole stack: no reading comes of it."""

import numpy as np
import pytest

from rulvek.bench.conductor import LevelSet, PointRead, RunEvent, conduct
from rulvek.bench.sim.bench import SimulatedBench
from rulvek.core.runs.modes import End, Mode
from rulvek.core.signals.capture import Capture
from tests.bench.instruments.conftest import Run
from tests.bench.instruments.test_runs import setup_of


@pytest.mark.parametrize("mode", [Mode.CERTIFIED, Mode.UNCERTIFIED])
def test_a_run_ends_with_a_sample_that_is_missing(on_bench: Run, monkeypatch: pytest.MonkeyPatch, mode: Mode) -> None:
    bench, _, behind = on_bench("four-d")
    take, losing = SimulatedBench.capture, []
    read_after: list[RunEvent] = []

    def lossy(self: SimulatedBench, seconds: float, before_burst: float | None = None) -> Capture:
        taken = take(self, seconds, before_burst)
        if losing:
            at = taken.samples.shape[1] // 3
            shorter = np.delete(taken.samples, at, axis=1)
            taken.samples[:] = np.concatenate([shorter, shorter[:, -1:]], axis=1)
        return taken

    def loses(event: RunEvent) -> None:
        if losing and isinstance(event, PointRead):
            read_after.append(event)
        if isinstance(event, LevelSet) and event.level_dbv > -15:
            losing.append(event)

    monkeypatch.setattr(SimulatedBench, "capture", lossy)
    done = conduct(bench, setup_of(mode), loses)
    assert done.outcome.end is End.LINK_LOST and not read_after
    assert not behind.amplifier.powered and behind.is_muted
