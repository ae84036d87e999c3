"""The command line: ``rulvek``, a module a command. Each imports what it needs when it is called, to start quickly."""

import os
import sys

from rulvek.cli import (  # noqa: F401  # each puts its commands into the application
    analyse,
    backup,
    bench,
    bound,
    bundle,
    check,
    copy,
    demo,
    dossier,
    exponent,
    import_,
    instruments,
    judge,
    reanalyse,
    serve,
    settings,
    simulate,
    sound,
    tone,
    verify,
)
from rulvek.cli.common import app

__all__ = ["app", "main"]


def main() -> None:
    """Run the command line."""
    # The products here are small: a second thread gains nothing, and two processes with two each wait for each other.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    sys.exit(app())
