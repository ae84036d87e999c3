"""What was answered to a request that carried a key: given again to its twin, also by a server that started since."""

from collections.abc import Callable
from datetime import UTC, datetime, timedelta

from rulvek.services.later import Later
from rulvek.store import answers
from rulvek.store.answers import Answer
from rulvek.store.engine import Database

KEPT = timedelta(hours=1)


class Answers:
    """Answers by the mark of their request: who asked for what, with which key."""

    def __init__(self, database: Database, later: Later) -> None:
        self._database, self._later = database, later

    def given(self, mark: str) -> Answer | None:
        """What was answered within the last hour."""
        with self._database.reading() as session:
            return answers.given(session, mark, datetime.now(UTC) - KEPT)

    def keep(self, mark: str, answer: Answer, kept: Callable[[], None]) -> None:
        """Keep an answer a moment later, and forget old ones; then ``kept`` is called, from another thread."""

        def write() -> None:
            now = datetime.now(UTC)
            with self._database.writing() as session:
                answers.keep(session, mark, answer, now, now - KEPT)
            kept()

        self._later.do(write)
