"""The command line: ``rulvek``, a module a command. Each imports what it needs when it is called, to start quickly."""

import sys

from rulvek.cli import analyse, check, demo, exponent, import_, serve, simulate, tone, verify
from rulvek.cli.common import app

__all__ = ["analyse", "app", "check", "demo", "exponent", "import_", "main", "serve", "simulate", "tone", "verify"]


def main() -> None:
    """Run the command line."""
    sys.exit(app())
