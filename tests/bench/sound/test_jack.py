"""PortAudio itself, on a JACK server without hardware, where one is installed: bit by bit, and one sample lost."""

import os
import shutil
import subprocess
import sys
import time
import uuid
from collections.abc import Iterator
from pathlib import Path

import pytest

pytestmark = pytest.mark.skipif(shutil.which("jackd") is None, reason="jackd is not installed")
LOOK = "tests.bench.sound.jack_look"
PERIOD = "4096"  # other tests run beside: a short one is missed
TRIES = 5
ROOT = Path(__file__).parents[3]


@pytest.fixture
def server() -> Iterator[str]:
    name = f"rulvek-{uuid.uuid4().hex[:8]}"
    command = ["jackd", "-n", name, "--no-realtime", "-d", "dummy", "-r", "48000", "-p", PERIOD]
    running = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    try:
        for _ in range(100):
            there = subprocess.run(["jack_lsp", "-s", name], capture_output=True, check=False)
            if there.returncode == 0 and b"system" in there.stdout:
                break
            time.sleep(0.1)
        yield name
    finally:
        running.terminate()
        running.wait(10)


def test_what_goes_out_comes_in_bit_by_bit(server: str) -> None:
    environment = {**os.environ, "JACK_DEFAULT_SERVER": server, "JACK_NO_START_SERVER": "1"}
    for _ in range(TRIES):
        done = subprocess.run(
            [sys.executable, "-m", LOOK, server],
            env=environment,
            cwd=ROOT,
            capture_output=True,
            text=True,
            timeout=120,
            check=False,
        )
        if "loses samples" not in done.stderr:
            break
    else:
        pytest.skip("this machine is too busy for sound in real time")
    assert done.returncode == 0, done.stderr[-2000:]
    bits, *looked, lost = [line for line in done.stdout.splitlines() if line.startswith(("bit", "looked", "lost"))]
    assert bits == "bit by bit [True, True]"
    assert len(looked) == 5 and all(line.startswith("looked True") for line in looked)
    assert float(looked[0].split("residual ")[1].split(" dB")[0]) <= -130
    assert "+0 than is told" in looked[0] and "none in 3 s" in looked[-1]
    assert lost in ("lost False 1 samples in 3 s", "lost False -1 samples in 3 s")
