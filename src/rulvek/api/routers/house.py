"""The house itself: whether it is well, and its backups."""

from fastapi import Response

from rulvek import __version__
from rulvek.api.asking import HEAVY, Person, Use
from rulvek.api.calls import Calls
from rulvek.services.views.backups import BackupsView, HealthView

router = Calls("house")


@router.get("/health")
async def get_health() -> HealthView:
    """That the process answers; asks nothing else."""
    return HealthView(version=__version__, schema_version="", problem="")


@router.get("/ready")
def get_ready(use: Use, response: Response) -> HealthView:
    """Whether the records can be worked with; 503 where they cannot."""
    schema, problem = use.readiness()
    if problem:
        response.status_code = 503
    return HealthView(version=__version__, schema_version=schema, problem=problem)


@router.get("/backups")
def list_backups(use: Use) -> BackupsView:
    """The backups that are kept."""
    return use.backups.view()


@router.post("/backups", status_code=201, dependencies=HEAVY)
def take_backup(use: Use, person: Person) -> BackupsView:
    """Take one now."""
    return use.backups.take(person)
