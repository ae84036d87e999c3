"""Every call of the published description under generated input: it answers as described, and never with a fault."""

import schemathesis
from hypothesis import HealthCheck
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import response_schema_conformance, status_code_conformance

from rulvek.api.app import app_for
from rulvek.composition import make_services
from rulvek.store.engine import Database
from tests.conftest import PERSON, TAMSIN, write_line
from tests.examples import TIMES, examples
from tests.people import BASE, admit


def _application(tmp: str):  # type: ignore[no-untyped-def]
    from pathlib import Path

    database = Database(f"sqlite:///{tmp}/rulvek.db")
    database.migrate()
    admit(database, "Tamsin Oduwell")
    services = make_services(database, Path(tmp) / "captures", float("inf"))
    write_line(services)
    services.campaigns.create(1, TAMSIN)
    return app_for(services)


def _made():  # type: ignore[no-untyped-def]
    import tempfile

    return _application(tempfile.mkdtemp())


schema = schemathesis.openapi.from_asgi("/api/openapi.json", _made(), headers={"Host": "localhost"})
schema.config.update(base_url=BASE)
# Streams do not end, and a run takes its time: both have tests of their own.
quiet = schema.exclude(path_regex="events$").exclude(path="/api/runs/{run_id}/attempts")


@quiet.parametrize()
@examples(2 if TIMES == 1 else 3, suppress_health_check=list(HealthCheck))
def test_answers_as_described(case) -> None:  # type: ignore[no-untyped-def]
    case.call_and_validate(
        headers=PERSON | {"Host": "localhost"},
        checks=[not_a_server_error, status_code_conformance, response_schema_conformance],
    )
