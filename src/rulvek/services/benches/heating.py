"""What the loads of a bench of instruments were found to do in its runs: how warm they become, and how fast."""

import threading
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace

from rulvek.core.electrical.heating import HeatPath, HeatTrace, heat_path_of
from rulvek.core.electrical.loads import LoadBox
from rulvek.core.planning.equipment import Equipment
from rulvek.store.engine import Database
from rulvek.store.queries import heating as queries
from rulvek.store.queries.heating import HeatedRun

MOST_RUNS = 60
"""The latest runs that are looked at."""


class LoadHeating:
    """Fits the heat paths of a bench's boxes whenever another run came, and keeps them until the next."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._found: dict[str, tuple[int | None, Equipment, Equipment]] = {}
        self._lock = threading.Lock()

    def fitted(self, equipment: Equipment) -> Equipment:
        """The same bench; boxes whose runs tell their constants have these, the others what they are planned with."""
        with self._database.reading() as session:
            newest = queries.newest_run(session, equipment.name)
            with self._lock:
                held = self._found.get(equipment.name)
            if held is not None and held[:2] == (newest, equipment):
                return held[2]
            runs = queries.heated_runs(session, equipment.name, MOST_RUNS) if newest is not None else []
        traces = by_box(runs, equipment.boxes)
        paths = {ohms: heat_path_of(own, equipment.ambient_c) for ohms, own in traces.items()}
        found = replace(equipment, boxes=tuple(_with(box, paths.get(box.ohms)) for box in equipment.boxes))
        with self._lock:
            self._found[equipment.name] = (newest, equipment, found)
        return found


def by_box(runs: Sequence[HeatedRun], boxes: Sequence[LoadBox]) -> dict[float, list[HeatTrace]]:
    """Runs by the ohms of the box that lay at each channel; what was made of several boxes tells nothing of one.

    A bench reads its hottest load: that is the one that takes the most.
    """
    single = {box.ohms: box.count for box in boxes}
    found: dict[float, list[HeatTrace]] = defaultdict(list)
    for run in runs:
        ohms = set(run.ohms)
        if len(ohms) == 1 and single.get(run.ohms[0], 0) >= len(run.ohms):
            found[run.ohms[0]].append(HeatTrace(run.seconds, run.watts, run.celsius))
    return found


def _with(box: LoadBox, path: HeatPath | None) -> LoadBox:
    if path is None:
        return box
    return replace(
        box,
        kelvin_per_watt=path.kelvin_per_watt,
        joules_per_kelvin=path.joules_per_kelvin,
        fitted_to_runs=path.runs,
    )
