"""The table of what Rulvek is held to: every line names tests that are there, and what it is built of is pinned."""

import re
from pathlib import Path

import pytest
from audit import unpinned

ROOT = Path(__file__).parents[1]
LINES = [
    line
    for line in (ROOT / "docs" / "security.md").read_text(encoding="utf-8").splitlines()
    if line[:3].strip("| ").isdigit() or re.match(r"\| \d", line)
]
NOT_HERE = ("**not here**", "other ways of signing in", "no open redirects", "fetches nothing", "TLS", "`make audit`")


def test_every_line_has_its_test_or_says_why_not() -> None:
    known = {
        name
        for path in (ROOT / "tests").rglob("test_*.py")
        for name in re.findall(r"^def (test_\w+)", path.read_text("utf-8"), re.M)
    }
    assert len(LINES) > 40
    for line in LINES:
        named = re.findall(r"`(test_\w+)`", line)
        assert set(named) <= known, line
        assert named or any(words in line for words in NOT_HERE), line


@pytest.mark.parametrize("chapter", range(2, 15))
def test_no_chapter_is_left_out(chapter: int) -> None:
    assert any(re.match(rf"\| {chapter}\.", line) for line in LINES)


def test_everything_is_pinned_by_its_hash() -> None:
    assert unpinned() == []
