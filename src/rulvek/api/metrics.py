"""Figures of a running server, in the form that Prometheus takes: how requests do, and how the house stands."""

import shutil
from collections.abc import Iterator

from fastapi import APIRouter, Request, Response
from prometheus_client import CollectorRegistry, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily as Gauge
from prometheus_client.core import Metric
from prometheus_client.exposition import CONTENT_TYPE_LATEST
from prometheus_client.registry import Collector

from rulvek.api.asking import Use, signed_in, visitor_of
from rulvek.composition import Services
from rulvek.core.errors import NotSignedIn

BUCKETS = (0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5, 5.0, 10.0)
"""Seconds: 0.05 for a page, 0.15 for Off, 0.25 for what may delay another, 1 for what is logged as slow."""
router = APIRouter()


class Figures(Collector):
    """What is asked at the moment when somebody looks, beside a histogram of all requests."""

    def __init__(self, services: Services) -> None:
        self._services = services
        self._registry = CollectorRegistry()
        self._requests = Histogram(
            "rulvek_request_seconds",
            "From a request's coming to the end of its answer, by call and by what it was answered with.",
            ("call", "method", "status"),
            buckets=BUCKETS,
            registry=self._registry,
        )
        self._registry.register(self)

    def note(self, call: str, method: str, status: int, seconds: float) -> None:
        """Count a request that was answered."""
        self._requests.labels(call or "none", method, f"{status // 100}xx").observe(seconds)

    def text(self) -> bytes:
        """All figures, as they are now."""
        return generate_latest(self._registry)

    def describe(self) -> list[Metric]:
        """Nothing: what is collected is known only when it is asked for."""
        return []

    def collect(self) -> Iterator[Metric]:
        """How the house stands."""
        services = self._services
        _, problem = services.readiness()
        yield _one("rulvek_ready", "Whether the records can be worked with; /api/ready says why not.", not problem)
        running = Gauge("rulvek_bench_running", "Whether a run is on.", labels=("bench",))
        unkept = Gauge("rulvek_bench_records_fail", "Whether what the bench gives cannot be kept.", labels=("bench",))
        for bench in services.benches.states():
            running.add_metric((bench.name,), bench.state == "running")
            unkept.add_metric((bench.name,), bool(bench.problem))
        yield running
        yield unkept
        yield _one("rulvek_watchers", "Open streams of live steps.", services.hub.watched)
        writes = tuple(services.database.write_seconds)
        yield _one("rulvek_longest_write_seconds", "Of the last 10,000 transactions.", max(writes, default=0.0))
        yield _one("rulvek_waiting_writes", "Pieces of work that are written later.", services.later.waiting)
        backups = services.backups.view()
        yield _one("rulvek_backup_overdue", "Whether a backup is owed; 0 where none are asked for.", backups.overdue)
        yield _one("rulvek_backup_failed", "Whether the last one failed.", bool(backups.problem))
        disk = shutil.disk_usage(services.files.root.parent)
        yield _one("rulvek_disk_free_bytes", "On the disk of the records.", disk.free)
        if not problem:
            changed = services.intact.changed()
            yield _one("rulvek_captures_changed", "Capture files that are not as they were kept.", changed)


def _one(name: str, words: str, value: float) -> Gauge:
    return Gauge(name, words, value=float(value))


@router.get("/metrics", include_in_schema=False)
def get_metrics(request: Request, use: Use) -> Response:
    """For a scraper on this machine, or one with the token of a script."""
    if not visitor_of(request).local and signed_in(request) is None:
        raise NotSignedIn("Figures are shown on this machine, or for a token.", todo="Give the scraper a token.")
    figures: Figures = request.app.state.figures
    return Response(figures.text(), media_type=CONTENT_TYPE_LATEST)
