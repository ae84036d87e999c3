"""The history of anything on record: every entry of the audit chain about it, and about what belongs to it."""

from rulvek.core.errors import NotFound
from rulvek.core.records.kept import OF, Kind
from rulvek.services.views.history import ChangesView, change_entry_view
from rulvek.store import kept, ratings
from rulvek.store.engine import Database, Session
from rulvek.store.queries import campaigns as campaign_queries
from rulvek.store.queries import records as queries

SUBJECTS = frozenset(
    {
        "series",
        "model",
        "unit",
        "campaign",
        "attempt",
        "instrument",
        "person",
        "file",
        "rating",
        "bench",
        "method",
        *Kind,
    }
)
PAGE = 50


class Histories:
    """Reads the chain by what it is about."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def of(self, kind: str, identity: str, before: int | None) -> ChangesView:
        """A page of what was done to something, the latest first; of a model and a unit with what belongs to them.

        Raises:
            NotFound: nothing of that kind has a history, or nothing was ever done to it.
        """
        if kind not in SUBJECTS:
            raise NotFound(f"There is no history of a “{kind}”.")
        with self._database.reading() as session:
            subjects = [f"{kind}/{identity}", *_belonging(session, kind, identity)]
            found = queries.history_page(session, subjects, before, PAGE + 1)
        if not found and before is None:
            raise NotFound("Nothing of that name has a history.")
        return ChangesView(
            entries=[change_entry_view(one) for one in found[:PAGE]],
            next=found[PAGE - 1].id if len(found) > PAGE else None,
        )


def _belonging(session: Session, kind: str, identity: str) -> list[str]:
    if not identity.isdigit() or kind not in ("model", "unit"):
        return []
    kinds = [one for one, of in OF.items() if of == kind]
    found = kept.subjects_of(session, kinds, int(identity))
    if kind == "unit":
        found += [f"campaign/{one}" for one in campaign_queries.ids_of_unit(session, int(identity))]
    else:
        found += [f"rating/{one}" for one in ratings.ids_of_model(session, int(identity))]
    return found
