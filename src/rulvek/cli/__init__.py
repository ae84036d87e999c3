"""The command line: ``rulvek``, a module a command. Each imports what it needs when it is called, to start quickly."""

import sys

from rulvek.cli import (  # noqa: F401  # each puts its commands into the application
    analyse,
    backup,
    bound,
    bundle,
    check,
    copy,
    demo,
    dossier,
    exponent,
    import_,
    judge,
    serve,
    settings,
    simulate,
    tone,
    verify,
)
from rulvek.cli.common import app

__all__ = ["app", "main"]


def main() -> None:
    """Run the command line."""
    sys.exit(app())
