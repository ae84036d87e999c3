"""Bundles as files: a ZIP of JSON after a published schema, of files by their hashes, and of a manifest with both.

::

    manifest.json         every other file with its SHA-256
    bundle.json           a model, what is kept of it, its units
    campaigns/1.json …    a campaign each
    files/<sha256>.wav …  captures, recordings, documents, photographs
"""

import hashlib
import json
import re
import shutil
import zipfile
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter, ValidationError

from rulvek.core.errors import BadInput
from rulvek.core.method.profile import MethodProfile
from rulvek.core.quantities import field_names
from rulvek.core.records.bundles import FORMAT, Bundle, BundleCampaign, refuse_odd_data
from rulvek.store.files import place
from rulvek.store.formats.archives import of_somebody_else

MANIFEST, BUNDLE = "manifest.json", "bundle.json"
_NAME = re.compile(
    r"bundle\.json|campaigns/[1-9][0-9]{0,4}\.json|files/[0-9a-f]{64}\.(?:wav|json|csv|txt|tsv|dat|jpg|pdf)"
)
NO_BUNDLE = "The file is no bundle that can be read."
MOST_FILES = 40_000
MOST_BYTES = 4 * 2**30
MOST_JSON_BYTES = 64 * 2**20
_PIECE = 2**20
_STAMP = (1980, 1, 1, 0, 0, 0)
"""The same content is the same bytes, whenever it was packed."""


@dataclass(frozen=True, slots=True)
class Unpacked:
    """A bundle that holds what its manifest says; ``files`` lie in the folder by their hashes, as a store has them."""

    bundle: Bundle
    campaigns: tuple[BundleCampaign, ...]
    files: Mapping[str, Path]


def write_bundle(target: Path, bundle: Bundle, campaigns: Sequence[BundleCampaign], files: Mapping[str, Path]) -> None:
    """Write a bundle; ``files`` by their SHA-256, each with where it lies."""
    hashes: dict[str, str] = {}
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED, compresslevel=1) as packed:

        def put(name: str, content: bytes) -> None:
            hashes[name] = hashlib.sha256(content).hexdigest()
            packed.writestr(_entry(name), content)

        put(BUNDLE, _dumped(Bundle, replace(bundle, campaigns=len(campaigns))))
        for number, campaign in enumerate(campaigns, 1):
            put(f"campaigns/{number}.json", _dumped(BundleCampaign, campaign))
        for sha256, source in sorted(files.items()):
            name = f"files/{sha256}{source.suffix.lower()}"
            with source.open("rb") as file, packed.open(_entry(name), "w", force_zip64=True) as out:
                shutil.copyfileobj(file, out, _PIECE)
            hashes[name] = sha256
        said = {"format": FORMAT, "files": hashes}
        packed.writestr(_entry(MANIFEST), json.dumps(said, indent=1).encode())


def read_bundle(source: Path, folder: Path) -> Unpacked:
    """Read a bundle, its files into a folder; everything is held against the manifest first.

    Raises:
        BadInput: no bundle, one that is damaged or too large, or a part that is not as the schema has it.
    """
    with of_somebody_else(NO_BUNDLE), zipfile.ZipFile(source) as packed:
        hashes = _manifest(packed)
        texts: dict[str, bytes] = {}
        files: dict[str, Path] = {}
        for name, sha256 in hashes.items():
            if name.startswith("files/"):
                files[sha256] = folder / place(sha256, Path(name).suffix)
                _unpack(packed, name, sha256, files[sha256])
            else:
                texts[name] = _text(packed, name, sha256)
    bundle: Bundle = _loaded(Bundle, texts.pop(BUNDLE, b""), BUNDLE)
    named = [f"campaigns/{number}.json" for number in range(1, bundle.campaigns + 1)]
    if sorted(named) != sorted(texts):
        raise BadInput("The bundle does not hold the campaigns that it speaks of.", field="file")
    campaigns = tuple(_loaded(BundleCampaign, texts[name], name) for name in named)
    for campaign in campaigns:
        own = {name: value for name, value in campaign.method.items() if name in field_names(MethodProfile)}
        _validated(MethodProfile, own, "The method profile")
    return Unpacked(bundle, campaigns, files)


def schema() -> dict[str, Any]:
    """The JSON Schema of both shapes: ``bundle.json`` and, under ``$defs``, the campaigns' ``BundleCampaign``."""
    _, found = TypeAdapter.json_schemas(
        [(Bundle, "validation", _adapter(Bundle)), (BundleCampaign, "validation", _adapter(BundleCampaign))],
        title="Rulvek bundle",
        description="bundle.json is a Bundle; each of campaigns/1.json and on is a BundleCampaign.",
    )
    return found | {"$schema": "https://json-schema.org/draft/2020-12/schema", "$ref": "#/$defs/Bundle"}


@cache
def _adapter(kind: Any) -> TypeAdapter[Any]:
    return TypeAdapter(kind)


def _dumped(kind: Any, value: Any) -> bytes:
    data = _adapter(kind).dump_python(value, mode="json")
    return json.dumps(data, ensure_ascii=False, allow_nan=False, separators=(",", ":"), sort_keys=True).encode()


def _loaded(kind: Any, text: bytes, name: str) -> Any:
    try:
        data = json.loads(text, parse_constant=_refuse_constant)
    except (ValueError, RecursionError):
        raise BadInput(f"{name} of the bundle is no JSON.", field="file") from None
    refuse_odd_data(data)
    return _validated(kind, data, name)


def _validated(kind: Any, data: Any, name: str) -> Any:
    try:
        return _adapter(kind).validate_python(data)
    except ValidationError as wrong:
        first = wrong.errors(include_url=False)[0]
        where = ".".join(str(part) for part in first["loc"])[:120]
        raise BadInput(f"{name} of the bundle is not as it must be at {where}: {first['msg']}.", field="file") from None
    except (ValueError, TypeError, OverflowError) as wrong:
        raise BadInput(f"{name} of the bundle is not as it must be: {str(wrong)[:200]}.", field="file") from None


def _refuse_constant(name: str) -> None:
    raise ValueError(name)


def _manifest(packed: zipfile.ZipFile) -> Mapping[str, str]:
    entries = packed.infolist()
    if len(entries) > MOST_FILES or sum(one.file_size for one in entries) > MOST_BYTES:
        raise BadInput("The bundle is larger than any that is taken in.", field="file")
    try:
        said = json.loads(_read(packed, MANIFEST))
        hashes: Mapping[str, str] = said["files"]
        known = said["format"] == FORMAT and all(_NAME.fullmatch(name) for name in hashes)
    except (ValueError, KeyError, TypeError, AttributeError, RecursionError):
        known, hashes = False, {}
    if not known:
        raise BadInput("The file has no manifest of a bundle that this version reads.", field="file")
    if sorted([*hashes, MANIFEST]) != sorted(one.filename for one in entries):
        raise BadInput("The bundle does not hold just the files that its manifest names.", field="file")
    return hashes


def _read(packed: zipfile.ZipFile, name: str) -> bytes:
    with packed.open(name) as file:
        content = file.read(MOST_JSON_BYTES + 1)
    if len(content) > MOST_JSON_BYTES:
        raise BadInput(f"{name} of the bundle is too large.", field="file")
    return content


def _text(packed: zipfile.ZipFile, name: str, sha256: str) -> bytes:
    content = _read(packed, name)
    if hashlib.sha256(content).hexdigest() != sha256:
        raise _damaged(name)
    return content


def _unpack(packed: zipfile.ZipFile, name: str, sha256: str, target: Path) -> None:
    digest, left = hashlib.sha256(), packed.getinfo(name).file_size
    target.parent.mkdir(exist_ok=True)
    with packed.open(name) as file, target.open("wb") as out:
        while piece := file.read(_PIECE):
            left -= len(piece)
            if left < 0:
                break
            digest.update(piece)
            out.write(piece)
    if digest.hexdigest() != sha256 or not target.name.startswith(sha256):
        raise _damaged(name)


def _damaged(name: str) -> BadInput:
    return BadInput(f"{name} is not as it was packed.", todo="Let the bundle be packed and sent again.", field="file")


def _entry(name: str) -> zipfile.ZipInfo:
    entry = zipfile.ZipInfo(name, _STAMP)
    entry.compress_type = zipfile.ZIP_STORED if name.endswith((".jpg", ".pdf")) else zipfile.ZIP_DEFLATED
    return entry
