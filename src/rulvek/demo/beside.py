"""Conducts the demo while people already look at it."""

import threading
from dataclasses import replace
from pathlib import Path

import structlog

from rulvek.composition import Services
from rulvek.demo.build import conduct, describe
from rulvek.services.views.now import WorkView
from rulvek.store.queries.line import is_empty

log = structlog.get_logger()
UNFINISHED = "demo-unfinished"
"""A file beside the records as long as the demo is not conducted to its end."""
CUT_SHORT = (
    "The demo was not conducted to its end. What is on record of it is whole; rulvek demo --rebuild builds it anew."
)
WORK = WorkView(
    what="The demo is being conducted",
    done=0,
    of=0,
    things="units",
    note="Figures and verdicts come as they are measured.",
    problem="",
)


def demo_beside(services: Services, folder: Path) -> None:
    """Describe the demo in empty records, then conduct it beside everything else; tells of it all as it goes on."""
    mark = folder / UNFINISHED
    with services.database.reading() as session:
        empty = is_empty(session)
    if not empty:
        if mark.exists():
            services.now.work = replace(WORK, problem=CUT_SHORT)
        return
    mark.touch()
    described = describe(services)
    services.now.work = replace(WORK, of=len(described.work))

    def tell(serial: str, done: int, of: int) -> None:
        services.now.work = replace(WORK, done=done, of=of)

    def work() -> None:
        try:
            conduct(services, described, tell)
        except Exception as error:
            log.exception("the demo could not be conducted")
            services.now.work = replace(WORK, problem=f"The demo could not be conducted to its end: {error}.")
        else:
            mark.unlink(missing_ok=True)
            services.now.work = None

    threading.Thread(target=work, name="demo", daemon=True).start()
