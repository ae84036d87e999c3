"""What goes on at this moment: what the benches do, and what was changed on record since somebody last asked."""

from rulvek.services.benches import Benches
from rulvek.services.views.now import ChangeView, NowView
from rulvek.store.engine import Database
from rulvek.store.queries import records as queries

MOST = 20
"""Changes that are told one by one; who was away for longer reads everything afresh anyway."""


class Now:
    """Tells pages that are open what others did."""

    def __init__(self, database: Database, benches: Benches) -> None:
        self._database, self._benches = database, benches

    def since(self, after: int | None) -> NowView:
        """The benches, and the latest changes after one that is known; none where nothing is known yet."""
        with self._database.reading() as session:
            last = queries.last_entry_id(session)
            found = queries.entries_after(session, after, MOST) if after is not None and after < last else []
        changes = [
            ChangeView(id=one.id, person=one.actor.words, action=one.action, subject=one.subject, text=one.text)
            for one in found
        ]
        return NowView(benches=self._benches.states(), last_change=last, changes=changes)
