"""Who answers at the sockets of a host, and which descriptions that fits."""

import re
import socket
from collections.abc import Iterable, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

from rulvek.bench.instruments.description import Description
from rulvek.core.errors import BadInput

MOST_PORTS = 64
CONNECT_SECONDS, ANSWER_SECONDS = 0.5, 1.0
AT_ONCE = 8
LONGEST_ANSWER = 256
FEWEST_COMMAS = 2


@dataclass(frozen=True, slots=True)
class Found:
    """What answers at an address, in its own words; ``fits`` are descriptions by their names, the closest first."""

    address: str
    identity: str
    fits: tuple[str, ...]


def found_at(host: str, first_port: int, last_port: int, known: Mapping[str, Description]) -> list[Found]:
    """Ask each port of a host who is there; nothing but ``*IDN?`` is sent.

    Raises:
        BadInput: too many ports, or a host that nobody knows.
    """
    host = host.strip()
    if ":" in host:
        raise BadInput("A host goes by its name or its IPv4 address here.", field="host")
    if last_port < first_port:
        raise BadInput("The last port comes before the first.", field="last_port")
    if last_port - first_port >= MOST_PORTS:
        raise BadInput(f"At most {MOST_PORTS} ports are asked at a time.", field="last_port")
    try:
        socket.getaddrinfo(host, None)
    except (OSError, UnicodeError):
        raise BadInput(f"Nobody knows the host “{host[:80]}”.", field="host") from None
    with ThreadPoolExecutor(AT_ONCE) as pool:
        said = list(pool.map(lambda port: _identity(host, port), range(first_port, last_port + 1)))
    return [
        Found(f"TCPIP0::{host}::{port}::SOCKET", identity, fitting(identity, known))
        for port, identity in zip(range(first_port, last_port + 1), said, strict=True)
        if identity
    ]


def fitting(identity: str, known: Mapping[str, Description]) -> tuple[str, ...]:
    """Descriptions that may be of what says so: those that name it, then those of whatever understands the standard's.

    >>> from rulvek.bench.instruments.description import shipped
    >>> fitting("Rulvek,simulated supply,1,1", shipped())
    ('simulated-supply',)
    >>> fitting("Somebody,PS-20,1,1", shipped())
    ('scpi-current-meter', 'scpi-generator', 'scpi-supply')
    """
    named = _names(identity, {name: one for name, one in known.items() if one.identifies and not one.by_hand})
    return named or tuple(name for name, one in known.items() if not one.identifies and not one.by_hand)


def _names(identity: str, known: Mapping[str, Description]) -> tuple[str, ...]:
    fits: Iterable[str] = (name for name, one in known.items() if re.match(one.identifies, identity))
    return tuple(sorted(fits, key=lambda name: (-len(known[name].identifies), name)))


def _identity(host: str, port: int) -> str:
    """What says who it is at a port; empty where nobody does."""
    try:
        with socket.create_connection((host, port), CONNECT_SECONDS) as connection:
            connection.settimeout(ANSWER_SECONDS)
            connection.sendall(b"*IDN?\n")
            return _line(connection)
    except OSError:
        return ""


def _line(connection: socket.socket) -> str:
    said = b""
    while b"\n" not in said and len(said) < LONGEST_ANSWER:
        more = connection.recv(LONGEST_ANSWER)
        if not more:
            break
        said += more
    text = said.partition(b"\n")[0].decode("ascii", "replace").strip()
    # IEEE 488.2: maker, model, serial and version. What else answers at a port is nobody's business here.
    return text if text.isprintable() and text.count(",") >= FEWEST_COMMAS else ""


def described_by(known: Mapping[str, Description]) -> Sequence[tuple[str, Description]]:
    """Descriptions with their names, real ones first."""
    return sorted(known.items(), key=lambda one: (one[1].simulated, one[1].name.casefold()))
