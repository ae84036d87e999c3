"""What a single request may cost everybody else: its headers, the pace of its body, how much there is to tell apart."""

import socket
import time
from collections.abc import Iterator
from contextlib import closing, suppress
from urllib.parse import urlsplit

import httpx
import pytest

from rulvek.api import guard, patience
from rulvek.composition import Services
from tests.conftest import PERSON
from tests.serving import served


@pytest.fixture
def address(services: Services, monkeypatch: pytest.MonkeyPatch) -> Iterator[str]:
    """The application as it is served, with less patience than a test has."""
    monkeypatch.setattr(patience, "HEADERS_SECONDS", 0.5)
    monkeypatch.setattr(patience, "BODY_SECONDS", 0.5)
    with served(services) as url:
        yield url


def said(address: str, *pieces: bytes, pause: float = 0.0) -> bytes:
    """What a server says to bytes that come piece by piece, until it hangs up."""
    parts = urlsplit(address)
    with closing(socket.create_connection((parts.hostname or "", parts.port or 0), timeout=20)) as line:
        with suppress(BrokenPipeError):  # it has hung up already
            for piece in pieces:
                line.sendall(piece)
                time.sleep(pause)
        answer = b""
        while part := line.recv(65536):
            answer += part
        return answer


HEAD = b"POST /api/series HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Type: application/json\r\nAuthorization: %s\r\n"
WHO = HEAD % PERSON["Authorization"].encode() if "Authorization" in PERSON else HEAD % b"none"


def test_headers_that_never_end_are_hung_up_on(address: str) -> None:
    assert said(address, b"GET /api/health HTTP/1.1\r\nHost: 127.0").startswith(b"HTTP/1.1 408 ")
    # Also where each byte comes in time, and where nothing comes at all.
    assert said(address, *[bytes([byte]) for byte in b"GET /api/h"], pause=0.1).startswith(b"HTTP/1.1 408 ")
    assert said(address).startswith(b"HTTP/1.1 408 ")


def test_headers_without_measure_are_hung_up_on(address: str) -> None:
    long = b"GET /api/health HTTP/1.1\r\nHost: 127.0.0.1\r\nX-A: " + b"a" * (patience.MOST_HEADER_BYTES + 1)
    assert said(address, long).startswith(b"HTTP/1.1 431 ")


def test_a_body_that_stops_coming_is_given_up(address: str) -> None:
    answer = said(address, WHO + b'Content-Length: 100\r\nConnection: close\r\n\r\n{"name":')
    assert answer.startswith(b"HTTP/1.1 408 ")
    assert b"Nothing more of the request came" in answer


def test_who_is_slow_but_comes_is_answered_on_one_line_as_often_as_they_ask(address: str) -> None:
    with httpx.Client(base_url=address, headers=PERSON) as http:
        for _ in range(3):
            assert http.get("/api/health").status_code == 200
            time.sleep(0.7)  # longer than headers may take: between two requests nobody has begun one

        def slowly() -> Iterator[bytes]:
            for piece in (b'{"name": "Slow",', b'"purpose": ', b'"Boats"}'):
                yield piece
                time.sleep(0.3)

        answer = http.post("/api/series", content=slowly(), headers={"content-type": "application/json"})
    assert answer.status_code == 201


@pytest.mark.parametrize("pieces", [1, 40])
def test_more_fields_than_anything_has_are_refused_before_they_are_told_apart(address: str, pieces: int) -> None:
    body = b"{" + b",".join(b'"k%d": 1' % number for number in range(guard.MOST_FIELDS + 1)) + b"}"
    size = -(-len(body) // pieces)

    def sent() -> Iterator[bytes]:
        yield from (body[at : at + size] for at in range(0, len(body), size))

    with httpx.Client(base_url=address, headers=PERSON) as http:
        answer = http.post("/api/series", content=sent(), headers={"content-type": "application/json"})
    assert answer.status_code == 413
    assert "50,000 fields" in answer.json()["what"]
