"""Recorded files, read piece by piece: WAV as it is, CSV rewritten once into a WAV of the same numbers."""

import io
import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from itertools import islice, pairwise
from pathlib import Path
from typing import Annotated, Any, ClassVar, Literal

import numpy as np
import soundfile
from annotated_types import Ge, Le, Lt
from numpy.typing import NDArray

from rulvek.core.errors import BadCapture, BadInput, NotFound
from rulvek.core.quantities import ENTERED
from rulvek.core.signals.capture import Quantity, Signal

FORMATS = ("WAV", "WAVEX", "RF64")
LONGEST_LINE = 4096
MOST_HEADER_LINES = 200
MOST_COLUMNS = 32
LINES_AT_ONCE = 50_000
UNITS = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "ns": 1e-9}
UNITS |= {"v": 1.0, "mv": 1e-3, "kv": 1e3, "a": 1.0, "ma": 1e-3}
_UNIT_WORDS = {"second": "s", "seconds": "s", "sec": "s", "volt": "v", "volts": "v", "amp": "a", "amps": "a"}
_SEPARATORS: Sequence[Literal[";", "\t", ",", " "]] = (";", "\t", ",", " ")
_NUMBER = re.compile(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$")
_TIME = re.compile(r"\s*(time|zeit|t|x|seconds?)\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Column:
    """A column as its file names it; ``factor`` makes volts, amps or seconds of its numbers."""

    name: str
    unit: str
    factor: float


@dataclass(frozen=True, slots=True)
class Layout:
    """How a file's numbers are to be taken: detected, then confirmed by a person.

    ``time_column`` counts from 0; where it is None, ``sample_rate`` must be known. ``separator`` and ``decimal`` are
    empty for a WAV file.
    """

    kind: Literal["wav", "csv"]
    columns: tuple[Column, ...]
    sample_rate: float | None
    separator: str = ""
    decimal: str = ""
    header_lines: int = 0
    time_column: int | None = None
    preview: tuple[tuple[str, ...], ...] = ()


@dataclass(frozen=True, slots=True)
class ColumnUse:
    """What a column (counted from 0) is, and the factor that makes volts or amps of its numbers.

    ``channel`` is the amplifier's, counted from 1; of the supply it is 0.
    """

    __pydantic_config__: ClassVar[Any] = ENTERED

    column: Annotated[int, Ge(0), Lt(MOST_COLUMNS)]
    quantity: Quantity
    channel: Annotated[int, Ge(0), Le(16)] = 0
    factor: Annotated[float, Ge(-1e6), Le(1e6)] = 1.0

    @property
    def signal(self) -> Signal:
        """As captures have it."""
        return Signal(self.quantity, self.channel)


class WavRecord:
    """Rows of a WAV file, scaled; reads only what is asked for. ``sample_rate`` may be finer than a header holds."""

    def __init__(self, path: Path, rows: Sequence[ColumnUse], sample_rate: float | None = None) -> None:
        self._wav = _opened(path)
        self._path, self._rows = path, rows
        outside = [row.column for row in rows if not 0 <= row.column < self._wav.channels]
        if outside:
            self.close()
            raise BadInput(f"There is no column {outside[0] + 1} in the recording.", field="roles")
        self.sample_rate = sample_rate or float(self._wav.samplerate)
        self.frames: int = self._wav.frames
        self.roles = tuple(row.signal for row in rows)

    def read(self, start: int, stop: int) -> NDArray[np.float64]:
        """Samples of all rows, shape ``(rows, stop - start)``.

        Raises:
            BadCapture: the file ends before its header says so.
        """
        self._wav.seek(start)
        block = self._wav.read(stop - start, dtype="float64", always_2d=True)
        if len(block) < stop - start:
            raise BadCapture(f"The recording is cut off after {start + len(block)} of {self.frames} samples.")
        return np.array([block[:, row.column] * row.factor for row in self._rows])

    def close(self) -> None:
        """Let go of the file."""
        self._wav.close()


def inspect(path: Path, name: str) -> Layout:
    """Tell how a file is laid out, from its first lines only.

    Raises:
        BadCapture: neither a WAV file nor a table of numbers.
    """
    with path.open("rb") as file:
        head = file.read(12)
    if not head:
        raise BadCapture(f"{name} is empty.", field="file")
    if head[:4] in (b"RIFF", b"RF64"):
        return _inspect_wav(path, name)
    return _inspect_csv(path, name)


def _inspect_wav(path: Path, name: str) -> Layout:
    try:
        wav = _opened(path)
    except BadCapture:
        raise BadCapture(f"{name} is not a WAV file that can be read.", field="file") from None
    with wav:
        _refuse_cut_off(path, name)
        if wav.frames == 0:
            raise BadCapture(f"{name} is empty: it holds no samples.", field="file")
        if wav.channels > MOST_COLUMNS:
            raise BadCapture(f"{name} has {wav.channels} channels; at most {MOST_COLUMNS} can be read.", field="file")
        columns = tuple(Column(f"Channel {number}", "", 1.0) for number in range(1, wav.channels + 1))
        return Layout("wav", columns, float(wav.samplerate))


def _refuse_cut_off(path: Path, name: str) -> None:
    """A file that holds fewer bytes of samples than its own header says was not copied to its end."""
    size = path.stat().st_size
    with path.open("rb") as file:
        if file.read(4) != b"RIFF":
            return  # RF64 keeps its sizes elsewhere
        file.seek(12)
        while len(chunk := file.read(8)) == 8:
            length = int.from_bytes(chunk[4:], "little")
            if chunk[:4] == b"data":
                left = size - file.tell()
                if left < length < 0xFFFFF000:  # about the largest stands for “until the end” where it was streamed
                    raise BadCapture(f"{name} is cut off: {left} of {length} bytes of samples are there.", field="file")
                return
            file.seek(length + length % 2, 1)


def _opened(path: Path) -> soundfile.SoundFile:
    if not path.is_file():
        raise NotFound("The recording is gone.")
    try:
        wav = soundfile.SoundFile(path)
    except (soundfile.SoundFileError, OSError, ValueError):
        raise BadCapture("The recording is not a WAV file that can be read.", field="file") from None
    if wav.format not in FORMATS:
        wav.close()
        raise BadCapture(f"The recording is not a WAV file but {wav.format}.", field="file")
    return wav


def _inspect_csv(path: Path, name: str) -> Layout:
    try:
        with path.open(encoding="utf-8-sig", newline=None) as file:
            lines = [_checked_line(line, number) for number, line in enumerate(islice(_lines(file), 400), 1)]
    except UnicodeDecodeError:
        raise BadCapture(f"{name} is neither a WAV file nor text.", field="file") from None
    for separator in _SEPARATORS:
        decimal = "," if separator != "," and _decimal_commas(lines, separator) else "."
        first = _first_row_of_numbers(lines, separator, decimal)
        if first is not None:
            break
    else:
        raise BadCapture(
            f"{name} holds no table of numbers: no lines with at least two numbers each.",
            todo="Save the capture as WAV, or as CSV with time and volts.",
            field="file",
        )
    rows = [_split(line, separator) for line in lines[first : first + 6]]
    names = _split(lines[first - 1], separator) if first else []
    units: list[str] = []
    if first > 1 and len(names) == len(rows[0]) and all(_unit_of(cell) for cell in names if cell):
        units, names = names, _split(lines[first - 2], separator)
    if len(names) != len(rows[0]):
        names = [f"Column {number}" for number in range(1, len(rows[0]) + 1)]
    if len(names) > MOST_COLUMNS:
        raise BadCapture(f"{name} has {len(names)} columns; at most {MOST_COLUMNS} can be read.", field="file")
    columns = tuple(
        _column(title.strip().strip('"') or f"Column {index + 1}", units[index] if index < len(units) else "")
        for index, title in enumerate(names)
    )
    return Layout(
        kind="csv",
        columns=columns,
        sample_rate=None,
        separator=separator,
        decimal=decimal,
        header_lines=first,
        time_column=_time_column(columns, rows, decimal),
        preview=tuple(tuple(row) for row in rows),
    )


def _lines(file: io.TextIOBase) -> Iterator[str]:
    """Lines of bounded length: a file without line ends must not fill the memory."""
    return iter(lambda: file.readline(LONGEST_LINE + 1), "")


def _checked_line(line: str, number: int) -> str:
    if len(line) > LONGEST_LINE:
        raise BadCapture(f"Line {number} is longer than {LONGEST_LINE} characters: this is no table.", field="file")
    return line


def _split(line: str, separator: str) -> list[str]:
    parts = line.split() if separator == " " else line.rstrip("\r\n").split(separator)
    while len(parts) > 1 and not parts[-1].strip():
        parts.pop()  # a separator at the line's end
    return [part.strip() for part in parts]


def _is_number(cell: str, decimal: str) -> bool:
    other = "," if decimal == "." else "."
    return bool(_NUMBER.match(cell)) and other not in cell


def _decimal_commas(lines: Sequence[str], separator: str) -> bool:
    cells = [cell for line in lines for cell in _split(line, separator) if _NUMBER.match(cell)]
    return sum("," in cell for cell in cells) > sum("." in cell for cell in cells)


def _first_row_of_numbers(lines: Sequence[str], separator: str, decimal: str) -> int | None:
    """Where the table begins: the first of three rows (or of all that are left) of equally many numbers."""
    shapes = []
    for line in lines:
        cells = _split(line, separator)
        shapes.append(len(cells) if len(cells) > 1 and all(_is_number(cell, decimal) for cell in cells) else 0)
    for index, width in enumerate(shapes[:MOST_HEADER_LINES]):
        following = shapes[index : index + 3]
        if width and len(following) > 1 and all(shape == width for shape in following):
            return index
    return None


def _unit_of(text: str) -> str:
    word = text.strip().strip('"[]()').lower()
    word = _UNIT_WORDS.get(word, word)
    return word if word in UNITS else ""


def _column(title: str, unit: str) -> Column:
    """A column with its unit: from its own row, or from brackets in its title, "CH1 (mV)"."""
    found = _unit_of(unit)
    if not found:
        bracket = re.search(r"[\[(]\s*([^\])]+?)\s*[\])]", title)
        found = _unit_of(bracket.group(1)) if bracket else ""
    return Column(title, found, UNITS.get(found, 1.0))


def _time_column(columns: Sequence[Column], rows: Sequence[Sequence[str]], decimal: str) -> int | None:
    for index, column in enumerate(columns):
        if _TIME.match(column.name) or column.unit in ("s", "ms", "us", "µs", "ns"):
            return index
    values = [float(row[0].replace(decimal, ".")) for row in rows]
    return 0 if len(values) > 2 and all(b > a for a, b in pairwise(values)) else None


def to_wav(path: Path, layout: Layout, columns: Sequence[int], target: Path, tell: Callable[[float], None]) -> float:
    """Write a CSV's columns, as they are, into a float32 WAV at ``target``; returns the exact sample rate in Hz.

    Args:
        columns: The wanted ones, counted from 0; they become the WAV's channels in this order.
        tell: Hears how much is done, 0 to 1; may raise to stop, and then nothing stays behind.

    Raises:
        BadCapture: a line that is no row of numbers, or a time that is not evenly spaced; the sentence names the line.
        BadInput: no time column and no sample rate.
    """
    if layout.time_column is None and not layout.sample_rate:
        raise BadInput("There is no column of time: say how many samples there are in a second.", field="sample_rate")
    wide = len(layout.columns)
    if any(not 0 <= column < wide for column in [*columns, layout.time_column or 0]):
        raise BadInput(f"The table has {wide} columns.", field="roles")
    clock = _Clock(layout)
    size = max(1, path.stat().st_size)
    try:
        with (
            path.open("rb") as raw,
            io.TextIOWrapper(raw, encoding="utf-8-sig", newline=None) as text,
            soundfile.SoundFile(target, "w", 48_000, len(columns), subtype="FLOAT", format="RF64") as wav,
        ):
            done = layout.header_lines
            lines = _lines(text)
            for number in range(done):
                _checked_line(next(lines, ""), number + 1)
            while chunk := list(islice(lines, LINES_AT_ONCE)):
                values = _numbers(chunk, done, layout)
                if values.size:
                    clock.follow(values, done)
                    wav.write(values[:, list(columns)].astype(np.float32))
                done += len(chunk)
                tell(min(1.0, raw.tell() / size))
        return clock.rate()
    except UnicodeDecodeError:
        target.unlink(missing_ok=True)
        raise BadCapture("The file holds bytes that are no text.", field="file") from None
    except BaseException:
        target.unlink(missing_ok=True)
        raise


def _numbers(lines: Sequence[str], before: int, layout: Layout) -> NDArray[np.float64]:
    """A piece of the table, shape ``(rows, columns)``; blank lines are left out."""
    texts = [line for line in lines if line.strip()]
    if layout.decimal == ",":
        texts = [line.replace(",", ".") for line in texts]
    if layout.separator != " ":
        texts = [line.rstrip("\r\n" + layout.separator) for line in texts]
    if not texts:
        return np.empty((0, 0))
    separator = None if layout.separator == " " else layout.separator
    try:
        values = np.loadtxt(texts, delimiter=separator, ndmin=2, comments=None)
    except ValueError:
        values = np.empty((0, 0))
    if values.shape[1] != len(layout.columns) or not np.isfinite(values).all():
        raise _bad_line(lines, before, layout)
    return values


def _bad_line(lines: Sequence[str], before: int, layout: Layout) -> BadCapture:
    """Name the first line that is no row of numbers."""
    for number, line in enumerate(lines, before + 1):
        if not line.strip():
            continue
        if len(line) > LONGEST_LINE:
            return BadCapture(f"Line {number} is longer than {LONGEST_LINE} characters.", field="file")
        cells = _split(line, layout.separator)
        bad = next((cell for cell in cells if not _is_number(cell, layout.decimal)), None)
        if bad is not None:
            return BadCapture(f"Line {number}: “{bad[:40]}” is no number.", field="file")
        if len(cells) != len(layout.columns):
            return BadCapture(f"Line {number} has {len(cells)} columns, not {len(layout.columns)}.", field="file")
    return BadCapture(f"The lines after {before} are no table of numbers.", field="file")


class _Clock:
    """Follows the column of time, which must be even: no sample may be more than one place from where it belongs."""

    def __init__(self, layout: Layout) -> None:
        self._given = layout.sample_rate
        self._column = layout.time_column
        self._factor = layout.columns[layout.time_column].factor if layout.time_column is not None else 1.0
        self._first = self._step = 0.0
        self._last, self._count = 0.0, 0

    def follow(self, values: NDArray[np.float64], line: int) -> None:
        """Check a piece of the table, whose first row stands after ``line``."""
        if self._column is None:
            self._count += len(values)
            return
        times = values[:, self._column] * self._factor
        if self._count == 0:
            self._first = float(times[0])
            self._step = float(times[-1] - times[0]) / max(1, len(times) - 1)
        if self._step <= 0:
            raise BadCapture(f"Column {self._column + 1} is no time: it does not grow.", field="time_column")
        expected = self._first + self._step * (self._count + np.arange(len(times)))
        slack = self._step * (1 + 1e-4 * (self._count + len(times)))  # the step is known no better than it is printed
        if (np.abs(times - expected) > slack).any():
            steps = np.diff(times)
            jump = int(np.argmax(np.abs(steps - np.median(steps)))) + 1 if steps.size else 0
            at = line + 1 + jump
            raise BadCapture(
                f"The time column is not evenly spaced, near line {at}.",
                todo="Save the capture with an even time step (resample it).",
                field="time_column",
            )
        self._last, self._count = float(times[-1]), self._count + len(times)

    def rate(self) -> float:
        """Samples a second over the whole table."""
        if self._count < 2:
            raise BadCapture("The table holds fewer than two rows of numbers.", field="file")
        if self._column is None:
            return float(self._given or 0.0)
        return (self._count - 1) / (self._last - self._first)
