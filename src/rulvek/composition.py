"""Makes the services from settings: the one place where they are wired to each other."""

import gc
import importlib
import os
import shutil
import sys
from collections.abc import Callable
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path

import structlog

from rulvek.core.errors import BadInput, NoRoom
from rulvek.core.planning.hours import hours_of
from rulvek.core.ratings.texts import HOUSE_STYLE
from rulvek.core.records.actor import PROGRAM
from rulvek.core.records.bundles import Scope
from rulvek.services.answers import Answers
from rulvek.services.backups import Backups, Schedule
from rulvek.services.benches import Assembling, Benches, Preparations, SoundLevels
from rulvek.services.bundles import Bundles
from rulvek.services.campaigns import Campaigns, EvidencePages, Planner, Settling, Today
from rulvek.services.catalogue import Catalogue, Dossiers, Entries, Files, Histories, LineExchange, SideBySide
from rulvek.services.conclusions import Conclusions
from rulvek.services.desk import Desk
from rulvek.services.drawing_anew import COLLECT_AFTER, DrawingAnew
from rulvek.services.events import Hub
from rulvek.services.gear import Gear, Methods
from rulvek.services.intact import IntactFiles
from rulvek.services.later import Later
from rulvek.services.now import Now
from rulvek.services.outside import ByHand, EarlierResults, Recordings, SecondInstrument
from rulvek.services.outside.unseen import clear_unseen
from rulvek.services.people import Accounts, Limits, Sessions
from rulvek.services.practice import Practice
from rulvek.services.ratings import Audits, RatingBoard, RatingDossiers, RatingLinks, RatingLives, Ratings, RatingWatch
from rulvek.services.reanalysis import Rereading
from rulvek.settings import Settings
from rulvek.store.engine import Database
from rulvek.store.files import FileStore
from rulvek.store.sweep import occupy, sweep

log = structlog.get_logger()

BENCH_PATIENCE_SECONDS = 10.0
LEAST_FREE = 64 * 2**20
"""Bytes below which the disk of the records is told to be as good as full: a few runs with their captures."""
SWITCH_SECONDS = 0.0005


@dataclass(frozen=True)
class Services:
    """The use cases on one set of records."""

    database: Database
    asides: tuple[Database, ...]
    files: FileStore
    hub: Hub
    later: Later
    conclusions: Conclusions
    drawing: DrawingAnew
    catalogue: Catalogue
    entries: Entries
    dossiers: Dossiers
    kept_files: Files
    histories: Histories
    exchange: LineExchange
    bundles: Bundles
    side_by_side: SideBySide
    campaigns: Campaigns
    evidence: EvidencePages
    benches: Benches
    assembling: Assembling
    sound_levels: SoundLevels
    planner: Planner
    today: Today
    settling: Settling
    preparations: Preparations
    gear: Gear
    methods: Methods
    ratings: Ratings
    rating_lives: RatingLives
    rating_board: RatingBoard
    rating_dossiers: RatingDossiers
    rating_links: RatingLinks
    audits: Audits
    by_hand: ByHand
    recordings: Recordings
    earlier_results: EarlierResults
    second: SecondInstrument
    desk: Desk
    practice: Practice
    now: Now
    answers: Answers
    accounts: Accounts
    sessions: Sessions
    backups: Backups
    intact: IntactFiles
    rereading: Rereading
    leave: Callable[[], None]

    def readiness(self) -> tuple[str, str]:
        """The schema's version, and why the records cannot be worked with; empty where they can."""
        try:
            with self.database.reading():
                now, newest = self.database.schema()
        except Exception as failure:  # whatever it is, it is not ready
            return "", f"The records cannot be read: {type(failure).__name__}."
        if now != newest:
            return now, f"The records are at version {now}, not at {newest}."
        free = shutil.disk_usage(self.files.root.parent).free
        return now, "" if free >= LEAST_FREE else f"Only {free / 1e6:.0f} MB are left on the disk of the records."

    def look_ahead(self) -> None:
        """Do aside what whoever comes first would wait for: load what measuring needs, find the day's order."""
        self.later.do(_load_measuring)
        self.later.do(self.today.queue)

    def close(self) -> None:
        """An orderly end: runs are stopped and recorded, what can be written later is written."""
        self.drawing.close()
        self.backups.close()
        self.intact.close()
        self.rereading.close()
        self.bundles.close()
        self.sound_levels.stop()
        self.benches.close()
        self.later.close()
        self.conclusions.flush()
        for database in (*self.asides, self.database):
            database.close()
        self.leave()


def _load_measuring() -> None:
    """Parts of a library that are loaded where they are first asked for, which takes seconds on a busy machine."""
    for part in ("linalg", "signal", "optimize", "stats"):
        importlib.import_module(f"scipy.{part}")


def make_services(
    database: Database,
    captures: Path,
    bench_speed: float,
    inbox: str = "arriving",
    limits: Limits = Limits(),  # frozen
    schedule: Schedule = Schedule(),
    lab: str = "",
    rating_text: str = "",
    working_hours: str = "",
    people: int | None = None,
) -> Services:
    """Wire the use cases to a database and a folder of files; ``inbox`` is this process's folder beside it."""
    hub, files = Hub(), FileStore(captures)
    # Each kind of work has connections of its own, so that none of them keeps another waiting.
    benches_own, aside = database.aside(6, BENCH_PATIENCE_SECONDS), database.aside(2)
    later = Later("later")
    conclusions = Conclusions(aside, Later("conclusions"))
    benches = Benches(benches_own, files, hub, later, conclusions, bench_speed)
    equipment = benches.equipment
    bundles = Bundles(database, conclusions, files, captures.parent / f"{inbox}-bundles", lab)
    campaigns = Campaigns(database, conclusions, equipment)
    watch = RatingWatch(database, conclusions, later)
    lives = RatingLives(database, conclusions, watch, rating_text or HOUSE_STYLE)
    rated = RatingDossiers(
        database,
        captures.parent / "signing",
        lab,
        lambda model_id, actor: bundles.pack(Scope.MODEL, model_id, actor).path,
    )
    return Services(
        database=database,
        asides=(benches_own, aside),
        files=files,
        hub=hub,
        later=later,
        conclusions=conclusions,
        drawing=DrawingAnew(aside, conclusions),
        catalogue=Catalogue(database, conclusions),
        entries=Entries(database, conclusions),
        dossiers=Dossiers(database, files),
        kept_files=Files(database, files),
        histories=Histories(database),
        exchange=LineExchange(database, conclusions),
        bundles=bundles,
        side_by_side=SideBySide(database, conclusions),
        campaigns=campaigns,
        evidence=EvidencePages(database, conclusions, files),
        benches=benches,
        assembling=Assembling(database, benches, captures.parent / "instruments"),
        sound_levels=SoundLevels(benches, hub.wake),
        today=Today(database, conclusions, equipment, benches.busy_with, later, hours_of(working_hours), people),
        settling=Settling(database, conclusions, equipment),
        planner=Planner(database, conclusions, equipment),
        now=Now(aside, benches),
        answers=Answers(aside, later),
        preparations=Preparations(database, benches),
        methods=Methods(database),
        gear=Gear(database, equipment),
        ratings=Ratings(database, conclusions),
        rating_lives=lives,
        rating_board=RatingBoard(database, conclusions, watch, lab),
        rating_dossiers=rated,
        rating_links=RatingLinks(database, lives, rated),
        audits=Audits(database, watch, campaigns.create),
        by_hand=ByHand(database, conclusions, equipment),
        recordings=Recordings(database, conclusions, equipment, captures.parent / inbox, files),
        earlier_results=EarlierResults(database, conclusions, equipment),
        second=SecondInstrument(database, conclusions),
        desk=Desk(equipment),
        practice=Practice(database),
        accounts=Accounts(database),
        sessions=Sessions(database, later, limits),
        backups=Backups(database.aside(1), files, schedule),
        intact=IntactFiles(aside, files, conclusions),
        rereading=Rereading(database, captures, captures.parent / "reanalysis"),
        leave=occupy(captures.parent) if database.is_kept else lambda: None,
    )


def opened(settings: Settings) -> Database:
    """The configured records, brought to the newest schema."""
    try:
        settings.data_folder.mkdir(parents=True, exist_ok=True)
    except OSError as failure:
        what = f"{settings.data_folder} cannot be a folder of records: {failure.strerror}."
        raise BadInput(what, todo="Choose another one.", field="data") from None
    database = Database(settings.database)
    database.migrate()
    return database


def serving(settings: Settings) -> Services:
    """Services for a server: lost runs are ended, leases looked after, leftovers cleared."""
    limits = Limits(timedelta(hours=settings.session_idle_hours), timedelta(days=settings.session_days))
    schedule = Schedule(settings.backup_folder, timedelta(hours=settings.backup_every_hours), settings.backup_keep)
    inbox = f"arriving-{os.getpid()}"
    database = opened(settings)
    if swept := sweep(database, FileStore(settings.captures), settings.captures.parent):
        log.warning("files that no record speaks of were removed", files=swept)
    services = make_services(
        database,
        settings.captures,
        settings.bench_speed,
        inbox,
        limits,
        schedule,
        settings.lab,
        settings.rating_text,
        settings.working_hours,
        settings.people,
    )
    services.benches.watch()
    services.recordings.clear()
    services.bundles.clear()
    try:
        services.benches.recover()
        clear_unseen(services.database)
    except NoRoom as full:  # what is on record can be read, and Off works; runs that were lost are ended later
        log.error("started on a full disk", what=full.what)
    services.drawing.begin(services.now.tell)
    services.backups.watch(PROGRAM)
    services.intact.watch()
    return services


def answer_promptly() -> None:
    """Set this process up so that Off never waits long for threads that compute.

    Each handover from a computing thread takes up to the switch interval, and a request needs several; what was made
    at the start is never garbage, so that collections need not look through it with every thread stopped.
    """
    sys.setswitchinterval(SWITCH_SECONDS)
    gc.set_threshold(COLLECT_AFTER, 10, 10)
    gc.collect()
    gc.freeze()
