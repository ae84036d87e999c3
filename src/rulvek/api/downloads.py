"""Answers that are files to take along, under names that people gave to things."""

from urllib.parse import quote

from starlette.responses import Response

XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


def download(content: str | bytes, media_type: str, name: str) -> Response:
    """A file to take along; its name may hold whatever a serial number does (RFC 6266, RFC 8187, from memory)."""
    return Response(content, media_type=media_type, headers={"Content-Disposition": named(name)})


def named(name: str) -> str:
    """The header that gives a file to take along its name."""
    plain = "".join(one if one.isascii() and one.isprintable() and one not in '"\\/' else "_" for one in name)
    return f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name, safe='')}"
