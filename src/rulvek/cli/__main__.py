"""``python -m rulvek.cli``."""

from rulvek.cli import main

main()
