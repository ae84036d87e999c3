"""What every request may need, made once per application, and who is asking."""

from dataclasses import dataclass
from pathlib import Path
from typing import Annotated
from urllib.parse import unquote

from fastapi import Depends, Header, Request

from rulvek.core.errors import BadInput
from rulvek.services.bench_room import BenchRoom
from rulvek.services.campaigns import Campaigns
from rulvek.services.catalogue import Catalogue
from rulvek.services.desk import Desk
from rulvek.services.earlier import Earlier
from rulvek.services.evidence import EvidenceRoom
from rulvek.services.gear import Gear
from rulvek.services.hub import Hub
from rulvek.services.planner import Planner
from rulvek.services.preparing import Preparing
from rulvek.services.recorded import Recordings
from rulvek.services.second import SecondInstrument
from rulvek.services.typed import Typed
from rulvek.store.database import Database


@dataclass(frozen=True, slots=True)
class Services:
    """The use cases on one set of records."""

    database: Database
    hub: Hub
    catalogue: Catalogue
    campaigns: Campaigns
    evidence: EvidenceRoom
    bench: BenchRoom
    planner: Planner
    preparing: Preparing
    gear: Gear
    typed: Typed
    recordings: Recordings
    earlier: Earlier
    second: SecondInstrument
    desk: Desk


def make_services(database: Database, captures: Path, bench_speed: float, arriving: str = "arriving") -> Services:
    """Wire the use cases to a database and a folder of captures; ``arriving`` is this process's folder beside it."""
    hub = Hub()
    room = BenchRoom(database, captures, hub, bench_speed)
    campaigns = Campaigns(database)
    return Services(
        database=database,
        hub=hub,
        catalogue=Catalogue(database),
        campaigns=campaigns,
        evidence=EvidenceRoom(database, captures),
        bench=room,
        planner=Planner(database),
        preparing=Preparing(database, room),
        gear=Gear(database),
        typed=Typed(database, campaigns),
        recordings=Recordings(database, campaigns, captures.parent / arriving, captures),
        earlier=Earlier(database, campaigns),
        second=SecondInstrument(database),
        desk=Desk(),
    )


def _services(request: Request) -> Services:
    services: Services = request.app.state.services
    return services


def _person(x_rulvek_person: Annotated[str, Header(description="Who is asking, percent-encoded UTF-8.")] = "") -> str:
    name = unquote(x_rulvek_person).strip()
    if not name or len(name) > 80:
        raise BadInput("Say who you are: a name of 1 to 80 characters.", field="person", code="person-missing")
    return name


def _person_if_known(x_rulvek_person: Annotated[str, Header()] = "") -> str:
    return unquote(x_rulvek_person).strip()[:80] or "Somebody unnamed"


Use = Annotated[Services, Depends(_services)]
Person = Annotated[str, Depends(_person)]
"""The name that is stored with what someone does. Until there are accounts, it is taken on trust."""
AnyPerson = Annotated[str, Depends(_person_if_known)]
"""For what must never wait for a name: switching off."""
