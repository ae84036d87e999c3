"""Be one of the demo's people at a server on this machine, as the sign-in page offers it."""

import httpx

ENGINEER = "Tamsin Oduwell"


def session_of(address: str, name: str = ENGINEER) -> dict[str, str]:
    """The cookie of a new session, by its name."""
    with httpx.Client(base_url=address, timeout=60, headers={"Origin": address}) as http:
        people = http.get("/api/me").json()["demo"]
        (person,) = [one["id"] for one in people if one["name"] == name]
        http.post("/api/sign-in/demo", json={"person_id": person}).raise_for_status()
        return dict(http.cookies)


def as_browser(address: str, session: dict[str, str]) -> list[dict[str, str]]:
    """The same, as Playwright takes it."""
    return [{"name": name, "value": value, "url": address} for name, value in session.items()]
