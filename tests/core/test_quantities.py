"""Bounds of what is entered: texts hold what a page can show, and each refusal names its field."""

import unicodedata
from dataclasses import dataclass
from typing import Annotated

import pytest
from annotated_types import Len
from hypothesis import given
from hypothesis import strategies as st

from rulvek.core.errors import BadInput
from rulvek.core.quantities import Name, Reason, Watts, is_one_line, is_plain, refuse_out_of_bounds
from tests.examples import examples


@dataclass(frozen=True)
class Entered:
    """Something that is entered."""

    name: Name = ""
    reason: Reason = ""
    watts: Watts = 1.0
    parts: Annotated[tuple[Name, ...], Len(0, 2)] = ()


@pytest.mark.parametrize(
    "text", ["", "4 Ω, “left”", "Größe: 5 µF", "4\u00a0Ω", "日本", "e\u0301", "👍🏽", "\u200fעברית"]
)
def test_what_people_write_is_taken(text: str) -> None:
    refuse_out_of_bounds(Entered(name=text, reason=f"{text}\n\t{text}\r\n"))


@pytest.mark.parametrize("text", ["a\0", "a\nb", "a\r", "\x1b[31mred", "a\u2028b", "a\x7f", "\x85"])
def test_what_no_page_can_show_is_refused_by_its_field(text: str) -> None:
    with pytest.raises(BadInput, match=r"^name holds a character that no page can show") as refused:
        refuse_out_of_bounds(Entered(name=text))
    assert refused.value.field == "name"
    with pytest.raises(BadInput) as refused:
        refuse_out_of_bounds(Entered(parts=("left", text)))
    assert refused.value.field == "parts.1"


def test_a_text_of_several_lines_holds_nothing_else_that_is_unseen() -> None:
    with pytest.raises(BadInput, match=r"^reason holds"):
        refuse_out_of_bounds(Entered(reason="one\ntwo\0"))


@given(st.text())
@examples(200)
def test_one_line_is_what_unicode_calls_neither_control_nor_separator_of_lines(text: str) -> None:
    """Against the general categories of the Unicode standard (chapter 4): Cc, Cs, Zl, Zp."""
    unseen = {one for one in text if unicodedata.category(one) in ("Cc", "Cs", "Zl", "Zp")}
    assert is_one_line(text) == (not unseen)
    assert is_plain(text) == (unseen <= set("\n\r\t"))
