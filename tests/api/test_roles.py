"""Who may use which call: every role at every call, held against the matrix as the design has it."""

from collections.abc import Iterator

import pytest
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient

from rulvek.api.allowed import ALLOWED, PUBLIC
from rulvek.api.app import app_for
from rulvek.api.routers import ALL
from rulvek.composition import Services
from rulvek.core.judgement.checks import Severity
from rulvek.core.records.outside import HandChannel, HandReading
from rulvek.core.records.people import MAY, Deed, Role
from rulvek.core.runs.modes import End, Mode
from rulvek.core.runs.spec import RunSpec
from tests.conftest import TAMSIN, services_in
from tests.people import BASE, acting, admit

ROUTES = [route for router in ALL for route in router.routes if isinstance(route, APIRoute)]
MATRIX = {
    # The table of the design, row by row: viewer, technician, engineer, reviewer, manager, admin.
    Deed.LOOK: "vterma",
    Deed.MEASURE: "te",
    Deed.PLAN: "e",
    Deed.DESCRIBE: "em",
    Deed.PROPOSE: "em",
    Deed.SIGN: "r",
    Deed.PUBLISH: "m",
    Deed.ADMINISTER: "a",
}
READS_THAT_ARE_NOT_FOR_ALL = {"get_recording", "get_bundle", "list_tokens", "list_backups"}


@pytest.fixture(scope="module")
def at_every_call(tmp_path_factory: pytest.TempPathFactory) -> Iterator[TestClient]:
    """Somebody of each role, and nothing that any call speaks of: none of them changes anything."""
    services = services_in(tmp_path_factory.mktemp("roles"))
    for role in Role:
        admit(services.database, f"Pim {role.value}", roles=(role,))
    with TestClient(app_for(services), BASE) as http:
        yield http
    services.close()


@pytest.fixture
def everyone(services: Services, unit_id: int) -> Iterator[TestClient]:
    for role in Role:
        admit(services.database, f"Pim {role.value}", roles=(role,))
    with TestClient(app_for(services), BASE) as http:
        yield http


def test_the_matrix_is_the_designs() -> None:
    assert {deed: {role for role in Role if role.value[0] in letters} for deed, letters in MATRIX.items()} == MAY


def test_every_call_has_an_entry_and_no_entry_lacks_its_call() -> None:
    names = [route.name for route in ROUTES]
    assert len(names) == len(set(names))
    assert set(names) == set(ALLOWED) | (PUBLIC & set(names)) and not PUBLIC & set(ALLOWED)


def test_what_only_looks_is_for_everyone() -> None:
    for route in ROUTES:
        if route.methods == {"GET"} and route.name not in PUBLIC | READS_THAT_ARE_NOT_FOR_ALL:
            assert ALLOWED[route.name] == (Deed.LOOK,), route.name


@pytest.mark.parametrize("route", ROUTES, ids=[route.name for route in ROUTES])
def test_every_role_at_every_call(at_every_call: TestClient, route: APIRoute) -> None:
    """Refused are exactly those whose role has it not; whoever may is told what else is wrong, at most."""
    if route.name == "campaign_events":
        return  # a stream; `test_a_stream_is_not_for_strangers` has it
    path = route.path
    for name in (
        "model_id",
        "unit_id",
        "campaign_id",
        "series_id",
        "claim_id",
        "run_id",
        "attempt_id",
        "person_id",
        "rating_id",
    ):
        path = path.replace(f"{{{name}}}", "999999")
    path = path.replace("{session_id}", "999999").replace("{token_id}", "999999").replace("{wiring}", "1")
    path = path.replace("{recording_id}", "0" * 16).replace("{bundle_id}", "0" * 16).replace("{name}", "nothing")
    (method,) = route.methods
    stranger = at_every_call.request(method, path)
    assert (stranger.status_code == 401) == (route.name not in PUBLIC), stranger.text
    if route.name in PUBLIC:
        return
    for role in Role:
        answer = at_every_call.request(method, path, headers=acting(f"Pim {role.value}"))
        may = any(role.value[0] in MATRIX[deed] for deed in ALLOWED[route.name])
        assert (answer.status_code != 403) == may, (role, answer.status_code, answer.text)
        if not may:
            assert answer.json()["code"] == "not-allowed" and "takes a" in answer.json()["what"]


def test_a_stream_is_not_for_strangers(everyone: TestClient) -> None:
    assert everyone.get("/api/campaigns/1/events").status_code == 401


def test_a_call_without_an_entry_is_refused_to_everyone(everyone: TestClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.delitem(ALLOWED, "get_gear")  # type: ignore[arg-type]
    admit(everyone.app.state.services.database, "Ada Allroles")  # type: ignore[attr-defined]
    answer = everyone.get("/api/gear", headers=acting("Ada Allroles"))
    assert answer.status_code == 403 and "no entry" in answer.json()["what"]


def test_an_invalid_finding_is_a_reviewers_to_set_aside_and_a_doubt_an_engineers(
    everyone: TestClient, services: Services, unit_id: int
) -> None:
    spec = RunSpec(Mode.CERTIFIED, "main", 4.0, 1000.0, 14.4)
    channels = (HandChannel(watts=80.0), HandChannel(watts=80.5))
    # 160 W out of 55 W: one of the three is wrong; and the supply sagged far.
    hand = HandReading(spec, channels, "Meter 4", start_volts=14.4, loaded_volts=11.0, amps=5.0, end=End.LIMIT)
    attempt = services.by_hand.keep(unit_id, hand, TAMSIN)
    findings = services.evidence.attempt(attempt).attempt.findings
    by_weight = {finding.severity: finding.code for finding in findings}
    assert {"invalid", "doubt"} <= set(by_weight), findings

    def asked(role: str, weight: str) -> int:
        body = {"code": by_weight[Severity(weight)], "reason": "Seen on the meter"}
        path = f"/api/attempts/{attempt}/overrulings"
        return everyone.post(path, json=body, headers=acting(f"Pim {role}")).status_code

    assert [asked("engineer", "invalid"), asked("reviewer", "doubt")] == [403, 403]
    assert [asked("reviewer", "invalid"), asked("engineer", "doubt")] == [201, 201]
