"""Practice benches: for each job a house of its own, with the use cases and screens of the real one.

Its records lie in a folder that goes with it: nothing that is done there can become evidence.
"""

import threading
from collections import OrderedDict
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from tempfile import TemporaryDirectory

from rulvek import clock
from rulvek.bench.benches import PRACTICE, topology_of
from rulvek.composition import Services, make_services
from rulvek.core.electrical.policy import SupplyPolicy
from rulvek.core.errors import Conflict
from rulvek.core.method.profile import MethodProfile
from rulvek.core.practice.scenarios import Job, Scenario
from rulvek.core.practice.sheet import Sheet
from rulvek.core.records.actor import Actor
from rulvek.core.records.campaigns import Unit
from rulvek.core.records.claims import ClaimKind, ClaimTerms
from rulvek.core.records.entered import SeriesEntry
from rulvek.core.records.instruments import InstrumentEntry, InstrumentRole
from rulvek.core.records.people import Role
from rulvek.core.records.product import ChannelGroup, Model, Product
from rulvek.core.records.wishes import Loading, Wishes
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.services.people import SignedIn
from rulvek.services.practice import sheet_of
from rulvek.store import people, save
from rulvek.store.engine import Database

MOST_HOUSES = 6
"""More are not kept open: the one that nobody was in for longest is given up, and made anew when it is asked for."""
GROUP = "main"
READS_WITH = (
    InstrumentEntry(InstrumentRole.OUTPUT, "Practice recorder", percent_of_reading=0.05),
    InstrumentEntry(InstrumentRole.SUPPLY, "Practice recorder, supply input", percent_of_reading=0.05),
)
"""What a practice bench reads with, within the limits that common instruments have."""


@dataclass(frozen=True, eq=False)
class PracticeHouse:
    """A job's own house, and its person in it, who may do everything there; ``campaign_id`` is what waits to be run."""

    services: Services
    who: SignedIn
    campaign_id: int
    folder: TemporaryDirectory[str]

    @property
    def is_busy(self) -> bool:
        """Whether something goes on at its bench."""
        return any(room.busy for room in self.services.benches.rooms())

    def close(self) -> None:
        """Make its bench safe, and throw its records away."""
        self.services.close()
        self.folder.cleanup()


class PracticeHouses:
    """Opens houses for jobs, so many at a time."""

    def __init__(self, services: Services) -> None:
        self._real = services
        self._open: OrderedDict[int, PracticeHouse] = OrderedDict()
        self._furnishing: dict[int, threading.Lock] = {}
        self._lock = threading.Lock()

    def enter(self, job_id: int, actor: Actor) -> PracticeHouse:
        """The house of somebody's own job; made where there is none.

        Raises:
            NotFound: there is no such job, or it is somebody else's.
            Conflict: as many as may be open are being worked in.
        """
        scenario = self._real.practice.scenario(job_id, actor)
        with self._lock:
            if (house := self._held(job_id)) is not None:
                return house
            furnishing = self._furnishing.setdefault(job_id, threading.Lock())
        with furnishing:  # it takes seconds: whoever is in another house does not wait for it
            with self._lock:
                if (house := self._held(job_id)) is not None:
                    return house
                given_up = self._room_made()
            if given_up is not None:
                given_up.close()
            house = furnished(scenario, actor, self._real.benches.speed, self._real.files.root.parent)
            with self._lock:
                self._open[job_id] = house
                self._furnishing.pop(job_id, None)
        return house

    def close(self) -> None:
        """All of them."""
        with self._lock:
            houses = [self._open.popitem()[1] for _ in range(len(self._open))]
        for one in houses:
            one.close()

    def _held(self, job_id: int) -> PracticeHouse | None:
        if job_id in self._open:
            self._open.move_to_end(job_id)
        return self._open.get(job_id)

    def _room_made(self) -> PracticeHouse | None:
        """The house that is given up for another one, where so many are open."""
        if len(self._open) < MOST_HOUSES:
            return None
        idle = next((one for one, house in self._open.items() if not house.is_busy), None)
        if idle is None:
            what = f"{MOST_HOUSES} practice benches are being worked at."
            raise Conflict(what, todo="Try again once one of them is done.")
        return self._open.pop(idle)


def furnished(scenario: Scenario, actor: Actor, speed: float, within: Path) -> PracticeHouse:
    """A house with the job's unit on its bench, the claim, and a campaign that waits; ``within`` is a folder for it."""
    folder = TemporaryDirectory(prefix="practice-", dir=within)
    try:
        services = make_services(_records(scenario, Path(folder.name)), Path(folder.name) / "captures", speed)
        try:
            return PracticeHouse(services, _admitted(services, actor), _planned(services, scenario, actor), folder)
        except BaseException:
            services.close()
            raise
    except BaseException:
        folder.cleanup()
        raise


def _records(scenario: Scenario, folder: Path) -> Database:
    """Empty records whose one bench is the practice bench."""
    database = Database(f"sqlite:///{folder}/rulvek.db")
    database.migrate()
    with database.writing() as session:
        save.only_bench(session, "Practice bench", PRACTICE, scenario.key)
    return database


def _admitted(services: Services, actor: Actor) -> SignedIn:
    with services.database.writing() as session:
        identity = people.add_person(session, actor.name, tuple(Role), datetime.now(UTC))
        return SignedIn(people.person(session, identity), frozenset(Role))


def _planned(services: Services, scenario: Scenario, actor: Actor) -> int:
    job, sheet = scenario.job, sheet_of(scenario)
    with services.database.writing() as session:
        series = save.series(session, SeriesEntry("Practice", "Nothing here is evidence"))
        model = save.model(session, series, _model(job, sheet))
        facts = Unit(0, model, "P-1", "P", "A", "Practice", clock.now())
        unit = save.unit(session, facts)
    services.catalogue.add_claim(model, _claim(job, sheet), actor)
    for entry in READS_WITH:
        services.gear.enter(entry, actor)
    burst = MethodProfile().burst_of(job.is_bass).name
    specs = [
        RunSpec(
            mode=mode,
            group=GROUP,
            load_ohms=job.load_ohms,
            tone_hz=job.tone_hz,
            supply_volts=job.supply_volts,
            bridged=job.bridged,
            burst=burst if mode is Mode.BURST else "",
        )
        for mode in job.modes
    ]
    wishes = Wishes(modes=job.modes, loading=Loading.PAIRS if job.bridged else Loading.EACH, policy=job.policy)
    return services.campaigns.create(unit, actor, wishes, specs).id


def _model(job: Job, sheet: Sheet) -> Model:
    """The job's unit as its line has it."""
    group = ChannelGroup(
        name=GROUP,
        channels=tuple(channel for link in job.links for channel in link),
        rated_loads=(job.load_ohms / 2 if job.bridged else job.load_ohms,),
        bridged_loads=(job.load_ohms,) if job.bridged else (),
        bass=job.is_bass,
    )
    product = Product((group,), topology=topology_of(job.design), fuse_amps=sheet.fuses)
    controls = ("Gains to test position", "Boosts and filters off")
    return Model(0, "", job.words, "On the practice bench", product, 1.0, controls, job.design)


def _claim(job: Job, sheet: Sheet) -> ClaimTerms:
    """What the document says, as it says it; a maximum states neither load nor terms."""
    claim = sheet.claim
    if claim.load_ohms is None:
        return ClaimTerms(
            "Print on the box", GROUP, claim.watts, job.load_ohms, job.bridged, ClaimKind.MAXIMUM, load_stated=False
        )
    return ClaimTerms(
        document="Owner's manual",
        group=GROUP,
        watts=claim.watts,
        load_ohms=claim.load_ohms,
        bridged=job.bridged,
        supply_volts=None if job.policy is SupplyPolicy.BANK else job.supply_volts,
        thd_n_percent=sheet.runs[0].limit_percent,
    )
