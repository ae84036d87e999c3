"""Backups, as admins see them."""

from datetime import datetime

from rulvek.services.views.base import View, view


@view
class BackupView(View):
    """A backup that is kept."""

    name: str
    made_at: datetime
    bytes: int


@view
class BackupsView(View):
    """All that are kept, the latest first, and how it stands with them.

    ``overdue`` where the latest is too old; ``problem`` is why the last one failed, empty where it did not; ``done`` of
    ``of`` files are copied while it is ``running``.
    """

    folder: str
    every_hours: float
    keep: int
    overdue: bool
    problem: str
    running: bool
    done: int
    of: int
    backups: list[BackupView]


@view
class HealthView(View):
    """That the server is there, and how it stands; ``problem`` is empty where it may be used."""

    version: str
    schema_version: str
    problem: str
