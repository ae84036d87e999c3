"""What goes on at this moment: what the benches do, and what was changed on record since somebody last asked."""

import threading
import time
from collections.abc import Sequence

from rulvek.services.benches import Benches
from rulvek.services.views.now import ChangeView, EditorView, NowView, WorkView
from rulvek.store.engine import Database
from rulvek.store.queries import records as queries

MOST = 20
"""Changes that are told one by one; who was away for longer reads everything afresh anyway."""

EDITS_FOR_SECONDS = 3.0
"""How long somebody who said that they edit something is taken to do so; pages say it again with each question."""


class Editors:
    """Who has a form open on what. It is kept in memory: what counts is refused by versions, this only tells."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._seen: dict[tuple[str, str], float] = {}

    def say(self, person: str, subjects: Sequence[str]) -> list[EditorView]:
        """Say what somebody edits; returns what others do."""
        now = time.monotonic()
        with self._lock:
            self._seen = {key: at for key, at in self._seen.items() if now - at < EDITS_FOR_SECONDS}
            self._seen |= {(person, subject): now for subject in subjects}
            others = [key for key in self._seen if key[0] != person]
        return [EditorView(person=name, subject=subject) for name, subject in others]


class Now:
    """Tells pages that are open what others did, and what they are about to change."""

    def __init__(self, database: Database, benches: Benches) -> None:
        self._database, self._benches, self._editors = database, benches, Editors()
        self.work: WorkView | None = None
        """What this server is at work on; set by whoever does it."""

    def tell(self, work: WorkView | None) -> None:
        """Say what this server is at work on; None once it is done."""
        self.work = work

    def since(self, after: int | None, person: str, editing: Sequence[str] = ()) -> NowView:
        """The benches, and the latest changes after one that is known; none where nothing is known yet.

        Args:
            person: Who asks.
            editing: What they have a form open on, as “model/3”.
        """
        others = self._editors.say(person, editing)
        with self._database.reading() as session:
            last = queries.last_entry_id(session)
            found = queries.entries_after(session, after, MOST) if after is not None and after < last else []
        changes = [
            ChangeView(id=one.id, person=one.actor.words, action=one.action, subject=one.subject, text=one.text)
            for one in found
        ]
        return NowView(
            benches=self._benches.states(), last_change=last, changes=changes, editing=others, work=self.work
        )
