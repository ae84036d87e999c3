"""How fast ratings are: the board of a hundred models, and the dossier of forty runs, the same bytes twice."""

import shutil
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from grow import grow
from lab_speed import ENGINEER, services_in

from rulvek.composition import make_services
from rulvek.core.ratings.basis import RatingTerms
from rulvek.core.ratings.population import Promise
from rulvek.core.ratings.sample import RatedAt
from rulvek.core.records.entered import SeriesEntry, UnitEntry
from rulvek.core.records.product import ChannelGroup, Model, Product
from rulvek.core.runs.modes import Mode
from rulvek.core.runs.spec import RunSpec
from rulvek.services.benches import conduct_all
from rulvek.services.catalogue import entering
from rulvek.store import load, save
from rulvek.store.engine import Database

Report = Callable[[str, float, float], None]
RUNS = 40
MODELS = 100
AT = RatedAt("main", 4.0, supply_volts=14.4)


def a_dossier(report: Report) -> None:
    """Of forty units that were conducted for it, a run each."""
    with tempfile.TemporaryDirectory() as folder:
        services = services_in(folder)
        product = Product((ChannelGroup("main", (1, 2), (4.0,)),), "AB", False, (10.5, 16.0), (30.0, 30.0))
        with services.database.writing() as session:
            series_id = save.series(session, SeriesEntry("Bench", "Speed", 1.0, ""))
            model_id = save.model(session, series_id, Model(0, "", "Forty", "", product, 1.0, (), "two-ab"))
            model = load.model(session, model_id)
            units = [
                entering.enter_unit(session, model, UnitEntry(f"F-{at:03d}", lot=f"{at % 5}"), ENGINEER)
                for at in range(RUNS)
            ]
        for unit_id in units:
            runs = [RunSpec(Mode.CERTIFIED, "main", 4.0, 1000.0, 14.4)]
            planned = services.campaigns.create(unit_id, ENGINEER, specs=runs)
            conduct_all(services.database, services.preparations, services.benches, planned.id, ENGINEER)
        bound = services.ratings.population(model_id, AT, Promise()).bound
        assert bound is not None and bound.proposal_watts is not None
        drafted = services.rating_lives.draft(model_id, RatingTerms(AT, bound.proposal_watts), ENGINEER)
        services.rating_lives.propose(drafted.id, drafted.seen, "", ENGINEER)
        first = services.rating_dossiers.unsigned(drafted.id)
        start = time.perf_counter()
        second = services.rating_dossiers.unsigned(drafted.id)
        taken = time.perf_counter() - start
        start = time.perf_counter()
        services.rating_dossiers.signed(drafted.id)
        signed = time.perf_counter() - start
        services.close()
        report(f"a dossier of {RUNS} runs, s", taken, 1.5)
        report("the same, signed, s", signed, 1.5)
        report("dossiers that differ when they are made twice", float(first != second), 0.0)


def the_board(report: Report, demo: Path) -> None:
    """Of as many copies of the demo as make a hundred models, once their conclusions are drawn."""
    with tempfile.TemporaryDirectory() as folder:
        shutil.copytree(demo, folder, dirs_exist_ok=True)
        database = Database(f"sqlite:///{folder}/rulvek.db")
        with database.reading() as session:
            models = len(load.models(session, range(1, 1000)))
        grow(database, -(-MODELS // models))
        services = make_services(database, Path(folder) / "captures", float("inf"))
        services.rating_board.board()
        services.later.flush()
        services.conclusions.flush()
        taken = []
        for _ in range(5):
            start = time.perf_counter()
            services.rating_board.board()
            taken.append(time.perf_counter() - start)
        services.close()
        report(f"the board of {MODELS} models, s", sorted(taken)[2], 0.3)
