"""A rating by a link: for whom it was made, for as long as was said, and nothing else."""

import io
import zipfile
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from rulvek import clock
from rulvek.api.app import app_for
from rulvek.composition import Services
from rulvek.core.errors import BadInput, Conflict
from rulvek.core.ratings.life import RatingState
from rulvek.core.ratings.links import MOST_DAYS, RatingLink, lapses
from rulvek.services.tokens import digest
from tests.people import BASE, acting
from tests.services.test_rating_lives import ENGINEER, MANAGER, REVIEWER, Desk, desk, lab_of_three

NOW = datetime(2026, 11, 30, 12, tzinfo=UTC)


__all__ = ["desk"]

pytestmark = pytest.mark.begins_with.with_args(lab_of_three)


@pytest.fixture
def stranger(services: Services, client: TestClient) -> Iterator[TestClient]:
    """Somebody without an account."""
    with TestClient(app_for(services), BASE) as http:
        yield http


def made(desk: Desk, status: int = 201, who: str = MANAGER, **more: object) -> dict[str, object]:
    body = {"meant_for": "Brack Audio lab"} | more
    answer = desk.client.post(f"/api/ratings/{desk.now['id']}/links", json=body, headers=acting(who))
    assert answer.status_code == status, answer.text
    told: dict[str, object] = answer.json()
    return told


def test_who_holds_the_link_sees_the_rating_and_nothing_else(desk: Desk, stranger: TestClient) -> None:
    published = desk.publish()
    token = made(desk)["token"]
    told = stranger.get(f"/api/shared/{token}")
    assert told.status_code == 200 and told.json()["rating"]["wording"] == published["wording"]
    assert told.json()["rating"]["population"]["bound"]["n"] == 10
    pdf = stranger.get(f"/api/shared/{token}/dossier.pdf")
    assert pdf.content.startswith(b"%PDF")
    assert stranger.get(f"/api/shared/{token}/dossier.zip").status_code == 404  # nobody said that it hands them out
    for path in (f"ratings/{published['id']}", "line", "models/1", f"ratings/{published['id']}/dossier.pdf"):
        assert stranger.get(f"/api/{path}", headers={"Authorization": f"Bearer {token}"}).status_code == 401
    assert stranger.post(f"/api/ratings/{published['id']}/links", json={"meant_for": "me"}).status_code == 401


def test_with_records_a_stranger_can_work_it_out_again(desk: Desk, stranger: TestClient) -> None:
    desk.publish()
    token = made(desk, with_records=True)["token"]
    answer = stranger.get(f"/api/shared/{token}/dossier.zip")
    with zipfile.ZipFile(io.BytesIO(answer.content)) as packed:
        assert set(packed.namelist()) == {"dossier.pdf", "records.zip"}


def test_it_ends_when_it_lapses_and_when_a_manager_says_so(
    desk: Desk, services: Services, stranger: TestClient
) -> None:
    desk.publish()
    first, second = made(desk, days=3), made(desk, meant_for="Auditor")
    links = services.rating_links
    token = str(first["token"])
    assert links.opened(token).rating.id == desk.now["id"]
    with clock.set_back(timedelta(days=-3, seconds=-1)):
        with pytest.raises(Exception, match="does not open anything"):
            links.opened(token)
        assert [one.opens for one in links.of(desk.now["id"])] == [True, False]
    link_id = second["link"]["id"]  # type: ignore[index]
    for who, status in ((REVIEWER, 403), (ENGINEER, 403), (MANAGER, 200)):
        ended = desk.client.post(f"/api/rating-links/{link_id}/end", headers=acting(who))
        assert ended.status_code == status
    gone = stranger.get(f"/api/shared/{second['token']}")
    never = stranger.get("/api/shared/" + "x" * 43)
    assert (gone.status_code, gone.json()) == (404, never.json())  # whether it ever opened anything is not told
    history = desk.client.get(f"/api/history/rating/{desk.now['id']}").json()["entries"]
    assert [one["action"] for one in history[:3]] == ["ended a link to a rating", *["made a link to a rating"] * 2]


def test_what_is_not_published_is_not_shown(desk: Desk) -> None:
    desk.draft()
    assert "Only what was published" in str(made(desk, 409)["what"])
    made(desk, 403, ENGINEER)
    desk.propose()
    desk.answer(REVIEWER, "signature")
    made(desk, 409)
    desk.answer(MANAGER, "publication")
    assert made(desk, 422, meant_for=" ")["field"] == "meant_for"
    assert made(desk, 422, days=0)["field"] == "days"


def test_a_withdrawn_rating_says_so_to_who_still_holds_a_link(desk: Desk, stranger: TestClient) -> None:
    desk.publish()
    token = made(desk)["token"]
    desk.look()
    desk.step(MANAGER, "withdrawal", {"reason": "Units from the field run hot."})
    shown = stranger.get(f"/api/shared/{token}").json()["rating"]
    assert shown["state"] == "withdrawn" and shown["valid_until"] is None  # what is over is valid no more


def test_only_its_hash_is_kept(desk: Desk, services: Services) -> None:
    desk.publish()
    token = str(made(desk)["token"])
    with services.database.reading() as session:
        kept = session.scalar(text("select token from rating_link"))
        told = " ".join(str(one) for one in session.execute(text("select * from audit_entry")))
    assert kept == digest(token) and token not in told


@pytest.mark.parametrize("days", [1, 30, MOST_DAYS])
def test_how_long_it_holds(days: int) -> None:
    until = lapses("Auditor", days, RatingState.PUBLISHED, NOW)
    link = RatingLink(1, 1, "Auditor", False, MANAGER, NOW, until)
    assert link.opens(until - timedelta(seconds=1)) and not link.opens(until)
    assert not RatingLink(1, 1, "Auditor", False, MANAGER, NOW, until, NOW).opens(NOW)


def test_what_a_link_cannot_be() -> None:
    for days in (0, MOST_DAYS + 1):
        with pytest.raises(BadInput):
            lapses("Auditor", days, RatingState.PUBLISHED, NOW)
    for state in (RatingState.DRAFT, RatingState.PROPOSED, RatingState.SIGNED, RatingState.DROPPED):
        with pytest.raises(Conflict):
            lapses("Auditor", 30, state, NOW)
