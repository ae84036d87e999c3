"""How long the day's order takes, and what it saves: part of ``make bench``."""

import math
import random
import time
from collections.abc import Callable

from rulvek.core.planning.queue import Job, Standing, first_come, planned

BENCHES = ("Bench 1", "Bench 2", "Bench 3")
WIRINGS = ("4+4", "2+2", "8+8", "4", "2")
CAMPAIGNS = 40
Report = Callable[[str, float, float], None]


def queue_speed(report: Report) -> None:
    """Forty campaigns on three benches, some of them wanted by a time."""
    draw = random.Random(4)
    jobs = [
        Job(
            at,
            tuple(draw.sample(BENCHES, draw.randint(1, 3))),
            draw.uniform(900, 9_000),
            draw.choice(WIRINGS),
            draw.choice(WIRINGS),
            draw.choice([math.inf, draw.uniform(0, 100_000)]),
        )
        for at in range(CAMPAIGNS)
    ]
    there = [Standing(name, 0.0, "4+4") for name in BENCHES]
    start = time.perf_counter()
    found = planned(jobs, there)
    report(f"{CAMPAIGNS} campaigns on 3 benches put in order, s", time.perf_counter() - start, 1.0)
    usual = first_come(jobs, there)
    report("its rewirings ÷ those of first come, first served", found.rewirings / usual.rewirings, 1.0)
    report("its lateness ÷ that of first come, first served", found.late_seconds / usual.late_seconds, 1.0)


if __name__ == "__main__":
    queue_speed(lambda what, value, target: print(f"  {what}: {value:.3g} (at most {target:g})"))
