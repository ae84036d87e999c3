"""A rating's life over the API, by people with their roles: each step, what refuses it, and what comes of it."""

import threading
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from rulvek.composition import Services
from rulvek.core.ratings.value import PriceBasis
from rulvek.core.records.facts import Price
from rulvek.core.records.instruments import InstrumentEntry, InstrumentRole
from rulvek.core.records.people import Role
from rulvek.store import load, save
from rulvek.store.formats.workbooks import read_workbook
from rulvek.store.verify import verify
from tests.conftest import JOREN, TAMSIN, write_line
from tests.people import acting, admit
from tests.services.test_ratings import measured

AT = {"group": "main", "load_ohms": 4, "supply_volts": 14.4, "thd_n_percent": 1}
WATTS = (80.2, 81.5, 79.6, 80.9, 82.0, 80.4, 81.1, 80.8, 79.9, 81.3)
ENGINEER, REVIEWER, MANAGER = "Ilse Varnholt", "Maren Toft", "Jory Halv"
REAL = {"simulated": False}


def lab_of_three(services: Services) -> None:
    """Ten units of two lots that were measured, as if on a real bench; three people with a role each."""
    write_line(services)
    for name, role in ((ENGINEER, Role.ENGINEER), (REVIEWER, Role.REVIEWER), (MANAGER, Role.MANAGER)):
        admit(services.database, name, roles=(role,))
    for at, one in enumerate(WATTS):
        measured(services, f"T2-2{at}", one, f"26{at % 2}", **REAL)


pytestmark = pytest.mark.begins_with.with_args(lab_of_three)


def terms(watts: float = 75, **more: Any) -> dict[str, Any]:
    return {"at": AT, "watts": watts} | more


class Desk:
    """Takes steps as people do: each by whoever does it, from what they saw last."""

    def __init__(self, client: TestClient) -> None:
        self.client = client
        self.now: dict[str, Any] = {}

    def ask(self, name: str, path: str, body: Any = None, status: int = 200, method: str = "POST") -> dict[str, Any]:
        headers = acting(name) | ({"If-Match": f'"{self.now["seen"]}"'} if self.now else {})
        answer = self.client.request(method, f"/api/{path}", json=body or {}, headers=headers)
        assert answer.status_code == status, answer.text
        told: dict[str, Any] = answer.json()
        if answer.is_success:
            self.now = told
        return told

    def draft(self, body: dict[str, Any] | None = None, status: int = 201) -> dict[str, Any]:
        self.now = {} if status == 201 else self.now
        return self.ask(ENGINEER, "models/1/ratings", body or terms(), status)

    def step(self, name: str, what: str, body: Any = None, status: int = 200) -> dict[str, Any]:
        return self.ask(name, f"ratings/{self.now['id']}/{what}", body, status)

    def propose(self, status: int = 200) -> dict[str, Any]:
        return self.step(ENGINEER, "proposal", status=status)

    def answer(self, name: str, what: str, status: int = 200) -> dict[str, Any]:
        return self.step(name, what, {"digest": self.now["digest"]}, status)

    def publish(self, body: dict[str, Any] | None = None) -> dict[str, Any]:
        self.draft(body)
        self.propose()
        self.answer(REVIEWER, "signature")
        return self.answer(MANAGER, "publication")

    def look(self) -> dict[str, Any]:
        return self.ask(ENGINEER, f"ratings/{self.now['id']}", method="GET")


@pytest.fixture
def desk(client: TestClient) -> Desk:
    return Desk(client)


def test_from_a_draft_to_a_published_figure(desk: Desk, services: Services) -> None:
    told = desk.publish()
    assert told["state"] == "published" and [one["by"] for one in told["steps"]] == [
        *(ENGINEER, ENGINEER, REVIEWER, MANAGER)
    ]
    assert told["wording"] == "75 W × 2 continuous into 4 Ω at 14.4 V, 1 % THD+N, all channels driven"
    assert told["unsettled"] == [] and told["population"]["bound"]["n"] == 10 and not told["simulated"]
    assert told["valid_until"] > told["steps"][-1]["at"] and told["next"] == ["confirmed", "withdrawn"]
    history = desk.client.get(f"/api/history/rating/{told['id']}").json()["entries"]
    assert [one["action"] for one in reversed(history)] == [
        *("drafted a rating", "proposed a rating", "signed a rating", "published a rating")
    ]
    assert verify(services.database, services.files).faults == ()


def test_each_step_takes_its_role(desk: Desk) -> None:
    for name in (REVIEWER,):
        desk.ask(name, "models/1/ratings", terms(), 403)
    desk.draft()
    desk.step(REVIEWER, "proposal", status=403)
    desk.propose()
    for name in (ENGINEER, MANAGER):
        desk.answer(name, "signature", 403)
    desk.answer(REVIEWER, "signature")
    for name in (ENGINEER, REVIEWER):
        desk.answer(name, "publication", 403)
    desk.answer(MANAGER, "publication")
    desk.step(REVIEWER, "withdrawal", {"reason": "why"}, 403)


def test_who_proposed_or_measured_does_not_sign_whatever_their_roles(desk: Desk, services: Services) -> None:
    admit(services.database, "Ada Allroles", roles=tuple(Role))
    admit(services.database, JOREN.name, roles=tuple(Role))
    desk.ask("Ada Allroles", "models/1/ratings", terms(), 201)
    desk.step("Ada Allroles", "proposal")
    assert desk.now["hands"] == sorted(["Ada Allroles", JOREN.name])
    for name in desk.now["hands"]:
        assert "does not answer for it" in desk.answer(name, "signature", 403)["what"]
    desk.answer(REVIEWER, "signature")
    assert desk.answer("Ada Allroles", "publication")["state"] == "published"


def test_a_figure_above_what_the_units_bear_is_not_proposed(desk: Desk) -> None:
    desk.draft(terms(81))
    told = desk.propose(409)
    assert "81 W cannot be proposed" in told["what"] and desk.look()["state"] == "draft"


def test_two_people_take_a_step_at_once_and_one_is_told(desk: Desk) -> None:
    desk.draft()
    desk.propose()
    path, seen = f"/api/ratings/{desk.now['id']}", str(desk.now["seen"])
    answers: list[int] = []

    def take(name: str, what: str, body: dict[str, Any]) -> None:
        headers = acting(name) | {"If-Match": seen}
        answers.append(desk.client.post(f"{path}/{what}", json=body, headers=headers).status_code)

    both = [
        threading.Thread(target=take, args=(REVIEWER, "signature", {"digest": desk.now["digest"]})),
        threading.Thread(target=take, args=(MANAGER, "return", {"reason": "Not yet."})),
    ]
    for one in both:
        one.start()
    for one in both:
        one.join()
    assert sorted(answers) == [200, 412]
    assert len(desk.look()["steps"]) == 3


def test_evidence_that_comes_after_the_proposal_is_told_before_it_is_signed(desk: Desk, services: Services) -> None:
    desk.draft()
    desk.propose()
    measured(services, "T2-99", 70.0, **REAL)
    told = desk.answer(REVIEWER, "signature", 409)
    assert "Unit T2-99 gives" in told["what"] and "less than the 75 W" in told["what"]
    desk.step(REVIEWER, "return", {"reason": "T2-99."})
    desk.propose(409)


def test_a_withdrawn_reading_puts_it_on_look_again_and_cannot_be_confirmed_away(desk: Desk, services: Services) -> None:
    desk.publish()
    attempt = next(row["attempt_id"] for row in desk.now["population"]["rows"] if row["serial"] == "T2-23")
    answer = desk.client.post(
        f"/api/attempts/{attempt}/withdrawal", json={"withdrawn": True, "reason": "Probe"}, headers=acting(ENGINEER)
    )
    assert answer.status_code == 201
    (one,) = desk.look()["unsettled"]
    assert one["cause"] == "reading" and "T2-23 was withdrawn: Probe" in one["what"] and not one["confirmable"]
    assert desk.now["state"] == "published"  # nothing is withdrawn by itself
    told = desk.step(REVIEWER, "confirmation", {"reason": "It is fine.", "keys": [one["key"]]}, 409)
    assert "takes a new proposal" in told["what"]


def test_a_unit_below_is_looked_at_and_confirmed_by_a_reviewer_who_names_it(desk: Desk, services: Services) -> None:
    desk.publish()
    measured(services, "T2-77", 74.0, **REAL)
    against = [one for one in desk.look()["unsettled"] if one["confirmable"]]
    assert [one["cause"] for one in against] == ["unit_below", "drift"]
    keys = [one["key"] for one in against]
    desk.step(REVIEWER, "confirmation", {"reason": "", "keys": keys}, 422)
    desk.step(REVIEWER, "confirmation", {"reason": "Look.", "keys": ["below:9999"]}, 409)
    desk.step(ENGINEER, "confirmation", {"reason": "Look.", "keys": keys}, 403)
    told = desk.step(REVIEWER, "confirmation", {"reason": "One of twenty may be.", "keys": keys})
    assert told["unsettled"] == [] and told["steps"][-1]["reason"] == "One of twenty may be."


def test_a_revision_unsettles_and_a_new_rating_that_covers_it_supersedes(desk: Desk, services: Services) -> None:
    first = desk.publish()
    answer = desk.client.post("/api/models/1/revisions", json={"name": "B"}, headers=acting(ENGINEER))
    assert answer.status_code == 201
    assert [one["cause"] for one in desk.look()["unsettled"]] == ["revision"]
    for at, watts in enumerate((78.9, 79.6, 78.8)):
        measured(services, f"T2-3{at}", watts, "2610", revision="B", **REAL)
    second = desk.publish(terms(70))
    assert second["before_id"] == first["id"] and "The figure is 70 W, not 75 W." in second["changes"]
    assert second["unsettled"] == []
    old = desk.client.get(f"/api/ratings/{first['id']}", headers=acting(MANAGER)).json()
    assert old["state"] == "superseded" and old["steps"][-1]["reason"] == f"By rating {second['id']}."


def test_calibration_found_out_finds_every_rating_that_rests_on_it(desk: Desk, services: Services) -> None:
    desk.publish()
    untouched = desk.now["id"]
    services.gear.enter(InstrumentEntry(InstrumentRole.OUTPUT, "Recorder", "R-1", percent_of_reading=0.1), TAMSIN)
    measured(services, "T2-60", 81.0, **REAL)
    told = desk.publish(terms(74, at=AT | {"supply_volts": 14.38}))
    assert "Recorder R-1" in told["basis"]["instruments"] and told["id"] != untouched
    today = told["steps"][-1]["at"][:10]
    out = {"role": "output", "name": "Recorder", "serial": "R-1", "percent_of_reading": 0.1}
    answer = desk.client.post(
        "/api/gear/instruments", json=out | {"calibrated_on": today, "as_found": "out"}, headers=acting(ENGINEER)
    )
    assert answer.status_code == 201, answer.text
    (one,) = desk.look()["unsettled"]
    assert one["cause"] == "calibration" and "Recorder R-1 was found out of tolerance" in one["what"]


def test_simulated_evidence_is_never_published_but_in_the_demo(desk: Desk, services: Services) -> None:
    measured(services, "T2-50", 81.0)
    desk.draft()
    desk.propose()
    assert desk.now["simulated"]
    desk.answer(REVIEWER, "signature")
    assert "no amplifier gave this" in desk.answer(MANAGER, "publication", 409)["what"]
    with services.database.writing() as session:
        session.execute(text("UPDATE person SET demo = true WHERE name = :name"), {"name": MANAGER})
    assert desk.answer(MANAGER, "publication")["state"] == "published"


def test_one_at_a_time_at_the_same_conditions(desk: Desk) -> None:
    first = desk.draft()
    told = desk.ask(MANAGER, "models/1/ratings", terms(70), 409)
    assert f"Rating {first['id']} at these conditions is on its way: draft." in told["what"]
    desk.step(ENGINEER, "end", {"reason": "Another load comes first."})
    assert desk.now["state"] == "dropped" and desk.now["next"] == []
    desk.draft(terms(70))


def test_units_are_left_out_with_a_reason_that_stays(desk: Desk, services: Services) -> None:
    with services.database.reading() as session:
        first = session.scalar(text("SELECT id FROM unit WHERE serial = 'T2-20'"))
    told = desk.ask(ENGINEER, "models/1/ratings", terms(left_out=[{"unit_id": first, "reason": " "}]), 422)
    assert "reason" in told["field"]
    desk.draft(terms(left_out=[{"unit_id": first, "reason": "Its fan rattles."}]))
    desk.propose()
    row = next(row for row in desk.now["population"]["rows"] if row["unit_id"] == first)
    assert row["left_out"] == "Its fan rattles." and desk.now["population"]["bound"]["n"] == 9
    desk.answer(REVIEWER, "signature")
    assert desk.answer(MANAGER, "publication")["unsettled"] == []


def test_a_draft_is_changed_and_only_a_draft(desk: Desk) -> None:
    desk.draft()
    desk.ask(ENGINEER, f"ratings/{desk.now['id']}", terms(72, confidence=0.9), method="PUT")
    assert desk.now["terms"]["watts"] == 72 and desk.now["seen"] == 2
    desk.propose()
    desk.ask(ENGINEER, f"ratings/{desk.now['id']}", terms(71), 409, method="PUT")


@pytest.mark.parametrize(
    ("body", "field"),
    [
        (terms(0), "watts"),
        (terms(at=AT | {"group": "nobody"}), "group"),
        (terms(at=AT | {"load_ohms": 0.01}), "at.load_ohms"),
        (terms(at=AT | {"band_low_hz": 20}), "band_high_hz"),
        (terms(share=2), "share"),
        (terms(valid_months=1000), "valid_months"),
        (terms(bogus=1), "bogus"),
    ],
)
def test_bad_terms_name_their_field(desk: Desk, body: dict[str, Any], field: str) -> None:
    assert desk.ask(ENGINEER, "models/1/ratings", body, 422)["field"].endswith(field)


def test_why_it_was_sent_back_stays_while_it_is_changed(desk: Desk) -> None:
    desk.draft()
    desk.propose()
    desk.step(REVIEWER, "return", {"reason": "Leave some room."})
    desk.ask(ENGINEER, f"ratings/{desk.now['id']}", terms(72), method="PUT")
    assert desk.now["sent_back"]["reason"] == "Leave some room." and desk.now["sent_back"]["by"] == REVIEWER
    assert board_cell(desk)["standing"] == "sent_back"
    again = desk.propose()
    assert again["sent_back"] is None
    assert again["since_sent_back"] == {
        "by": REVIEWER,
        "reason": "Leave some room.",
        "changes": ["The figure is 72 W, not 75 W."],
    }


def test_a_proposal_that_comes_again_as_it_was_says_so_to_its_signer(desk: Desk) -> None:
    desk.draft()
    assert desk.propose()["since_sent_back"] is None
    desk.step(REVIEWER, "return", {"reason": "Measure another lot."})
    assert desk.now["since_sent_back"] is None
    assert desk.propose()["since_sent_back"]["changes"] == []
    desk.step(REVIEWER, "return", {"reason": "Really."})
    assert desk.propose()["since_sent_back"]["reason"] == "Really."


def test_documents_that_print_something_else_are_told(desk: Desk) -> None:
    for document, watts in (("Carton", 100), ("Manual", 75)):
        claim = {"document": document, "group": "main", "watts": watts, "load_ohms": 4, "stands_at": "front"}
        answer = desk.client.post("/api/models/1/claims", json=claim, headers=acting(ENGINEER))
        assert answer.status_code == 201, answer.text
    told = desk.publish()
    printed = [(one["document"], one["watts"], one["says"]) for one in told["printed"]]
    assert ("Carton", 100, "more") in printed and ("Manual", 75, "same") in printed


def test_a_step_that_somebody_changed_behind_its_back_is_found(desk: Desk, services: Services) -> None:
    told = desk.publish()
    with services.database.writing() as session:
        session.execute(text("UPDATE rating_step SET basis = replace(basis, '80.', '90.') WHERE kind = 'proposed'"))
    faults = verify(services.database, services.files).faults
    assert any("Step of a rating" in one for one in faults)
    answer = desk.client.get(f"/api/ratings/{told['id']}", headers=acting(MANAGER))
    assert answer.status_code == 409 and "not as it was proposed" in answer.json()["what"]


def test_the_same_basis_is_the_same_text_and_a_later_look_is_kept(desk: Desk, services: Services) -> None:
    first = desk.publish()
    services.later.flush()
    with services.database.reading() as session:
        kept = session.scalar(text("SELECT count(*) FROM rating_sample"))
    assert kept == 1
    assert desk.look() == first | {"unsettled": []}


def board_cell(desk: Desk, load: float = 4.0) -> dict[str, Any]:
    answer = desk.client.get("/api/ratings", headers=acting(REVIEWER))
    assert answer.status_code == 200, answer.text
    cells = answer.json()["series"][0]["models"][0]["cells"]
    found: dict[str, Any] = next(
        one for one in cells if (one["load_ohms"], one["kind"], one["bridged"]) == (load, "continuous", False)
    )
    return found


def test_the_board_follows_a_rating_through_its_life(desk: Desk, services: Services) -> None:
    claim = {"document": "Leaflet", "group": "main", "watts": 75, "load_ohms": 4}
    assert desk.client.post("/api/models/1/claims", json=claim, headers=acting(ENGINEER)).status_code == 201
    for one in desk.client.get("/api/models/1").json()["claims"]:
        if one["document"] != "Leaflet":
            gone = desk.client.post(
                f"/api/claims/{one['id']}/withdrawal", json={"reason": "x"}, headers=acting(ENGINEER)
            )
            assert gone.status_code == 201
    assert board_cell(desk)["standing"] == "unrated"
    desk.draft()
    assert board_cell(desk)["standing"] == "draft" and board_cell(desk)["open_id"] == desk.now["id"]
    desk.propose()
    assert board_cell(desk)["standing"] == "to_sign"
    desk.answer(REVIEWER, "signature")
    assert board_cell(desk)["standing"] == "to_publish"
    desk.answer(MANAGER, "publication")
    cell = board_cell(desk)
    assert (cell["standing"], cell["rated_watts"], cell["printed_watts"]) == ("backed", 75, 75) and not cell["to_do"]
    measured(services, "T2-98", 74.0, **REAL)
    assert board_cell(desk)["standing"] == "look_again"
    desk.look()
    desk.step(MANAGER, "withdrawal", {"reason": "The lot of T2-98 is short."})
    cell = board_cell(desk)
    assert cell["standing"] == "still_printed" and cell["rated_watts"] is None and "Leaflet prints 75 W" in cell["why"]


def test_what_is_printed_is_only_of_what_is_published(desk: Desk) -> None:
    told = desk.draft()
    path = f"/api/ratings/{told['id']}"
    assert desk.client.get(f"{path}/texts").status_code == 409
    desk.propose()
    desk.answer(REVIEWER, "signature")
    desk.answer(MANAGER, "publication")
    texts = desk.client.get(f"{path}/texts").json()
    assert texts["line"] == told["wording"] and texts["lacks"] == ["the band"] and texts["data"]["watts"] == 75
    label = desk.client.get(f"{path}/label.svg")
    assert (
        label.headers["content-type"].startswith("image/svg+xml")
        and "attachment" in label.headers["content-disposition"]
    )
    desk.step(MANAGER, "withdrawal", {"reason": "x"})
    assert "is withdrawn" in desk.client.get(f"{path}/texts").json()["what"]


def test_a_whole_series_is_proposed_and_each_stays_its_own_decision(desk: Desk) -> None:
    told = desk.client.post("/api/series/1/proposals", headers=acting(ENGINEER))
    assert told.status_code == 201, told.text
    made = [one for one in told.json() if one["rating_id"]]
    refused = [one for one in told.json() if not one["rating_id"]]
    assert [(one["load_ohms"], one["bridged"]) for one in made] == [(4.0, False)]
    assert refused and all("No unit has a figure" in one["why"] for one in refused)
    desk.now = desk.client.get(f"/api/ratings/{made[0]['rating_id']}").json()
    assert desk.now["state"] == "proposed" and desk.now["terms"]["watts"] == made[0]["watts"]
    assert desk.now["population"]["bound"]["proposal_watts"] == made[0]["watts"]
    again = desk.client.post("/api/series/1/proposals", headers=acting(ENGINEER)).json()
    assert all(one["rating_id"] is None for one in again) and len(again) == len(refused)
    assert desk.client.post("/api/series/1/proposals", headers=acting(REVIEWER)).status_code == 403
    assert desk.client.post("/api/series/9/proposals", headers=acting(ENGINEER)).status_code == 404


def test_the_sheet_of_the_line_says_what_the_board_says_and_what_a_watt_costs(desk: Desk, services: Services) -> None:
    """320 EUR for two channels of 75 W: 2.13 EUR a watt, at the list price; there is no street price."""
    with services.database.writing() as session:
        model = load.model(session, 1)
        facts = replace(model.facts, list_price=Price(320.0, "EUR"))
        save.changed_models(session, {1: replace(model, name="=1+1", facts=facts)})
    desk.publish()
    value = board_cell(desk)["value"]
    assert value["per_watt"] == pytest.approx(320 / 150) and (value["currency"], value["basis"]) == ("EUR", "list")
    street = desk.client.get("/api/ratings?price=street").json()["series"][0]["models"][0]["cells"]
    assert all(cell["value"] is None for cell in street)
    answer = desk.client.get("/api/ratings/sheet.xlsx")
    assert answer.status_code == 200
    head, *rows = read_workbook(answer.content)["Ratings"]
    row = next(dict(zip(head, one, strict=True)) for one in rows if one[head.index("Published (W)")] == 75)
    assert row["Price a watt"] == pytest.approx(320 / 150) and row["Currency"] == "EUR"
    assert row["Model"] == "=1+1"  # text, not carried out
    assert len(rows) == len(desk.client.get("/api/ratings").json()["series"][0]["models"][0]["cells"])


def test_a_published_load_says_in_a_line_on_what_it_rests(desk: Desk, services: Services) -> None:
    desk.publish()
    today = datetime.now(UTC).date().isoformat()
    line = f"10 units of 2 lots, 95 % of production at 95 % confidence, read {today}"
    assert board_cell(desk)["rests_on"] == line
    (head, *rows) = read_workbook(desk.client.get("/api/ratings/sheet.xlsx").content)["Ratings"]
    assert line in [row[head.index("Basis")] for row in rows]
    pdf = desk.client.get("/api/ratings/sheet.pdf?price=street")
    assert pdf.status_code == 200 and pdf.content.startswith(b"%PDF")
    assert pdf.content == services.rating_board.printed(PriceBasis.STREET)  # the same bytes for the same line
