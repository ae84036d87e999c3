"""Rulvek: power tests of vehicle and marine amplifiers, from plan to kept evidence."""

from typing import Any


def __getattr__(name: str) -> Any:
    """``__version__``, looked up when it is asked for: that takes longer than half of a command's start."""
    if name != "__version__":
        raise AttributeError(name)
    from importlib.metadata import PackageNotFoundError, version

    try:
        return version("rulvek")
    except PackageNotFoundError:  # run from a tree that was never installed
        return "0"
