"""Thousands of damaged files of every kind that is taken in: each is answered in a sentence, soon, and leaves nothing.

Damage is drawn: bits turned, parts cut out, doubled, swapped or filled, numbers made extreme; of packed files also in
what they hold, packed again so that only the content is wrong.
"""

import io
import json
import os
import time
import zipfile
from collections.abc import Callable, Iterator
from hashlib import sha256
from random import Random
from typing import Any

import pytest
from fastapi.testclient import TestClient

from rulvek.api.app import app_for
from rulvek.composition import Services
from rulvek.core.records.bundles import Scope
from tests.api.test_recordings import SWEEP, read_it
from tests.conftest import PERSON, TAMSIN, certified_campaign, put_attempt
from tests.people import BASE
from tests.pictures import drawn

pytestmark = pytest.mark.long
SHARE = float(os.environ.get("RULVEK_HOSTILE", "0.06"))
"""How much of the five thousand; 1 is all of it."""
LONGEST_SECONDS = 5.0
LONGEST_READ_SECONDS = 60.0
CSV = "serial,mode,load_ohms,watts,watts 2,supply_volts,end\n" + "T2-0001,certified,4,80.5,81,14.4,limit\n" * 8
EXTREMES = (
    b"\x00",
    b"\xff",
    b"\x7f\xff\xff\xff",
    b"\x80\x00\x00\x00",
    b"1e308",
    b"-1",
    b"NaN",
    b"=1+1",
    "Ω€😀".encode(),
    b'"',
)
Mutation = Callable[[bytearray, Random], bytearray]


def _turned(data: bytearray, at: Random) -> bytearray:
    for _ in range(at.choice((1, 1, 4, 40))):
        data[at.randrange(len(data))] ^= 1 << at.randrange(8)
    return data


def _cut(data: bytearray, at: Random) -> bytearray:
    start = at.randrange(len(data))
    del data[start : at.choice((len(data), start + at.randrange(1, 400)))]
    return data


def _filled(data: bytearray, at: Random) -> bytearray:
    start, size = at.randrange(len(data)), at.randrange(1, 200)
    data[start : start + size] = bytes([at.choice((0, 255, 10, 44))]) * size
    return data


def _doubled(data: bytearray, at: Random) -> bytearray:
    start = at.randrange(len(data))
    part = data[start : start + at.randrange(1, 4000)]
    data[start:start] = part * at.choice((1, 1, 8))
    return data


def _extreme(data: bytearray, at: Random) -> bytearray:
    for _ in range(at.choice((1, 3))):
        # The first bytes say what a file is and how long: there an extreme does most.
        start = at.randrange(min(len(data), at.choice((64, len(data)))))
        one = at.choice(EXTREMES)
        data[start : start + len(one)] = one
    return data


def _swapped(data: bytearray, at: Random) -> bytearray:
    a, b = sorted(at.randrange(len(data)) for _ in range(2))
    return data[b:] + data[a:b] + data[:a]


MUTATIONS: tuple[Mutation, ...] = (_turned, _cut, _filled, _doubled, _extreme, _swapped)


def damaged(whole: bytes, at: Random) -> bytes:
    """One or two kinds of damage to some bytes."""
    data = bytearray(whole)
    for _ in range(at.choice((1, 2))):
        data = at.choice(MUTATIONS)(data, at) if data else data
    return bytes(data)


def damaged_inside(packed: bytes, at: Random) -> bytes:
    """Damage to one file of a packed one, whose manifest, if it has any, says that it must be so."""
    with zipfile.ZipFile(io.BytesIO(packed)) as whole:
        files = {name: whole.read(name) for name in whole.namelist()}
    name = at.choice([one for one in files if one != "manifest.json"])
    files[name] = damaged(files[name], at)
    if "manifest.json" in files:
        said: dict[str, Any] = json.loads(files["manifest.json"])
        said["files"][name] = sha256(files[name]).hexdigest()
        files["manifest.json"] = json.dumps(said).encode()
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for one, content in files.items():
            made.writestr(one, content)
    return out.getvalue()


@pytest.fixture
def http(services: Services, unit_id: int) -> Iterator[TestClient]:
    put_attempt(services, certified_campaign(services, unit_id).id, (80.0, 81.0))
    with TestClient(app_for(services), BASE, headers=PERSON, raise_server_exceptions=False) as made:
        # The first request of a process works out what all calls take; that is no file's doing.
        assert made.get("/api/health").status_code == 200
        yield made


def told(answer: Any, begun: float, what: object) -> Any:
    """What was answered: soon, without a fault, and in a sentence where it is refused."""
    assert time.monotonic() - begun < LONGEST_SECONDS, what
    assert answer.status_code < 500, (what, answer.text[:500])
    if answer.status_code >= 400:
        said = answer.json()["what"]
        assert said.endswith((".", "”")) and len(said) > 15, (what, said)
        assert "Traceback" not in said and "Error" not in said and "0x" not in said, (what, said)
        return None
    return answer.json() if answer.content else None


def trials(kind: str, all_of_them: int) -> Iterator[tuple[Random, int]]:
    for one in range(round(all_of_them * SHARE)):
        yield Random(f"{kind} {one}"), one


def kept(services: Services) -> set[str]:
    folder = services.files.root.parent
    return {
        str(path.relative_to(folder)) for path in folder.rglob("*") if path.is_file() and "rulvek.db" not in path.name
    }


def looked_at(http: TestClient, identity: str, what: object) -> Any:
    begun = time.monotonic()
    return told(http.get(f"/api/recordings/{identity}"), begun, what)


def test_recordings(http: TestClient, services: Services, unit_id: int) -> None:
    before = kept(services)
    for at, one in trials("wav", 1500):
        content, begun = damaged(SWEEP, at), time.monotonic()
        sent = told(http.post("/api/recordings", params={"name": "a.wav"}, content=content), begun, one)
        if sent is None:
            continue
        begun = time.monotonic()
        told(read_it(http, sent["id"], unit_id), begun, one)
        # Reading goes on in the background, can be stopped, and every question meanwhile is answered.
        while (shown := looked_at(http, sent["id"], one))["state"] == "reading":
            assert time.monotonic() - begun < LONGEST_READ_SECONDS, one
            time.sleep(0.005)
        if shown["state"] == "failed":
            assert shown["problem"].endswith((".", "”")), (one, shown["problem"])
        assert http.delete(f"/api/recordings/{sent['id']}").status_code == 204
    assert kept(services) == before


def test_tables(http: TestClient, services: Services) -> None:
    columns = {
        "0": "serial",
        "1": "mode",
        "2": "load_ohms",
        "3": "watts",
        "4": "watts",
        "5": "supply_volts",
        "6": "end",
    }
    for at, one in trials("csv", 1200):
        text, begun = damaged(CSV.encode(), at).decode("utf-8", "replace"), time.monotonic()
        told(http.post("/api/earlier/columns", json={"file": "a.csv", "text": text}), begun, one)
        begun = time.monotonic()
        body = {"file": "a.csv", "text": text, "mapping": columns, "instrument": "Meter 4"}
        told(http.post("/api/earlier/rehearsal", json=body), begun, one)
    assert services.evidence.attempts().items[0].id == 1


@pytest.mark.parametrize("damage", [damaged, damaged_inside])
def test_bundles(http: TestClient, services: Services, damage: Callable[[bytes, Random], bytes]) -> None:
    whole = services.bundles.pack(Scope.MODEL, 1, TAMSIN).path.read_bytes()
    before = kept(services)
    for at, one in trials("bundle", 400):
        begun = time.monotonic()
        sent = told(http.post("/api/bundles", params={"name": "a.zip"}, content=damage(whole, at)), begun, one)
        if sent is not None:
            assert http.delete(f"/api/bundles/{sent['id']}").status_code == 204
    assert kept(services) == before


@pytest.mark.parametrize("damage", [damaged, damaged_inside])
def test_spreadsheets(http: TestClient, services: Services, damage: Callable[[bytes, Random], bytes]) -> None:
    whole = services.exchange.workbook()
    for at, one in trials("workbook", 400):
        begun = time.monotonic()
        told(http.post("/api/line/workbook/rehearsal", content=damage(whole, at)), begun, one)
    assert [unit.serial for unit in services.catalogue.model(1).units] == ["T2-0001"]


@pytest.mark.parametrize("form", ["JPEG", "PNG", "WEBP"])
def test_pictures(http: TestClient, services: Services, form: str) -> None:
    whole = drawn((96, 64), form)
    before = kept(services)
    for at, one in trials(form, 300):
        begun = time.monotonic()
        answer = http.post("/api/files", params={"name": f"a.{form.lower()}"}, content=damaged(whole, at))
        if (found := told(answer, begun, one)) is None:
            assert kept(services) == before, one
            continue
        before, begun = kept(services), time.monotonic()
        assert http.get(f"/api/files/{found['sha256']}/small").status_code < 500, one
        assert time.monotonic() - begun < LONGEST_SECONDS, one
