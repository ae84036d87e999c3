"""Simulated instruments on loopback sockets, one port each, for as long as their process lives."""

import contextlib
import math
import socket
import socketserver
import threading
import time
from collections.abc import Iterator, Mapping
from typing import Any

from rulvek.bench.sim.instruments.scpi import Tree

LONGEST_LINE = 4096


class _Line(socketserver.StreamRequestHandler):
    disable_nagle_algorithm = True

    def handle(self) -> None:
        server = self.server
        assert isinstance(server, SocketInstrument)
        with contextlib.suppress(ConnectionError):
            while line := self.rfile.readline(LONGEST_LINE):
                if not server.lives_on():
                    return
                answer = server.heard(line.decode("ascii", "replace"))
                if answer:
                    self.wfile.write(answer)


class SocketInstrument(socketserver.ThreadingTCPServer):
    """One instrument on a port of this machine.

    It answers after ``late_seconds``, and where ``lives_for`` tells it only so many messages: then it hangs up on
    everybody, as one whose mains plug was pulled.
    """

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, tree: Tree, port: int = 0) -> None:
        super().__init__(("127.0.0.1", port), _Line)
        self.tree = tree
        self.late_seconds, self.lives_for = 0.0, math.inf
        self._lines: set[socket.socket] = set()

    def get_request(self) -> tuple[socket.socket, Any]:
        """Take a connection, and remember it."""
        line, where = super().get_request()
        self._lines.add(line)
        return line, where

    def close_request(self, request: Any) -> None:
        """Let go of a connection."""
        self._lines.discard(request)
        super().close_request(request)

    def server_close(self) -> None:
        """Be gone for those who are connected, too."""
        super().server_close()
        for line in list(self._lines):
            with contextlib.suppress(OSError):
                line.shutdown(socket.SHUT_RDWR)

    def lives_on(self) -> bool:
        """Whether it answers another message, once it has taken its time."""
        time.sleep(self.late_seconds)
        self.lives_for -= 1
        return self.lives_for >= 0

    def heard(self, message: str) -> bytes:
        """What it answers to a message."""
        return self.tree.answer(message)

    @property
    def address(self) -> str:
        """As VISA has it."""
        return f"TCPIP0::127.0.0.1::{self.server_address[1]}::SOCKET"


@contextlib.contextmanager
def on_sockets(trees: Mapping[str, Tree], first_port: int = 0) -> Iterator[dict[str, SocketInstrument]]:
    """Instruments by their roles, each on a port: any that is free, or one after the other from a first one."""
    found: dict[str, SocketInstrument] = {}
    try:
        for at, (role, tree) in enumerate(trees.items()):
            found[role] = SocketInstrument(tree, first_port + at if first_port else 0)
            threading.Thread(target=found[role].serve_forever, args=(0.05,), name=role, daemon=True).start()
        yield found
    finally:
        for instrument in found.values():
            instrument.shutdown()
            instrument.server_close()
