"""Characters that no page can show, sent to what takes a name: refused in a sentence that names the field."""

import pytest
from fastapi.testclient import TestClient

HAND = {
    "run": {"mode": "certified", "group": "main", "load_ohms": 4, "tone_hz": 1000, "supply_volts": 14.4},
    "channels": [{"watts": 80}, {"watts": 81}],
    "instrument": "%s",
}


@pytest.mark.parametrize("unseen", ["\0", "\x1b[2J", "\u2028", "\n"])
@pytest.mark.parametrize(
    ("path", "body", "field"),
    [
        ("/api/series", {"name": "%s", "purpose": ""}, "name"),
        ("/api/units/1/typed", HAND, "instrument"),
        ("/api/units/1/typed/preview", HAND, "instrument"),
    ],
)
def test_a_name_that_cannot_be_shown(
    client: TestClient, unit_id: int, path: str, body: dict[str, object], field: str, unseen: str
) -> None:
    assert unit_id == 1
    sent = {key: f"Meter{unseen}4" if value == "%s" else value for key, value in body.items()}
    answer = client.post(path, json=sent)
    assert (answer.status_code, answer.json()["field"]) == (422, field), answer.text
    assert "no page can show" in answer.json()["what"]
    shown = {key: "Meter 4" if value == "%s" else value for key, value in body.items()}
    assert "no page can show" not in client.post(path, json=shown).text
