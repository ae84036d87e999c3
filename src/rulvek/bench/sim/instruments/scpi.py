"""A small SCPI: headers in short and long form, compound messages, suffixes, an error queue, blocks.

After SCPI-99 and IEEE 488.2, from memory: common commands, the standard event and status bytes, error numbers.
"""

import re
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

UNDEFINED_HEADER = (-113, "Undefined header")
MISSING_PARAMETER = (-109, "Missing parameter")
NOT_ALLOWED = (-108, "Parameter not allowed")
DATA_TYPE = (-104, "Data type error")
OUT_OF_RANGE = (-222, "Data out of range")
CONFLICT = (-221, "Settings conflict")
HARDWARE = (-240, "Hardware error")
QUEUE_OVERFLOW = (-350, "Queue overflow")
QUEUE_LENGTH = 16
_HEADER = re.compile(r"^(:?)([*A-Za-z][A-Za-z0-9_:]*)(\?)?(?:\s+(.*))?$")
_NODE = re.compile(r"^([A-Z]+)([a-z]*)(#?)$")
Answer = str | bytes | None


class ScpiError(Exception):
    """What goes into the error queue."""

    def __init__(self, error: tuple[int, str], detail: str = "") -> None:
        self.number, self.words = error
        super().__init__(f'{self.number},"{self.words}{";" + detail if detail else ""}"')


@dataclass(frozen=True, slots=True)
class Command:
    """A header as ``SOURce#:VOLTage?``, where ``#`` takes a suffix, and what does it: suffixes, then parameters."""

    header: str
    does: Callable[..., Answer]
    takes: int = 0

    @property
    def asks(self) -> bool:
        """Whether it is a query."""
        return self.header.endswith("?")


@dataclass
class Tree:
    """The commands of one instrument, and what it remembers of errors."""

    identity: str
    commands: Sequence[Command]
    errors: deque[str] = field(default_factory=deque)
    events: int = 0x80  # it was just switched on
    reset: Callable[[], None] = lambda: None

    def __post_init__(self) -> None:
        common = (
            Command("*IDN?", lambda: self.identity),
            Command("*OPC?", lambda: "1"),
            Command("*OPC", lambda: self._complete()),
            Command("*CLS", lambda: self._clear()),
            Command("*RST", lambda: self.reset()),
            Command("*ESR?", lambda: self._event_status()),
            Command("*STB?", lambda: str(0x04 if self.errors else 0)),
            Command("SYSTem:ERRor?", lambda: self._next_error()),
            Command("SYSTem:ERRor:NEXT?", lambda: self._next_error()),
        )
        self._patterns = [(_pattern(one.header), one) for one in (*common, *self.commands)]

    def answer(self, message: str) -> bytes:
        """Carry a message out unit by unit; all that it asks for, with its end, or nothing."""
        answers: list[bytes] = []
        path = ""
        for unit in _units(message):
            try:
                found, path = self._one(unit, path)
            except ScpiError as error:
                self._remember(error)
                if error.number > -200:
                    break  # what follows what was not understood is thrown away
                continue
            if found is not None:
                answers.append(found)
        return b";".join(answers) + b"\n" if answers else b""

    def _one(self, unit: str, path: str) -> tuple[bytes | None, str]:
        parts = _HEADER.match(unit.strip())
        if parts is None:
            raise ScpiError(UNDEFINED_HEADER, unit.strip()[:20])
        absolute, name, asks, rest = parts.groups()
        header = name if absolute or name.startswith("*") else path + name
        command, suffixes = self._found(header + (asks or ""))
        given = [one.strip() for one in rest.split(",")] if rest else []
        if len(given) < command.takes:
            raise ScpiError(MISSING_PARAMETER)
        if len(given) > command.takes:
            raise ScpiError(NOT_ALLOWED)
        answer = command.does(*suffixes, *map(_number, given))
        if not name.startswith("*"):
            path = header.rpartition(":")[0] + ":" if ":" in header else ""
        return (answer.encode("ascii") if isinstance(answer, str) else answer), path

    def _found(self, header: str) -> tuple[Command, list[int]]:
        for pattern, command in self._patterns:
            match = pattern.match(header)
            if match is not None:
                return command, [int(suffix or 1) for suffix in match.groups()]
        raise ScpiError(UNDEFINED_HEADER, header[:30])

    def _remember(self, error: ScpiError) -> None:
        self.events |= 0x20 if -200 < error.number <= -100 else 0x10
        if len(self.errors) < QUEUE_LENGTH:
            self.errors.append(str(error))
        else:
            self.errors[-1] = str(ScpiError(QUEUE_OVERFLOW))

    def _next_error(self) -> str:
        return self.errors.popleft() if self.errors else '0,"No error"'

    def _event_status(self) -> str:
        told, self.events = self.events, 0
        return str(told)

    def _complete(self) -> None:
        self.events |= 0x01

    def _clear(self) -> None:
        self.errors.clear()
        self.events = 0


def block(values: bytes) -> bytes:
    """A definite-length block.

    >>> block(b"abcd")
    b'#14abcd'
    """
    length = str(len(values))
    return f"#{len(length)}{length}".encode() + values


def _units(message: str) -> list[str]:
    return [unit for unit in message.strip().split(";") if unit.strip()]


def _pattern(header: str) -> re.Pattern[str]:
    """What matches a header in its short and its long form."""
    asks = header.endswith("?")
    if header.startswith("*"):
        return re.compile(re.escape(header) + "$", re.IGNORECASE)
    nodes = []
    for node in header.rstrip("?").split(":"):
        parts = _NODE.match(node)
        if parts is None:
            raise ValueError(f"{header} is no header")
        short, more, suffix = parts.groups()
        nodes.append(f"{short}(?:{more.upper()})?" + (r"(\d+)?" if suffix else ""))
    return re.compile(":".join(nodes) + (r"\?" if asks else "") + "$", re.IGNORECASE)


def _number(text: str) -> float:
    words = {"ON": 1.0, "OFF": 0.0}
    if text.upper() in words:
        return words[text.upper()]
    try:
        return float(text)
    except ValueError:
        raise ScpiError(DATA_TYPE, text[:20]) from None
