"""People who are signed in: tests that are not about signing in ask as one of them."""

from datetime import UTC, datetime, timedelta

from rulvek.core.records.people import Role
from rulvek.services.people.secrets import digest
from rulvek.store import people
from rulvek.store.engine import Database

BASE = "http://localhost"
EVERYTHING = tuple(Role)


def token_of(name: str) -> str:
    """A script's token with which a test acts as somebody, and a browser's session as well."""
    return f"rulvek_{digest(name)}"


def acting(name: str) -> dict[str, str]:
    """Headers of a request that somebody makes."""
    return {"Authorization": f"Bearer {token_of(name)}"}


def admit(database: Database, *names: str, roles: tuple[Role, ...] = EVERYTHING) -> None:
    """Put people on record who are signed in already; with every role, unless told."""
    with database.writing() as session:
        now = datetime.now(UTC)
        for name in names:
            known = people.named(session, name)
            identity = known[0].id if known else people.add_person(session, name, roles, now)
            token = digest(token_of(name))
            if people.by_token(session, token, now) is None:
                people.add_token(session, identity, "tests", roles, token, now, now + timedelta(days=300))
                people.begin_session(session, identity, token, now, "127.0.0.1", "tests")
