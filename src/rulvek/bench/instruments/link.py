"""One guard for all that is said to an instrument: it identifies, asks for errors, and never takes a late reply."""

import contextlib
import re
import select
import socket
import threading
import time
from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rulvek.bench.instruments.description import ROLES, Description, Gives
from rulvek.core.errors import BenchFault

NO_ERROR = re.compile(r'^\s*[+-]?0\s*[,;"]|^\s*[+-]?0\s*$')
OPENING_SECONDS = 1.0
RECEIVED_AT_ONCE = 1 << 20
LONGEST_BLOCK = 200_000_000
MOST_ERRORS = 10
"""Entries of an error queue that are read out at once; some instruments never stop repeating the last one."""


class Link:
    """A connection to one instrument, as its description has it.

    Every act is one message: the command, whether it is complete and what the error queue has are asked together, so
    that nothing waits for a delayed acknowledgement. After an answer that did not come, or was none, the connection is
    closed and opened again before anything else is said: the late reply goes to nobody.
    """

    def __init__(self, description: Description, address: str) -> None:
        self.description, self.address = description, address
        self.identity = ""
        self._lock = threading.Lock()
        self._device: Any = None

    def open(self) -> str:
        """Connect and identify; returns what the instrument says it is.

        Raises:
            BenchFault: nothing answers there, or something else does.
        """
        with self._lock:
            self._reopen()
        return self.identity

    def wake(self, asked: bool = True) -> None:
        """See that who was left alone still answers; who was switched off since is connected to again.

        Args:
            asked: Whether it is asked; else it is only seen whether it hung up, and nobody waits for its answer.

        Raises:
            BenchFault: nothing answers there any more, or something else does.
        """
        with self._lock:
            if self._device is not None and not _hung_up(self._device):
                if not asked:
                    return
                with contextlib.suppress(*_trouble()):
                    if str(self._device.query("*IDN?")).strip() == self.identity:
                        return
            self._reopen()

    def close(self) -> None:
        """Hang up; may be called twice."""
        with self._lock:
            self._hang_up()

    def act(self, name: str, **given: float) -> None:
        """Do something, and see that it was done.

        Raises:
            BadInput: a value out of its range: nothing was sent.
            BenchFault: no answer, or the instrument refuses.
        """
        messages = self.description.messages(name, **given)
        with self._lock:
            for message in messages:
                self._do(message)
        if self.description.settles_seconds:
            time.sleep(self.description.settles_seconds)

    def number(self, name: str, **given: float) -> float:
        """Ask for a number.

        Raises:
            BenchFault: no answer, or none that is a finite number.
        """
        (message,) = self.description.messages(name, **given)
        with self._lock:
            answer = self._ask(message)
            try:
                value = float(answer)
            except ValueError:
                value = np.nan
            if not np.isfinite(value) or abs(value) > 9e36:  # SCPI says 9.9E37 where it has nothing to say
                self._start_over()
                raise self._fault(f"was asked for a number with {message} and answered {answer[:60]!r}")
        return value

    def block(self, name: str, rows: int, **given: float) -> NDArray[np.float64]:
        """Ask for a block of 32-bit floats, so many rows of the same length.

        Raises:
            BenchFault: no answer, or no such block.
        """
        (message,) = self.description.messages(name, **given)
        with self._lock:
            values = self._guarded(message, lambda device: _block(device, message))
            if values.size == 0 or values.size % rows or not np.all(np.isfinite(values)):
                self._start_over()
                raise self._fault(f"gave {values.size} values for {rows} inputs with {message}")
            self._refuse_errors(message)
        found: NDArray[np.float64] = values.astype(np.float64).reshape(rows, -1)
        return found

    def make_safe(self) -> None:
        """Say all that makes it safe, whatever else went wrong; a lost connection is opened again once for it.

        Raises:
            BenchFault: it could not be told.
        """
        with self._lock:
            for attempt in (1, 2):
                try:
                    for message in self.description.safe:
                        self._do(message)
                except BenchFault:
                    if attempt == 2:
                        raise
                else:
                    return

    def try_all(self) -> Iterator[tuple[str, str, str]]:
        """Ask all that is only asked: the message, the answer, and what was wrong with it."""
        shapes = _asked(self.description)
        for name, gives in shapes.items():
            message = self.description.acts[name].ask
            try:
                if gives is Gives.NUMBER:
                    yield message, f"{self.number(name):g}", ""
            except BenchFault as fault:
                yield message, "", fault.what

    def _do(self, message: str) -> None:
        errors = self.description.errors
        said = f"{message};*OPC?" + (f";:{errors}" if errors else "")
        answer = self._ask(said)
        done, _, problem = answer.partition(";")
        if done.strip() not in ("1", "+1"):
            self._start_over()
            raise self._fault(f"did not say that {message} is done, but {answer[:60]!r}")
        if errors and not NO_ERROR.match(problem):
            self._read_out()
            raise self._refusal(message, problem)

    def _refuse_errors(self, message: str) -> None:
        if self.description.errors:
            problem = self._ask(self.description.errors)
            if not NO_ERROR.match(problem):
                self._read_out()
                raise self._refusal(message, problem)

    def _read_out(self) -> None:
        for _ in range(MOST_ERRORS):
            if NO_ERROR.match(self._ask(self.description.errors)):
                return

    def _ask(self, message: str) -> str:
        answer: str = self._guarded(message, lambda device: device.query(message))
        return answer.strip()

    def _guarded(self, message: str, ask: Callable[[Any], Any]) -> Any:
        """Ask; after anything but an answer the connection is made anew and the fault told."""
        if self._device is None:
            self._reopen()
        try:
            if _hung_up(self._device):
                raise ConnectionResetError
            return ask(self._device)
        except _trouble() as error:
            self._start_over()
            self._refuse_told(message)
            said = message.split(";")[0]
            if isinstance(error, ConnectionError):
                raise self._fault(f"hung up when it was told {said}") from error
            raise self._fault(f"did not answer {said} within {self.description.timeout_seconds:g} s", error) from error

    def _start_over(self) -> None:
        """Connect again, so that nothing that is still under way is taken for an answer."""
        with contextlib.suppress(BenchFault):
            self._reopen()

    def _refuse_told(self, message: str) -> None:
        """An instrument that threw the rest of a message away says why in its error queue."""
        if self._device is None or not self.description.errors:
            return
        with contextlib.suppress(*_trouble()):
            problem = str(self._device.query(self.description.errors)).strip()
            if not NO_ERROR.match(problem):
                raise self._refusal(message.split(";")[0], problem)

    def _reopen(self) -> None:
        self._hang_up()
        try:
            self._device = _opened(self.address, self.description.timeout_seconds)
            identity = str(self._device.query("*IDN?")).strip()
        except _trouble() as error:
            self._hang_up()
            raise self._fault("does not answer", error) from error
        if not re.match(self.description.identifies, identity):
            self._hang_up()
            raise BenchFault(
                f"At {self.address} there is {identity[:60]!r}, which is no {self.description.name}.",
                todo="See to the address, or choose the description of what is there.",
            )
        self.identity = identity

    def _hang_up(self) -> None:
        if self._device is not None:
            with contextlib.suppress(*_trouble()):
                self._device.close()
            self._device = None

    def _refusal(self, message: str, problem: str) -> BenchFault:
        meaning = self.description.meaning_of(problem)
        return self._fault(f"refuses {message}: {problem.strip()[:80]}" + (f", {meaning}" if meaning else ""))

    def _fault(self, what: str, error: BaseException | None = None) -> BenchFault:
        todo = "Check that it is on and connected, and start the run again."
        said = f" ({type(error).__name__})" if error is not None and not isinstance(error, TimeoutError) else ""
        return BenchFault(f"{self.description.name} at {self.address} {what}{said}.", todo=todo)


def _asked(description: Description) -> dict[str, Gives]:
    return {
        name: shape.gives
        for role in description.roles
        for name, shape in ROLES[role].items()
        if name in description.acts and shape.gives is not Gives.NOTHING and not shape.given
    }


def _trouble() -> tuple[type[BaseException], ...]:
    import pyvisa

    # A HiSLIP peer that is gone shows as a RuntimeError, an answer that is none as a ValueError.
    return (pyvisa.Error, OSError, RuntimeError, ValueError, UnicodeDecodeError)


def _opened(address: str, timeout_seconds: float) -> Any:
    """A session; slow to import, so that only who has instruments waits for it."""
    import pyvisa
    from pyvisa.rname import InvalidResourceName, ResourceName

    try:
        ResourceName.from_string(address)
    except InvalidResourceName:
        what = f"“{address}” is no address of an instrument."
        raise BenchFault(what, todo="Write it as TCPIP0::192.0.2.7::5025::SOCKET.") from None
    manager = pyvisa.ResourceManager("@py")
    device: Any = manager.open_resource(
        address,
        open_timeout=round(1000 * OPENING_SECONDS),
        read_termination="\n",
        write_termination="\n",
        timeout=round(1000 * timeout_seconds),
    )
    session: Any = getattr(device.visalib, "sessions", {}).get(device.session)
    if getattr(session, "max_recv_size", RECEIVED_AT_ONCE) < RECEIVED_AT_ONCE:
        session.max_recv_size = RECEIVED_AT_ONCE  # a socket's 4 KiB take longer than what is recorded meanwhile
    return device


def _hung_up(device: Any) -> bool:
    """Whether the other end closed the connection: a read would wait for its whole time without noticing."""
    session = getattr(device.visalib, "sessions", {}).get(device.session)
    interface = getattr(session, "interface", None)
    if not isinstance(interface, socket.socket):
        return False
    try:
        readable, _, _ = select.select([interface], [], [], 0)
        return bool(readable) and not interface.recv(1, socket.MSG_PEEK)
    except (OSError, ValueError):
        return True


def _block(device: Any, message: str) -> NDArray[np.float32]:
    """Ask for a definite-length block; while it comes, a line feed is no end but one of its bytes."""
    from pyvisa.constants import ResourceAttribute

    device.write(message)
    device.set_visa_attribute(ResourceAttribute.termchar_enabled, False)
    try:
        mark = device.read_bytes(2)
        if mark[:1] != b"#" or not mark[1:].isdigit() or mark == b"#0":
            raise ValueError("no block of a definite length")
        length = int(device.read_bytes(int(mark[1:])))
        if length % 4 or length > LONGEST_BLOCK:
            raise ValueError(f"a block of {length} bytes")
        data = device.read_bytes(length, chunk_size=max(1, length))
        if device.read_bytes(1) != b"\n":
            raise ValueError("a block that does not end where it says")
    finally:
        device.set_visa_attribute(ResourceAttribute.termchar_enabled, True)
    return np.frombuffer(data, dtype="<f4")
