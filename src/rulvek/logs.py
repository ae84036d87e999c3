"""The log: one line an event that matters, plain for people or JSON for machines."""

import logging
import sys
from contextlib import suppress
from typing import Any, Literal

import structlog


def configure(form: Literal["plain", "json"] = "plain", least: Literal["info", "warning"] = "info") -> None:
    """Say how events are written, and from which level on; to standard error, so that output stays output."""
    renderer: structlog.typing.Processor = (
        structlog.processors.JSONRenderer()
        if form == "json"
        else structlog.dev.ConsoleRenderer(
            colors=sys.stderr.isatty(), exception_formatter=structlog.dev.plain_traceback
        )
    )
    structlog.configure(
        processors=[
            structlog.contextvars.merge_contextvars,
            structlog.processors.add_log_level,
            structlog.processors.TimeStamper(fmt="iso", utc=True),
            *([structlog.processors.format_exc_info] if form == "json" else []),
            renderer,
        ],
        wrapper_class=structlog.make_filtering_bound_logger(logging.INFO if least == "info" else logging.WARNING),
        logger_factory=_StandardError,
        cache_logger_on_first_use=False,
    )


class _StandardError:
    """Writes a line to standard error, whichever that is by then; one that cannot be written ends nobody's run."""

    def __init__(self, *_: Any) -> None:
        """Take what structlog hands to every logger, and need none of it."""

    def msg(self, line: str) -> None:
        with suppress(OSError, ValueError):
            print(line, file=sys.stderr, flush=True)

    debug = info = warning = error = critical = exception = fatal = log = msg
