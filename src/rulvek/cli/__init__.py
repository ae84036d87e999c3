"""The command line: ``rulvek``, a module a command. Each imports what it needs when it is called, to start quickly."""

import sys

from rulvek.cli import analyse, backup, check, demo, exponent, import_, judge, serve, settings, simulate, tone, verify
from rulvek.cli.common import app

COMMANDS = (analyse, backup, check, demo, exponent, import_, judge, serve, settings, simulate, tone, verify)
__all__ = ["COMMANDS", "app", "main"]


def main() -> None:
    """Run the command line."""
    sys.exit(app())
