"""A private PostgreSQL on loopback for tests: a cluster of its own in a temporary folder, a database for each folder.

``make test-postgres`` sets RULVEK_TEST_POSTGRES; without it every test works on SQLite files.
"""

import atexit
import functools
import hashlib
import os
import shutil
import subprocess
import tempfile
import time
from pathlib import Path

import psycopg

from tests.ports import free_port

WANTED = bool(os.environ.get("RULVEK_TEST_POSTGRES"))
USER = "postgres"
_MADE: list[Path] = []
"""Folders that there is a database for."""
_SETTINGS = {
    # Nothing of it is to survive a power cut: it is as fast as a cluster gets.
    "fsync": "off",
    "synchronous_commit": "off",
    "full_page_writes": "off",
    "shared_buffers": "64MB",
    "max_connections": "300",
    "listen_addresses": "127.0.0.1",
    "unix_socket_directories": "",
}


def url_of(folder: Path) -> str:
    """Where the records of a folder are: the same for the same folder."""
    return f"{server()}/{name_of(folder)}"


def exists(folder: Path) -> bool:
    """Whether there are records of a folder."""
    with _administered() as connection:
        found = connection.execute("SELECT 1 FROM pg_database WHERE datname = %s", (name_of(folder),))
        return found.fetchone() is not None


def make(folder: Path, template: str = "template0") -> None:
    """Make a database for a folder, empty or as a copy of one that nobody is connected to."""
    _MADE.append(folder)
    with _administered() as connection:
        connection.execute(f'CREATE DATABASE "{name_of(folder)}" TEMPLATE "{template}"')


def forget(below: Path) -> None:
    """Drop what was made for folders below one: each takes 8 MB."""
    over = [one for one in _MADE if one.is_relative_to(below)]
    if over:
        with _administered() as connection:
            for one in over:
                connection.execute(f'DROP DATABASE "{name_of(one)}" WITH (FORCE)')
                _MADE.remove(one)


def name_of(folder: Path) -> str:
    """The name of a folder's database."""
    return f"t{hashlib.sha256(str(folder).encode()).hexdigest()[:20]}"


@functools.cache
def server() -> str:
    """Start a cluster for this process; it ends with it."""
    folder = Path(tempfile.mkdtemp(prefix="rulvek-postgres-"))
    folder.chmod(0o700)
    user: str | None = None
    if os.geteuid() == 0:  # the server refuses to run as root
        user = USER
        shutil.chown(folder, USER, USER)
    data, port = folder / "data", free_port()
    _call([_program("initdb"), "-D", data, "-U", "rulvek", "-A", "trust", "-E", "UTF8", "--locale=C.UTF-8", "-N"], user)
    options = [part for name, value in _SETTINGS.items() for part in ("-c", f"{name}={value}")]
    process = subprocess.Popen(
        [_program("postgres"), "-D", data, "-p", str(port), *options],
        user=user,
        cwd=folder,
        stdout=subprocess.DEVNULL,
        stderr=(folder / "log").open("wb"),
    )

    def end() -> None:
        process.send_signal(2)
        process.wait(30)
        shutil.rmtree(folder, ignore_errors=True)

    atexit.register(end)
    address = f"127.0.0.1:{port}"
    for _ in range(300):
        try:
            psycopg.connect(f"postgresql://rulvek@{address}/postgres").close()
        except psycopg.OperationalError:
            time.sleep(0.1)
        else:
            return f"postgresql+psycopg://rulvek@{address}"
    raise RuntimeError((folder / "log").read_text())


def _administered() -> "psycopg.Connection[tuple[object, ...]]":
    return psycopg.connect(f"{server().replace('+psycopg', '')}/postgres", autocommit=True)


def _call(command: list[str | Path], user: str | None) -> None:
    subprocess.run(command, user=user, check=True, stdout=subprocess.DEVNULL, cwd="/")


def _program(name: str) -> Path:
    """Debian keeps a version's programs together, away from the path."""
    found = sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{name}"))
    return found[-1] if found else Path(shutil.which(name) or name)
