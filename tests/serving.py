"""The application served as it is to browsers: in a thread beside the test, or as a process that can be killed."""

import gc
import os
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import httpx
import uvicorn

from rulvek.api.app import app_for
from rulvek.api.patience import PatientProtocol
from rulvek.composition import Services, answer_promptly
from tests import postgres

PATIENCE_SECONDS = 120.0


@contextmanager
def served(services: Services, web: Path | None = None, port: int = 0) -> Iterator[str]:
    """Serve use cases from a thread; their address, until the block ends."""
    server = uvicorn.Server(
        uvicorn.Config(app_for(services, web), http=PatientProtocol, port=port, lifespan="off", log_level="warning")
    )
    server.config.timeout_graceful_shutdown = 1
    before = sys.getswitchinterval()
    answer_promptly()
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    until = time.monotonic() + PATIENCE_SECONDS
    while not server.started and time.monotonic() < until:
        time.sleep(0.005)
    yield f"http://127.0.0.1:{server.servers[0].sockets[0].getsockname()[1]}"
    server.should_exit = True
    thread.join(PATIENCE_SECONDS)
    gc.unfreeze()
    sys.setswitchinterval(before)


def serve(folder: Path, port: int, bench_speed: float) -> subprocess.Popen[bytes]:
    """``rulvek serve`` on a folder of records, once it answers."""
    settings = {"DATA_FOLDER": folder, "PORT": port, "BENCH_SPEED": bench_speed}
    if postgres.WANTED:
        settings["DATABASE_URL"] = postgres.url_of(folder)
    process = subprocess.Popen(
        [sys.executable, "-m", "rulvek.cli", "serve"],
        env=os.environ | {f"RULVEK_{name}": str(value) for name, value in settings.items()},
        stdout=subprocess.DEVNULL,
    )
    until = time.monotonic() + PATIENCE_SECONDS
    while time.monotonic() < until:
        try:
            httpx.get(f"http://127.0.0.1:{port}/api/bench", timeout=1)
        except httpx.TransportError:
            time.sleep(0.05)
            if process.poll() is not None:
                break
        else:
            return process
    process.kill()
    raise AssertionError("the server did not start")
