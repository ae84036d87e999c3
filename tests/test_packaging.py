"""Rulvek as labs install it: a wheel with everything in it, and a container's description that holds what it should."""

import os
import re
import shutil
import subprocess
import sys
import time
import zipfile
from pathlib import Path

import httpx
import pytest

from rulvek.bench.instruments.description import SHIPPED
from tests.ports import free_port

TREE = Path(__file__).parents[1]


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A wheel of this tree, as ``make wheel`` builds it, with a front end of one page."""
    build = tmp_path_factory.mktemp("build")
    shutil.copytree(TREE / "src", build / "src", ignore=shutil.ignore_patterns("*.egg-info", "__pycache__"))
    shutil.copy(TREE / "pyproject.toml", build)
    (build / "requirements").mkdir()
    shutil.copy(TREE / "requirements" / "run.in", build / "requirements")
    (build / "src" / "rulvek" / "web" / "assets").mkdir(parents=True)
    (build / "src" / "rulvek" / "web" / "assets" / "index-1.js").write_text("export default 1")
    (build / "src" / "rulvek" / "web" / "index.html").write_text("<!doctype html><title>From the wheel</title>")
    making = "from setuptools import build_meta; build_meta.build_wheel('made')"
    subprocess.run([sys.executable, "-c", making], cwd=build, check=True, capture_output=True, timeout=120)
    (made,) = (build / "made").glob("*.whl")
    return made


def test_a_wheel_serves_an_empty_folder(wheel: Path, tmp_path: Path) -> None:
    installed = tmp_path / "installed"
    with zipfile.ZipFile(wheel) as packed:
        packed.extractall(installed)
        (metadata,) = [name for name in packed.namelist() if name.endswith("METADATA")]
        needed = packed.read(metadata).decode()
        described = {Path(name).name for name in packed.namelist() if "/instruments/shipped/" in name}
    assert described == {path.name for path in SHIPPED.glob("*.toml")}
    assert "Requires-Dist: fastapi" in needed and "Requires-Dist: pwdlib[argon2]" in needed
    port = free_port()
    begin = "from rulvek.cli import main; main()"
    start = f"import sys; sys.path.insert(0, {str(installed)!r}); {begin}"
    process = subprocess.Popen(
        [sys.executable, "-c", start, "serve", "--data", str(tmp_path / "data"), "--port", str(port)],
        env=os.environ | {"PYTHONSAFEPATH": "1"},
        cwd=tmp_path,
        stdout=subprocess.PIPE,
        text=True,
    )
    try:
        assert process.stdout is not None
        told = process.stdout.readline() + process.stdout.readline()
        assert "one-time code" in told
        until = time.monotonic() + 30
        while True:
            try:
                page = httpx.get(f"http://127.0.0.1:{port}/line")
                break
            except httpx.TransportError:
                assert time.monotonic() < until
                time.sleep(0.1)
        assert "From the wheel" in page.text
        assert httpx.get(f"http://127.0.0.1:{port}/api/me").json()["is_new"]
        assert "server" not in page.headers  # no version of anything
    finally:
        process.terminate()
        process.wait(20)


def test_the_container_is_built_in_stages_and_runs_without_root() -> None:
    """Read, not built: here is nothing that builds containers."""
    lines = (TREE / "Containerfile").read_text(encoding="utf-8").replace("\\\n", " ").splitlines()
    said = [line.split(maxsplit=1) for line in lines if line.strip() and not line.startswith("#")]
    stages = [rest for word, rest in said if word == "FROM"]
    assert len(stages) == 3 and all(re.search(r":\S*\d", stage) for stage in stages), "each with a version"
    last = max(at for at, (word, _) in enumerate(said) if word == "FROM")
    words = [word for word, _ in said[last:]]
    assert {"USER", "HEALTHCHECK", "VOLUME", "ENTRYPOINT", "EXPOSE"} <= set(words)
    assert words.index("USER") < words.index("ENTRYPOINT")
    (user,) = [rest for word, rest in said[last:] if word == "USER"]
    assert user not in ("root", "0")
    named = re.findall(r"RULVEK_(\w+)=", " ".join(rest for _, rest in said))
    from rulvek.settings import Settings

    assert named and set(named) <= {name.upper() for name in Settings.model_fields}
    copied = [rest.split()[0] for word, rest in said if word == "COPY" and not rest.startswith("--from")]
    assert all((TREE / path).exists() for path in copied)


def test_what_the_papers_name_is_there() -> None:
    """Every setting and command that docs/running.md names exists."""
    from rulvek.cli import app
    from rulvek.settings import Settings

    text = (TREE / "docs" / "running.md").read_text(encoding="utf-8")
    for name in re.findall(r"RULVEK_([A-Z_]+)", text):
        assert name.lower().rstrip("_") in Settings.model_fields or name == "", name
    commands = {command.name or command.callback.__name__ for command in app.registered_commands if command.callback}
    for name in re.findall(r"rulvek (backup|verify|restore|serve|settings|upgrade-check)", text):
        assert name in commands
