"""Recorded files: what is told of their layout, and what of them cannot be used."""

import io
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import HealthCheck, given
from hypothesis import strategies as st

from rulvek.core.errors import BadCapture, BadInput, RulvekError
from rulvek.store.formats.recorded_files import ColumnUse, Layout, WavRecord, inspect, to_wav
from tests.examples import examples

OUTPUT = (ColumnUse(0, "output_volts", 1, 1.0),)


def kept(folder: Path, content: bytes | str, name: str = "capture.csv") -> Path:
    path = folder / name
    path.write_bytes(content.encode() if isinstance(content, str) else content)
    return path


def converted(path: Path, layout: Layout, *columns: int) -> tuple[np.ndarray, float]:
    target = path.with_suffix(".converted")
    rate = to_wav(path, layout, columns, target, lambda _done: None)
    samples, _ = soundfile.read(target, always_2d=True)
    return samples.T, rate


@pytest.mark.parametrize(
    ("text", "separator", "decimal", "names", "factors"),
    [
        ("Time (ms),CH1 (mV)\n0.0,1.5\n0.5,-2.5\n1.0,3.5\n", ",", ".", ["Time (ms)", "CH1 (mV)"], [1e-3, 1e-3]),
        ("Zeit;A;B\n0,0;1,5;2\n0,0005;-2,5;3\n0,001;3,5;4\n", ";", ",", ["Zeit", "A", "B"], [1.0, 1.0, 1.0]),
        ("x-axis\t1\nsecond\tVolt\n0\t1.5\n5e-4\t-2.5\n1e-3\t3.5\n", "\t", ".", ["x-axis", "1"], [1.0, 1.0]),
        ("a scope of ours\nRate,2000\n0,1.5,\n0.0005,-2.5,\n0.001,3.5,\n", ",", ".", ["Rate", "2000"], [1.0, 1.0]),
        (" 0.0  1.5\n 5e-4  -2.5\n 1e-3  3.5\n", " ", ".", ["Column 1", "Column 2"], [1.0, 1.0]),
        ("\ufefft [µs],v [kV]\r\n0,1.5\r\n500,-2.5\r\n1000,3.5\r\n", ",", ".", ["t [µs]", "v [kV]"], [1e-6, 1e3]),
    ],
)
def test_separators_units_and_headings_are_told(
    tmp_path: Path, text: str, separator: str, decimal: str, names: list[str], factors: list[float]
) -> None:
    path = kept(tmp_path, text)
    layout = inspect(path, "capture.csv")
    assert (layout.separator, layout.decimal, layout.time_column) == (separator, decimal, 0)
    assert [column.name for column in layout.columns] == names
    assert [column.factor for column in layout.columns] == factors
    (volts,), rate = converted(path, layout, 1)
    assert volts.tolist() == [1.5, -2.5, 3.5] and rate == pytest.approx(2000.0)


@given(
    rows=st.lists(st.tuples(st.floats(-1e3, 1e3, width=32), st.floats(-1e3, 1e3, width=32)), min_size=3, max_size=60),
    separator=st.sampled_from([",", ";", "\t", " "]),
    comma=st.booleans(),
    heading=st.sampled_from(["", "time,left (mV),right [A]", "made by a scope\n\nt,L,R"]),
    ends=st.sampled_from(["\n", "\r\n", "\r"]),
    rate=st.integers(100, 1_000_000),
)
@examples(60, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_whatever_a_table_is_written_with_its_numbers_come_back(
    tmp_path: Path,
    rows: list[tuple[float, float]],
    separator: str,
    comma: bool,
    heading: str,
    ends: str,
    rate: int,
) -> None:
    comma = comma and separator != ","
    # A heading of one word in a table that is separated by blanks would be a row of other width, and is cut off.
    lines = [heading.replace(",", separator)] if heading and separator != " " else []
    for number, row in enumerate(rows):
        cells = separator.join(repr(value) for value in (number / rate, *row))
        lines.append(cells.replace(".", ",") if comma else cells)
    path = kept(tmp_path, ends.join(lines))
    layout = inspect(path, "capture.csv")
    samples, found = converted(path, layout, 1, 2)
    assert pytest.approx(np.array(rows), rel=1e-6, abs=1e-30) == samples.T
    assert found == pytest.approx(rate, rel=1e-6)


GOOD = "t,v\n" + "".join(f"{n / 1000},{n % 7}\n" for n in range(2000))


@pytest.mark.parametrize(
    ("text", "words"),
    [
        (GOOD + "2.0,abc\n", "Line 2002: “abc” is no number."),
        (GOOD + "2.0,1,5\n", "Line 2002 has 3 columns, not 2."),
        (GOOD + "2.0\n", "Line 2002 has 1 columns, not 2."),
        (GOOD + "2.0,nan\n", "Line 2002: “nan” is no number."),
        (GOOD + "9.0,1\n", "The time column is not evenly spaced, near line 2002."),
        (GOOD + "x" * 9000 + "\n", "is no number|longer"),
        ("t,v\n0,1\n0,2\n0,3\n", "is no time"),
    ],
)
def test_a_bad_line_is_named_and_nothing_stays(tmp_path: Path, text: str, words: str) -> None:
    path = kept(tmp_path, text)
    with pytest.raises(BadCapture, match=words) as refused:
        to_wav(path, inspect(path, "capture.csv"), [1], tmp_path / "out.wav", lambda _done: None)
    assert "\n" not in refused.value.what
    assert [file.name for file in tmp_path.iterdir()] == ["capture.csv"]


def test_without_a_column_of_time_the_rate_must_be_said(tmp_path: Path) -> None:
    path = kept(tmp_path, "a,b\n5,1\n3,2\n4,3\n")
    layout = inspect(path, "capture.csv")
    assert layout.time_column is None
    with pytest.raises(BadInput, match="how many samples"):
        converted(path, layout, 0)


def test_a_stopped_conversion_leaves_nothing(tmp_path: Path) -> None:
    path = kept(tmp_path, GOOD)

    def stop(_done: float) -> None:
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        to_wav(path, inspect(path, "capture.csv"), [1], tmp_path / "out.wav", stop)
    assert [file.name for file in tmp_path.iterdir()] == ["capture.csv"]


def wav(frames: int = 1000, channels: int = 1) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, np.zeros((frames, channels)), 48_000, subtype="PCM_16", format="WAV")
    return out.getvalue()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "is empty"),
        (b"RIFF", "not a WAV file that can be read"),
        (wav()[:1000], "is cut off: 956 of 2000 bytes"),
        (wav(0), "holds no samples"),
        (wav(10, 40), "40 channels"),
        (b"\x89PNG\r\n\x1a\n" + bytes(range(256)) * 10, "neither a WAV file nor text"),
        (b"MZ" + b"\x00" * 5000, "longer than 4096"),
        (b"1," * 100_000, "longer than 4096"),
        (b"only words\nin here\n", "no table of numbers"),
        (",".join("1" * 40).encode() + b"\n" + b",".join([b"2"] * 40) + b"\n" + b",".join([b"3"] * 40), "40 columns"),
    ],
)
def test_what_is_no_recording_is_said_in_one_sentence(tmp_path: Path, content: bytes, words: str) -> None:
    with pytest.raises(BadCapture, match=words) as refused:
        inspect(kept(tmp_path, content), "capture")
    assert "\n" not in refused.value.what and refused.value.what.endswith(".")


@given(content=st.binary(max_size=600), head=st.sampled_from([b"", b"RIFF", wav(4), wav(50)[:44], b"t,v\n0,1\n"]))
@examples(150, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_any_bytes_at_all_are_read_or_refused(tmp_path: Path, content: bytes, head: bytes) -> None:
    path = kept(tmp_path, head + content)
    try:
        layout = inspect(path, "capture")
        if layout.kind == "csv":
            samples, _ = converted(path, layout, 0)
            assert np.isfinite(samples).all()
        else:
            source = WavRecord(path, OUTPUT)
            assert source.read(0, source.frames).shape == (1, source.frames)
            source.close()
    except RulvekError as refused:
        assert "\n" not in refused.what and "Traceback" not in refused.what


@pytest.mark.parametrize(("subtype", "step"), [("PCM_16", 2**-15), ("PCM_24", 2**-23), ("FLOAT", 2**-24)])
def test_samples_come_back_in_volts_whatever_they_are_stored_as(tmp_path: Path, subtype: str, step: float) -> None:
    wave = 0.7 * np.sin(np.arange(1000) / 7)
    soundfile.write(tmp_path / "a.wav", np.column_stack([wave, -wave]), 96_000, subtype=subtype)
    rows = (ColumnUse(1, "output_volts", 2, 60.0), ColumnUse(0, "output_volts", 1, -60.0))
    source = WavRecord(tmp_path / "a.wav", rows)
    assert (source.frames, source.sample_rate) == (1000, 96_000.0)
    part = source.read(100, 200)
    source.close()
    assert part.shape == (2, 100)
    assert np.abs(part[0] - part[1]).max() <= 60 * step  # rounded down, of either sign
    assert np.abs(part[0] + 60 * wave[100:200]).max() <= 60 * step


def test_a_column_that_is_not_there_is_named(tmp_path: Path) -> None:
    with pytest.raises(BadInput, match="no column 2"):
        WavRecord(kept(tmp_path, wav(10), "a.wav"), (ColumnUse(1, "output_volts", 1, 1.0),))
