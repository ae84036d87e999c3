"""What the API's tests share."""

from collections.abc import Iterator

import pytest
from pwdlib import PasswordHash
from pwdlib.hashers.argon2 import Argon2Hasher

from rulvek.services.people import secrets


@pytest.fixture(autouse=True)
def quick_hashes(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Argon2 that takes a thousandth of the time, but where how long it takes is what is tested."""
    if request.node.get_closest_marker("real_hashes"):
        yield
        return
    quick = PasswordHash((Argon2Hasher(time_cost=1, memory_cost=8, parallelism=1),))
    secrets._nobodys.cache_clear()
    monkeypatch.setattr(secrets, "_hasher", lambda: quick)
    yield
    secrets._nobodys.cache_clear()
