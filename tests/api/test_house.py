"""Whether the house is well, for those who watch over it from outside."""

import pytest
from fastapi.testclient import TestClient
from typer.testing import CliRunner

from rulvek import __version__
from rulvek.api.app import app_for
from rulvek.cli import app
from rulvek.composition import Services
from rulvek.settings import Settings
from tests.people import BASE


def test_health_and_readiness_need_no_account(services: Services) -> None:
    with TestClient(app_for(services), BASE) as http:
        assert http.get("/api/health").json()["version"] == __version__
        ready = http.get("/api/ready")
        assert ready.status_code == 200 and ready.json()["problem"] == "" and ready.json()["schema_version"]


def test_records_that_cannot_be_worked_with_are_not_ready(services: Services) -> None:
    with services.database.writing() as session:
        session.connection().exec_driver_sql("UPDATE alembic_version SET version_num = '0003'")
    with TestClient(app_for(services), BASE) as http:
        ready = http.get("/api/ready")
        assert ready.status_code == 503 and "at version 0003" in ready.json()["problem"]
        assert http.get("/api/health").status_code == 200


def test_every_setting_is_told_with_its_source(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("RULVEK_SESSION_IDLE_HOURS", "3")
    told = CliRunner().invoke(app, ["settings"]).output
    for name, field in Settings.model_fields.items():
        assert f"RULVEK_{name.upper()} = " in told and field.description and field.description in told
    assert "RULVEK_SESSION_IDLE_HOURS = 3.0  (from the environment)" in told
    assert "RULVEK_PORT = 8470  (default)" in told
