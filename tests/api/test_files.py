"""Files that people bring: looked at for what they are, without where a picture was taken; nothing in one runs."""

import io
import struct
import zlib

import pytest
from fastapi.testclient import TestClient
from PIL import Image

from rulvek.composition import Services
from rulvek.store.formats import pictures
from tests.pictures import GPS, MAKE, ORIENTATION, drawn


def send(client: TestClient, content: bytes, name: str = "a.jpg") -> "dict[str, object]":
    answer = client.post("/api/files", params={"name": name}, content=content)
    told: dict[str, object] = answer.json() | {"status": answer.status_code}
    return told


def fetched(client: TestClient, sha256: object, small: str = "") -> Image.Image:
    return Image.open(io.BytesIO(client.get(f"/api/files/{sha256}{small}").content))


@pytest.mark.parametrize("form", ["JPEG", "PNG", "WEBP"])
def test_a_picture_is_turned_upright_and_forgets_where_it_was_taken(client: TestClient, form: str) -> None:
    """EXIF orientation 6: the camera was turned, so that the sensor's left upper corner is the right upper one."""
    told = send(client, drawn((64, 48), form, turned=6))
    assert (told["status"], told["media"], told["width"], told["height"]) == (201, "image/jpeg", 48, 64)
    kept = fetched(client, told["sha256"])
    assert kept.size == (48, 64)
    red, white = kept.getpixel((40, 8)), kept.getpixel((8, 8))
    assert isinstance(red, tuple) and isinstance(white, tuple) and red[0] > 200 > 60 > red[1] and white[1] > 200
    exif = kept.getexif()
    assert not exif.get_ifd(GPS) and MAKE not in exif and ORIENTATION not in exif


def test_a_small_one_is_made_of_a_large_one(client: TestClient) -> None:
    told = send(client, drawn((1600, 1200)))
    assert fetched(client, told["sha256"], "/small").size == (480, 360)
    assert fetched(client, told["sha256"]).size == (1600, 1200)


def test_transparency_becomes_white(client: TestClient) -> None:
    out = io.BytesIO()
    Image.new("RGBA", (8, 8), (255, 0, 0, 0)).save(out, "PNG")
    pixel = fetched(client, send(client, out.getvalue())["sha256"]).getpixel((4, 4))
    assert isinstance(pixel, tuple) and min(pixel) > 250


def bomb(width: int, height: int) -> bytes:
    """A PNG of a few bytes that says it is this large, and whose pixels would be all zero."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", head)
        + chunk(b"IDAT", zlib.compress(b"\0" * 10_000))
        + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize("size", [(60_000, 60_000), (200_000, 200), (9_000, 9_000)])
def test_a_picture_bomb_is_refused_before_it_unfolds(
    client: TestClient, size: tuple[int, int], monkeypatch: pytest.MonkeyPatch
) -> None:
    def unfolded(*_: object) -> None:
        raise AssertionError("pixels were unpacked")

    monkeypatch.setattr(pictures, "_on_white", unfolded)
    told = send(client, bomb(*size), "holiday.png")
    assert told["status"] == 422 and "megapixels" in str(told["what"]) and told["field"] == "file"


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "empty"),
        (b"<html><script>alert(1)</script>", "picture"),
        (b"\xff\xd8\xff\xe0 cut off", "cannot be read"),
        (drawn()[:400], "cannot be read"),
        (b"GIF89a" + bytes(30), "JPEG, PNG or WebP"),
        (b"\0\0\0\x18ftypheic" + bytes(30), "HEIC"),
        (b"RIFF\x10\0\0\0WAVEnothing more", "WAV"),
    ],
)
def test_what_is_no_file_for_here_is_refused_in_a_sentence(client: TestClient, content: bytes, words: str) -> None:
    told = send(client, content)
    assert told["status"] == 422 and words in str(told["what"]), told


def test_a_name_is_a_name_and_no_path(client: TestClient, services: Services) -> None:
    for name in ("../../etc/passwd", "..\\..\\x.jpg", "/etc/shadow"):
        told = send(client, drawn((20, 20 + len(name))), name)
        assert "/" not in str(told["name"]) and "\\" not in str(told["name"])
    assert {path.parent.parent for path in services.files.root.rglob("*.jpg")} == {services.files.root}
    for path in ("..%2f..%2frulvek.db", "a" * 63, "A" * 64):
        assert client.get(f"/api/files/{path}").status_code in (404, 422)


def test_what_a_page_cannot_show_is_only_taken_along(client: TestClient) -> None:
    """A PDF may carry scripts; it never opens as a page of this server."""
    told = send(client, b"%PDF-1.7 with a script", 'x".pdf')
    answer = client.get(f"/api/files/{told['sha256']}")
    assert (
        answer.headers["content-disposition"].startswith("attachment")
        and answer.headers["x-content-type-options"] == "nosniff"
    )
    picture = client.get(f"/api/files/{send(client, drawn())['sha256']}")
    assert picture.headers["content-disposition"].startswith("inline") and picture.headers["cache-control"].startswith(
        "private"
    )


def test_a_body_beyond_the_limit_is_refused(client: TestClient) -> None:
    answer = client.post("/api/files", params={"name": "a"}, content=b"%PDF-" + bytes(42 * 2**20))
    assert answer.status_code == 413
