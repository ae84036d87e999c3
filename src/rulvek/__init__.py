"""Rulvek: power tests of vehicle and marine amplifiers, from plan to kept evidence."""

from importlib.metadata import PackageNotFoundError, version

try:
    __version__ = version("rulvek")
except PackageNotFoundError:  # run from a tree that was never installed
    __version__ = "0"
