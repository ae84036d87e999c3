"""Twenty people who look at a running campaign, as browsers do: ``python -m tests.long.watchers ADDRESS CAMPAIGN``."""

import sys
import threading
import time

import httpx

from tests.people import acting

WATCHERS = 20
ASKED_EVERY_SECONDS = 0.8  # as the front end asks what goes on (web/src/api/now.ts)


def watch(address: str, campaign: str) -> None:
    """Follow a campaign's steps, and ask what goes on."""
    with httpx.Client(base_url=address, headers=acting("Joren Haldvik"), timeout=None) as http:
        follow = threading.Thread(target=_follow, args=(http, campaign), daemon=True)
        follow.start()
        while True:
            http.get("/now")
            time.sleep(ASKED_EVERY_SECONDS)


def _follow(http: httpx.Client, campaign: str) -> None:
    with http.stream("GET", f"/campaigns/{campaign}/events") as feed:
        for _ in feed.iter_lines():
            pass


if __name__ == "__main__":
    for _ in range(WATCHERS):
        threading.Thread(target=watch, args=sys.argv[1:3], daemon=True).start()
    print("watching", flush=True)
    sys.stdin.read()  # until the one who started it ends
